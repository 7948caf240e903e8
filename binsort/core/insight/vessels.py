"""Vessels: what the owner sees of a facet while trying picks: mass, level, and what a pick would add."""

from dataclasses import dataclass

from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.query import Picks
from binsort.core.index.bins import Bin
from binsort.core.index.bitmaps import union

from .histograms import Histogram, histogram


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
