"""Revisions: every change of the catalogue by hand or by a file is one, remembered so that it can be taken back."""

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from django.db import connection, transaction
from django.utils import timezone

from binsort.core.catalogue import BrokenLine, read_line
from binsort.core.documents import line_of
from binsort.core.parts import Conflict, differing, part_words, taken_back
from binsort.core.products import Product

from . import models
from .definitions import put_back
from .records import batched, products_of
from .storing import BATCH, copy_rows, store

_LOCK = 7_265_319  # of writing the catalogue, among the advisory locks: a file alone, anything else together
KEPT = 200  # revisions that can be taken back
_NAMED = 3  # products named in a message
After = Mapping[str, Product | None]  # by identity; None where the product goes


class Refused(ValueError):
    """Nothing was done; the text says why."""


class ChangedSince(Refused):
    """Something was changed again after the revision that is to be taken back."""


def hold(*, alone: bool = False) -> None:
    """Keep files away while the catalogue is written by hand, and everybody while a file is; until this transaction ends.

    Raises:
        Refused: a file is being brought in, or, for one that has to be alone, something else is written.
    """
    kind = "" if alone else "_shared"
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT pg_try_advisory_xact_lock{kind}(%s)", [_LOCK])
        if not cursor.fetchone()[0]:
            raise Refused(
                "a file is being brought in. Wait until it is done." if not alone else "the catalogue is being written. Try again."
            )


def begin(kind: models.Revision.Kind, summary: str, *, actor: Any = None, **figures: Any) -> models.Revision:
    """Begin a revision, within a transaction. Those beyond the newest 200 can no longer be taken back."""
    old = models.Revision.objects.values_list("pk", flat=True)[KEPT:]
    models.RevisedProduct.objects.filter(revision__in=list(old)).delete()
    return models.Revision.objects.create(kind=kind, summary=summary, actor=actor, **figures)


def locked(identities: Iterable[str]) -> dict[str, Product]:
    """Return products by identity, hidden ones too, nobody else changing them until this transaction ends."""
    wanted = [text for text in identities if "\0" not in text]
    list(models.Product.objects.select_for_update().filter(identity__in=wanted).order_by("pk").values_list("pk"))
    return products_of(wanted, hidden=True)


def write(revision: models.Revision, after: After, before: Mapping[str, Product]) -> None:
    """Write products and remember what they were; of several states in one revision the first before and the last after.

    Args:
        revision: what this belongs to.
        after: what the products become.
        before: those that are there, as they are.
    """
    rows = [(revision.pk, name, _line(before.get(name)), _line(product)) for name, product in after.items()]
    met = models.RevisedProduct.objects.filter(revision=revision, identity__in=list(after)) if revision.products.exists() else ()
    again = {row.identity: row for row in met}
    copy_rows(models.RevisedProduct, ("revision_id", "identity", "before", "after"), [row for row in rows if row[1] not in again])
    for _, name, _, line in rows:
        if name in again:
            again[name].after = line
    models.RevisedProduct.objects.bulk_update(again.values(), ["after"])
    _put(after, before)


def _put(after: After, before: Mapping[str, Product]) -> None:
    models.Product.objects.filter(identity__in=[name for name, product in after.items() if product is None]).delete()
    store([product for product in after.values() if product is not None], known=before)


def _line(product: Product | None) -> str:
    return line_of(product).decode() if product else ""


def _read(line: str) -> Product | None:
    return read_line(line.encode()) if line else None


def revise(
    summary: str, after: After, *, actor: Any = None, kind: models.Revision.Kind = models.Revision.Kind.PRODUCTS
) -> models.Revision | None:
    """Write products as one revision, as :func:`revise_each` does."""
    return revise_each(summary, after, lambda name, product: after[name], actor=actor, kind=kind)


@transaction.atomic
def revise_each(
    summary: str,
    identities: Iterable[str],
    change: Callable[[str, Product | None], Product | None],
    *,
    actor: Any = None,
    kind: models.Revision.Kind = models.Revision.Kind.PRODUCTS,
    definitions: dict[str, Any] | None = None,
    progress: Callable[[int, int], None] = lambda done, total: None,
) -> models.Revision | None:
    """Change products as one revision; those that stay as they are are left alone. All of them or none.

    Args:
        summary: what changes, in words.
        identities: of the products.
        change: gives what a product becomes (None: it goes) from its identity and what it is (None: it is not there).
        actor: who does it.
        kind: what is changed.
        definitions: states of the dictionary or of categories before and after, where they change as well.
        progress: called with how many products are done, of how many; raises to stop.

    Returns:
        The revision; None where nothing changes.

    Raises:
        Refused: a file is being brought in.
    """
    hold()
    names = list(dict.fromkeys(identities))
    revision = begin(kind, summary, actor=actor, definitions=definitions or {})
    done = 0
    for batch in batched(names, BATCH):
        before = locked(batch)
        after = {name: change(name, before.get(name)) for name in batch}
        _write_changed(revision, after, before)
        done += len(batch)
        progress(done, len(names))
    if not (revision.new or revision.changed or revision.left or definitions):
        revision.delete()
        return None
    revision.save()
    return revision


def _write_changed(revision: models.Revision, after: After, before: Mapping[str, Product]) -> None:
    changed = {name: product for name, product in after.items() if _is_other(before.get(name), product)}
    if changed:
        write(revision, changed, before)
        gone, new = sum(product is None for product in changed.values()), sum(name not in before for name in changed)
        revision.new, revision.left, revision.changed = (
            revision.new + new,
            revision.left + gone,
            revision.changed + len(changed) - new - gone,
        )


def _is_other(before: Product | None, after: Product | None) -> bool:
    if before is None or after is None:
        return before is not after
    return bool(differing(before, after))


def newest() -> models.Revision | None:
    """Return the newest revision that was not taken back yet and still can be."""
    return models.Revision.objects.filter(undone_at=None, pk__in=models.Revision.objects.values("pk")[:KEPT]).first()


def undo_last(*, anyway: bool = False) -> models.Revision:
    """Take the newest revision back. Raises as :func:`take_back`."""
    found = newest()
    if found is None:
        raise Refused("there is nothing that could be undone.")
    return take_back(found.pk, anyway=anyway)


@transaction.atomic
def take_back(number: int, *, anyway: bool = False) -> models.Revision:
    """Take one revision back; what was changed besides stays.

    Raises:
        Refused: it was taken back before, or is too old.
        ChangedSince: what it changed was changed again, which would be lost, unless ``anyway``.
    """
    hold(alone=True)
    revision = models.Revision.objects.select_for_update().filter(pk=number, undone_at=None).first()
    if revision is None:
        raise Refused("that was undone before, or is too long ago.")
    clashes: list[str] = []
    put_back(revision.definitions, anyway=anyway, clashes=clashes)
    for rows in batched(revision.products.order_by("pk"), BATCH):
        now = locked(row.identity for row in rows)
        _put({row.identity: _before(row, now.get(row.identity), anyway, clashes) for row in rows}, now)
    if clashes and not anyway:
        listed = ", ".join(clashes[:_NAMED]) + (" and others" if len(clashes) > _NAMED else "")
        raise ChangedSince(f"{listed} {'was' if len(clashes) == 1 else 'were'} changed since; undoing would lose that.")
    revision.undone_at = timezone.now()
    revision.save(update_fields=["undone_at"])
    return revision


def _before(row: models.RevisedProduct, now: Product | None, anyway: bool, clashes: list[str]) -> Product | None:
    """Return what a product is to be after taking a revision back."""
    before, after = _read(row.before), _after(row)
    if before is not None and after is not None and now is not None:
        try:
            return taken_back(before, after, now, anyway=anyway)
        except Conflict as conflict:
            clashes.append(f"{', '.join(map(part_words, conflict.names))} of {row.identity}")
    elif _is_other(after, now):
        clashes.append(row.identity)
    return before


def _after(row: models.RevisedProduct) -> Product | None:
    """Return what a revision made of a product; of the oldest ones only a digest was kept, which is like nothing there is."""
    try:
        return _read(row.after)
    except BrokenLine:
        return None
