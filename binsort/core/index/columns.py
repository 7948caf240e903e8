"""Columns: which products or variants have which value of one source, ready to be cut into bins."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.values.numbers import Number, approximate

from .bitmaps import Numbers, bitmap, bitmap_of_rising, mask_of, numbers, repeated_ranges, spliced

PRODUCT, VARIANT = "product", "variant"
_CHUNK = 4096  # owners looked at together
_FEW = 8  # one owner in so many is few
_NEAR = 256  # owners looked at one by one from either end
SHIFT = 32  # a pair is one whole number: the value's number shifted, plus its owner

Pairs: TypeAlias = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Value:
    """One distinct value of a column."""

    identity: str  # of its label; for categories of its whole path
    label: str
    number: Number | None = None  # dates as day ordinals
    path: tuple[str, ...] = ()  # of a category: the labels of its segments
    nodes: tuple[str, ...] = ()  # of a category: the identities of its segments


class Column:
    """Distinct values with their owners; numbers stand first, rising, so that a range is one slice.

    Owners are dense product or variant numbers below ``size``. ``owners[offsets[c]:offsets[c + 1]]`` has value ``c``,
    rising. Never altered: :meth:`patched` returns another.
    """

    def __init__(self, level: str, size: int, values: list[Value], owners: Numbers, offsets: NDArray[np.int64]) -> None:
        self.level, self.size, self.values, self.owners, self.offsets = level, size, values, owners, offsets

    @cached_property
    def numbers(self) -> list[Number]:
        """The numbers of the values that have one, rising."""
        return [value.number for value in self.values if value.number is not None]

    def codes(self, stop: int) -> NDArray[np.int64]:
        """Return the value of each owner beside ``owners``, for the first ``stop`` values."""
        return np.repeat(np.arange(stop), np.diff(self.offsets[: stop + 1]))

    def members(self, code: int) -> BitMap:
        """Return the owners of one value."""
        return bitmap_of_rising(self.owners[self.offsets[code] : self.offsets[code + 1]])

    def slice(self, start: int, stop: int) -> BitMap:
        """Return the owners of the values ``start`` up to ``stop``, not included."""
        return bitmap(self.owners[self.offsets[start] : self.offsets[stop]])

    def ranks(self, low: Number | None, high: Number | None, *, inclusive: bool) -> tuple[int, int]:
        """Return the slice of values from ``low`` (included) to ``high``, exactly compared."""
        start = 0 if low is None else bisect_left(self.numbers, low)
        if high is None:
            return start, len(self.numbers)
        stop = (bisect_right if inclusive else bisect_left)(self.numbers, high)
        return start, max(start, stop)

    @cached_property
    def with_number(self) -> BitMap:
        """The owners that have a number (or date)."""
        return self.slice(0, len(self.numbers))

    def ends(self, wanted: BitMap, size: int, of: NDArray[np.integer] | None = None) -> tuple[Number, Number] | None:
        """Return the least and the greatest number that some owners have, None where they have none.

        Args:
            wanted: owners, or what ``of`` makes of them.
            size: above all numbers in ``wanted``.
            of: for each owner a number that may be in ``wanted``, as the product of a variant.
        """
        near = self._ends_nearby(wanted, of) if len(wanted) * _NEAR > size else None
        if near is not None:
            return near
        if of is None and len(wanted) * _FEW < self.size:
            return self._ends_of_few(numbers(wanted))
        mask = mask_of(wanted, size)
        having = self.owners[: self.offsets[len(self.numbers)]]

        def among(start: int, stop: int) -> NDArray[np.bool_]:
            part = having[start:stop]
            return mask[part if of is None else of[part]]

        starts = range(0, len(having), _CHUNK)
        first = next((start + int(np.argmax(is_wanted)) for start in starts if (is_wanted := among(start, start + _CHUNK)).any()), None)
        if first is None:
            return None
        backwards = ((start, is_wanted) for start in reversed(starts) if (is_wanted := among(start, start + _CHUNK)).any())
        start, is_wanted = next(backwards)
        last = start + len(is_wanted) - 1 - int(np.argmax(is_wanted[::-1]))
        low, high = np.searchsorted(self.offsets, (first, last), "right") - 1
        return self.numbers[low], self.numbers[high]

    def _ends_nearby(self, wanted: BitMap, of: NDArray[np.integer] | None) -> tuple[Number, Number] | None:
        """Return the same where both stand near the ends, as they do where many owners are wanted; None where one does not."""
        having = self.owners[: self.offsets[len(self.numbers)]]
        first, last = having[:_NEAR], having[-_NEAR:]
        forwards, backwards = (first, last) if of is None else (of[first], of[last])
        low = next((place for place, owner in enumerate(forwards.tolist()) if owner in wanted), None)
        high = next((place for place, owner in enumerate(reversed(backwards.tolist()), 1) if owner in wanted), None)
        if low is None or high is None:
            return None
        ranks = np.searchsorted(self.offsets, (low, len(having) - high), "right") - 1
        return self.numbers[ranks[0]], self.numbers[ranks[1]]

    def _ends_of_few(self, owners: Numbers) -> tuple[Number, Number] | None:
        """Return the same for few owners, by looking at each."""
        if not len(owners):
            return None
        low, high = int(self.least[owners].min()), int(self.greatest[owners].max())
        return None if high < 0 else (self.numbers[low], self.numbers[high])

    @cached_property
    def least(self) -> NDArray[np.int32]:
        """The rank of each owner's least number, the count of numbers where it has none."""
        count = len(self.numbers)
        ranks = np.full(self.size, count, dtype=np.int32)
        ranks[self.owners[: self.offsets[count]][::-1]] = self.codes(count)[::-1]
        return ranks

    @cached_property
    def greatest(self) -> NDArray[np.int32]:
        """The rank of each owner's greatest number, -1 where it has none."""
        count = len(self.numbers)
        ranks = np.full(self.size, -1, dtype=np.int32)
        ranks[self.owners[: self.offsets[count]]] = self.codes(count)
        return ranks

    def find(self, value: Value) -> tuple[int, bool]:
        """Return where a value stands or would stand, and whether it is there."""
        key = _sort_key(value)
        place = bisect_left(self.values, key, key=_sort_key)
        return place, place < len(self.values) and _sort_key(self.values[place]) == key

    def patched(self, size: int, change: "Change") -> "Column":
        """Return the column with some pairs taken away and others put in; values left with no owner go, new ones come.

        Args:
            size: of the owners' numbers, from now on.
            change: what goes and what comes.
        """
        if not change and size == self.size:
            return self
        gone, at = self._places_of(change.removed), self._places_of(change.added)
        new = np.concatenate([owners for _, owners in change.added]) if change.added else self.owners[:0]
        counts = np.diff(self.offsets)
        for value, leaving in change.removed:
            counts[self.find(value)[0]] -= len(leaving)
        values, counts, coming = self._with_room(counts, change.added)
        for code, number in coming:
            counts[code] += number
        return Column(self.level, size, values, spliced(self.owners, gone, at, new), np.concatenate(([0], np.cumsum(counts))))

    def _places_of(self, pairs: "Owned") -> NDArray[np.int64]:
        """Return where pairs stand, or would stand, among the owners."""
        places = [np.array([], dtype=np.int64)]
        for value, owners in pairs:
            code, there = self.find(value)
            start, stop = self.offsets[code], self.offsets[code + 1 if there else code]
            places.append(start + np.searchsorted(self.owners[start:stop], owners))
        return np.concatenate(places)

    def _with_room(self, counts: NDArray[np.int64], added: "Owned") -> tuple[list[Value], NDArray[np.int64], list[tuple[int, int]]]:
        """Return values and counts without those that nobody has and with those that come, and how many owners come to which."""
        places = [self.find(value) for value, _ in added]
        empty = counts == 0
        empty[[place for place, there in places if there]] = False
        fresh = [(place, value) for (place, there), (value, _) in zip(places, added, strict=True) if not there]
        if not fresh and not empty.any():
            return self.values, counts, [(place, len(owners)) for (place, _), (_, owners) in zip(places, added, strict=True)]
        values = self.values.copy()
        for place, value in reversed(fresh):  # in the order of the column, as all that is owned
            values.insert(place, value)
        at = [place for place, _ in fresh]
        counts, empty = np.insert(counts, at, 0), np.insert(empty, at, False)
        if empty.any():
            values = [value for value, gone in zip(values, empty.tolist(), strict=True) if not gone]
            counts = counts[~empty]
        column = Column(self.level, self.size, values, self.owners, self.offsets)
        return values, counts, [(column.find(value)[0], len(owners)) for value, owners in added]


Owned: TypeAlias = Sequence[tuple[Value, Numbers]]  # values with owners, rising, in the order of the column


@dataclass(frozen=True, slots=True)
class Change:
    """What a column loses and gains. All pairs of an owner that loses or gains one stand in ``now``."""

    removed: Owned = ()
    added: Owned = ()
    now: Owned = ()

    def __bool__(self) -> bool:
        return bool(self.removed or self.added)


def _sort_key(value: Value) -> tuple[bool, float, Number, str]:
    """Order by number, exactly; where floats differ they decide, because fractions are slow to compare."""
    number = value.number or 0
    return (value.number is None, approximate(number), number, value.identity)


def pairs(values: NDArray[np.int64], owners: NDArray[np.integer]) -> Pairs:
    """Return value and owner as one number each, rising, without repeats."""
    packed = np.sort((values.astype(np.int64) << SHIFT) | owners.astype(np.int64))
    repeated = packed[1:] == packed[:-1]
    return packed[np.append(True, ~repeated)] if repeated.any() else packed


def _runs(rising: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return the distinct numbers of a rising array, and where each one begins."""
    starts = np.flatnonzero(np.append(True, rising[1:] != rising[:-1])) if len(rising) else np.array([], dtype=np.int64)
    return rising[starts], starts


def owned(given: Pairs, values: Sequence[Value]) -> Owned:
    """Return the owners of each value, in the order of a column."""
    return sorted(_split(given, values), key=lambda item: _sort_key(item[0]))


def _split(given: Pairs, values: Sequence[Value]) -> Iterator[tuple[Value, Numbers]]:
    codes, starts = _runs(given >> SHIFT)
    ends = np.append(starts, len(given))[1:].tolist()
    for code, start, end in zip(codes.tolist(), starts.tolist(), ends, strict=True):
        yield values[code], (given[start:end] & 0xFFFFFFFF).astype(np.uint32)


def column_of(level: str, size: int, values: Sequence[Value], given: Pairs) -> Column:
    """Make a column of pairs; values that nobody has are left out."""
    codes, starts = _runs(given >> SHIFT)
    found_values = [values[code] for code in codes.tolist()]
    order = sorted(range(len(codes)), key=lambda place: _sort_key(found_values[place]))
    counts = np.diff(np.append(starts, len(given)))[order]
    owners = (given & 0xFFFFFFFF).astype(np.uint32)
    if order != list(range(len(order))):
        owners = owners[repeated_ranges(starts[order], counts)]
    return Column(level, size, [found_values[place] for place in order], owners, np.concatenate(([0], np.cumsum(counts))))
