"""Small vessels: a facet before and afterwards, the compartments that products leave or come to in mass."""

from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.index.bins import Bin
from binsort.core.insight.compared import Side, compared, side_of

WIDTH = 148  # pixels: how wide one is
_FIGURE, _LETTER, _MARGIN = 7, 5.9, 8  # pixels: of a figure, of a letter on average, and what stays free beside them

Name = Callable[[Bin], str]


@dataclass(frozen=True, slots=True)
class Part:
    """A compartment of a small vessel."""

    x: float
    width: float
    kind: str  # touched, same, none
    count: str
    name: str = ""  # below it, where there is room
    at: float = 0.0  # where the name begins


@dataclass(frozen=True, slots=True)
class Drawn:
    """How a vessel is drawn: how wide, and what the bins are called below it; without names only touched bins show their count."""

    width: int = WIDTH
    name: Name | None = None


def before_and_after(before: State, after: State, how: Drawn = Drawn()) -> tuple[tuple[Part, ...], tuple[Part, ...]]:
    """Return the one facet of two states as small vessels; nothing where no product moves, and nothing on a side where it is not there."""
    facets = [next(iter(state.rack.facets), None) for state in (before, after)]
    found = compared(side_of(before, facets[0]), side_of(after, facets[1]))
    if not found.moved and all(facets):
        return (), ()
    touched = found.touched
    return tuple(_parts(found.before, touched[0], how)), tuple(_parts(found.after, touched[1], how))


def as_it_is(state: State, bins: Collection[str], how: Drawn, facet: Facet | None = None) -> tuple[Part, ...]:
    """Return a facet of a state as a small vessel with some bins in mass; without any, those in no bin are meant.

    Args:
        state: the listing.
        bins: keys of those in mass.
        how: it is drawn.
        facet: which; the only one where nothing is said.
    """
    side = side_of(state, facet or next(iter(state.rack.facets)))
    return tuple(_parts(side, frozenset(place for place, bin in enumerate(side.bins) if bin.key in bins), how))


def _parts(side: Side, touched: frozenset[int], how: Drawn) -> Iterator[Part]:
    """Yield the compartments of a small vessel, those touched in mass."""
    counts, unbinned = [len(members) for members in side.members], len(side.unbinned)
    total, x, free = (sum(counts) + unbinned) or 1, 0.0, 0.0
    for place, count in enumerate(counts):
        width, is_touched = how.width * count / total, place in touched
        has_room = (is_touched or how.name is not None) and width >= _MARGIN + _FIGURE * len(f"{count:,}")
        name = how.name(side.bins[place]) if how.name and is_touched else ""
        name, at = _placed(name, x, free, how.width)
        free = at + _LETTER * len(name) + _MARGIN if name else free
        yield Part(round(x, 1), round(width, 1), "touched" if is_touched else "same", f"{count:,}" if has_room else "", name, round(at, 1))
        x += width
    if unbinned:
        width = how.width * unbinned / total
        has_room = how.name is not None and width >= _MARGIN + _FIGURE * len(f"{unbinned:,}")
        yield Part(round(x, 1), round(width, 1), "none", f"{unbinned:,}" if has_room else "")


def _placed(name: str, x: float, free: float, width: int) -> tuple[str, float]:
    """Return a name as long as there is room for it, and where it begins: below its compartment, or as far left as it has to."""
    most = int((width - free) / _LETTER)
    if most < 4 or not name:
        return "", x
    name = name if len(name) <= most else f"{name[: most - 1]}…"
    return name, max(free, min(x, width - _LETTER * len(name)))
