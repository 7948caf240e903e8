"""Small vessels: a facet before and afterwards, the compartments that products leave or come to in mass."""

from collections.abc import Iterator
from dataclasses import dataclass

from binsort.core.answers.answer import State
from binsort.core.insight.compared import Side, compared, side_of

_VESSEL = 148  # pixels: how wide one is


@dataclass(frozen=True, slots=True)
class Part:
    """A compartment of a small vessel."""

    x: float
    width: float
    kind: str  # touched, same, none
    count: str


def before_and_after(before: State, after: State) -> tuple[tuple[Part, ...], tuple[Part, ...]]:
    """Return the one facet of two states as small vessels; nothing where no product moves, and nothing on a side where it is not there."""
    facets = [next(iter(state.rack.facets), None) for state in (before, after)]
    found = compared(side_of(before, facets[0]), side_of(after, facets[1]))
    if not found.moved and all(facets):
        return (), ()
    touched = found.touched
    return tuple(_parts(found.before, touched[0])), tuple(_parts(found.after, touched[1]))


def _parts(side: Side, touched: frozenset[int]) -> Iterator[Part]:
    """Yield the compartments of a small vessel, those touched in mass."""
    counts, unbinned = [len(members) for members in side.members], len(side.unbinned)
    total, x = (sum(counts) + unbinned) or 1, 0.0
    for place, count in enumerate(counts):
        width = _VESSEL * count / total
        figures = f"{count:,}" if place in touched and width >= 8 + 7 * len(f"{count:,}") else ""
        yield Part(round(x, 1), round(width, 1), "touched" if place in touched else "same", figures)
        x += width
    if unbinned:
        yield Part(round(x, 1), round(_VESSEL * unbinned / total, 1), "none", "")
