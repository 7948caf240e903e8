"""Histograms: how the numbers of a facet spread over some products, in all and under picks."""

from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.index.bitmaps import mask_of, numbers, repeated_ranges
from binsort.core.index.catalogue_index import Index
from binsort.core.values.numbers import Number, approximate

from .axis import EVEN, Axis, chosen_scale

_FEW = 4  # one product in so many is few: its pairs are looked up, not looked for


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar of a histogram: the ``step``-th of so many ``steps`` of the axis."""

    step: int
    steps: int
    total: int
    inside: int
    adds: int


@dataclass(frozen=True, slots=True)
class Histogram:
    """The numbers of a facet over a listing, with its cuts as shares of the axis."""

    bars: tuple[Bar, ...]
    cuts: tuple[tuple[Number, float], ...]
    axis: Axis


@dataclass(frozen=True, slots=True)
class _Standing:
    """Which product has which numbers, each pair once, by product, then rising. Worked out once of a column."""

    values: NDArray[np.float64]  # of each rank
    products: NDArray[np.intp]
    ranks: NDArray[np.intp]
    before: NDArray[np.intp]  # the product's next smaller rank, -1 where there is none
    ends: NDArray[np.intp]  # of each product, behind its last pair

    @classmethod
    def of(cls, facet: Facet, index: Index) -> "_Standing":
        column, count = facet.column, len(facet.column.numbers)
        owners = column.owners[: column.offsets[count]]
        pairs = (index.product_of[owners] if facet.on_variants else owners).astype(np.intp) * count + column.codes(count)
        pairs.sort()
        products, ranks = np.divmod(pairs[np.diff(pairs, prepend=-1) > 0], max(count, 1))
        before = np.full(len(ranks), -1, dtype=np.intp)
        before[1:][products[1:] == products[:-1]] = ranks[:-1][products[1:] == products[:-1]]
        ends = np.cumsum(np.bincount(products, minlength=index.size)).astype(np.intp)
        return cls(np.array([approximate(number) for number in column.numbers]), products, ranks, before, ends)

    def among(self, members: BitMap) -> "_Standing":
        """Return what some products have."""
        size = len(self.ends)
        here: NDArray[np.bool_] | NDArray[np.intp]
        if len(members) * _FEW < size:
            some = numbers(members)
            ends = self.ends[some]
            starts = np.where(some > 0, self.ends[some.astype(np.intp) - 1], 0)
            here = repeated_ranges(starts, ends - starts).astype(np.intp)
        else:
            here = mask_of(members, size)[self.products]
        return replace(self, products=self.products[here], ranks=self.ranks[here], before=self.before[here])

    def in_bars(self, bar_of: NDArray[np.intp]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Return which product stands in which bar, once even if it has several numbers in it; of each rank its bar is given."""
        bar = bar_of[self.ranks]
        first = np.append(bar_of, -1)[self.before] != bar
        return self.products[first], bar[first]


def histogram(state: State, facet: Facet, products: BitMap, *, bars: int = 54) -> Histogram | None:
    """Return how the numbers of a facet spread over some products, None where they have no numbers.

    Each bar counts products: all of ``products``, those in the result, and those that would be but for the facet's own picks.
    """
    column, index = facet.column, state.rack.index
    standing = index.remember(("standing", facet.spec.source.column_key), partial(_Standing.of, facet, index))
    standing = standing.among(products)
    present = np.zeros(len(column.numbers), dtype=bool)
    present[standing.ranks] = True
    ranks = np.flatnonzero(present)
    if not len(ranks):
        return None
    values = standing.values[ranks]
    axis = _exact_axis(values, facet.spec.ends_at)
    bar_of = np.zeros(len(column.numbers), dtype=np.intp)
    bar_of[ranks] = np.minimum((axis.shares(values) * bars).astype(np.intp), bars - 1)
    owners, bar = standing.in_bars(bar_of)
    counted: list[list[int]] = []
    for members in (state.result, state.left.without(facet.spec.key).products):
        there = bar if members == products else bar[mask_of(members, index.size)[owners]]
        counted.append(np.bincount(there, minlength=bars).tolist())
    totals, (inside, without) = np.bincount(bar, minlength=bars).tolist(), counted
    drawn = tuple(Bar(step, bars, totals[step], inside[step], without[step] - inside[step]) for step in range(bars) if totals[step])
    cuts = sorted({end for item in facet.spec.ranges for end in (item.low, item.high) if end is not None})
    return Histogram(drawn, tuple((cut, axis.share(approximate(cut))) for cut in cuts if axis.low <= approximate(cut) <= axis.high), axis)


def _exact_axis(values: NDArray[np.float64], fixed: tuple[Number | None, Number | None]) -> Axis:
    """Return an axis that ends where the values do, or at fixed ends: what lies beyond these stands in the outermost bars."""
    low, high = (float(own) if end is None else approximate(end) for own, end in zip((values[0], values[-1]), fixed, strict=True))
    high = max(low, high)
    scale = chosen_scale(np.clip(values, low, high), can_log=low > 0) if low < high else EVEN
    return Axis(low, high, scale)
