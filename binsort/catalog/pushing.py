"""Pushing: products, prices and stock written by other systems. Each call is all or nothing, and doing it twice is doing it once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction

from binsort.core.catalogue import BrokenLine, read_product
from binsort.core.documents import document_of
from binsort.core.jsontext import walk
from binsort.core.numbers import TooLong, plain
from binsort.core.parts import differing
from binsort.core.products import Product, Unusable
from binsort.core.text import trim

from .models import Product as Row
from .models import Variant
from .revising import hold, locked
from .storing import store

MOST = 1000  # products, or articles, in one call
_FIELDS = ("price", "list_price", "level", "availability")
STATES = frozenset(
    {"InStock", "OutOfStock", "SoldOut", "Discontinued", "BackOrder", "PreOrder", "PreSale", "MadeToOrder", "LimitedAvailability",
     "InStoreOnly", "OnlineOnly", "Reserved"}
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Problem:
    """What is wrong with one item of a call."""

    place: int  # from 0
    text: str


class BadItems(ValueError):
    """Nothing was done; says all that is wrong."""

    def __init__(self, problems: Sequence[Problem]) -> None:
        super().__init__(f"{len(problems)} items cannot be taken")
        self.problems = tuple(problems)


@dataclass(slots=True)
class Done:
    """What a call did."""

    new: int = 0
    changed: int = 0
    unchanged: int = 0
    unknown: list[str] = field(default_factory=list)


@transaction.atomic
def put_products(documents: Sequence[Mapping[str, Any]]) -> Done:
    """Write schema.org products; those that are there are replaced, of several of one number the last counts.

    Raises:
        BadItems: some are no products.
        .revising.Refused: a file is being brought in.
    """
    problems: list[Problem] = []
    products: dict[str, Product] = {}
    for place, document in enumerate(documents):
        try:
            product = read_product(dict(document))
            if any("\0" in str(part) for _, part in walk(document_of(product))):
                raise BrokenLine("it holds a character of number 0, which no text may")
            products[product.id] = product
        except BrokenLine as error:
            problems.append(Problem(place, f"{error}. Send a schema.org Product with a sku and a name."))
    if problems:
        raise BadItems(problems)
    hold()
    known = locked(products)
    changed = [product for name, product in products.items() if name not in known or differing(known[name], product)]
    store(changed)
    new = sum(product.id not in known for product in changed)
    return Done(new, len(changed) - new, len(products) - len(changed))


@transaction.atomic
def delete_products(numbers: Sequence[str]) -> Done:
    """Delete products; numbers that are not known are told, and no error. Raises Refused."""
    hold()
    wanted = list(dict.fromkeys(trim(number) for number in numbers))
    known = locked(wanted)
    Row.objects.filter(identity__in=known).delete()
    return Done(changed=len(known), unknown=[number for number in wanted if number not in known])


@transaction.atomic
def set_offers(items: Sequence[Mapping[str, Any]]) -> Done:
    """Set price, list price, stock level and availability of articles, by the number of a variant or of a product without any.

    Args:
        items: each ``sku`` and what is to be set of ``price``, ``list_price``, ``level``, ``availability``; None takes it away.

    Raises:
        BadItems: a value is none, or a number is that of several articles.
        .revising.Refused: a file is being brought in.
    """
    problems: list[Problem] = []
    wanted: dict[str, dict[str, Any]] = {}
    for place, item in enumerate(items):
        try:
            wanted.setdefault(trim(str(item["sku"])), {}).update(_read(item))
        except ValueError as error:
            problems.append(Problem(place, str(error)))
    hold()
    articles = _articles(list(wanted))
    places = {trim(str(item["sku"])): place for place, item in enumerate(items)}
    problems += [
        Problem(places[sku], f"{len(rows)} articles have the number {sku}. Send their product whole.")
        for sku, rows in articles.items() if len(rows) > 1
    ]  # fmt: skip
    if problems:
        raise BadItems(problems)
    changed = []
    for sku, rows in articles.items():
        values = wanted[sku]
        if any(getattr(rows[0], name) != value for name, value in values.items()):
            for name, value in values.items():
                setattr(rows[0], name, value)
            changed.append(rows[0])
    Variant.objects.bulk_update(changed, _FIELDS)
    return Done(changed=len(changed), unchanged=len(articles) - len(changed), unknown=[sku for sku in wanted if sku not in articles])


def _articles(skus: Sequence[str]) -> dict[str, list[Variant]]:
    """Return articles by number, locked: variants by their own, products without variants by theirs."""
    asked = [sku for sku in skus if sku and "\0" not in sku]
    found: dict[str, list[Variant]] = {}
    rows = Variant.objects.select_for_update(of=("self",)).select_related("product").order_by("pk")
    for row in rows.filter(is_implicit=True, product__identity__in=asked):
        found.setdefault(row.product.identity, []).append(row)
    for row in rows.filter(is_implicit=False, sku__in=asked):
        found.setdefault(row.sku, []).append(row)
    return found


def _read(item: Mapping[str, Any]) -> dict[str, Any]:
    """Return what is to be set. Raises ValueError."""
    found: dict[str, Any] = {}
    for name in ("price", "list_price", "level"):
        if name in item:
            found[name] = _number(item[name], name)
    if "availability" in item:
        state = str(item["availability"] or "").rsplit("/", 1)[-1]
        if state and state not in STATES:
            raise ValueError(f"{item['availability']!r} is no availability of schema.org. Send one as InStock or OutOfStock.")
        found["availability"] = state
    return found


def _number(value: Any, name: str) -> Any:
    if value is None:
        return None
    try:
        read = plain(trim(value)) if isinstance(value, str) else value
    except TooLong:
        read = None
    if read is None or isinstance(read, bool | Unusable | str | list | dict):
        raise ValueError(f"{name} is no number. Send it as 12.5 or as the text “12.5”.")
    return read
