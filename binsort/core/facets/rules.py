"""Show when: which facets take part, given the picks of a query."""

from collections.abc import Mapping, Sequence

from .query import Picks
from .spec import FacetSpec, Rule


def taking_part(facets: Sequence[FacetSpec], picks: Mapping[str, Picks]) -> frozenset[str]:
    """Return the keys of the facets whose rules hold; the picks of all others are dropped.

    A facet that is not shown, or not in the rack, has no picks, so ``picked: false`` holds for it.
    """
    known = {facet.key: facet for facet in facets}
    decided: dict[str, bool] = {}
    for facet in facets:
        _decide(facet.key, known, picks, decided)
    return frozenset(key for key, shown in decided.items() if shown)


def _decide(start: str, known: Mapping[str, FacetSpec], picks: Mapping[str, Picks], decided: dict[str, bool]) -> None:
    """Decide a facet after all those its rules ask for; the facet file has no circles."""
    waiting = [start]
    while waiting:
        key = waiting[-1]
        rules = known[key].show_when.rules if known[key].show_when else ()  # type: ignore[union-attr]
        open_ends = [rule.facet for rule in rules if rule.facet in known and rule.facet not in decided]
        if open_ends:
            waiting += open_ends
            continue
        waiting.pop()
        decided[key] = _holds(known[key], picks, decided)


def _holds(facet: FacetSpec, picks: Mapping[str, Picks], decided: Mapping[str, bool]) -> bool:
    if facet.show_when is None:
        return True
    results = [_rule_holds(rule, picks.get(rule.facet, Picks()) if decided.get(rule.facet) else Picks()) for rule in facet.show_when.rules]
    return all(results) if facet.show_when.every else any(results)


def _rule_holds(rule: Rule, picks: Picks) -> bool:
    return bool(picks) == rule.picked if rule.picked is not None else not rule.bins.isdisjoint(picks.bins)
