"""Show when: which facets take part, given the picks of a query, its listing and the day."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from .kinds import kind_of
from .query import Picks
from .spec import FacetSpec, Rule

Nodes = tuple[str, ...]  # identities of a category's segments


@dataclass(frozen=True, slots=True)
class Occasion:
    """What rules ask for besides picks.

    Attributes:
        listing: the category of the listing, None for all products.
        day: the ordinal of the day.
        nodes: gives the category of a bin by the keys of its facet and its own; empty where there is no such bin.
    """

    listing: Nodes | None = None
    day: int = 1
    nodes: Callable[[str, str], Nodes] = lambda facet, key: ()


def taking_part(facets: Sequence[FacetSpec], picks: Mapping[str, Picks], occasion: Occasion) -> frozenset[str]:
    """Return the keys of the facets whose rules hold; the picks of all others are dropped.

    A facet that is not shown, or not in the rack, has no picks, so ``picked: false`` holds for it. For one of categories the
    category of the listing counts as a pick wherever it is in the rack.
    """
    known = {facet.key: facet for facet in facets}
    decided: dict[str, bool] = {}
    for facet in facets:
        _decide(facet.key, known, picks, decided, occasion)
    return frozenset(key for key, shown in decided.items() if shown)


def _decide(start: str, known: Mapping[str, FacetSpec], picks: Mapping[str, Picks], decided: dict[str, bool], occasion: Occasion) -> None:
    """Decide a facet after all those its rules ask for; the facet file has no circles."""
    waiting = [start]
    while waiting:
        key = waiting[-1]
        show_when = known[key].show_when
        rules = show_when.rules if show_when else ()
        open_ends = [rule.facet for rule in rules if rule.facet in known and rule.facet not in decided]
        if open_ends:
            waiting += open_ends
            continue
        waiting.pop()
        effective = {rule.facet: picks[rule.facet] for rule in rules if rule.facet in picks and decided.get(rule.facet)}
        results = [holds(rule, known.get(rule.facet), effective.get(rule.facet, Picks()), occasion) for rule in rules]
        decided[key] = show_when is None or (all(results) if show_when.every else any(results))


def holds(rule: Rule, other: FacetSpec | None, picks: Picks, occasion: Occasion) -> bool:
    """Tell whether a rule holds.

    Args:
        rule: the rule.
        other: the facet that it asks for, None where the rack has none of that key.
        picks: the effective picks of that facet.
        occasion: the listing and the day.
    """
    if rule.listing:
        return _is_within(occasion.listing, rule.listing)
    if not rule.facet:
        return (rule.first is None or rule.first <= occasion.day) and (rule.last is None or occasion.day <= rule.last)
    is_tree = other is not None and kind_of(other.source.kind).is_tree
    here = occasion.listing if is_tree else None
    if rule.picked is not None:
        return (bool(picks) or here is not None) == rule.picked
    if not is_tree:
        return not rule.bins.isdisjoint(picks.bins)
    at = [occasion.nodes(rule.facet, key) for key in picks.bins] + ([here] if here is not None else [])
    wanted = [nodes for key in rule.bins if (nodes := occasion.nodes(rule.facet, key))]
    return any(_is_within(one, above) for one in at for above in wanted)


def _is_within(nodes: Nodes | None, above: Nodes) -> bool:
    """Tell whether a category is another one or lies below it."""
    return nodes is not None and nodes[: len(above)] == above
