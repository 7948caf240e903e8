"""Nearest: of the products that fail by the picks of one facet, those that come nearest to what is picked."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import islice

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.query import Picks
from binsort.core.index.bitmaps import numbers
from binsort.core.values.numbers import Number, approximate

Ends = tuple[Number | None, Number | None]


@dataclass(frozen=True, slots=True)
class Near:
    """A product that fails by the picks of one facet, and how near it comes."""

    slot: int
    key: str
    distance: float | None = None  # from what is picked, in parts of what the catalogue spans; None: there is no scale, or no number
    number: Number | None = None  # of the article that comes nearest
    edge: Number | None = None  # of what is picked


def nearest(state: State, failing: Mapping[str, BitMap], most: int) -> list[Near]:
    """Return the products that fail by one pick, the nearest first; those without a distance follow, in the order of the catalogue.

    Args:
        state: the query.
        failing: what :func:`binsort.core.insight.why.failing_by_one` found of it, or some facets of that.
        most: how many are wanted.
    """
    found = [one for key, slots in failing.items() for one in islice(_by_distance(state, state.rack.by_key[key], slots), most)]
    far, once = float("inf"), dict[int, Near]()
    for one in sorted(found, key=lambda one: (far if one.distance is None else one.distance, one.slot)):
        once.setdefault(one.slot, one)  # it may fail by this pick alone with one article, and by that with another
    return list(once.values())[:most]


def _by_distance(state: State, facet: Facet, slots: BitMap) -> Iterator[Near]:
    """Yield the products that fail by a facet's picks, the nearest first."""
    key, column, seen = facet.spec.key, facet.column, set[int]()
    ends = _picked_ends(facet, state.picks[key])
    owners, codes = _numbers_of(state, facet, slots) if ends else (np.zeros(0, dtype=np.int64),) * 2
    sizes = np.array([approximate(number) for number in column.numbers])
    far, which = _gaps(sizes[codes] if owners.size else sizes[:0], ends)
    products = state.rack.index.product_of[owners] if facet.on_variants else owners
    for place in np.lexsort((products, far)).tolist():
        slot = int(products[place])
        if slot not in seen:
            seen.add(slot)
            number, (low, high) = column.numbers[codes[place]], ends[which[place]]
            edge = low if low is not None and number < low else high
            yield Near(slot, key, float(far[place]) / max(float(sizes[-1] - sizes[0]), 1e-12), number, edge)
    yield from (Near(slot, key) for slot in slots if slot not in seen)


def _picked_ends(facet: Facet, picks: Picks) -> list[Ends]:
    """Return the ranges that are picked in a facet, a bin of one number as a range of that; nothing where a picked bin has no number."""
    ends: list[Ends] = [(one.low, one.high) for one in picks.ranges]
    for bin in (facet.by_key[key] for key in picks.bins if key in facet.by_key):
        if bin.range is None and bin.least is None:
            return []
        ends.append((bin.range.low, bin.range.high) if bin.range else (bin.least, bin.least))
    return ends


def _numbers_of(state: State, facet: Facet, slots: BitMap) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return the owners with a number among some products, and which number; of articles those that meet the other picks."""
    column, count = facet.column, len(facet.column.numbers)
    wanted = slots
    if facet.on_variants:
        wanted = state.rack.index.variants_of(slots) & state.without_picks((facet.spec.key,)).left.variants
    here = np.isin(column.owners[: column.offsets[count]], numbers(wanted))
    return column.owners[: column.offsets[count]][here].astype(np.int64), column.codes(count)[here]


def _gaps(sizes: NDArray[np.float64], ends: list[Ends]) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    """Return how far each number lies from the nearest of some ranges, 0 inside, and which one that is."""
    if not sizes.size:
        return sizes, np.zeros(0, dtype=np.intp)
    below = np.array([-np.inf if low is None else approximate(low) for low, _high in ends])
    above = np.array([np.inf if high is None else approximate(high) for _low, high in ends])
    gaps = np.maximum(np.maximum(below[None, :] - sizes[:, None], sizes[:, None] - above[None, :]), 0)
    return gaps.min(axis=1), gaps.argmin(axis=1)
