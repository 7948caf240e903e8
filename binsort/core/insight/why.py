"""Why a product is in a result, or is not: its way through the picks, articles apart, what keeps it out, who else fails by one pick."""

from collections.abc import Mapping
from dataclasses import dataclass

from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.query import Picks


@dataclass(frozen=True, slots=True)
class Passed:
    """A facet with picks, and what of the product meets them."""

    key: str
    on_variants: bool
    articles: tuple[bool, ...]  # for each article of the product: it meets these picks; of a facet on products all alike

    @property
    def is_met(self) -> bool:
        """Whether any article meets them."""
        return any(self.articles)


@dataclass(frozen=True, slots=True)
class Thread:
    """A product's way through the picks of a query."""

    slot: int
    articles: range  # numbers of its variants
    is_listed: bool  # the listing has it
    is_in: bool
    passed: tuple[Passed, ...]  # the picked facets, in the order of the rack: those on products first
    alone: tuple[str, ...]  # facets each of which alone keeps it out: without its picks it would be there

    @property
    def through(self) -> tuple[bool, ...]:
        """For each article: it meets all picks."""
        return tuple(all(met) for met in zip(*(one.articles for one in self.passed), strict=True)) if self.passed else ()

    @property
    def is_split(self) -> bool:
        """Whether each pick is met by some article, and all of them by none: red and medium, but no red in medium."""
        return self.is_listed and not self.is_in and all(one.is_met for one in self.passed)


def why(state: State, slot: int) -> Thread:
    """Return the way of a product, by its slot, through the picks of a state."""
    index = state.rack.index
    articles = range(int(index.starts[slot]), int(index.starts[slot + 1]))
    picked = [facet for facet in state.rack.facets if facet.spec.key in state.picks]
    passed = [_passed(facet, state.picks[facet.spec.key], slot, articles) for facet in picked]
    is_listed, is_in = slot in state.products, slot in state.result
    alone = tuple(facet.spec.key for facet in picked if is_listed and not is_in and slot in state.without_picks((facet.spec.key,)).result)
    return Thread(slot, articles, is_listed, is_in, tuple(sorted(passed, key=lambda one: one.on_variants)), alone)


def _passed(facet: Facet, picks: Picks, slot: int, articles: range) -> Passed:
    """Return which articles of a product meet the picks of a facet."""
    parts = facet.picked_members(picks)
    if not facet.on_variants:
        met = [slot in members for members in parts]
        holds = all(met) if facet.spec.matches_all else any(met)
        return Passed(facet.spec.key, False, (holds,) * len(articles))
    if facet.spec.matches_all:  # each pick by any article: the product has all of them or not
        holds = all(any(article in members for article in articles) for members in parts)
        return Passed(facet.spec.key, True, tuple(holds and any(article in members for members in parts) for article in articles))
    return Passed(facet.spec.key, True, tuple(any(article in members for members in parts) for article in articles))


def failing_by_one(state: State) -> Mapping[str, BitMap]:
    """Return the products of the listing that fail by the picks of one facet alone, by the facet, in the order of the rack."""
    keys = [facet.spec.key for facet in state.rack.facets if facet.spec.key in state.picks]
    return {key: state.without_picks((key,)).result - state.result for key in keys}
