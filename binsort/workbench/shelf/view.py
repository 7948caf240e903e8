"""Shelves: a facet drawn as compartments, with what each holds and what a pick would add."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import DAYS, MONEY, RATED, kind_of
from binsort.core.facets.query import Picks
from binsort.core.insight.coverage import percent
from binsort.core.insight.histograms import Histogram
from binsort.core.insight.vessels import Shelf, Vessel, shelf
from binsort.core.values.numbers import approximate
from binsort.racks.controls import control_of
from binsort.racks.number_words import Words, bin_words
from binsort.racks.presentation import bin_swatch
from binsort.racks.shown_facet import Swatch

from .text_width import figures_width, text_width

SHELF_WIDTH = 626  # pixels of a shelf on a screen 1280 wide
LEAST_TARGET = 26
REST_WIDTH, UNBINNED_WIDTH = 64, 72  # least pixels of the compartments that sum up
_WIDEST = 150  # pixels that a name may ask for


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
    short: str = ""  # of a range: its name, without the unit where there is little room
    is_brief: bool = False  # of a range: only its first figure has room
    is_widened: bool = False  # it is drawn wider than its share, so that its name can be read

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
        words = ngettext("%(name)s: %(count)s product", "%(name)s: %(count)s products", self.total) % {
            "name": self.name,
            "count": self.total_text,
        }
        return _("%(words)s. Drawn wider than its share, so that it can be read.") % {"words": words} if self.is_widened else words

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
    spans: tuple[tuple[float, float], ...]  # picked freely: where on the axis, and how wide
    has_swatches: bool
    binned: int
    shown: bool
    groups: tuple[GroupView, ...] = ()
    binned_width: float = 0  # hundredths of the listing, as the next one
    unbinned_share: float = 0
    unbinned_address: str = ""
    called: str = ""  # what the owner calls it
    off: bool = False  # its attribute does not serve narrowing, so that no shopper sees it
    has_none: bool = False  # the unbinned have no value at all, rather than one that no bin takes
    is_flagged: bool = False  # a good part of the listing is in no bin, where each product should be
    is_silent: bool = False  # it says nothing here: no product is in a bin of it, and nothing of it is picked
    is_open: bool = False  # all bins stand on it, over as many rows as they need
    turn_address: str = ""  # opens it, or closes it again
    rule: str = ""  # what it waits for, in words
    rule_address: str = ""  # opens its rule, or closes it again
    is_ruled: bool = False  # its rule is open
    heading: str = ""  # above it

    @property
    def unbinned_told(self) -> str:
        """What the unbinned say when pointed at."""
        return ngettext("%(count)s product in no bin", "%(count)s products in no bin", self.unbinned) % {"count": f"{self.unbinned:,}"}

    @property
    def finding(self) -> str:
        """What is worth a flag, in words."""
        if not self.is_flagged:
            return ""
        count = {"count": f"{self.unbinned:,}"}
        if self.has_none:
            return ngettext("%(count)s has none", "%(count)s have none", self.unbinned) % count
        return _("%(count)s in no bin") % count


def shelf_of(
    state: State,
    facet: Facet,
    look: dict[str, Any],
    words: Words,
    *,
    width: int = SHELF_WIDTH,
    address: Callable[[str], str] = lambda key: "",
    opened: bool = False,
) -> ShelfView:
    """Return a facet as a shelf.

    Args:
        state: the listing and the picks being tried.
        facet: one of the state's rack.
        look: how it is drawn.
        words: how its numbers are written.
        width: pixels that the names of bins may need together; what has no room is summed up.
        address: gives the address that trying a bin leads to.
        opened: whether all bins are drawn, over as many rows as they need.
    """
    return _ShelfBuilder(state, facet, (look, words), (width, address), opened=opened).build()


class _ShelfBuilder:
    def __init__(
        self, state: State, facet: Facet, style: tuple[dict[str, Any], Words], room: tuple[int, Callable[[str], str]], *, opened: bool
    ) -> None:
        self.state, self.facet, self.opened = state, facet, opened
        self.found: Shelf = shelf(state, facet)
        self.look, self.words = style
        self.width, self.address = room
        self.tried = bool(state.picks)
        self.listing = len(state.products)
        unbinned = max(UNBINNED_WIDTH, self.width * self.found.unbinned / self.listing) if self.found.unbinned else 0
        self.room = max(0, int(self.width - unbinned))  # about how many pixels there are beside the unbinned products

    def build(self) -> ShelfView:
        spec, shelf = self.facet.spec, self.found
        spread = shelf.histogram if _is_cut(self.facet) else None
        axis_words = self.axis_words(spread) if spread else None  # None: no room for an axis
        held = [vessel for vessel in shelf.vessels if vessel.total or vessel.picked]
        views = [self.vessel(vessel, self.words) for vessel in shelf.vessels] if axis_words else self.named(held)
        groups = self.grouped(held)
        if kind_of(spec.source.kind).is_tree:  # one level, the topmost, stands on the shelf; what is below it under ledges
            top = min((len(vessel.bin.nodes) for vessel in held), default=0)
            at_top = [len(vessel.bin.nodes) == top or vessel.picked or (self.opened and not groups) for vessel in held]
            views = [view for view, stays in zip(views, at_top, strict=True) if stays]
        kept = views if axis_words or self.opened else fitting(views, self.room)
        drawn = spread if axis_words else None
        if drawn and axis_words:
            kept = self.placed(kept, drawn, axis_words)
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
            binned_share=percent(binned, self.listing),
            bars=tuple(_bars(drawn)) if drawn else (),
            cuts=tuple(self.cut(*cut) for cut in drawn.cuts) if drawn else (),
            spans=tuple(self.spans(drawn)) if drawn else (),
            has_swatches=control_of(self.look).has_colours,
            binned=binned,
            shown=spec.key in self.state.shown,
            groups=groups,
            binned_width=self.share(binned),
            unbinned_share=self.share(shelf.unbinned),
            is_flagged=bool(shelf.unbinned) and 10 * binned < 9 * self.listing and not kind_of(spec.source.kind).may_be_absent,
            is_open=self.opened,
            is_silent=not binned and spec.key not in self.state.picks,
        )

    def named(self, vessels: Sequence[Vessel]) -> list[VesselView]:
        """Return vessels by their names; where the names of ranges have no room together, they go without their unit."""
        views = [self.vessel(vessel, self.words) for vessel in vessels]
        if self.facet.spec.ranges and sum(view.least_width for view in views) > self.room:
            views = [self.vessel(vessel, self.words.without_unit()) for vessel in vessels]
        return views

    def grouped(self, held: Sequence[Vessel]) -> tuple[GroupView, ...]:
        """Return categories with those below them, none where there is one level only or no room for the names."""
        depths = sorted({len(vessel.bin.nodes) for vessel in held})
        if len(depths) < 2:
            return ()
        ledges = [vessel for vessel in held if len(vessel.bin.nodes) == depths[0]]
        mass = sum(vessel.total for vessel in ledges) or 1
        groups = []
        for ledge in ledges:
            view, share = self.vessel(ledge, self.words), self.room * ledge.total / mass
            if text_width(view.name) + figures_width(_ride(ledge)) > share and not self.opened:
                return ()
            inside = [vessel for vessel in held if len(vessel.bin.nodes) > depths[0] and vessel.bin.nodes[: depths[0]] == ledge.bin.nodes]
            directly = [vessel for vessel in inside if len(vessel.bin.nodes) == depths[0] + 1]
            below = [self.vessel(vessel, self.words) for vessel in (inside if self.opened else directly)]
            fit = below if self.opened else fitting(below, int(share))
            together = sum(one.total for one in fit) or 1
            fit = [replace(one, share=100 * one.total / together) for one in fit]
            groups.append(GroupView(view, tuple(fit), len(below) - len(fit)))
        return tuple(groups)

    def share(self, count: int) -> float:
        return min(100, 100 * count / self.listing) if self.listing else 0

    def vessel(self, vessel: Vessel, words: Words) -> VesselView:
        name = bin_words(vessel.bin, words)
        figures = figures_width(_ride(vessel) if self.tried else f"{vessel.total:,}")
        least, share = min(_WIDEST, max(44, text_width(name), figures)), self.share(vessel.total)
        dashed = _share(vessel.inside + vessel.adds, vessel.total) if vessel.sibling and vessel.adds else None
        return VesselView(
            key=vessel.bin.key,
            name=name,
            total=vessel.total,
            share=share,
            inside=vessel.inside,
            adds=vessel.adds,
            level=_share(vessel.inside, vessel.total),
            dashed=dashed,
            picked=vessel.picked,
            address=self.address(vessel.bin.key),
            swatch=bin_swatch(self.look, vessel.bin) if control_of(self.look).has_colours else None,
            least_width=least,
            is_widened=share * self.width < 100 * least,
        )

    def axis_words(self, spread: Histogram) -> Words | None:
        """Return how ranges are named under an axis; None where a compartment is too narrow to be hit, or for its name and figure."""
        edges = [0.0, *(share for _, share in spread.cuts), 1.0]
        if not spread.cuts or any((right - left) * self.room < LEAST_TARGET for left, right in pairwise(edges)):
            return None
        words = self.words  # cuts and the facet's name say unit and currency, too
        ways = [words, words.brief(), words.without_unit(), words.bare()]
        rooms = [
            (vessel, (right - left) * self.room) for vessel in self.found.vessels for left, right in [self.ends(vessel.bin.key, spread)]
        ]
        if any(figures_width(f"{vessel.total:,}") > room for vessel, room in rooms):
            return None
        return next((words for words in ways if all(text_width(bin_words(vessel.bin, words)) <= room for vessel, room in rooms)), None)

    def ends(self, key: str, spread: Histogram) -> tuple[float, float]:
        """Return from where to where a range lies on the axis."""
        bounds = self.facet.by_key[key].range
        assert bounds is not None
        left = 0.0 if bounds.low is None else spread.axis.share(approximate(bounds.low))
        return left, 1.0 if bounds.high is None else spread.axis.share(approximate(bounds.high))

    def placed(self, views: Sequence[VesselView], spread: Histogram, words: Words) -> list[VesselView]:
        """Lay range bins along the axis, from low to high."""
        ends = []
        for view in views:
            left, right = self.ends(view.key, spread)
            short = bin_words(self.facet.by_key[view.key], words)
            both = f"+{view.adds_text}/{view.total_text}" if view.dashed else f"{view.inside_text}/{view.total_text}"
            is_brief = figures_width(both) > self.room * (right - left)
            drawn = replace(view, short=short, is_brief=is_brief, is_widened=False)
            ends.append(replace(drawn, left=round(100 * left, 3), width=round(100 * (right - left), 3)))
        return sorted(ends, key=lambda view: (view.left, view.width))

    def spans(self, spread: Histogram) -> Iterator[tuple[float, float]]:
        """Yield where the ranges lie that are picked freely."""
        for picked in self.state.picks.get(self.facet.spec.key, Picks()).ranges:
            left = 0.0 if picked.low is None else spread.axis.share(approximate(picked.low))
            right = 1.0 if picked.high is None else spread.axis.share(approximate(picked.high))
            yield round(100 * left, 3), round(100 * (right - left), 3)

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
    """Return the bins that a shelf has room for: picked ones and the largest, one at least, in the shelf's order."""
    if sum(view.least_width for view in views) <= width or len(views) == 1:
        return list(views)
    room, chosen = width - REST_WIDTH, set[str]()
    for view in sorted(views, key=lambda view: (not view.picked, -view.total)):
        if room < view.least_width and chosen:
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


def _ride(vessel: Vessel) -> str:
    """Return the figures that ride on a level."""
    return f"+{vessel.total:,}/{vessel.total:,}" if vessel.sibling else f"{vessel.inside:,}/{vessel.total:,}"


def _share(part: int, whole: int) -> float:
    return round(100 * part / whole, 1) if whole else 0.0
