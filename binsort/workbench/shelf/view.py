"""Shelves: a facet drawn as compartments, with what each holds and what a pick would add."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import DAYS, MONEY, RATED, kind_of
from binsort.core.insight.vessels import Histogram, Shelf, Vessel, shelf
from binsort.core.values.numbers import approximate
from binsort.racks.controls import control_of
from binsort.racks.presentation import Swatch, Words, bin_swatch, bin_words

SHELF_WIDTH = 626  # pixels of a shelf on a screen 1280 wide
LEAST_TARGET = 26
REST_WIDTH, UNBINNED_WIDTH = 64, 72  # pixels of the compartments that sum up


@dataclass(frozen=True, slots=True)
class VesselView:
    """A compartment of a shelf."""

    key: str
    name: str
    total: int
    inside: int
    adds: int
    level: float  # hundredths of the compartment's height
    dashed: float | None  # the level that picking it as well would give
    picked: bool
    address: str
    swatch: Swatch | None
    least_width: int
    share: float = 0  # hundredths of what it stands among
    left: float = 0  # of a range: where it lies on the axis, in hundredths
    width: float = 0
    short: str = ""  # of a range: as much of its name as there is room for

    @property
    def total_text(self) -> str:
        """All its products, as written."""
        return f"{self.total:,}"

    @property
    def inside_text(self) -> str:
        """Those in the result, as written."""
        return f"{self.inside:,}"

    @property
    def adds_text(self) -> str:
        """Those that picking it as well would add, as written."""
        return f"{self.adds:,}"

    @property
    def told(self) -> str:
        """What it says when pointed at."""
        return ngettext("%(name)s: %(count)s product", "%(name)s: %(count)s products", self.total) % {
            "name": self.name,
            "count": self.total_text,
        }

    @property
    def sink(self) -> float:
        """How far below the rim the dashed level is, in hundredths."""
        return round(100 - (self.dashed or 0), 1)


@dataclass(frozen=True, slots=True)
class CutView:
    """A cut on the axis of a histogram."""

    text: str
    left: float


@dataclass(frozen=True, slots=True)
class BarView:
    """A bar of a histogram, in hundredths of the axis and of its height."""

    left: float
    width: float
    total: float
    inside: float
    adds: float


@dataclass(frozen=True, slots=True)
class GroupView:
    """A category with those directly below it: a ledge over compartments."""

    ledge: VesselView
    vessels: tuple[VesselView, ...]
    rest: int
    rest_share: float = 1


@dataclass(frozen=True, slots=True)
class ShelfView:
    """A facet as a shelf."""

    key: str
    label: str
    source: str
    matching: str
    changed: bool
    vessels: tuple[VesselView, ...]
    rest: int  # bins that the shelf has no room for
    rest_share: float
    unbinned: int
    unbinned_inside: int
    unbinned_level: float
    binned_share: int
    bars: tuple[BarView, ...]
    cuts: tuple[CutView, ...]
    has_swatches: bool
    binned: int
    shown: bool
    groups: tuple[GroupView, ...] = ()
    binned_width: float = 0  # hundredths of the listing, as the next one
    unbinned_share: float = 0

    @property
    def unbinned_told(self) -> str:
        """What the unbinned say when pointed at."""
        return ngettext("%(count)s product in no bin", "%(count)s products in no bin", self.unbinned) % {"count": f"{self.unbinned:,}"}

    @property
    def finding(self) -> str:
        """What is worth a flag: a good part of the listing in no bin."""
        return _("%(count)s have none") % {"count": f"{self.unbinned:,}"} if self.binned_share < 90 and self.unbinned else ""


def shelf_of(
    state: State,
    facet: Facet,
    look: dict[str, Any],
    words: Words,
    *,
    width: int = SHELF_WIDTH,
    address: Callable[[str], str] = lambda key: "",
) -> ShelfView:
    """Return a facet as a shelf.

    Args:
        state: the listing and the picks being tried.
        facet: one of the state's rack.
        look: how it is drawn.
        words: how its numbers are written.
        width: pixels that the names of bins may need together; what has no room is summed up.
        address: gives the address that trying a bin leads to.
    """
    return _ShelfBuilder(state, facet, (look, words), (width, address)).build()


class _ShelfBuilder:
    def __init__(self, state: State, facet: Facet, style: tuple[dict[str, Any], Words], room: tuple[int, Callable[[str], str]]) -> None:
        self.state, self.facet = state, facet
        self.found: Shelf = shelf(state, facet)
        self.look, self.words = style
        self.width, self.address = room
        self.tried = bool(state.picks)
        self.listing = len(state.products)

    def build(self) -> ShelfView:
        spec, shelf = self.facet.spec, self.found
        as_histogram = shelf.histogram is not None and _is_cut(self.facet) and self.has_room(shelf.histogram)
        held = [vessel for vessel in shelf.vessels if vessel.total or vessel.picked]
        views = [self.vessel(vessel) for vessel in (shelf.vessels if as_histogram else held)]
        groups = self.grouped(held)
        if kind_of(spec.source.kind).is_tree:  # one level, the topmost, stands on the shelf; what is below it under ledges
            top = min((len(vessel.bin.nodes) for vessel in held), default=0)
            views = [view for view, vessel in zip(views, held, strict=True) if len(vessel.bin.nodes) == top or vessel.picked]
        kept = views if as_histogram else fitting(views, self.width - (UNBINNED_WIDTH if shelf.unbinned else 0))
        if as_histogram and shelf.histogram:
            kept = self.placed(kept, shelf.histogram)
        binned = self.listing - shelf.unbinned
        return ShelfView(
            key=spec.key,
            label=spec.label,
            source=source_words(self.facet, self.words),
            matching="one" if spec.pick == "one" else f"{spec.match} of",
            changed=False,
            vessels=tuple(kept),
            rest=len(views) - len(kept),
            rest_share=self.share(sum(view.total for view in views if view not in kept)) if len(views) > len(kept) else 0,
            unbinned=shelf.unbinned,
            unbinned_inside=shelf.unbinned_inside,
            unbinned_level=_share(shelf.unbinned_inside, shelf.unbinned),
            binned_share=int(_share(binned, self.listing)),
            bars=tuple(_bars(shelf.histogram)) if as_histogram and shelf.histogram else (),
            cuts=tuple(self.cut(*cut) for cut in shelf.histogram.cuts) if as_histogram and shelf.histogram else (),
            has_swatches=control_of(self.look).has_colours,
            binned=binned,
            shown=spec.key in self.state.shown,
            groups=groups,
            binned_width=self.share(binned),
            unbinned_share=self.share(shelf.unbinned),
        )

    def grouped(self, held: Sequence[Vessel]) -> tuple[GroupView, ...]:
        """Return categories with those below them, none where there is one level only or no room for the names."""
        depths = sorted({len(vessel.bin.nodes) for vessel in held})
        if len(depths) < 2:
            return ()
        room = self.width - (UNBINNED_WIDTH if self.found.unbinned else 0)
        ledges = [vessel for vessel in held if len(vessel.bin.nodes) == depths[0]]
        mass = sum(vessel.total for vessel in ledges) or 1
        groups = []
        for ledge in ledges:
            view, share = self.vessel(ledge), room * ledge.total / mass
            if _text_width(view.name) + 8 * len(_ride(ledge)) > share:
                return ()
            below = [self.vessel(v) for v in held if len(v.bin.nodes) == depths[0] + 1 and v.bin.nodes[:-1] == ledge.bin.nodes]
            fit = fitting(below, int(share))
            together = sum(one.total for one in fit) or 1
            fit = [replace(one, share=100 * one.total / together) for one in fit]
            groups.append(GroupView(view, tuple(fit), len(below) - len(fit)))
        return tuple(groups)

    def share(self, count: int) -> float:
        return min(100, 100 * count / self.listing) if self.listing else 0

    def vessel(self, vessel: Vessel) -> VesselView:
        name = bin_words(vessel.bin, self.words)
        dashed = _share(vessel.inside + vessel.adds, vessel.total) if vessel.sibling and vessel.adds else None
        return VesselView(
            key=vessel.bin.key,
            name=name,
            total=vessel.total,
            share=self.share(vessel.total),
            inside=vessel.inside,
            adds=vessel.adds,
            level=_share(vessel.inside, vessel.total),
            dashed=dashed,
            picked=vessel.picked,
            address=self.address(vessel.bin.key),
            swatch=bin_swatch(self.look, vessel.bin) if control_of(self.look).has_colours else None,
            least_width=min(150, max(44, _text_width(name), 8 * len(_ride(vessel) if self.tried else f"{vessel.total:,}") + 10)),
        )

    def has_room(self, spread: Histogram) -> bool:
        """Tell whether each compartment between cuts is wide enough to be hit."""
        edges = [0.0, *(share for _, share in spread.cuts), 1.0]
        return bool(spread.cuts) and all((right - left) * self.axis_width >= LEAST_TARGET for left, right in pairwise(edges))

    @property
    def axis_width(self) -> float:
        """About how many pixels the axis of a histogram has beside the unbinned products."""
        unbinned = max(UNBINNED_WIDTH, self.width * self.found.unbinned / self.listing) if self.found.unbinned else 0
        return self.width - unbinned

    def placed(self, views: Sequence[VesselView], spread: Histogram) -> list[VesselView]:
        """Lay range bins along the axis, from low to high."""
        ends = []
        for view in views:
            bounds = self.facet.by_key[view.key].range
            assert bounds is not None
            left = 0.0 if bounds.low is None else spread.axis.share(approximate(bounds.low))
            right = 1.0 if bounds.high is None else spread.axis.share(approximate(bounds.high))
            bare = bin_words(self.facet.by_key[view.key], self.words.without_unit())
            room = self.axis_width * (right - left)
            fits = [text for text in (view.name, bare) if _text_width(text) <= room]  # the unit stands beside the facet's name, too
            ends.append(replace(view, short=fits[0] if fits else "", left=round(100 * left, 3), width=round(100 * (right - left), 3)))
        return sorted(ends, key=lambda view: (view.left, view.width))

    def cut(self, value: Any, share: float) -> CutView:
        text = self.words.number(value) if self.words.written == MONEY else self.words.bare().number(value)
        if self.words.written == DAYS:
            text = text.removeprefix("1 Jan ")
        return CutView(text, round(100 * share, 3))


def source_words(facet: Facet, words: Words) -> str:
    """Say where a facet's values come from."""
    source = facet.spec.source
    if source.kind == "number_from":
        where = _("tags") if source.origin == "tag" else source.attribute
        return _("numbers in %(where)s: %(prefix)s…") % {"where": where, "prefix": source.prefix}
    text = kind_of(source.kind).words or source.attribute.lower()
    if source.kind == "attribute" and facet.on_variants:
        text = _("variant %(attribute)s") % {"attribute": text}
    return f"{text}, {words.unit}" if words.unit else text


def _is_cut(facet: Facet) -> bool:
    """Tell whether a facet's ranges lie side by side, so that they can stand under one axis."""
    ranges = sorted(facet.spec.ranges, key=lambda item: (item.low is not None, item.low or 0))
    side_by_side = all(one.high == other.low and one.high is not None for one, other in pairwise(ranges))
    return side_by_side and kind_of(facet.spec.source.kind).written != RATED


def fitting(views: Sequence[VesselView], width: int) -> list[VesselView]:
    """Return the bins that a shelf has room for: picked ones and the largest, in the shelf's order."""
    if sum(view.least_width for view in views) <= width:
        return list(views)
    room, chosen = width - REST_WIDTH, set()
    for view in sorted(views, key=lambda view: (not view.picked, -view.total)):
        if room < view.least_width:
            break
        room -= view.least_width
        chosen.add(view.key)
    return [view for view in views if view.key in chosen]


def _bars(spread: Histogram) -> list[BarView]:
    highest = max(bar.total for bar in spread.bars) or 1
    return [
        BarView(
            left=round(100 * bar.step / bar.steps, 3),
            width=round(100 / bar.steps, 3),
            total=max(4.0, 100 * bar.total / highest),
            inside=100 * bar.inside / highest,
            adds=100 * (bar.inside + bar.adds) / highest if bar.adds else 0,
        )
        for bar in spread.bars
    ]


def _text_width(text: str) -> int:
    """Return about how many pixels a name under a board needs."""
    return 7 * len(text) + 10


def _ride(vessel: Vessel) -> str:
    """Return the figures that ride on a level."""
    return f"+{vessel.total:,}/{vessel.total:,}" if vessel.sibling else f"{vessel.inside:,}/{vessel.total:,}"


def _share(part: int, whole: int) -> float:
    return round(100 * part / whole, 1) if whole else 0.0
