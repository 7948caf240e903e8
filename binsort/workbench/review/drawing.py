"""Old and new vessels with ribbons where products moved: where everything stands, in pixels."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from django.utils.translation import gettext as _

from binsort.core.index.bins import Bin
from binsort.core.insight.compared import Compared
from binsort.racks.shown_facet import Swatch
from binsort.workbench.shelf.text_width import figures_width, text_width

WIDTH = 644
TOP, HEIGHT, GAP = 18, 34, 60  # of the upper vessel, of a vessel, between the two
LOWER = TOP + HEIGHT + 8 + GAP
_LEAST, _MOST = 20, 14  # pixels of a compartment; bins that are drawn, beside those that something moves to or from


@dataclass(frozen=True, slots=True)
class Compartment:
    """A bin of one side."""

    x: float
    width: float
    name: str  # as much of it as has room
    told: str  # what it says when pointed at
    count: str  # empty where it has no room
    is_unbinned: bool = False
    swatch: Swatch | None = None

    @property
    def middle(self) -> float:
        """Where its name stands."""
        return round(self.x + 4, 1)


@dataclass(frozen=True, slots=True)
class RibbonView:
    """Products on their way."""

    path: str
    kind: str  # moved, same, never


@dataclass(frozen=True, slots=True)
class Drawing:
    """Two vessels and their ribbons."""

    before: tuple[Compartment, ...]
    after: tuple[Compartment, ...]
    ribbons: tuple[RibbonView, ...]


_Slot = tuple[int, ...] | None  # places of the bins in one compartment; None for the unbinned


def drawing_of(found: Compared, name: Callable[[Bin], str], swatch: Callable[[Bin], Swatch | None]) -> Drawing:
    """Return the drawing of what moves."""
    slots = [
        _slots([len(members) for members in side.members], touched)
        for side, touched in zip((found.before, found.after), found.touched, strict=True)
    ]
    sides = [
        _compartments(slots[number], side.bins, [len(members) for members in side.members], len(side.unbinned), name, swatch)
        for number, side in enumerate((found.before, found.after))
    ]
    return Drawing(tuple(sides[0]), tuple(sides[1]), tuple(_ribbons(found, slots, sides)))


def _slots(counts: Sequence[int], touched: frozenset[int]) -> list[_Slot]:
    """Return which bins stand in which compartment: the largest and those touched alone, the rest in one."""
    by_size = sorted(range(len(counts)), key=lambda place: (place not in touched, -counts[place]))
    alone = sorted(by_size[:_MOST])
    rest = tuple(sorted(by_size[_MOST:]))
    return [*((place,) for place in alone), *([rest] if rest else []), None]


def _compartments(
    slots: list[_Slot],
    bins: Sequence[Bin],
    counts: Sequence[int],
    unbinned: int,
    name: Callable[[Bin], str],
    swatch: Callable[[Bin], Swatch | None],
) -> list[Compartment]:
    sizes = [unbinned if slot is None else sum(counts[place] for place in slot) for slot in slots]
    total, free = sum(sizes) or 1, WIDTH - _LEAST * len(slots)
    made, x = [], 0.0
    for slot, size in zip(slots, sizes, strict=True):
        width = _LEAST + free * size / total
        words = _words(slot, bins, name)
        shown = f"{size:,}"
        colours = swatch(bins[slot[0]]) if slot is not None and len(slot) == 1 else None
        figures = shown if figures_width(shown) <= width + 6 else ""
        told = f"{words}: {shown}"
        made.append(Compartment(round(x, 1), round(width, 1), _fitting(words, width), told, figures, slot is None, colours))
        x += width
    return made


def _words(slot: _Slot, bins: Sequence[Bin], name: Callable[[Bin], str]) -> str:
    if slot is None:
        return _("Unbinned")
    return name(bins[slot[0]]) if len(slot) == 1 else _("%(count)s more") % {"count": f"{len(slot):,}"}


def _fitting(words: str, width: float) -> str:
    """Return as much of a name as has room, empty where that would be less than three letters."""
    if text_width(words) - 6 <= width:
        return words
    for length in range(len(words) - 1, 2, -1):
        if text_width(words[:length] + "…") - 6 <= width:
            return words[:length].rstrip() + "…"
    return ""


def _ribbons(found: Compared, slots: list[list[_Slot]], sides: list[list[Compartment]]) -> list[RibbonView]:
    where = [{place: number for number, slot in enumerate(of) for place in slot or ()} for of in slots]
    last = [len(of) - 1 for of in slots]
    flows: dict[tuple[int, int, str], int] = {}
    for ribbon in found.ribbons:
        start = last[0] if ribbon.start is None else where[0][ribbon.start]
        end = last[1] if ribbon.end is None else where[1][ribbon.end]
        kind = "moved" if ribbon.moved else "never" if ribbon.start is None else "same"
        flows[start, end, kind] = flows.get((start, end, kind), 0) + ribbon.count
    leaving, coming = _sums(flows, 0), _sums(flows, 1)
    at = [{number: one.x for number, one in enumerate(side)} for side in sides]
    widths = {
        key: (count * sides[0][key[0]].width / leaving[key[0]], count * sides[1][key[1]].width / coming[key[1]])
        for key, count in flows.items()
    }
    tops = {key: _taken(at[0], key[0], widths[key][0]) for key in sorted(flows, key=lambda key: (key[0], key[1]))}
    feet = {key: _taken(at[1], key[1], widths[key][1]) for key in sorted(flows, key=lambda key: (key[1], key[0]))}
    order = sorted(flows, key=lambda key: key[2] == "moved")  # what moves lies on top
    return [RibbonView(_path(tops[key], feet[key]), key[2]) for key in order]


def _sums(flows: dict[tuple[int, int, str], int], end: int) -> dict[int, int]:
    sums: dict[int, int] = {}
    for key, count in flows.items():
        sums[key[end]] = sums.get(key[end], 0) + count  # type: ignore[index,arg-type]
    return sums


def _taken(at: dict[int, float], number: int, width: float) -> tuple[float, float]:
    start = at[number]
    at[number] = start + width
    return start, start + width


def _path(top: tuple[float, float], foot: tuple[float, float]) -> str:
    high, low = TOP + HEIGHT + 8, LOWER
    bend = (high + low) / 2
    return (
        f"M{top[0]:.1f} {high}C{top[0]:.1f} {bend} {foot[0]:.1f} {bend} {foot[0]:.1f} {low}"
        f"H{foot[1]:.1f}C{foot[1]:.1f} {bend} {top[1]:.1f} {bend} {top[1]:.1f} {high}z"
    )
