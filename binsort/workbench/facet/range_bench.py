"""The range bench: the numbers of a listing as a histogram, the cuts through it, and the compartments they make."""

from collections.abc import Sequence
from fractions import Fraction
from itertools import accumulate
from typing import Any

import numpy as np
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import DAYS, MONEY, RATED, kind_of
from binsort.core.facets.range_edits import AT_LEAST, AT_MOST, BY_HAND, CUTS, FREE, VALUES, bounds_of, shape_of
from binsort.core.facets.spec import Range, written_bound
from binsort.core.index.bins import Bin
from binsort.core.insight.axis import axis_of
from binsort.core.insight.number_line import NumberLine, bar_count, bars_of
from binsort.core.insight.suggested_cuts import MOST, WAYS, counts_of, proposed_bins, suggested
from binsort.core.values.numbers import Number, approximate, whole
from binsort.racks.number_words import Words, bin_words
from binsort.workbench.shelf.text_width import text_width

from .page_address import Address
from .range_drawing import (
    WIDE,
    bars_path,
    day_ticks,
    exact_of,
    finest,
    flag_rows,
    lines_of,
    ribbon,
    scale_choices,
    step_at,
    year_or_day,
)
from .range_script import script_data
from .range_views import (
    MANY,
    AroundView,
    BoundaryView,
    CompartmentView,
    CutView,
    LaneView,
    ProposedView,
    RangeBench,
    RowView,
    SuggestionView,
)
from .widths import shared_widths

_SIDES = 3  # products shown either side of a cut


def range_bench(
    facet: Facet,
    document: dict[str, Any],
    line: NumberLine,
    words: Words,
    *,
    asked: dict[str, str],
    address: Address,
    total: int,
    names: Any,
) -> RangeBench:
    """Build the bench.

    Args:
        facet: cut from the index.
        document: of the facet.
        line: the numbers of the listing.
        words: how numbers are written.
        asked: of the address: ``scale``, ``suggest``, ``bins``, ``at``.
        address: gives the address of this page with other parameters.
        total: products of the listing.
        names: gives identity and name of a product by its slot.
    """
    return _Builder(facet, document, line, words, (asked, address), total).build(names)


class _Builder:
    def __init__(
        self, facet: Facet, document: dict[str, Any], line: NumberLine, words: Words, page: tuple[dict[str, str], Address], total: int
    ) -> None:
        self.facet, self.document, self.line, self.words, self.total = facet, document, line, words, total
        self.asked, self.address = page
        self.kind = kind_of(facet.spec.source.kind)
        self.shape = shape_of(document)
        self.bounds = bounds_of(document)
        reach = [approximate(bound) for bound in self.bounds]
        self.axis = axis_of(line.floats, scale=self.asked.get("scale", ""), reach=reach)
        self.bar_count = bar_count(np.repeat(self.axis.shares(line.floats), np.diff(line.starts)))
        self.finest = finest(line)

    def build(self, names: Any) -> RangeBench:
        proposed = self.proposed()
        bars = bars_of(self.line, self.axis, self.bounds, self.bar_count)
        highest = max((bar.density(self.bar_count) for bar in bars), default=1)
        compartments, unbinned = self.compartments()
        near = self.near()
        return RangeBench(
            shape=self.shape,
            shapes=self.shapes(),
            scales=scale_choices(self.axis, self.address, can_log=self.line.numbers[0] > 0),
            ticks=tuple(self.ticks()),
            bars=bars_path(bars, self.bar_count, highest),
            lines=tuple(lines_of(highest)),
            cuts=tuple(self.cut_views(near)),
            compartments=compartments,
            lanes=tuple(self.lanes()),
            unbinned=unbinned,
            suggestions=self.suggestions(),
            proposed=proposed,
            boundary=self.boundary(near),
            around=self.around(near, names),
            rows=tuple(self.row(bin) for bin in self.bins),
            closed=self.document.get("ends") == "closed",
            free=bool(self.document.get("free")),
            can_close=self.shape == CUTS and len(self.bounds) > 1,
            data=script_data(
                self.axis,
                self.words,
                bars=self.bar_count,
                finest=approximate(self.finest),
                shape=self.shape,
                closed=self.document.get("ends") == "closed",
                cuts=list(map(self.text, self.bounds)),
                hand=[[*self.ends(bin), self.label(bin)] for bin in self.bins if self.shape == BY_HAND],
                dates=self.kind.has_dates,
                total=self.total,
                entries=self.line.entries,
                least=self.least([one.name for one in compartments], 1),
                many=len(compartments) > MANY,
            ),
            unit=self.words.unit,
            has_dates=self.kind.has_dates,
        )

    @property
    def bins(self) -> list[Bin]:
        """The ranges, from low to high."""

        def order(bin: Bin) -> tuple[Any, ...]:
            low, high = (bin.range.low, bin.range.high) if bin.range else (None, None)
            return low is not None, low or 0, high is None, high or 0

        return sorted((bin for bin in self.facet.bins if bin.range), key=order)

    # -- the axis

    def ticks(self) -> list[tuple[str, float]]:
        ticks = day_ticks(self.axis) if self.kind.has_dates else self.axis.ticks()
        bare = self.words.bare()
        return [
            (year_or_day(int(tick)) if self.kind.has_dates else bare.number(exact_of(tick)), round(100 * self.axis.share(tick), 2))
            for tick in ticks
        ]

    def share(self, number: Number) -> float:
        return 100 * self.axis.share(approximate(number))

    # -- cuts

    def near(self) -> int:
        """Return the place of the cut whose neighbours are shown: the one asked for, else the last."""
        texts = [self.text(bound) for bound in self.bounds]
        asked = self.asked.get("at", "")
        return texts.index(asked) if asked in texts else len(texts) - 1

    def text(self, bound: Number) -> str:
        return written_bound(bound, self.facet.spec.source.kind)

    def cut_words(self, bound: Number) -> str:
        return self.words.number(bound) if self.words.written in (MONEY, DAYS) else self.words.bare().number(bound)

    def cut_views(self, near: int) -> list[CutView]:
        shares = [self.share(bound) for bound in self.bounds]
        rows = flag_rows(shares)
        return [
            CutView(place, self.text(bound), self.words.number(bound), round(share, 3), row, place == near)
            for place, (bound, share, row) in enumerate(zip(self.bounds, shares, rows, strict=True))
        ]

    def shapes(self) -> tuple[tuple[str, str, bool], ...]:
        up = _("Stars and up") if self.words.written == RATED else _("At least")
        words = [
            (CUTS, _("Cuts")),
            (BY_HAND, _("By hand")),
            (AT_LEAST, up),
            (AT_MOST, _("At most")),
            (VALUES, _("Each number")),
            (FREE, _("Any range")),
        ]
        if self.kind.has_dates:
            words = [(key, _("Each day") if key == VALUES else text) for key, text in words]
        return tuple((key, text, key == self.shape) for key, text in words)

    def lanes(self) -> list[LaneView]:
        """Return ranges by hand as bars over the axis, in as many lanes as they overlap."""
        if self.shape == CUTS:
            return []
        ends: list[float] = []
        lanes = []
        for bin in self.bins:
            left, right = self.reach(bin.range)
            lane = next((place for place, end in enumerate(ends) if end <= left + 1e-9), len(ends))
            ends[lane : lane + 1] = [right]
            low, high = self.ends(bin) if self.shape == BY_HAND else ("", "")
            lanes.append(LaneView(bin_words(bin, self.words), round(left, 2), round(right - left, 2), lane, low, high))
        return lanes

    def label(self, bin: Bin) -> str:
        """Return the label that was given by hand, empty where none was."""
        return self.words.labels.get(bin.key, "") or (bin.label if bin.label != bin.key else "")

    def ends(self, bin: Bin) -> tuple[str, str]:
        """Return the ends of a range as they are typed, empty for open ones."""
        low, high = (bin.range.low, bin.range.high) if bin.range else (None, None)
        return "" if low is None else self.text(low), "" if high is None else self.text(high)

    def reach(self, bounds: Range | None) -> tuple[float, float]:
        low, high = (bounds.low, bounds.high) if bounds else (None, None)
        return 0.0 if low is None else self.share(low), 100.0 if high is None else self.share(high)

    # -- compartments

    def compartments(self) -> tuple[tuple[CompartmentView, ...], CompartmentView | None]:
        bins = self.bins
        counts = [self.line.in_range(bin.range) for bin in bins if bin.range]
        inside = self.line.in_ranges([bin.range for bin in bins if bin.range]) if bins else len(np.unique(self.line.products))
        unbinned = self.total - inside
        names = [bin_words(bin, self.words) for bin in bins]
        if not bins:
            names, counts = [_("any range")], [inside]
        least = self.least(names, unbinned)
        widths = shared_widths([*counts, *([unbinned] if unbinned else [])], least)
        lefts = [0.0, *accumulate(widths)]
        binned = sum(counts) or 1
        reaches = [self.reach(bin.range) for bin in bins] or [(0.0, 100.0)]
        views = tuple(
            CompartmentView(
                bins[place].key if bins else "", name, count, round(lefts[place], 3), round(widths[place], 3),
                f"{round(100 * count / binned)}%", len(names) > 1 and count > 0.6 * binned,
                ribbon(*reaches[place], lefts[place], lefts[place] + widths[place]),
            )
            for place, (name, count) in enumerate(zip(names, counts, strict=True))
        )  # fmt: skip
        if not unbinned:
            return views, None
        place = len(views)
        left = round(lefts[place], 3)
        return views, CompartmentView(
            "", _("Unbinned"), unbinned, left, round(100 - left, 3), _("of %(total)s") % {"total": f"{self.total:,}"}, False, ""
        )

    def least(self, names: Sequence[str], unbinned: int) -> list[float]:
        """Return the least width of each compartment, in hundredths."""
        if len(names) > MANY:
            return [*[60 / len(names)] * len(names), *([9.0] if unbinned else [])]
        return [*(100 * max(46, min(150, text_width(name) + 8)) / WIDE for name in names), *([100 * 76 / WIDE] if unbinned else [])]

    def row(self, bin: Bin) -> RowView:
        bounds = bin.range
        low, high = (bounds.low, bounds.high) if bounds else (None, None)
        said = self.words.range(low, high, inclusive=low is None and bool(bounds and bounds.high_inclusive))
        return RowView(
            bin.key, said, self.label(bin), *self.ends(bin), self.line.in_range(bounds) if bounds else 0,
        )  # fmt: skip

    # -- suggestions

    def suggestions(self) -> tuple[SuggestionView, ...]:
        if self.shape == BY_HAND or len(self.line.numbers) < 2:
            return ()
        words = {
            "widths": _("Even widths"),
            "counts": _("Even counts"),
            "groups": _("Natural groups"),
            "round": _("Round numbers"),
            "calendar": _("By calendar"),
        }
        ways = [way for way in WAYS.values() if way.for_dates is None or way.for_dates == self.kind.has_dates]
        asked = self.asked.get("suggest", "")
        return tuple(
            SuggestionView(way.key, words[way.key], self.address(suggest="" if way.key == asked else way.key), way.key == asked)
            for way in ways
        )

    def proposed(self) -> ProposedView | None:
        key = self.asked.get("suggest", "")
        if key not in {way.key for way in self.suggestions()}:
            return None
        typed = self.asked.get("bins", "")
        wanted = min(MOST, max(2, int(typed))) if typed.isascii() and typed.isdigit() and len(typed) < 4 else proposed_bins(self.line)
        cuts = suggested(self.line, key, wanted)
        shares = [self.share(cut) for cut in cuts]
        return ProposedView(
            key=key,
            words=ngettext("%(count)s bin", "%(count)s bins", len(cuts) + 1) % {"count": len(cuts) + 1},
            flags=tuple(
                (self.cut_words(cut), round(share, 3), row) for cut, share, row in zip(cuts, shares, flag_rows(shares), strict=True)
            ),
            counts=tuple(counts_of(self.line, cuts)),
            bins=wanted,
            fewer=self.address(suggest=key, bins=wanted - 1) if wanted > 2 else "",
            more=self.address(suggest=key, bins=wanted + 1) if wanted < MOST else "",
            leave=self.address(suggest="", bins=""),
            texts=tuple(map(self.text, cuts)),
        )

    # -- around a cut

    def boundary(self, near: int) -> BoundaryView | None:
        """Return on which side the number of a cut falls; turned, the cut stands just above it, or at the number just below."""
        if near < 0 or self.shape not in (CUTS, AT_LEAST):
            return None
        cut = self.bounds[near]
        lower, upper = self.sides(near)
        if self.line.has(cut - self.finest) and not self.line.has(cut):
            number = turned = whole(Fraction(cut - self.finest))
            return BoundaryView(self.words.number(number), lower, upper, self.text(cut), self.text(turned), True)
        turned = whole(Fraction(cut + self.finest))
        if near + 1 < len(self.bounds) and turned >= self.bounds[near + 1]:
            return None
        return BoundaryView(self.words.number(cut), upper, lower, self.text(cut), self.text(turned), self.line.has(cut))

    def sides(self, near: int) -> tuple[str, str]:
        """Return the names of the ranges below and above a cut."""
        cut = self.bounds[near]
        below = next((bin for bin in reversed(self.bins) if bin.range and bin.range.high == cut), None)
        above = next((bin for bin in self.bins if bin.range and bin.range.low == cut), None)
        none = _("no bin")
        return (bin_words(below, self.words) if below else none), (bin_words(above, self.words) if above else none)

    def around(self, near: int, names: Any) -> AroundView | None:
        if near < 0:
            return None
        cut = self.bounds[near]
        below, above = self.line.around(cut, _SIDES)
        step = step_at(self.axis, approximate(cut), approximate(self.finest))
        bare = self.words if self.words.written in (MONEY, DAYS) else self.words.bare()
        return AroundView(
            cut=self.words.number(cut),
            step=ngettext("%(count)s day", "%(count)s days", int(step)) % {"count": int(step)}
            if self.kind.has_dates
            else self.words.number(exact_of(step)),
            below=tuple((bare.number(number), *names(slot)) for number, slot in below),
            above=tuple((bare.number(number), *names(slot), number == cut) for number, slot in above),
            names=self.sides(near),
        )
