"""Ways out of an empty result: which picks to leave out together, and which products come back.

Everything is found by asking the whole query anew without those picks, so that rules between facets hold in it, too.
"""

from collections.abc import Container, Iterable
from dataclasses import dataclass
from itertools import combinations

from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.facets.query import FreeRange

_MOST_TRIED = 120  # sets of facets that are looked at


@dataclass(frozen=True, slots=True)
class WayOut:
    """Picks to leave out, and what is asked without them."""

    keys: tuple[str, ...]  # of the facets whose picks go, in the order of the rack
    pick: str | FreeRange | None  # of an all-of facet with several: the one that goes; None: all of the facets' picks
    state: State  # without them

    @property
    def products(self) -> BitMap:
        """The products that come back."""
        return self.state.result

    @property
    def total(self) -> int:
        """How many products come back."""
        return len(self.products)


def ways_out(state: State, staying: Container[str] = ()) -> list[WayOut]:
    """Return what to leave out of an empty result, most products first; ties in the order of the rack; never facets that are staying.

    Single facets, and single picks of facets that want all of theirs; where none of these is enough, pairs of facets; then
    the smallest sets that are. Empty where the listing is, or nothing is picked.
    """
    picked = [spec.key for spec in state.rack.specs if spec.key in state.picks and spec.key not in staying]
    single = [*_single_picks(state, picked), *_sets(state, ((key,) for key in picked))]
    if single or not picked:
        return sorted(single, key=lambda way: -way.total)
    tried = 0
    for size in range(2, len(picked) + 1):
        sets = list(combinations(picked, size))
        if tried + len(sets) > _MOST_TRIED and size < len(picked):
            continue
        tried += len(sets)
        if found := _sets(state, sets):
            return sorted(found, key=lambda way: -way.total)
    return []


def _sets(state: State, sets: Iterable[tuple[str, ...]]) -> list[WayOut]:
    """Return those of some sets of facets that are enough."""
    ways = []
    for keys in sets:
        without = state.without_picks(keys)
        if without.result:
            ways.append(WayOut(keys, None, without))
    return ways


def _single_picks(state: State, picked: Iterable[str]) -> list[WayOut]:
    """Return those single picks of all-of facets with several that are enough."""
    ways = []
    for key in picked:
        picks = state.picks[key].each
        if not state.rack.by_key[key].spec.matches_all or len(picks) < 2:
            continue
        for pick in picks:
            without = state.with_picks({**state.picks, key: state.picks[key].without(pick)})
            if without.result:
                ways.append(WayOut((key,), pick, without))
    return ways


def coming_back(state: State, key: str) -> int:
    """Return how many products more there are without the picks of one facet."""
    ruling = any(rule.facet == key for spec in state.rack.specs if spec.show_when for rule in spec.show_when.rules)
    # where others wait for it they may come and go with it
    left = state.without_picks((key,)).result if ruling else state.left.without(key).products
    return len(left) - len(state.result)
