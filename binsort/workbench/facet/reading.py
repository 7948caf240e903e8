"""The page that reads numbers out of texts: places, one text to point at, the others that follow, what is not read."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.dictionary.entry import BadValue, entries
from binsort.catalog.models import Revision
from binsort.changes.products import change_many
from binsort.core.insight.axis import Axis, axis_of
from binsort.core.insight.hidden_numbers import Place, Readings, ReadText, numbers_in, places, readings
from binsort.core.insight.text_mends import products_saying, ways_to_write
from binsort.core.products.edits import REPLACE, Field
from binsort.core.values.numbers import approximate
from binsort.core.values.units import KNOWN
from binsort.racks.addresses import Pair, query_string
from binsort.racks.models import Setup

from .page import BenchSight, FacetView, facet_page
from .page_address import page_address
from .range_drawing import exact_of, scale_choices

_FOLLOWERS, _PENNANTS, _UNREAD = 4, 18, 8
_STEP = 17  # pixels from pennant to pennant
_BARS = 84  # pixels of the highest bar under them
_FLIPPED = 62  # hundredths of the axis from which on a pennant flies to the left
_UNITS = ("length", "mass", "force", "volume", "power", "voltage")


@dataclass(frozen=True, slots=True)
class PlaceView:
    """A place where numbers hide."""

    before: str
    number: str
    behind: str
    where: str
    products: int
    share: float
    chosen: bool
    source: str  # JSON


@dataclass(frozen=True, slots=True)
class PartView:
    """A part of the text that is pointed at: a number to click, or what stands around it."""

    text: str
    start: int
    is_number: bool
    chosen: bool
    told: str = ""  # what it is to the reading


@dataclass(frozen=True, slots=True)
class TextView:
    """A text that was read."""

    before: str
    number: str
    behind: str
    said: str  # the number with the unit of the facet
    converted: bool
    products: int
    text: str
    left: float = 0  # of its pennant, in hundredths of the axis
    top: int = 0
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class UnreadView:
    """A text that was not read."""

    text: str
    products: int
    reason: str
    ways: tuple[str, ...]  # how it could be written so that it can be read
    address: str  # of the products


@dataclass(frozen=True, slots=True)
class TextField:
    """The texts over their numbers, and the products that have none."""

    pennants: tuple[TextView, ...]  # none where there are too many
    bars: tuple[tuple[float, int], ...]  # place in hundredths, pixels from the foot
    height: int
    foot: int  # pixels at which the pennants end
    ticks: tuple[tuple[str, float], ...]
    scales: tuple[tuple[str, str, str, bool], ...]
    share: float  # of the products that have a number, in hundredths, as wide as it is drawn
    none: int  # products without such a text
    none_share: float
    unread: int  # with one that is not read
    unread_share: float


@dataclass(frozen=True, slots=True)
class ReadingView:
    """All that the page shows."""

    facet: FacetView
    places: tuple[PlaceView, ...]
    pointed: tuple[PartView, ...]
    text: str
    prefix: str
    unit_assumed: bool  # the text pointed at names no unit
    where: str
    followers: tuple[TextView, ...]
    field: TextField | None
    unread: tuple[UnreadView, ...]
    unread_texts: int
    unread_products: int
    texts: int
    read_products: int
    total: int
    unit: str
    units: tuple[str, ...]
    units_written: tuple[tuple[str, int, float], ...]
    numbers: tuple[tuple[str, int], ...]  # where there are too many texts for pennants: number, products


def reading_page(setup: Setup, key: str, pairs: Sequence[Pair]) -> ReadingView:
    """Build the page for a facet of numbers read out of texts."""
    page, bench = facet_page(setup, key, pairs), BenchSight(setup, key, pairs)
    index, products, source = bench.sight.held.index, bench.sight.state.products, bench.facet.spec.source
    found = readings(index, source, products)
    asked = next((value for name, value in pairs if name == "text"), "")
    known = {one.text: one for one in (*found.read, *found.unread)}
    most = max(found.read, key=lambda one: (one.products, one.text), default=None)
    here = known.get(asked) or most or next(iter(found.unread), None)
    others = [one for one in found.read if here is None or one.text != here.text]
    ranked = sorted(others, key=lambda one: (one.unit in ("", found.unit), -one.products))
    shares = sum(count for _unit, count in found.units) or 1
    by_number: dict[str, int] = {}
    for one in found.read if len(found.read) > _PENNANTS else ():
        by_number[bench.words.number(one.number or 0)] = by_number.get(bench.words.number(one.number or 0), 0) + one.products
    return ReadingView(
        facet=page,
        places=tuple(_place(place, bench, len(products)) for place in places(index, products)),
        pointed=tuple(_parts(here)) if here else (),
        text=here.text if here else "",
        prefix=source.prefix,
        unit_assumed=bool(found.unit and here and here.number is not None and not here.unit),
        where=source.attribute or _("a tag"),
        followers=tuple(_text(one, bench) for one in ranked[:_FOLLOWERS]),
        field=_field(bench, found, len(products)) if found.read else None,
        unread=tuple(
            UnreadView(one.text, one.products, one.reason, ways_to_write(one.text, source.prefix), _found_address(one.text))
            for one in found.unread[:_UNREAD]
        ),
        unread_texts=len(found.unread),
        unread_products=found.products_unread,
        texts=len(found.read),
        read_products=found.products_read,
        total=len(products),
        unit=found.unit,
        units=_units(found.unit),
        units_written=tuple(
            (unit or _("none, so %(unit)s") % {"unit": found.unit or _("no unit")}, count, 100 * count / shares)
            for unit, count in found.units
        ),
        numbers=tuple(by_number.items()),
    )


def _field(bench: BenchSight, found: Readings, total: int) -> TextField:
    """Draw each text as a pennant over its number, the numbers as bars, the products without one beside them."""
    axis = axis_of(sorted(approximate(one.number or 0) for one in found.read), scale=bench.asked.get("scale", ""))
    drawn = found.read if len(found.read) <= _PENNANTS else ()
    bare, address = (
        bench.words.bare(),
        page_address(reverse("facet-reading", args=[bench.document["key"]]), {**dict(bench.sight.fixed), **bench.asked}),
    )
    foot = len(drawn) * _STEP + 12
    share = 100 * found.products_read / max(total, 1)
    none = max(0, total - found.products_read - found.products_unread)
    return TextField(
        pennants=tuple(
            _text(one, bench, left=100 * axis.share(approximate(one.number or 0)), top=place * _STEP) for place, one in enumerate(drawn)
        ),
        bars=_bars(found, axis),
        height=foot + _BARS,
        foot=foot,
        ticks=tuple((bare.number(exact_of(tick)), 100 * axis.share(tick)) for tick in axis.ticks()),
        scales=scale_choices(axis, address, can_log=(found.read[0].number or 0) > 0),
        share=max(62.0, share),
        none=none,
        none_share=min(38.0, 100 * none / max(total, 1)),
        unread=found.products_unread,
        unread_share=min(38.0, 100 * found.products_unread / max(total, 1)),
    )


def _bars(found: Readings, axis: Axis) -> tuple[tuple[float, int], ...]:
    """Return where the bar of each number stands, with how high it is."""
    by_place: dict[float, int] = {}
    for one in found.read:
        place = round(100 * axis.share(approximate(one.number or 0)), 1)
        by_place[place] = by_place.get(place, 0) + one.products
    highest = max(by_place.values())
    return tuple((place, max(2, round(_BARS * count / highest))) for place, count in by_place.items())


def write_anew(bench: BenchSight, old: str, new: str, *, actor: Any) -> Revision | None:
    """Write a text anew on the products of a listing that say it. Raises BadValue, Refused."""
    source, index = bench.facet.spec.source, bench.sight.held.index
    fields = entries(definitions())
    entry = fields.get(Field("attribute", source.attribute).key if source.origin == "attribute" else "tags")
    if entry is None:
        raise BadValue(_("That attribute is gone. Load the page anew."))
    saying = products_saying(index, source, old, bench.sight.state.products)
    return change_many(entry, REPLACE, (new, old), [index.ids[slot] for slot in saying], actor=actor)


def _found_address(text: str) -> str:
    return reverse("catalogue") + query_string([("q", text)])


def _place(place: Place, bench: BenchSight, total: int) -> PlaceView:
    now = bench.document["source"]
    same = all(now.get(name, "") == place.source.get(name, "") for name in ("from", "attribute", "prefix"))
    text = place.example
    return PlaceView(
        text[: place.start], text[place.start : place.end], text[place.end :], place.where, place.products,
        min(100.0, 100 * place.products / max(total, 1)), same, json.dumps(place.source),
    )  # fmt: skip


def _parts(one: ReadText) -> list[PartView]:
    """Part a text into what can be pointed at and what stands around it."""
    parts, at = [], 0
    for start, end in numbers_in(one.text):
        chosen = one.number is not None and one.start == start
        if start > at:
            parts.append(PartView(one.text[at:start], at, False, False, _("stands before it") if chosen and at == 0 else ""))
        parts.append(PartView(one.text[start:end], start, True, chosen, _("the number") if chosen else ""))
        at = end
    if at < len(one.text):
        parts.append(PartView(one.text[at:], at, False, False))
    return parts


def _text(one: ReadText, bench: BenchSight, *, left: float = 0, top: int = 0) -> TextView:
    said = bench.words.number(one.number or 0)
    number = one.text[one.start : one.end]
    return TextView(
        one.text[: one.start], number, one.text[one.end :], said, bench.words.bare().number(one.number or 0) != number or bool(one.unit),
        one.products, one.text, min(left, 100), top, left > _FLIPPED,
    )  # fmt: skip


def _units(unit: str) -> tuple[str, ...]:
    """Return the units that numbers could be read in: those of the same measure, or all."""
    dimension = KNOWN[unit].dimension if unit in KNOWN else ""
    symbols = {known.symbol: known.dimension for known in KNOWN.values()}
    return tuple(symbol for symbol, own in symbols.items() if not dimension or own == dimension)
