"""The value bench: raw values at the left, bins at the right, ribbons as thick as the products that flow from one to the other."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.bin_edits import waits
from binsort.core.facets.kinds import kind_of
from binsort.core.index.bins import Bin
from binsort.core.insight.value_list import RawValue, by_bins
from binsort.core.values.text import identity
from binsort.racks.controls import control_of
from binsort.racks.number_words import Words, bin_words
from binsort.racks.presentation import bin_swatch, level_of
from binsort.racks.shown_facet import Swatch

ROW, ROW_GAP, GROUP_GAP = 26, 4, 9  # pixels of a value, between two, and between those of two bins
_TALL, _SHORT = 50, 26  # pixels of a bin, where there are few and where there are many
_BIN_GAP = 12
_FEW = 14  # bins that are drawn tall
_THINNEST = 1.2
_VESSEL = 100  # pixels of the widest vessel
ROWS = 400  # values drawn at first
MORE_ROWS = 1000  # that are drawn with each further step


@dataclass(frozen=True, slots=True)
class ValueRow:
    """A raw value."""

    name: str
    label: str
    count: int
    state: str
    gap: int  # pixels above it
    indent: int
    id: str


@dataclass(frozen=True, slots=True)
class BinRow:
    """A bin at the right."""

    key: str
    label: str  # as it stands in the set-up
    words: str
    count: int
    values: int
    swatch: Swatch | None
    given: Any  # the swatch by hand: colours, a text or a picture
    gap: int
    tall: bool
    vessel: int  # pixels


@dataclass(frozen=True, slots=True)
class RibbonRow:
    """A ribbon from a value to its bin."""

    path: str
    value: str
    bin: str
    out: bool  # it leads to no bin


@dataclass(frozen=True, slots=True)
class ValueBench:
    """All that the bench of a facet of values shows."""

    rows: tuple[ValueRow, ...]
    bins: tuple[BinRow, ...]
    ribbons: tuple[RibbonRow, ...]
    height: int
    ground: int  # pixels above what stands for the unbinned
    unbinned: int
    values: int
    bin_count: int
    drawn_count: int  # bins that shoppers see while nothing is picked: of categories as many levels as are set
    find: str
    hidden: int  # values that are not drawn yet
    rows_next: int  # how many would be with one step more
    can_merge: bool
    waits: bool
    is_tree: bool
    compact: bool
    with_swatches: bool
    has_colours: bool  # of its swatches; else they are pictures
    names: tuple[tuple[str, str], ...]  # of all bins: label and words, to merge into

    @property
    def names_data(self) -> str:
        """The bins for the script that finds one to merge into, as JSON."""
        return json.dumps(self.names, ensure_ascii=False)

    @property
    def found(self) -> str:
        """How many values there are, or were found."""
        words = ngettext("%(count)s value", "%(count)s values", self.values) % {"count": f"{self.values:,}"}
        return _("%(words)s found") % {"words": words} if self.find else words


def value_bench(
    state: State, facet: Facet, document: dict[str, Any], words: Words, look: dict[str, Any], asked: Mapping[str, str], raw: list[RawValue]
) -> ValueBench:
    """Build the bench.

    Args:
        state: a listing.
        facet: one of its rack, with bins of values.
        document: of the facet.
        words: how its numbers are written.
        look: how it is drawn, with the colours of the dictionary.
        asked: of the address: ``find``, letters that a value or its bin must hold; ``rows``, how many values are drawn.
        raw: the values of its source.
    """
    find, typed = asked.get("find", ""), asked.get("rows", "")
    rows = int(typed) if typed.isascii() and typed.isdigit() and len(typed) < 6 else ROWS
    here = state.rack.on_listing(facet, state.listing)
    values = [value for value in raw if value.count or not state.listing]
    counts = dict(zip((bin.key for bin in here.bins), here.counts, strict=True))
    groups = by_bins(values, [bin for bin in here.bins if counts[bin.key] or not state.listing])  # of a category what it holds
    found = [(bin, _matching(bin, inside, identity(find), words)) for bin, inside in groups]
    found = [(bin, inside) for bin, inside in found if inside or (bin is None) or not find]
    return _Drawing(facet, document, words, look, counts, on_category=bool(state.listing)).build(
        found, here.unbinned, find, here.bins, rows
    )


def _matching(bin: Bin | None, values: list[RawValue], wanted: str, words: Words) -> list[RawValue]:
    if not wanted or (bin and wanted in identity(bin_words(bin, words))):
        return values
    return [value for value in values if wanted in identity(value.name)]


class _Drawing:
    def __init__(
        self, facet: Facet, document: dict[str, Any], words: Words, look: dict[str, Any], counts: dict[str, int], *, on_category: bool
    ) -> None:
        self.on_category = on_category
        self.facet, self.document, self.words, self.look, self.counts = facet, document, words, look, counts
        self.is_tree = kind_of(facet.spec.source.kind).is_tree
        control = control_of(look)
        self.has_colours, self.with_swatches = control.has_colours, control.has_colours or control.has_pictures

    def build(
        self, groups: Sequence[tuple[Bin | None, list[RawValue]]], unbinned: int, find: str, bins: Sequence[Bin], room: int
    ) -> ValueBench:
        most = room
        kept = []
        for bin, inside in groups:
            kept.append((bin, inside[:room]))
            room = max(0, room - len(inside))
        hidden = sum(len(inside) for _, inside in groups) - sum(len(inside) for _, inside in kept)
        drawn = [(bin, inside) for bin, inside in kept if bin is not None and (inside or not hidden)]
        out = kept[-1][1] if kept and kept[-1][0] is None else []
        compact = len(drawn) > _FEW
        self.scale = self._scale(drawn, out, compact)
        rows, rights, ribbons, y, below = self._lay(drawn, compact)
        top = max(y, below)
        out_rows, out_ribbons = self._lay_out(out, y, top)
        rows += out_rows
        ribbons += out_ribbons
        bottom = y + sum(row.gap + ROW for row in out_rows)
        ground = max(0, top - below) + GROUP_GAP
        return ValueBench(
            rows=tuple(rows),
            bins=tuple(rights),
            ribbons=tuple(ribbons),
            height=max(bottom, top + _SHORT) + GROUP_GAP + ROW + GROUP_GAP,
            ground=ground,
            unbinned=unbinned,
            values=sum(len(inside) for _, inside in groups),
            bin_count=sum(1 for bin in bins if self.counts[bin.key]) if self.on_category else len(bins),
            drawn_count=self._drawn_count(bins),
            find=find,
            hidden=hidden,
            rows_next=most + MORE_ROWS,
            can_merge=not self.is_tree,
            waits=waits(self.document),
            is_tree=self.is_tree,
            compact=compact,
            with_swatches=self.with_swatches,
            has_colours=self.has_colours,
            names=tuple((bin.label, bin_words(bin, self.words)) for bin in bins),
        )

    def _drawn_count(self, bins: Sequence[Bin]) -> int:
        there = [bin for bin in bins if self.counts[bin.key] or not self.on_category]
        levels = self.look.get("levels") if self.is_tree and not control_of(self.look).opens_levels else None
        return len(there) if levels is None else sum(level < levels for level in level_of(self.facet.spec, there))

    def _scale(self, drawn: Sequence[tuple[Bin, list[RawValue]]], out: Sequence[RawValue], compact: bool) -> float:
        """Return pixels of a ribbon for a product: the thickest fits beside its row, and all of a bin beside the bin."""
        most = max([value.count for _, inside in drawn for value in inside] + [value.count for value in out], default=1) or 1
        together = max((sum(value.count for value in inside) for _, inside in drawn), default=1) or 1
        return min(ROW / most, (_SHORT if compact else _TALL) / together)

    def _lay(
        self, drawn: Sequence[tuple[Bin, list[RawValue]]], compact: bool
    ) -> tuple[list[ValueRow], list[BinRow], list[RibbonRow], int, int]:
        """Lay values and their bins from the top; each bin stands beside the middle of its values, or as near as there is room."""
        rows: list[ValueRow] = []
        bins: list[BinRow] = []
        ribbons: list[RibbonRow] = []
        y = bottom = 0
        tall, gap = (_SHORT, ROW_GAP) if compact else (_TALL, _BIN_GAP)
        largest = max((self.counts.get(bin.key, 0) for bin, _ in drawn), default=1) or 1
        for place, (bin, inside) in enumerate(drawn):
            start = y + (GROUP_GAP if place else 0)
            middles = []
            for number, value in enumerate(inside):
                above = ROW_GAP if number else GROUP_GAP if rows else 0
                y += above
                rows.append(self._value(value, above, len(rows)))
                middles.append(y + ROW / 2)
                y += ROW
            height = max(ROW, y - start)
            at = round(max(bottom + (gap if bins else 0), start + height / 2 - tall / 2))
            bins.append(self._bin(bin, at - bottom, not compact, largest, len(inside)))
            bottom = at + tall
            ribbons += self._flow(bin.key, inside, middles, at + tall / 2)
        return rows, bins, ribbons, y, bottom

    def _flow(self, key: str, values: Sequence[RawValue], middles: Sequence[float], middle: float) -> list[RibbonRow]:
        thick = [max(_THINNEST, value.count * self.scale) for value in values]
        at = middle - sum(thick) / 2
        ribbons = []
        for value, start, width in zip(values, middles, thick, strict=True):
            ribbons.append(RibbonRow(ribbon_path(start - width / 2, at, width), value.name, key, value.bin is None))
            at += width
        return ribbons

    def _lay_out(self, values: Sequence[RawValue], y: int, top: int) -> tuple[list[ValueRow], list[RibbonRow]]:
        rows: list[ValueRow] = []
        middles = []
        for number, value in enumerate(values):
            above = ROW_GAP if number else GROUP_GAP
            rows.append(self._value(value, above, 100_000 + number))
            middles.append(y + above + ROW / 2)
            y += above + ROW
        return rows, self._flow("", values, middles, top + GROUP_GAP + _SHORT / 2)

    def _value(self, value: RawValue, gap: int, place: int) -> ValueRow:
        label = self.words.number(number) if (number := self._numbers.get(value.identity)) is not None else value.label
        return ValueRow(
            value.name, label, value.count, value.state, gap, max(0, value.name.count(" > ")) if self.is_tree else 0, f"value-{place}"
        )

    @cached_property
    def _numbers(self) -> dict[str, Any]:
        if not self.words.unit:
            return {}
        return {value.identity: value.number for value in self.facet.column.values if value.number is not None}

    def _bin(self, bin: Bin, gap: int, tall: bool, largest: int, values: int) -> BinRow:
        count = self.counts.get(bin.key, 0)
        return BinRow(
            key=bin.key,
            label=bin.label,
            words=bin_words(bin, self.words),
            count=count,
            values=values or len(bin.values),
            swatch=bin_swatch(self.look, bin) if self.has_colours else None,
            given=self.look.get("swatches", {}).get(bin.label),
            gap=max(0, gap),
            tall=tall,
            vessel=max(3, round(_VESSEL * count / largest)),
        )


def ribbon_path(left: float, right: float, width: float) -> str:
    """Return the path of a ribbon 100 wide between two heights."""
    a, b, c, d = left, left + width, right, right + width
    return f"M0 {a:.1f}C50 {a:.1f} 50 {c:.1f} 100 {c:.1f}V{d:.1f}C50 {d:.1f} 50 {b:.1f} 0 {b:.1f}z"
