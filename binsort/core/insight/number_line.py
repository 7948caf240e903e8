"""The number line: every number that products of a listing have, so that any range can be counted exactly.

An *entry* is a number and a product that has it. Entries stand by number; beside each stands where the same product
had its entry before. The products in a range are then the entries in it whose product had none in it before: one slice,
one comparison. A page holds the same arrays and counts while a cut is dragged.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from math import ceil

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.spec import Range
from binsort.core.index.bitmaps import mask_of
from binsort.core.index.catalogue_index import Index
from binsort.core.values.numbers import Number, approximate

from .axis import Axis

_LEAST_BARS, _MOST_BARS = 36, 60
_SLIVER = 0.5  # of a bar: an edge so close to a cut gives way to it


@dataclass(frozen=True, eq=False)
class NumberLine:
    """The numbers of a listing, rising, with their products."""

    numbers: list[Number]
    starts: NDArray[np.int64]  # the entries of number ``n`` are ``starts[n]`` up to ``starts[n + 1]``
    products: NDArray[np.int64]  # of each entry
    before: NDArray[np.int64]  # the entry before of the same product, -1 for none
    are_days: bool = False  # the numbers are ordinals of days

    @property
    def entries(self) -> int:
        """How many entries there are; a product has one for each number of its own."""
        return len(self.products)

    @cached_property
    def floats(self) -> NDArray[np.float64]:
        """The numbers, nearly: for drawing only."""
        return np.array([approximate(number) for number in self.numbers], dtype=np.float64)

    def has(self, number: Number) -> bool:
        """Tell whether products have exactly this number."""
        rank = bisect_left(self.numbers, number)
        return rank < len(self.numbers) and self.numbers[rank] == number

    @property
    def weights(self) -> list[int]:
        """How many products have each number."""
        return [int(count) for count in np.diff(self.starts)]

    def ranks(self, bounds: Range) -> tuple[int, int]:
        """Return the slice of numbers in a range, exactly compared."""
        start = 0 if bounds.low is None else bisect_left(self.numbers, bounds.low)
        if bounds.high is None:
            return start, len(self.numbers)
        return start, max(start, (bisect_right if bounds.high_inclusive else bisect_left)(self.numbers, bounds.high))

    def count(self, start: int, stop: int) -> int:
        """Return how many products have one of the numbers ``start`` up to ``stop``, not included; each once."""
        first, last = int(self.starts[start]), int(self.starts[stop])
        return int(np.count_nonzero(self.before[first:last] < first))

    def in_range(self, bounds: Range) -> int:
        """Return how many products are in a range."""
        return self.count(*self.ranks(bounds))

    def in_ranges(self, ranges: Sequence[Range]) -> int:
        """Return how many products are in one range at least."""
        inside = np.zeros(self.entries, dtype=bool)
        for bounds in ranges:
            start, stop = self.ranks(bounds)
            inside[self.starts[start] : self.starts[stop]] = True
        return len(np.unique(self.products[inside]))

    def part(self, start: int, stop: int) -> "NumberLine":
        """Return the line of the numbers ``start`` up to ``stop``, not included."""
        first, last = int(self.starts[start]), int(self.starts[stop])
        starts, before = self.starts[start : stop + 1] - first, self.before[first:last] - first
        return NumberLine(self.numbers[start:stop], starts, self.products[first:last], before, self.are_days)

    def around(self, cut: Number, each: int = 3) -> tuple[list[tuple[Number, int]], list[tuple[Number, int]]]:
        """Return the numbers and products just below a cut, and those at it or just above; ``each`` of both at most."""
        entry = int(self.starts[bisect_left(self.numbers, cut)])
        return self._entries(max(0, entry - each), entry), self._entries(entry, min(self.entries, entry + each))

    def _entries(self, first: int, last: int) -> list[tuple[Number, int]]:
        ranks = np.searchsorted(self.starts, np.arange(first, last), "right") - 1
        return [(self.numbers[rank], int(product)) for rank, product in zip(ranks, self.products[first:last], strict=True)]


def number_line(index: Index, facet: Facet, products: BitMap) -> NumberLine:
    """Return the numbers that some products have, of a facet's source; found once for a listing."""
    return index.remember(("number line", facet.spec.source.column_key, bytes(products.serialize())), lambda: _line(index, facet, products))


def _line(index: Index, facet: Facet, products: BitMap) -> NumberLine:
    column = facet.column
    stop = len(column.numbers)
    owners, codes = column.owners[: column.offsets[stop]], column.codes(stop)
    of = index.product_of[owners] if facet.on_variants else owners
    here = mask_of(products, index.size)[of]
    pairs = np.unique(codes[here].astype(np.int64) * index.size + of[here].astype(np.int64))  # a product once for each number
    ranks, having = np.divmod(pairs, max(index.size, 1))
    present, starts = np.unique(ranks, return_index=True)
    return NumberLine(
        [column.numbers[rank] for rank in present.tolist()],
        np.append(starts, len(pairs)).astype(np.int64),
        having,
        _before(having),
        kind_of(facet.spec.source.kind).has_dates,
    )


def _before(products: NDArray[np.int64]) -> NDArray[np.int64]:
    """Return for each entry the one before it of the same product, -1 for none."""
    order = np.argsort(products, kind="stable")
    before = np.full(len(products), -1, dtype=np.int64)
    same = products[order][1:] == products[order][:-1]
    before[order[1:][same]] = order[:-1][same]
    return before


@dataclass(frozen=True, slots=True)
class LineBar:
    """A bar of a histogram between two shares of an axis, with its products."""

    left: float
    right: float
    count: int

    def density(self, bars: int) -> float:
        """Return its products, had it the width of one bar among so many."""
        return self.count / ((self.right - self.left) * bars)


def bars_of(line: NumberLine, axis: Axis, cuts: Sequence[Number], bars: int) -> list[LineBar]:
    """Return a histogram whose bars never straddle a cut: edges stand evenly, those next to a cut give way to it."""
    floats = line.floats
    edges = [(share, bisect_left(line.numbers, cut)) for cut in cuts for share in (axis.share(approximate(cut)),)]
    for place in range(bars + 1):
        share = place / bars
        if all(abs(share - other) >= _SLIVER / bars for other, _ in edges[: len(cuts)]) or place in (0, bars):
            rank = 0 if not place else len(floats) if place == bars else int(np.searchsorted(floats, axis.value(share)))
            edges.append((share, rank))
    edges.sort()
    drawn = []
    for (left, start), (right, stop) in pairwise(edges):
        count = line.count(start, stop) if right > left and stop > start else 0
        if count:
            drawn.append(LineBar(left, right, count))
    return drawn


def bar_count(positions: NDArray[np.float64]) -> int:
    """Return how many bars show how positions from 0 to 1 spread: the rule of Freedman and Diaconis, within what can be read.

    D. Freedman, P. Diaconis, "On the histogram as a density estimator: L2 theory" (1981): bars as wide as twice the
    interquartile range over the cube root of how many there are.
    """
    return min(_MOST_BARS, max(_LEAST_BARS, freedman_diaconis(positions)))


def freedman_diaconis(values: NDArray[np.float64]) -> int:
    """Return the number of bars by the rule of Freedman and Diaconis; 1 where the middle half of the values is one value."""
    if not len(values):
        return 1
    upper, lower = np.quantile(values, (0.75, 0.25))
    width = 2 * (upper - lower) / len(values) ** (1 / 3)
    return max(1, ceil(float(np.ptp(values)) / width)) if width > 0 else 1


def sturges(count: int) -> int:
    """Return the number of bars for so many values by Sturges: one more than their binary logarithm, rounded up (1926)."""
    return (count - 1).bit_length() + 1 if count > 1 else 1
