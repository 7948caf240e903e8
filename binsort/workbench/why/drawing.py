"""Drawing the way of a product: shelves below each other, a thread through its bins, parting into its articles."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.index.bins import Bin
from binsort.core.insight.why import Passed, Thread

WIDTH, PITCH, HIGH = 640, 104, 30  # pixels: of a shelf, from one to the next, of its compartments
_TOP, _PART, _LEAST, _MOST = 26, 58, 34, 11  # above the first; where the thread parts; of a compartment; compartments
_ROOT = 14  # of a thread that parts above the first shelf, before it does
ARTICLES = 4  # threads that are drawn; the rest is counted


@dataclass(frozen=True, slots=True)
class Compartment:
    """A bin on a shelf."""

    x: float
    width: float
    bin: Bin | None  # None: the products in no bin
    count: int
    picked: bool


@dataclass(frozen=True, slots=True)
class Knot:
    """Where a thread meets a shelf: it passes there, or not."""

    x: float
    y: float
    passes: bool


@dataclass(frozen=True, slots=True)
class Strand:
    """The way of an article, or of the product as long as its articles go together."""

    path: str
    is_broken: bool  # it failed before
    is_thick: bool


@dataclass(frozen=True, slots=True)
class Drawn:
    """The whole drawing."""

    height: int
    tops: tuple[int, ...]  # of the shelves
    shelves: tuple[tuple[Compartment, ...], ...]
    strands: tuple[Strand, ...]
    knots: tuple[Knot, ...]
    part_y: int  # where the articles part; 0 where they do not
    part_x: tuple[float, ...]


def drawn(state: State, thread: Thread, articles: Sequence[int]) -> Drawn:
    """Draw the picked facets of a thread.

    Args:
        state: the listing and its picks.
        thread: the product's way.
        articles: places of those among its articles that are drawn.
    """
    facets = [state.rack.by_key[one.key] for one in thread.passed]
    together = sum(not one.on_variants for one in thread.passed)
    parts = together < len(thread.passed) and len(thread.articles) > 1
    above = _TOP if together or not parts else _TOP + 2 * _ROOT
    tops = [above + place * PITCH + (_PART if parts and place >= together else 0) for place in range(len(facets))]
    shelves = [tuple(_compartments(state, facet)) for facet in facets]
    part_y = tops[together] - _PART - 14 if parts else 0
    part_x = tuple(WIDTH * (place + 0.5) / len(articles) for place in range(len(articles))) if parts else ()
    ways = [_way(shelves, thread, facets, article) for article in articles] if articles else []
    knots, strands = (
        list(_knots(thread.passed, tops, ways, articles, together)),
        list(_strands(thread.passed, tops, ways, (part_y, part_x), articles)),
    )
    return Drawn(tops[-1] + PITCH - 20 if tops else 0, tuple(tops), tuple(shelves), tuple(strands), tuple(knots), part_y, part_x)


def _compartments(state: State, facet: Facet) -> Iterator[Compartment]:
    here = state.rack.on_listing(facet, state.listing)
    picks = state.picks[facet.spec.key].bins
    held = [(bin, count) for bin, count in zip(here.bins, here.counts, strict=True) if count or bin.key in picks]
    shown = [pair for pair in held if pair[0].key in picks][:_MOST]
    shown += [pair for pair in held if pair not in shown][: _MOST - len(shown)]
    shown.sort(key=held.index)
    parts: list[tuple[Bin | None, int]] = [*shown, *([(None, here.unbinned)] if here.unbinned else [])]
    spare = WIDTH - _LEAST * len(parts)
    whole, x = sum(count for _bin, count in parts) or 1, 0.0
    for bin, count in parts:
        width = _LEAST + spare * count / whole
        yield Compartment(round(x, 1), round(width, 1), bin, count, bin is not None and bin.key in picks)
        x += width


def _way(shelves: Sequence[tuple[Compartment, ...]], thread: Thread, facets: Sequence[Facet], article: int) -> list[float]:
    """Return where an article stands on each shelf: in a bin that is picked, else in any of its bins, else behind them."""
    xs = []
    for compartments, facet in zip(shelves, facets, strict=True):
        owner = thread.articles[article] if facet.on_variants else thread.slot
        mine = [one for one in compartments if one.bin is not None and owner in one.bin.members]
        there = next((one for one in mine if one.picked), mine[0] if mine else compartments[-1] if compartments else None)
        xs.append(there.x + there.width * (article % 5 + 1) / 6 if there else WIDTH / 2)
    return xs


def _knots(
    passed: Sequence[Passed], tops: Sequence[int], ways: Sequence[Sequence[float]], articles: Sequence[int], together: int
) -> Iterator[Knot]:
    for place, one in enumerate(passed):
        y = tops[place] + HIGH / 2
        if place < together and ways:
            yield Knot(ways[0][place], y, one.articles[0])
            continue
        for way, article in zip(ways, articles, strict=True):
            yield Knot(way[place], y, one.articles[article])


def _strands(
    passed: Sequence[Passed],
    tops: Sequence[int],
    ways: Sequence[Sequence[float]],
    part: tuple[int, tuple[float, ...]],
    articles: Sequence[int],
) -> Iterator[Strand]:
    part_y, part_x = part
    root = (WIDTH / 2, _ROOT * 1.0) if part_y and passed[0].on_variants else None
    if root:
        yield Strand(_curve((root[0], 0.0), root), is_broken=False, is_thick=True)
    for number, (way, article) in enumerate(zip(ways, articles, strict=True)):
        at, broken = root or (ways[0][0], 0.0), False
        for place, one in enumerate(passed):
            goes_together = not one.on_variants
            x = ways[0][place] if goes_together else way[place]
            y = tops[place] + HIGH / 2
            if part_y and not goes_together and at[1] < part_y:
                middle = (part_x[number], part_y + 12.0)
                yield Strand(_curve(at, middle), broken, False)
                at = middle
            if number == 0 or not goes_together:
                yield Strand(_curve(at if place or part_y else (x, 0.0), (x, y)), broken, goes_together)
            at = (x, y)
            broken = broken or not one.articles[article]
        if number == 0 or part_y:
            yield Strand(_curve(at, (at[0], at[1] + 50)), broken, False)


def _curve(start: tuple[float, float], end: tuple[float, float]) -> str:
    middle = (start[1] + end[1]) / 2
    return f"M{start[0]:.1f} {start[1]:.1f}C{start[0]:.1f} {middle:.1f} {end[0]:.1f} {middle:.1f} {end[0]:.1f} {end[1]:.1f}"
