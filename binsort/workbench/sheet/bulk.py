"""Changing many products at once: what it would do, and doing it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from binsort.catalog.dictionary.entry import Entry, shown
from binsort.catalog.store.batches import batched
from binsort.catalog.store.product_rows import products_of
from binsort.core.products.edits import Edit, Varies, edited, held
from binsort.core.products.parts import differing
from binsort.core.products.product import Product

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
    samples: list[tuple[str, str, str]] = []
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
