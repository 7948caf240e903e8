"""Orders: all products by name, price, rating and date, each order made when first asked for."""

from bisect import bisect_left
from collections.abc import Callable
from functools import cached_property
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from binsort.core.facets.spec import Source
from binsort.core.values.text import natural_key

from .bitmaps import Numbers
from .columns import VARIANT, Column
from .facts import Facts

PRICE, RATING, PUBLISHED = Source("price"), Source("rating"), Source("published")

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
        self._by_number: dict[tuple[Source, bool], Order] = {}

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

    @cached_property
    def newest(self) -> Order:
        """Latest published first."""
        return self._by(-self._column(PUBLISHED).greatest)

    @cached_property
    def rating(self) -> Order:
        """Best rated first."""
        return self._by(-self._column(RATING).greatest)

    @cached_property
    def prices(self) -> tuple[Ranks, Ranks]:
        """The ranks of each product's least and greatest price over all its variants."""
        column, starts = self._column(PRICE), self._facts.starts[:-1].astype(np.int64)
        if not len(starts):
            return column.least, column.greatest
        return np.minimum.reduceat(column.least, starts), np.maximum.reduceat(column.greatest, starts)

    def by_number(self, source: Source, *, down: bool) -> Order:
        """Return the order by a number: the least of each product first, or the greatest; products without one last."""
        key = source, down
        if key not in self._by_number:
            column, starts = self._column(source), self._facts.starts[:-1].astype(np.int64)
            ranks = -column.greatest if down else column.least
            self._by_number[key] = self._by(np.minimum.reduceat(ranks, starts) if column.level == VARIANT and len(starts) else ranks)
        return self._by_number[key]

    @cached_property
    def price(self) -> Order:
        """By the least price."""
        return self._by(self.prices[0])

    @cached_property
    def price_down(self) -> Order:
        """By the greatest price, dearest first."""
        return self._by(-self.prices[1])

    def prices_within(self, variants: Numbers) -> tuple[NDArray[np.intp], Ranks, Ranks]:
        """Return the products of some variants, rising, with the ranks of the least and greatest price over those variants."""
        column = self._column(PRICE)
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
