"""The one lock protocol of everything that writes.

In this order, each held until the transaction ends:

1. the catalogue: shared by those who change some products, alone by those who change all of it (a file, the category tree);
2. the definitions: those who change the dictionary or the tree, or make products, one after the other;
3. the rows of the products concerned, in order of identity;
4. the set-up.

Nobody waits for long: after some seconds the change is refused with the reason, and nothing of it is done.
"""

from collections.abc import Callable, Iterable
from contextvars import ContextVar
from dataclasses import dataclass
from functools import wraps
from typing import ParamSpec, TypeVar

from django.db import IntegrityError, OperationalError, connection, transaction
from django.db.models.functions import Collate
from django.utils.translation import gettext as _
from psycopg.errors import DeadlockDetected, LockNotAvailable, UniqueViolation

from binsort.catalog import models
from binsort.catalog.store.product_rows import among_texts, products_of
from binsort.core.products.product import Product
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.tally.activity import running

_CATALOGUE, _DEFINITIONS = 7_265_319, 7_265_320  # among the advisory locks
_WAIT_FOR_CATALOGUE, _WAIT_FOR_ROWS = "3s", "20s"

Given = ParamSpec("Given")
Result = TypeVar("Result")


class Refused(ValueError):
    """Nothing was done; the text says why."""


class BeyondLimit(Refused):
    """It is more than may be; trying again does not help."""


class Busy(Refused):
    """Somebody else is writing the same; trying again helps."""


class _DefinitionsFirst(Exception):
    """It turned out late that definitions change: everything is begun again, with these held from the start."""


_holds_definitions: ContextVar[bool | None] = ContextVar("holds_definitions", default=None)  # None: outside of any change


def change(service: Callable[Given, Result]) -> Callable[Given, Result]:
    """Make a function a change of the catalogue: by whom may do that, all of it or nothing; Busy where others are in the way."""

    @wraps(service)
    def whole(*args: Given.args, **kwargs: Given.kwargs) -> Result:
        if _holds_definitions.get() is not None:  # a part of another change
            return service(*args, **kwargs)
        try:
            return _at_once(lambda: service(*args, **kwargs), definitions_first=False)
        except _DefinitionsFirst:
            return _at_once(lambda: service(*args, **kwargs), definitions_first=True)

    return needs(Act.PRODUCTS)(whole)


def _at_once(work: Callable[[], Result], *, definitions_first: bool) -> Result:
    mark = _holds_definitions.set(definitions_first)
    try:
        with transaction.atomic():
            return work()
    except OperationalError as error:
        if isinstance(error.__cause__, LockNotAvailable | DeadlockDetected):
            raise Busy(_who_is_in_the_way()) from error
        raise
    except IntegrityError as error:
        if isinstance(error.__cause__, UniqueViolation):
            raise Busy(_("somebody else wrote the same at this moment. Look at what is there now, then try again.")) from error
        raise
    finally:
        _holds_definitions.reset(mark)


def _who_is_in_the_way() -> str:
    line = running()
    if line is not None:
        return f"“{line.what}” is going on; Activity shows how far it is. Wait until it is done."
    return "somebody else is changing the same at this moment. Try again."


def hold(*, alone: bool = False) -> None:
    """Take the catalogue, with others who change some products of it or ``alone``. Raises Busy by way of :func:`change`."""
    kind = "" if alone else "_shared"
    with connection.cursor() as cursor:
        cursor.execute("SELECT set_config('lock_timeout', %s, true)", [_WAIT_FOR_CATALOGUE])
        cursor.execute(f"SELECT pg_advisory_xact_lock{kind}(%s)", [_CATALOGUE])
        cursor.execute("SELECT set_config('lock_timeout', %s, true)", [_WAIT_FOR_ROWS])
        if _holds_definitions.get():
            cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_DEFINITIONS])


def hold_definitions() -> None:
    """Let nobody else change the dictionary or the tree, or make products, meanwhile.

    Where that has to be waited for and rows may be held already, the change is begun again with the definitions first.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_xact_lock(%s)", [_DEFINITIONS])
        if not cursor.fetchone()[0]:
            raise _DefinitionsFirst


@dataclass(frozen=True, slots=True)
class Locked:
    """Products that nobody else changes until this transaction ends, by identity, hidden ones too."""

    products: dict[str, Product]
    places: dict[str, int]  # in the order of the catalogue


def lock_products(identities: Iterable[str]) -> Locked:
    """Lock the rows of products in order of identity; where one is not there, the definitions are held, too."""
    wanted = sorted({text for text in identities if "\0" not in text})
    rows = models.Product.objects.filter(identity__in=among_texts(wanted))
    if rows.count() < len(wanted):
        hold_definitions()
    locked = rows.select_for_update().order_by(Collate("identity", "C")).values_list("identity", "place")
    places = dict(locked)
    return Locked(products_of(wanted, hidden=True), places)
