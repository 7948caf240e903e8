"""Presenting: facets in the words, numbers and colours that people see. Shop and workbench use the same."""

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from functools import lru_cache
from typing import Any

from babel.dates import format_date
from babel.numbers import format_currency, format_decimal, get_currency_symbol
from django.conf import settings
from django.utils.translation import gettext as _

from binsort.core.answers.answer import BinAnswer, FacetAnswer, State
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import DAYS, MONEY, RATED, kind_of
from binsort.core.facets.spec import FacetSpec, Range
from binsort.core.index.bins import Bin
from binsort.core.insight.vessels import Axis, Bar, Histogram, histogram
from binsort.core.values.colours import CLEAR, swatch
from binsort.core.values.numbers import Number, approximate, plain, written
from binsort.core.values.text import identity

from .controls import Control, control_of

SHOWN_BINS = 8  # before "show more"
SLIDER_BARS = 40
DEEPEST = 8  # levels below the topmost category by which a choice is set in


@dataclass(frozen=True, slots=True)
class Swatch:
    """One to three colours, or a sign that there is no colour to show."""

    colours: tuple[str, ...]
    clear: bool

    @property
    def is_dark(self) -> bool:
        """Whether a white tick can be read on it (relative luminance of WCAG 2)."""
        return bool(self.colours) and _luminance(self.colours[0]) < 0.3


def _luminance(colour: str) -> float:
    parts = [int(colour[place : place + 2], 16) / 255 for place in (1, 3, 5)]
    red, green, blue = (part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


@dataclass(frozen=True, slots=True)
class Choice:
    """A bin as shown to a shopper."""

    key: str
    label: str
    count: int
    picked: bool
    enabled: bool
    swatch: Swatch | None = None
    stars: str = ""  # of five, as a number
    indent: int = 0  # levels below the topmost category shown


@dataclass(frozen=True, slots=True)
class RangeControl:
    """The two ends that a shopper may set freely."""

    low: str  # the bounds
    high: str
    start: str  # what is picked, empty for open
    end: str
    prefix: str
    suffix: str
    said: tuple[str, str]  # the ends in words: what is picked, else the bounds
    bars: tuple["ShownBar", ...] = ()
    anchors: str = ""  # of a slider: JSON, pairs of hundredths and numbers


@dataclass(frozen=True, slots=True)
class ShownBar:
    """A bar of a histogram, in a box as wide as there are steps and ``BAR_HEIGHT`` high."""

    step: int
    steps: int
    top: float
    height: float
    inside: bool


BAR_HEIGHT = 30


@dataclass(frozen=True, slots=True)
class Shown:
    """A facet as shown to a shopper."""

    key: str
    label: str
    control: Control
    one: bool
    counts: bool
    open: bool
    choices: tuple[Choice, ...]
    range: RangeControl | None
    picked: int
    limit: int

    @property
    def first(self) -> tuple[Choice, ...]:
        """The choices before "show more": the first ones, and all that are picked."""
        return tuple(choice for place, choice in enumerate(self.choices) if place < self.limit or choice.picked)

    @property
    def more(self) -> tuple[Choice, ...]:
        """The choices behind "show more"."""
        return tuple(choice for place, choice in enumerate(self.choices) if place >= self.limit and not choice.picked)


@dataclass(frozen=True, slots=True)
class Words:
    """How numbers of a facet are written: money, a unit, or plain."""

    written: str  # of binsort.core.facets.kinds
    unit: str
    currency: str
    says_itself: bool = False  # its bins need no reason

    def bare(self) -> "Words":
        """Return how the same numbers are written with neither unit nor currency."""
        return Words(self.written, "", "")

    def without_unit(self) -> "Words":
        """Return how the same numbers are written without their unit."""
        return Words(self.written, "", self.currency)

    def number(self, number: Number) -> str:
        """Write one number with its unit."""
        if self.written == DAYS:
            return _days(number, number, inclusive=True).partition("–")[0]
        if self.written == MONEY and self.currency:
            return money(number, self.currency, short=True)
        text = _out_of_reach(number) or _decimal(written(number), settings.LOCALE)
        return f"{text} {self.unit}" if self.unit and self.written != RATED else str(text)

    def range(self, low: Number | None, high: Number | None, *, inclusive: bool) -> str:
        """Say a range in words, the unit once."""
        if self.written == DAYS:
            return _days(low, high, inclusive=inclusive)
        if low is None:
            words = _("up to %(high)s") if inclusive else _("under %(high)s")
            return words % {"high": self.number(high or 0)}
        if high is None:
            return _("%(low)s and over") % {"low": self.number(low)}
        if self.written == RATED:
            return _("%(low)s to %(high)s") % {"low": self.number(low), "high": self.number(high)}
        first = self.number(low) if self.written == MONEY else self.bare().number(low)
        return f"{first}–{self.number(high)}"


def _out_of_reach(number: Number) -> str:
    """Return numbers too long to be read, or for the formatter, in short; empty for all others."""
    return f"{approximate(number):.4g}" if number >= 10**15 or number <= -(10**15) else ""


def _date(ordinal: Number | None) -> date | None:
    return None if ordinal is None else date.fromordinal(int(ordinal))


def _days(low: Number | None, high: Number | None, *, inclusive: bool) -> str:
    """Say a range of days in words, whole years by their number."""
    first, last = _date(low), _date(high)
    years = all(end is None or (end.month, end.day) == (1, 1) for end in (first, last)) and not inclusive

    def in_words(end: date) -> str:
        return str(end.year) if years else str(format_date(end, "d MMM y", locale=settings.LOCALE))

    if first is None:
        if last is None:
            return _("any day")
        return (_("until %(day)s") if inclusive else _("before %(day)s")) % {"day": in_words(last)}
    if last is None:
        return _("%(day)s and later") % {"day": in_words(first)}
    if years and last.year == first.year + 1:
        return in_words(first)
    return f"{in_words(first)}–{in_words(last if inclusive or not years else last.replace(year=last.year - 1))}"


def money(number: Number, currency: str, *, short: bool = False) -> str:
    """Write an amount; ``short`` leaves out pence that are nought."""
    currency = currency or settings.CURRENCY
    if far := _out_of_reach(number):
        return f"{currency} {far}"
    return _money(written(number), currency, short, settings.LOCALE)


@lru_cache(maxsize=20_000)
def _money(text: str, currency: str, short: bool, locale: str) -> str:
    """Write an amount once; prices come again and again, and formatting them takes long."""
    amount = Decimal(text)
    is_whole = short and amount == int(amount)
    pattern = "¤#,##0" if is_whole else None
    return str(format_currency(amount, currency, pattern, locale=locale, currency_digits=not is_whole))


def money_sign(currency: str) -> str:
    """Return the sign of a currency, or its code where there is none."""
    return _sign(currency or settings.CURRENCY, settings.LOCALE)


@lru_cache(maxsize=200)
def _sign(currency: str, locale: str) -> str:
    return str(get_currency_symbol(currency, locale=locale))


@lru_cache(maxsize=20_000)
def _decimal(text: str, locale: str) -> str:
    return str(format_decimal(Decimal(text), locale=locale, decimal_quantization=False))


def bare_money(number: Number, currency: str, *, short: bool = False) -> str:
    """Write an amount without the sign of its currency, which stands elsewhere."""
    return money(number, currency, short=short).replace(money_sign(currency), "").strip()


def words_of(facet: Facet, unit: str, currency: str) -> Words:
    """Return how a facet's numbers are written."""
    kind = kind_of(facet.spec.source.kind)
    return Words(kind.written, unit, currency, kind.says_itself)


def bin_words(bin: Bin, words: Words) -> str:
    """Return a bin's name: its own label, a range in words, a number with its unit."""
    if bin.range is not None and bin.label == bin.key:
        return words.range(bin.range.low, bin.range.high, inclusive=_said_inclusive(bin.range))
    if bin.least is not None and bin.label == written(bin.least) and words.unit:
        return words.number(bin.least)
    return bin.label


def _said_inclusive(bounds: Range) -> bool:
    return bounds.low is None and bounds.high_inclusive


def bin_swatch(look: Mapping[str, Any], bin: Bin) -> Swatch:
    """Return the colours of a bin: those set for it, else those its words name."""
    own = look.get("swatches", {}).get(bin.label)
    return Swatch(tuple(own) if own else swatch(bin.label), identity(bin.label) in CLEAR)


def shown(state: State, facet: Facet, answer: FacetAnswer, look: Mapping[str, Any], words: Words) -> Shown:
    """Return a facet as a shopper sees it under the picks of a state; a slider stands on what the other picks leave."""
    spread = None
    if facet.spec.free and control_of(look).is_range:
        spread = histogram(state, facet, state.left.without(facet.spec.key).products, bars=SLIDER_BARS)
    return _present(facet, answer, look, words, spread)


def _present(facet: Facet, answer: FacetAnswer, look: Mapping[str, Any], words: Words, spread: Histogram | None) -> Shown:
    spec = facet.spec
    choices = tuple(
        replace(_choice(facet.by_key[counted.key], counted, look, words), indent=min(indent, DEEPEST))
        for counted, indent in _drawn(facet, answer, look)
    )
    return Shown(
        key=spec.key,
        label=spec.label,
        control=control_of(look),
        one=spec.pick == "one",
        counts=look.get("counts", True) is not False,
        open=look.get("open", True) is not False,
        choices=choices,
        range=_range_control(spec, answer, words, spread) if spec.free else None,
        picked=sum(choice.picked for choice in choices) + len(answer.free),
        limit=look.get("limit") or SHOWN_BINS,
    )


def _drawn(facet: Facet, answer: FacetAnswer, look: Mapping[str, Any]) -> Iterator[tuple[BinAnswer, int]]:
    """Yield the bins to be drawn with their indent; of categories as many levels as ``look`` says, and all that are picked."""
    depths = {counted.key: len(facet.by_key[counted.key].nodes) for counted in answer.bins}
    top = min(depths.values(), default=0)
    levels = look.get("levels") or 1 + max(depths.values(), default=0)
    for counted in answer.bins:
        if counted.shown and (depths[counted.key] - top < levels or counted.picked):
            yield counted, depths[counted.key] - top


def _choice(bin: Bin, counted: BinAnswer, look: Mapping[str, Any], words: Words) -> Choice:
    control = control_of(look)
    low = bin.range.low if bin.range else None
    return Choice(
        counted.key,
        bin_words(bin, words),
        counted.count,
        counted.picked,
        counted.enabled,
        swatch=bin_swatch(look, bin) if control.has_colours else None,
        stars=written(low) if control.has_stars and low is not None else "",
    )


def _range_control(spec: FacetSpec, answer: FacetAnswer, words: Words, spread: Histogram | None) -> RangeControl | None:
    start, end, _ = answer.free[-1] if answer.free else (None, None, 0)
    if answer.bounds is None and not answer.free:
        return None
    low, high = answer.bounds or (start or end or "0", end or start or "0")
    sign = ""
    if words.written == MONEY:
        sign = money(0, words.currency, short=True).replace("0", "")
    return RangeControl(
        low,
        high,
        start or "",
        end or "",
        sign,
        "" if sign or words.written == RATED else words.unit,
        said=(_said_end(start or low, words), _said_end(end or high, words)),
        bars=tuple(_shown_bars(spread.bars)) if spread else (),
        anchors=_anchors(spread.axis) if spread else "",
    )


def _said_end(text: str, words: Words) -> str:
    number = date.fromisoformat(text).toordinal() if words.written == DAYS else plain(text)
    return words.number(number or 0)


def _shown_bars(bars: Sequence[Bar]) -> Iterator[ShownBar]:
    highest = max(bar.total for bar in bars)
    for bar in bars:
        height = max(1.0, BAR_HEIGHT * bar.total / highest) if bar.total else 0.0
        yield ShownBar(bar.step, bar.steps, round(BAR_HEIGHT - height, 2), round(height, 2), bar.inside > 0)


def _anchors(axis: Axis) -> str:
    """Return points through which a slider goes, so that its handles stand where the bars do."""
    steps = 20 if axis.by_roots else 1
    return json.dumps([[round(100 * step / steps, 4), axis.value(step / steps)] for step in range(steps + 1)])
