"""Changing many products at once: what it would do, and doing it."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from binsort.catalog.entering import Entry, edit_of, shown
from binsort.catalog.models import Revision
from binsort.catalog.records import batched, products_of
from binsort.catalog.revising import revise_each
from binsort.core.edits import ADD, REMOVE, REPLACE, SET, Edit, Varies, edited, held
from binsort.core.parts import differing
from binsort.core.products import Product

_TOGETHER = 1000
INLINE = 5000  # products that are changed, or looked at beforehand, while somebody waits
_SAMPLES = 3


@dataclass(frozen=True, slots=True)
class Effect:
    """What an edit would do to some products."""

    changed: int
    same: int  # have it like that already
    varied: int  # left alone, because their variants differ
    gained: int  # had no value before
    lost: int  # have none afterwards
    samples: tuple[tuple[str, str, str], ...]  # name, before, after


def effect(entry: Entry, edit: Edit, identities: Sequence[str]) -> Effect:
    """Return what an edit would do."""
    changed = same = varied = gained = lost = 0
    samples = []
    for product in _read(identities):
        try:
            after = edited(product, edit)
        except Varies:
            varied += 1
            continue
        if not differing(product, after):
            same += 1
            continue
        old, new = held(product, entry.field), held(after, entry.field)
        changed, gained, lost = changed + 1, gained + (not old and bool(new)), lost + (bool(old) and not new)
        if len(samples) < _SAMPLES:
            samples.append((product.name, shown(entry, old), shown(entry, new)))
    return Effect(changed, same, varied, gained, lost, tuple(samples))


def _read(identities: Sequence[str]) -> Iterator[Product]:
    for names in batched(identities, _TOGETHER):
        yield from products_of(names, hidden=True).values()


Progress = Callable[[int, int], None]


def _silent(done: int, total: int) -> None:
    """Tell nobody."""


def change_many(
    entry: Entry, way: str, text: str, old: str, identities: Sequence[str], *, actor: Any, progress: Progress = _silent
) -> Revision | None:
    """Edit one field of many products as one revision; those whose variants differ are left alone.

    Raises:
        BadValue: what was typed does not fit.
        Refused: a file is being brought in.
    """
    edit = edit_of(entry, way, text, old)

    def change(_: str, product: Product | None) -> Product | None:
        try:
            return edited(product, edit) if product else None
        except Varies:
            return product

    return revise_each(summary(entry, way, text, old, len(identities)), identities, change, actor=actor, progress=progress)


def summary(entry: Entry, way: str, text: str, old: str, count: int) -> str:
    """Say an edit in words."""
    of = f"of {count:,} product{'s' if count != 1 else ''}"
    said = {
        SET: f"Set {entry.label} {of} to {text}" if text else f"Emptied {entry.label} {of}",
        ADD: f"Added {text} to {entry.label} {of}",
        REMOVE: f"Removed {text} from {entry.label} {of}",
        REPLACE: f"Replaced {old} by {text or 'nothing'} in {entry.label} {of}",
    }
    return said[way]


def delete_many(identities: Sequence[str], *, actor: Any, progress: Progress = _silent) -> Revision | None:
    """Delete products as one revision. Raises Refused."""
    count = len(identities)
    what = f"Deleted {count:,} product{'s' if count != 1 else ''}"
    return revise_each(what, identities, lambda name, product: None, actor=actor, progress=progress)
