"""Vessels: what the owner sees of a facet while trying picks: mass, level, and what a pick would add."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.query import Picks
from binsort.core.index.bins import Bin
from binsort.core.index.bitmaps import mask_of, union
from binsort.core.values.numbers import Number, approximate

from .axis import Axis, chosen_scale


@dataclass(frozen=True, slots=True)
class Vessel:
    """One bin: products on the listing, those still in the result, those that picking it as well would add."""

    bin: Bin
    total: int
    inside: int
    adds: int
    picked: bool
    sibling: bool  # of a pick


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
class Shelf:
    """A facet as the owner sees it."""

    vessels: tuple[Vessel, ...]
    unbinned: int
    unbinned_inside: int
    histogram: Histogram | None


def shelf(state: State, facet: Facet) -> Shelf:
    """Return a facet's vessels under the picks of a state, in the shopper's order."""
    here = state.rack.on_listing(facet, state.listing)
    picks = state.picks.get(facet.spec.key, Picks())
    answer = state.facet(facet)
    vessels = [_vessel(state, facet, picks, bin, counted.count) for bin, counted in zip(here.bins, answer.bins, strict=True)]
    binned = unbinned_products(state, facet)
    return Shelf(
        vessels=tuple(vessels),
        unbinned=len(binned),
        unbinned_inside=len(binned & state.result),
        histogram=histogram(state, facet, state.products) if facet.spec.ranges else None,
    )


def unbinned_products(state: State, facet: Facet) -> BitMap:
    """Return the listing's products that are in no bin of a facet on this listing."""
    if facet.spec.free and not facet.spec.ranges:
        return state.products - facet.with_number
    return state.products - union(facet.products(bin) for bin in state.rack.on_listing(facet, state.listing).bins)


def _vessel(state: State, facet: Facet, picks: Picks, bin: Bin, count: int) -> Vessel:
    total = state.products.intersection_cardinality(facet.products(bin))
    picked = bin.key in picks.bins
    sibling = bool(picks) and not picked and not facet.spec.matches_all
    if not sibling:
        return Vessel(bin, total, count, 0, picked, sibling)
    inside = state.result.intersection_cardinality(facet.products(bin))
    if facet.spec.pick == "one":
        return Vessel(bin, total, inside, max(0, count - inside), picked, sibling)
    widened = state.result_with(facet, [*facet.picked_members(picks), bin.members])
    return Vessel(bin, total, inside, len(widened) - len(state.result), picked, sibling)


def histogram(state: State, facet: Facet, products: BitMap, *, bars: int = 54) -> Histogram | None:
    """Return how the numbers of a facet spread over some products, None where they have no numbers.

    Each bar counts products: all of ``products``, those in the result, and those that would be but for the facet's own picks.
    """
    column, index = facet.column, state.rack.index
    owners, codes = column.owners[: column.offsets[len(column.numbers)]], column.codes(len(column.numbers))
    having = index.product_of[owners] if facet.on_variants else owners
    here = mask_of(products, index.size)[having]
    present = np.zeros(len(column.numbers), dtype=bool)
    present[codes[here]] = True
    ranks = np.flatnonzero(present)
    if not len(ranks):
        return None
    axis = _exact_axis([approximate(column.numbers[rank]) for rank in ranks])
    place = np.zeros(len(column.numbers), dtype=np.int64)
    place[ranks] = [min(int(axis.share(approximate(column.numbers[rank])) * bars), bars - 1) for rank in ranks]
    standing = np.unique(having[here].astype(np.int64) * bars + place[codes[here]])  # which product in which bar, once
    sets = (products, state.result, state.left.without(facet.spec.key).products)
    totals, inside, without = (_in_bars(standing, counted_products, index.size, bars) for counted_products in sets)
    counted_products = [
        Bar(int(step), bars, int(totals[step]), int(inside[step]), int(without[step] - inside[step])) for step in np.unique(place[ranks])
    ]
    cuts = sorted({end for item in facet.spec.ranges for end in (item.low, item.high) if end is not None})
    low, high = column.numbers[int(ranks[0])], column.numbers[int(ranks[-1])]
    return Histogram(tuple(counted_products), tuple((cut, axis.share(approximate(cut))) for cut in cuts if low <= cut <= high), axis)


def _exact_axis(values: Sequence[float]) -> Axis:
    """Return an axis that ends where the values do."""
    return Axis(values[0], values[-1], chosen_scale(values, can_log=values[0] > 0))


def _in_bars(standing: NDArray[np.int64], products: BitMap, size: int, bars: int) -> NDArray[np.intp]:
    """Count how many of some products stand in each bar."""
    product, bar = np.divmod(standing, bars)
    return np.bincount(bar[mask_of(products, size)[product]], minlength=bars)


def drop_one(state: State) -> list[tuple[str, str, int]]:
    """For an empty result: what each single pick, dropped, would give; facet key, pick as written, products. Best first."""
    ways = []
    for facet in state.rack.facets:
        picks = state.picks.get(facet.spec.key, Picks())
        written = [*picks.bins, *(_range_text(item.texts(facet.spec.source.kind)) for item in picks.ranges)]
        members = facet.picked_members(picks)
        for place, text in enumerate(written):
            total = len(state.result_with(facet, members[:place] + members[place + 1 :]))
            ways.append((facet.spec.key, text, total))
    return sorted((item for item in ways if item[2]), key=lambda item: -item[2])


def _range_text(ends: tuple[str | None, str | None]) -> str:
    return f"{ends[0] or ''}..{ends[1] or ''}"
