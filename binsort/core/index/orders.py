"""Orders: all products by name, price, rating and date, each order made when first asked for."""

from bisect import bisect_left
from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import cached_property
from typing import NamedTuple, TypeAlias

import numpy as np
from numpy.typing import NDArray

from binsort.core.facets.query import ATTRIBUTE_SORT
from binsort.core.facets.spec import Source
from binsort.core.products.product import Written
from binsort.core.values.dates import day
from binsort.core.values.text import identity, natural_key

from .bitmaps import Numbers
from .codes import attribute
from .columns import PRODUCT, VARIANT, Column
from .facts import Facts

PRICE, RATING, PUBLISHED, LEVEL = Source("price"), Source("rating"), Source("published"), Source("level")
SAVING, BUYABLE = Source("saving"), Source("buyable")


class SortSource(NamedTuple):
    """What products are ordered by: the least number of each first, or going down the greatest."""

    source: Source
    down: bool = False


_SOURCES = {
    "price": SortSource(PRICE),
    "-price": SortSource(PRICE, True),
    "newest": SortSource(PUBLISHED, True),
    "-rating": SortSource(RATING, True),
    "level": SortSource(LEVEL),
    "-level": SortSource(LEVEL, True),
    "saving": SortSource(SAVING),
    "-saving": SortSource(SAVING, True),
    "buyable": SortSource(BUYABLE),
}

Ranks: TypeAlias = NDArray[np.int32]


class Order:
    """All products in one order. ``rank`` is the place of each slot, ``slots`` the slots in that order."""

    def __init__(self, slots: NDArray[np.int32]) -> None:
        self.slots = slots

    @cached_property
    def rank(self) -> Ranks:
        """The place of each slot."""
        ranks = np.empty(len(self.slots), dtype=np.int32)
        ranks[self.slots] = np.arange(len(self.slots), dtype=np.int32)
        return ranks


class Orders:
    """The orders of an index, each made when first asked for."""

    def __init__(self, facts: Facts, column: Callable[[Source], Column]) -> None:
        self._facts, self._column = facts, column
        self._by_number: dict[SortSource, Order] = {}
        self._kinds: dict[str, str] = {}  # of attributes: what they are sorted as

    @cached_property
    def listed(self) -> NDArray[np.int32] | None:
        """Slots in the order of the catalogue, None where that is the order of slots."""
        rank = self._facts.rank
        return None if rank is None else Order(rank).rank

    def _by(self, keys: NDArray[np.integer]) -> Order:
        """Order by some keys, smallest first, ties in the order of the catalogue."""
        if self.listed is None:
            return Order(np.argsort(keys, kind="stable").astype(np.int32))
        return Order(self.listed[np.argsort(keys[self.listed], kind="stable")])

    @cached_property
    def name(self) -> Order:
        """By natural order of the name, equal names in the order of the catalogue."""
        slots = np.arange(len(self._facts.names), dtype=np.int32) if self.listed is None else self.listed
        names = self._facts.names
        by_letters = sorted(slots.tolist(), key=names.__getitem__)  # the last thing that decides; two sorts need less memory than one
        return Order(np.array(sorted(by_letters, key=lambda slot: natural_key(names[slot])[0]), dtype=np.int32))

    @cached_property
    def name_down(self) -> Order:
        """By the name, last first; equal names stay in the order of the catalogue."""
        slots = self.name.slots
        names = list(map(self._facts.names.__getitem__, slots.tolist()))
        places = np.empty(len(slots), dtype=np.int32)  # equal names share one
        places[slots] = np.cumsum(
            np.fromiter((one is None or one != other for one, other in zip([None, *names], names, strict=False)), dtype=np.int32)
        )
        return self._by(-places)

    def source(self, sort: str) -> SortSource | None:
        """Return what an order goes by, None for those that no number decides, and for unknown ones.

        An attribute can be sorted by where the catalogue, invisible products included, gives a number or a date for it.
        """
        if sort in _SOURCES:
            return _SOURCES[sort]
        name = sort.removeprefix("-")
        if not name.startswith(ATTRIBUTE_SORT):
            return None
        kind = self._sorted_as(identity(name.removeprefix(ATTRIBUTE_SORT)))
        return SortSource(Source(kind, name.removeprefix(ATTRIBUTE_SORT)), sort.startswith("-")) if kind else None

    def _sorted_as(self, name: str) -> str:
        """Return whether an attribute is sorted by its numbers or its dates, as a kind of source; empty for neither."""
        if name not in self._kinds:
            given = [value for level in (PRODUCT, VARIANT) for value in self._given(name, level)]
            has_numbers = any(isinstance(value, int | Fraction) and not isinstance(value, bool) for value in given)
            has_dates = not has_numbers and any(isinstance(value, str) and day(value) is not None for value in given)
            self._kinds[name] = "attribute" if has_numbers else "attribute_day" if has_dates else ""
        return self._kinds[name]

    def _given(self, name: str, level: str) -> Iterator[Written]:
        key = attribute(name, level)
        items = self._facts.items(key)
        return (value for code in np.flatnonzero(self._facts.field(key).counts).tolist() for value in items[code].values)

    def has_data(self, sort: str) -> bool:
        """Tell whether an order parts the visible products: by a number that some have, in more than one way where all have one."""
        if sort in ("listed", "name", "-name"):
            return True
        by = self.source(sort)
        if by is None:
            return False
        numbers = self._column(by.source).numbers
        return len(numbers) > 1 if by.source in (SAVING, BUYABLE) else bool(numbers)

    def is_on_variants(self, by: SortSource) -> bool:
        """Tell whether what an order goes by is said of variants."""
        return self._column(by.source).level == VARIANT

    def by_number(self, by: SortSource) -> Order:
        """Return the order of all products by a number: the least of each first, or the greatest; products without one last."""
        if by not in self._by_number:
            column, starts = self._column(by.source), self._facts.starts[:-1].astype(np.int64)
            ranks = -column.greatest if by.down else column.least
            self._by_number[by] = self._by(np.minimum.reduceat(ranks, starts) if column.level == VARIANT and len(starts) else ranks)
        return self._by_number[by]

    def ends_within(self, source: Source, variants: Numbers) -> tuple[NDArray[np.intp], Ranks, Ranks]:
        """Return the products of some variants, rising, with the ranks of the least and greatest number over those variants."""
        column = self._column(source)
        owners = self._facts.product_of[variants]
        if not len(owners):
            return owners, column.least[:0], column.greatest[:0]
        starts = np.flatnonzero(np.concatenate(([True], owners[1:] != owners[:-1])))
        least = np.minimum.reduceat(column.least[variants], starts)
        return owners[starts], least, np.maximum.reduceat(column.greatest[variants], starts)

    def ties(self, slots: NDArray[np.integer]) -> NDArray[np.integer]:
        """Return the places of some slots in the order of the catalogue, which decide between products that are alike."""
        rank = self._facts.rank
        return slots if rank is None else rank[slots]

    def follow(self, before: "Orders", touched: Numbers) -> None:
        """Take over the order of names from an earlier index, with the touched products put where they belong now."""
        if "name" not in before.__dict__:
            return
        names, old, rank = self._facts.names, before._facts.names, self._facts.rank
        stays = rank is None and before._facts.rank is None
        moved = [slot for slot in touched.tolist() if not stays or slot >= len(old) or names[slot] != old[slot]]
        if len(moved) > len(names) // 10:
            return
        slots = before.name.slots
        if moved:

            def key(slot: int) -> tuple[object, ...]:
                return natural_key(names[slot]), slot if rank is None else rank[slot]

            gone = np.zeros(len(names), dtype=bool)
            gone[moved] = True
            slots = slots[~gone[slots]]
            moved.sort(key=key)
            slots = np.insert(slots, [bisect_left(slots, key(slot), key=key) for slot in moved], moved)
        self.__dict__["name"] = Order(slots)
