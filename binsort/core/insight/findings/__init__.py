"""Findings: what looks wrong, by weight, each with its mend. A new one is a class in a file here and its test."""

from collections.abc import Callable, Hashable, Iterable

from . import alike, balance, boundaries, catalogue, choices, look, missing, numbers, racks, visited
from .finding import Bench, Finding, Found, Mend
from .visited import Visited, VisitedFinding
from .visits import Visits
from .whole import About, Whole, WholeFinding, WholeFound

FINDERS: tuple[Finding, ...] = tuple(finder for module in (missing, alike, balance, boundaries, choices, look) for finder in module.FINDERS)
WHOLE_FINDERS: tuple[WholeFinding, ...] = tuple(finder for module in (racks, catalogue, numbers) for finder in module.FINDERS)

VISITED_FINDERS: tuple[VisitedFinding, ...] = visited.FINDERS


def findings(bench: Bench) -> list[Found]:
    """Return what is found about a facet on a listing, the weightiest first."""
    found = [one for finder in FINDERS for one in finder.look(bench)]
    return sorted(found, key=lambda one: -one.weight)


def findings_of_whole(whole: Whole, may_look: Callable[[], bool] = lambda: True) -> list[WholeFound]:
    """Return what is found about racks, listings and the catalogue, the weightiest first.

    Args:
        whole: what is looked at.
        may_look: tells whether there is time to look for what takes some; what was found before is there in any case.
    """
    found = [one for finder in WHOLE_FINDERS for one in _found_by(finder, whole, may_look)]
    return sorted(found, key=lambda one: -one.found.weight)


def _found_by(finder: WholeFinding, whole: Whole, may_look: Callable[[], bool]) -> Iterable[WholeFound]:
    """Return what is found of a kind; what was found last where nothing changed that it depends on."""
    key = finder.depends(whole)
    if key is None:
        return finder.look(whole)
    last: dict[Hashable, tuple[WholeFound, ...]] = whole.index.remember(("found of the whole", finder.id), dict)
    if (found := last.get(key)) is None:
        if not may_look():
            return ()
        found = tuple(finder.look(whole))
        last.clear()
        last[key] = found
    return found


def findings_of_visits(ground: Visited) -> list[WholeFound]:
    """Return what visits tell, the weightiest first."""
    found = [one for finder in VISITED_FINDERS for one in finder.look(ground)]
    return sorted(found, key=lambda one: -one.found.weight)


__all__ = [
    "FINDERS", "VISITED_FINDERS", "WHOLE_FINDERS", "About", "Bench", "Finding", "Found", "Mend", "Visited",
    "VisitedFinding", "Visits", "Whole", "WholeFinding", "WholeFound", "findings", "findings_of_visits", "findings_of_whole",
]  # fmt: skip
