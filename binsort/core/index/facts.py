"""Facts: what every product and variant says, kept as whole numbers in arrays.

For each field (see :mod:`.gathering`) they hold, for each product or variant, the codes of what it says, in the order
written. Everything else (columns, bins, counts) is derived from this.

Facts are never altered. A change of some products makes new facts, in which every field that was not touched is the
same object. Products keep their numbers (slots); one that goes, or gets another number of variants, leaves its slot
empty.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import accumulate
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.products.product import Product

from .bitmaps import Numbers, bitmap_of_mask, repeated_ranges, spliced
from .codes import FieldKey, Gathered, Vocabularies, Vocabulary, gather
from .columns import PRODUCT, VARIANT
from .packed_texts import Texts

Codes: TypeAlias = NDArray[np.unsignedinteger[Any]]  # of the smallest type that holds them; not to be reckoned with
_OLD_WORDS = 1000  # words that nobody says any more, beside as many as are said, after which a vocabulary is made anew
_SPARE = 1.25  # slots for each product that is there, later ones counted twice, above which the facts are better renumbered


@dataclass(frozen=True, slots=True)
class CodedField:
    """Who says what: ``owners`` rising, ``codes`` beside them in the order written, and how often each code is said."""

    owners: Numbers
    codes: Codes
    counts: NDArray[np.int64]

    def places(self, owners: Numbers) -> NDArray[np.int64]:
        """Return where the pairs of some owners (rising) stand."""
        starts = np.searchsorted(self.owners, owners, "left")
        return repeated_ranges(starts, np.searchsorted(self.owners, owners, "right") - starts)

    def count(self, code: int) -> int:
        """Return how often something is said, also for a code that came later."""
        return int(self.counts[code]) if code < len(self.counts) else 0


def field_of(owners: Numbers, codes: Codes) -> CodedField:
    """Make a field of what is said, the codes as small as they can be."""
    return CodedField(owners, codes.astype(np.min_scalar_type(int(codes.max(initial=0)))), np.bincount(codes))


NOTHING = CodedField(np.array([], dtype=np.uint32), np.array([], dtype=np.uint32), np.array([], dtype=np.int64))


@dataclass(frozen=True)
class Facts:
    """All that a catalogue says, products by slot, variants by number. See the module's text."""

    vocabularies: Vocabularies
    fields: Mapping[FieldKey, CodedField]
    keys: NDArray[np.int64]  # of the product in each slot
    places: NDArray[np.int64]
    exists: NDArray[np.bool_]  # False: an empty slot
    visible: NDArray[np.bool_]  # there and in listings
    starts: NDArray[np.uint32]  # where each product's variants start; one more than slots
    ids: Texts
    names: Texts
    by_key: NDArray[np.int64]  # the slots that were there from the start, by rising key
    moved: Mapping[int, int] = field(default_factory=dict)  # slots of keys that came or moved after the facts were built

    @property
    def size(self) -> int:
        """The number of slots."""
        return len(self.keys)

    @property
    def variants(self) -> int:
        """The number of variants, those of empty slots included."""
        return int(self.starts[-1])

    def field(self, key: FieldKey) -> CodedField:
        """Return a field, an empty one where nobody says anything."""
        return self.fields.get(key, NOTHING)

    def items(self, key: FieldKey) -> list[Any]:
        """Return what the codes of a field stand for."""
        return self.vocabularies[key].items if key in self.vocabularies else []

    @cached_property
    def product_of(self) -> NDArray[np.intp]:
        """The product of each variant, rising; of the type that numpy looks up fastest."""
        return np.repeat(np.arange(self.size), np.diff(self.starts))

    @cached_property
    def every_product(self) -> BitMap:
        """The visible products."""
        return bitmap_of_mask(self.visible)

    @cached_property
    def visible_variants(self) -> NDArray[np.bool_]:
        """Whether each variant's product is visible."""
        return np.repeat(self.visible, np.diff(self.starts))

    @cached_property
    def rank(self) -> NDArray[np.int32] | None:
        """The place of each slot in the order of the catalogue, None where slots stand in that order."""
        there = np.flatnonzero(self.exists)
        places, keys = self.places[there], self.keys[there]
        rising = (places[1:] > places[:-1]) | ((places[1:] == places[:-1]) & (keys[1:] > keys[:-1]))
        if rising.all():
            return None
        ranks = np.empty(self.size, dtype=np.int32)
        ranks[np.lexsort((self.keys, self.places))] = np.arange(self.size, dtype=np.int32)
        return ranks

    def first(self, key: FieldKey, codes: Sequence[int]) -> tuple[tuple[int, int], int]:
        """Return where a field first says one of some codes, and which.

        The place is the rank of the product, and 0 for its own words, 1 for a variant's.
        """
        coded = self.field(key)
        at = np.flatnonzero(np.isin(coded.codes, codes))
        products = coded.owners[at] if key[-1] == PRODUCT else self.product_of[coded.owners[at]]
        ranks = products if self.rank is None else self.rank[products]
        place = int(np.argmin(ranks))
        return (int(ranks[place]), int(key[-1] == VARIANT)), int(coded.codes[at[place]])

    def variants_of(self, products: Numbers) -> Numbers:
        """Return the variants of some products (rising)."""
        starts = self.starts[products]
        return repeated_ranges(starts, self.starts[products + 1] - starts).astype(np.uint32)

    def slots(self, keys: Sequence[int]) -> list[int | None]:
        """Return the slot of each key, None where there is no such product."""
        wanted, order = np.array(keys, dtype=np.int64), self.by_key
        places = np.minimum(np.searchsorted(self.keys[: len(order)], wanted, sorter=order), max(len(order) - 1, 0))
        moved = [self.moved.get(key) for key in keys]
        if len(order):
            slots = order[places]
            right = (self.keys[slots] == wanted).tolist()
            moved = [slot if right[n] and moved[n] is None else moved[n] for n, slot in enumerate(slots.tolist())]
        return [slot if slot is not None and self.exists[slot] else None for slot in moved]

    def slots_there(self, keys: NDArray[np.int64]) -> NDArray[np.intp]:
        """Return the slots of those of some keys that there is a product of, rising; for very many keys at once."""
        order = self.by_key
        if not len(order) or not len(keys):
            return np.array(sorted(slot for slot in self.slots(keys.tolist()) if slot is not None), dtype=np.intp)
        places = np.minimum(np.searchsorted(self.keys[: len(order)], keys, sorter=order), len(order) - 1)
        slots = order[places]
        right = self.keys[slots] == keys
        late = [self.moved[key] for key in keys[~right].tolist() if key in self.moved] if self.moved else []
        moved = [self.moved[key] for key in keys[right].tolist() if key in self.moved] if self.moved else []
        gone = np.isin(keys, list(self.moved)) if moved else np.zeros(len(keys), dtype=bool)
        found = np.concatenate((slots[right & ~gone], np.array([*late, *moved], dtype=np.intp)))
        return np.sort(found[self.exists[found]]).astype(np.intp)

    @property
    def wasteful(self) -> bool:
        """Tell whether so many slots are empty, or came later, that :meth:`renumbered` is worth its while."""
        return self.size + len(self.moved) > _SPARE * int(np.count_nonzero(self.exists)) + 1000

    def changed(self, gathered: Gathered, gone: Sequence[int]) -> tuple["Facts", Numbers]:
        """Return the facts with some products put in (new or in place of what they were) and some taken away.

        Returns:
            The new facts, and the slots that were touched in either, rising.
        """
        return _changed(self, gathered, [slot for slot in self.slots(gone) if slot is not None])

    def renumbered(self) -> "Facts":
        """Return the same facts without empty slots, in the order of the catalogue, codes that nobody says left out."""
        order: Numbers = np.flatnonzero(self.exists).astype(np.uint32)
        order = order[np.lexsort((self.keys[order], self.places[order]))]
        target = np.full(self.size, -1, dtype=np.int64)
        target[order] = np.arange(len(order))
        counts = np.diff(self.starts)[order]
        starts = np.concatenate(([0], np.cumsum(counts))).astype(np.uint32)
        variants = np.full(self.variants, -1, dtype=np.int64)
        variants[self.variants_of(order)] = np.arange(int(starts[-1]))
        vocabularies, fields = {}, {}
        for key, coded in self.fields.items():
            vocabularies[key], fields[key] = _renumbered(coded, self.items(key), target if key[-1] == PRODUCT else variants)
        ids, names = (Texts.of(texts[slot] for slot in order.tolist()) for texts in (self.ids, self.names))
        by_key = np.argsort(self.keys[order], kind="stable")
        return Facts(
            vocabularies, fields, self.keys[order], self.places[order], self.exists[order], self.visible[order], starts, ids, names, by_key
        )


def _is_full_of_old_words(coded: CodedField, vocabulary: Vocabulary) -> bool:
    """Tell whether most of a vocabulary is said by nobody any more, as after many changes of prices."""
    return len(vocabulary.items) > _OLD_WORDS and len(vocabulary.items) > 2 * int(np.count_nonzero(coded.counts)) + _OLD_WORDS


def _without_old_words(coded: CodedField, items: list[Any]) -> tuple[Vocabulary, CodedField]:
    """Return a vocabulary of what is said, and the field in its codes; whatever reads the field has to read it anew."""
    used = np.flatnonzero(coded.counts)
    code = np.zeros(len(coded.counts), dtype=np.uint32)
    code[used] = np.arange(len(used), dtype=np.uint32)
    return Vocabulary(items[place] for place in used), field_of(coded.owners, code[coded.codes])


def _renumbered(coded: CodedField, items: list[Any], target: NDArray[np.int64]) -> tuple[Vocabulary, CodedField]:
    owners = target[coded.owners]
    if len(owners) and not (owners[1:] >= owners[:-1]).all():
        order = np.argsort(owners, kind="stable")
        owners, codes = owners[order], coded.codes[order]
    else:
        codes = coded.codes
    return _without_old_words(CodedField(owners.astype(np.uint32), codes, coded.counts), items)


def build_facts(rows: Iterable[tuple[int, int, Product]]) -> Facts:
    """Build the facts of a whole catalogue; rows as for :func:`gather`, in the order of the catalogue."""
    vocabularies: Vocabularies = {}
    return facts_of(vocabularies, gather(rows, vocabularies))


def facts_of(vocabularies: Vocabularies, gathered: Gathered) -> Facts:
    """Return the facts of products that were gathered from the first to the last."""
    starts = np.fromiter(accumulate(gathered.variants, initial=0), dtype=np.uint32)
    fields = {
        key: field_of(np.frombuffer(owners, np.uint32), np.frombuffer(codes, np.uint32)) for key, (owners, codes) in gathered.said.items()
    }
    keys, places = np.array(gathered.keys, dtype=np.int64), np.array(gathered.places, dtype=np.int64)
    by_key = np.argsort(keys, kind="stable")
    return Facts(
        vocabularies, fields, keys, places, np.ones(len(keys), dtype=bool), gathered.visible, starts, gathered.ids, gathered.names, by_key
    )


def _changed(old: Facts, gathered: Gathered, gone: list[int]) -> tuple[Facts, Numbers]:
    was = old.slots(gathered.keys)
    per_slot = np.diff(old.starts)
    target = np.array(
        [-1 if slot is None or per_slot[slot] != count else slot for slot, count in zip(was, gathered.variants, strict=True)],
        dtype=np.int64,
    )
    left = [slot for slot, stays in zip(was, target.tolist(), strict=True) if slot is not None and stays < 0]
    fresh = np.flatnonzero(target < 0)
    target[fresh] = old.size + np.arange(len(fresh))
    cleared = np.array(sorted({*gone, *left}), dtype=np.uint32)
    touched = np.union1d(cleared, target.astype(np.uint32)).astype(np.uint32)

    def grown(array: NDArray[Any], new: Any) -> NDArray[Any]:
        longer = np.concatenate((array, np.zeros(len(fresh), dtype=array.dtype)))
        longer[target] = new
        return longer

    keys, places = grown(old.keys, gathered.keys), grown(old.places, gathered.places)
    exists, visible = grown(old.exists, [True] * len(target)), grown(old.visible, gathered.visible)
    exists[cleared] = visible[cleared] = False
    more = np.array(gathered.variants, dtype=np.uint32)[fresh]
    starts = np.concatenate((old.starts, old.starts[-1] + np.cumsum(more, dtype=np.uint32))) if len(fresh) else old.starts
    ids, names = (
        before.replaced(dict(zip(target.tolist(), now, strict=True)))
        for before, now in ((old.ids, gathered.ids), (old.names, gathered.names))
    )
    moved = {**old.moved, **{gathered.keys[place]: int(target[place]) for place in fresh.tolist()}}
    counts = np.array(gathered.variants, dtype=np.int64)
    variants = repeated_ranges(starts[target], counts)  # the number of each variant gathered
    before = touched[touched < old.size]
    owners_of = {PRODUCT: (before, target), VARIANT: (old.variants_of(before), variants)}
    fields = dict(old.fields)
    vocabularies = old.vocabularies
    for key in {**old.fields, **gathered.said}:
        before_it = old.field(key)
        changed = _field_changed(before_it, owners_of[key[-1]], gathered.said.get(key))
        if changed is not before_it and _is_full_of_old_words(changed, vocabularies[key]):
            vocabularies = {**vocabularies}
            vocabularies[key], changed = _without_old_words(changed, vocabularies[key].items)
        fields[key] = changed
    new = Facts(vocabularies, fields, keys, places, exists, visible, starts, ids, names, old.by_key, moved)
    _take_over(old, new)
    return new, touched


def _take_over(old: Facts, new: Facts) -> None:
    """Keep what was found out about the old facts where it holds for the new ones."""
    if new.starts is old.starts:
        same = np.array_equal(new.visible, old.visible)
        holds = {"product_of": True, "visible_variants": same, "every_product": same, "rank": np.array_equal(new.places, old.places)}
        new.__dict__.update({name: old.__dict__[name] for name, still in holds.items() if still and name in old.__dict__})
    elif old.__dict__.get("rank", 0) is None and np.array_equal(new.places[: old.size], old.places) and _continues(new, old.size):
        new.__dict__["rank"] = None


def _continues(facts: Facts, size: int) -> bool:
    """Tell whether the slots from ``size`` on stand, in their order, behind the last one before them that is in use."""
    before = size - 1
    while before >= 0 and not facts.exists[before]:
        before -= 1
    at = np.arange(max(before, 0), facts.size)[int(before < 0) * size :]
    at = at[facts.exists[at]]
    listed = list(zip(facts.places[at].tolist(), facts.keys[at].tolist(), strict=True))
    return listed == sorted(listed)


def _field_changed(old: CodedField, owners_of: tuple[Numbers, NDArray[np.int64]], given: Any) -> CodedField:
    """Return a field with the pairs of some owners replaced; the very same where they say what they said."""
    before, target = owners_of
    gone = old.places(before)
    local, codes = (np.frombuffer(part, np.uint32) for part in given) if given else (NOTHING.owners, NOTHING.codes)
    owners = target[local]
    order = np.argsort(owners, kind="stable")
    owners, codes = owners[order].astype(np.uint32), codes[order]
    if np.array_equal(old.owners[gone], owners) and np.array_equal(old.codes[gone], codes):
        return old
    counts = np.zeros(max(len(old.counts), int(codes.max(initial=0)) + 1), dtype=np.int64)
    counts[: len(old.counts)] = old.counts
    np.subtract.at(counts, old.codes[gone], 1)
    np.add.at(counts, codes, 1)
    at = np.searchsorted(old.owners, owners, "right")  # behind what goes
    kind = np.promote_types(old.codes.dtype, np.min_scalar_type(int(codes.max(initial=0))))
    spliced_codes = spliced(old.codes.astype(kind, copy=False), gone, at, codes.astype(kind))
    return CodedField(spliced(old.owners, gone, at, owners), spliced_codes, counts)
