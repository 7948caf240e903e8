"""Columns: which products or variants have which value of one source, ready to be cut into bins."""

from bisect import bisect_left, bisect_right
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from .bitmaps import bitmap
from .numbers import Number

PRODUCT, VARIANT = "product", "variant"


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

    Owners are dense product or variant numbers. ``owners[offsets[c]:offsets[c + 1]]`` has value ``c``; ``codes`` goes beside ``owners``.
    """

    def __init__(self, level: str, size: int, values: list[Value], pairs: tuple[NDArray[np.uint32], NDArray[np.int64]]) -> None:
        self.level = level
        self.size = size
        owners, codes = pairs
        order = sorted(range(len(values)), key=lambda c: _sort_key(values[c]))
        place = np.empty(len(values), dtype=np.int64)
        place[order] = np.arange(len(values))
        codes = place[codes] if len(values) else codes
        unique = np.unique(codes * max(size, 1) + owners)
        self.codes = unique // max(size, 1)
        self.owners = (unique % max(size, 1)).astype(np.uint32)
        self.values = [values[c] for c in order]
        self.offsets = np.searchsorted(self.codes, np.arange(len(values) + 1))
        self.numbers = [value.number for value in self.values if value.number is not None]

    def members(self, code: int) -> BitMap:
        """Return the owners of one value."""
        return self.slice(code, code + 1)

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

    @cached_property
    def least(self) -> NDArray[np.int32]:
        """The rank of each owner's least number, the count of numbers where it has none."""
        found = np.full(self.size, len(self.numbers), dtype=np.int32)
        stop = self.offsets[len(self.numbers)]
        found[self.owners[:stop][::-1]] = self.codes[:stop][::-1]
        return found

    @cached_property
    def greatest(self) -> NDArray[np.int32]:
        """The rank of each owner's greatest number, -1 where it has none."""
        found = np.full(self.size, -1, dtype=np.int32)
        stop = self.offsets[len(self.numbers)]
        found[self.owners[:stop]] = self.codes[:stop]
        return found


def _sort_key(value: Value) -> tuple[bool, Number, str]:
    return (value.number is None, value.number or 0, value.identity)


class ColumnBuilder:
    """Collects owner and value pairs; equal values are interned."""

    def __init__(self, level: str, size: int) -> None:
        self._level, self._size = level, size
        self._codes: dict[tuple[str, int | None, int | None], int] = {}
        self._values: list[Value] = []
        self._owners: list[int] = []
        self._pairs: list[int] = []

    def add(self, owner: int, value: Value) -> None:
        """Give an owner a value."""
        number = value.number
        key = (value.identity, None, None) if number is None else (value.identity, number.numerator, number.denominator)
        code = self._codes.get(key)
        if code is None:
            code = self._codes[key] = len(self._values)
            self._values.append(value)
        self._owners.append(owner)
        self._pairs.append(code)

    def build(self) -> Column:
        """Return the column."""
        pairs = np.array(self._owners, dtype=np.uint32), np.array(self._pairs, dtype=np.int64)
        return Column(self._level, self._size, self._values, pairs)
