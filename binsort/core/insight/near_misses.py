"""Near misses: what comes close to picks that leave nothing, one and the same variant meeting all the rest.

Beside on the scale of a facet ("8 mm has 2, 12 mm has 1"), the number just beyond a range ("for £9.90 more"), and products whose
wanted article is sold out while another one is in stock.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import AVAILABILITY, OFFERED
from binsort.core.facets.query import FreeRange, Picks
from binsort.core.index.bins import Bin
from binsort.core.index.bitmaps import mask_of
from binsort.core.products.availability import OUT
from binsort.core.values.numbers import Number
from binsort.core.values.sizes import size_key


@dataclass(frozen=True, slots=True)
class OnScale:
    """The bins of a facet in their order of size, with what each would give in place of the picks."""

    key: str
    bins: tuple[tuple[Bin, int, bool], ...]  # bin, products, whether it is picked
    nearest: tuple[str, ...]  # keys of those that give something and stand next to the picks, the lower one first


@dataclass(frozen=True, slots=True)
class Beyond:
    """A number just outside of a range, with the range that reaches it."""

    key: str
    picked: FreeRange
    number: Number
    wider: FreeRange
    state: State  # with the wider range

    @property
    def products(self) -> BitMap:
        """The products of the wider range."""
        return self.state.result


@dataclass(frozen=True, slots=True)
class OtherArticle:
    """A product that would be in the result but for its stock, and has an article that can be had in another bin."""

    key: str  # of the facet in which the other article differs
    slot: int
    bins: tuple[Bin, ...]  # that the other article is in


def on_scale(state: State, facet: Facet) -> OnScale | None:
    """Return the bins around the picks of a facet, None where they are in no order of size or none gives anything."""
    picks = state.picks.get(facet.spec.key, Picks())
    here = state.rack.on_listing(facet, state.listing)
    if not picks.bins or picks.ranges or facet.spec.matches_all or not _is_scale(here.bins):
        return None
    counted = [(bin, answer.count, answer.picked) for bin, answer in zip(here.bins, state.facet(facet).bins, strict=True)]
    counted = sorted(counted, key=lambda item: _size(item[0]))
    places = [place for place, item in enumerate(counted) if item[2]]
    below = next((bin for bin, count, _ in reversed(counted[: places[0]]) if count), None)
    above = next((bin for bin, count, _ in counted[places[-1] + 1 :] if count), None)
    nearest = tuple(bin.key for bin in (below, above) if bin is not None)
    return OnScale(facet.spec.key, tuple(counted), nearest) if nearest else None


def _is_scale(bins: tuple[Bin, ...]) -> bool:
    return len(bins) > 1 and all(not bin.nodes and _size(bin) is not None for bin in bins)


def _size(bin: Bin) -> tuple[int, Number, Number]:
    if bin.range is not None:
        low, high = bin.range.low, bin.range.high
        return 1, -(10**30) if low is None else low, 10**30 if high is None else high
    if bin.least is not None:
        return 1, bin.least, bin.least
    key = size_key(bin.label)
    return (key[0], key[1], key[1]) if key else None  # type: ignore[return-value]


def beyond(state: State, facet: Facet) -> list[Beyond]:
    """Return the numbers just below and just above the free range picked in a facet, all else as picked."""
    picks = state.picks.get(facet.spec.key, Picks())
    if len(picks.ranges) != 1 or picks.bins:
        return []
    picked, ranks = picks.ranges[0], _ranks_left(state, facet)
    start, stop = facet.column.ranks(picked.low, picked.high, inclusive=True)
    found = []
    for rank in (ranks[ranks < start][-1:], ranks[ranks >= stop][:1]):
        if not len(rank):
            continue
        number = facet.column.numbers[int(rank[0])]
        is_above = int(rank[0]) >= stop
        wider = FreeRange(picked.low, number) if is_above else FreeRange(number, picked.high)
        widened = state.with_picks({**state.picks, facet.spec.key: Picks(ranges=(wider,))})
        found.append(Beyond(facet.spec.key, picked, number, wider, widened))
    return found


def _ranks_left(state: State, facet: Facet) -> np.ndarray[tuple[int], np.dtype[np.intp]]:
    """Return the ranks of the numbers that are left without a facet's own picks, rising."""
    rest, column = state.left.without(facet.spec.key), facet.column
    wanted = rest.variants if facet.on_variants else rest.products
    count = len(column.numbers)
    here = mask_of(wanted, column.size)[column.owners[: column.offsets[count]]]
    return np.unique(column.codes(count)[here])


def other_articles(state: State, *, most: int = 3) -> Iterator[OtherArticle]:
    """Yield products that only their stock keeps out, each with the bins in which an article of it can be had.

    Args:
        state: whose result is empty.
        most: products that are looked for.
    """
    asked = [facet for facet in state.rack.facets if facet.spec.source.kind in AVAILABILITY and facet.spec.key in state.picks]
    others = [facet for facet in state.rack.facets if _varies(state, facet)]
    if not asked or not others or any(OUT in state.picks[facet.spec.key].bins for facet in asked):
        return
    keys = {facet.spec.key for facet in asked}
    sold_out = state.without_picks(keys).result
    given: set[int] = set()
    for facet in others:
        without = state.without_picks((facet.spec.key,))
        for slot in sold_out & without.result:
            if slot not in given and len(given) < most:
                given.add(slot)
                yield OtherArticle(facet.spec.key, slot, _bins_of(without, facet, slot))


def _varies(state: State, facet: Facet) -> bool:
    picks = state.picks.get(facet.spec.key)
    return bool(picks and picks.bins) and facet.on_variants and facet.spec.source.kind not in OFFERED


def _bins_of(state: State, facet: Facet, slot: int) -> tuple[Bin, ...]:
    """Return the bins of a facet that the matching variants of a product are in."""
    index = state.rack.index
    variants = BitMap(range(int(index.starts[slot]), int(index.starts[slot + 1]))) & state.left.variants
    here = state.rack.on_listing(facet, state.listing)
    return tuple(bin for bin in here.bins if not variants.isdisjoint(bin.members))
