"""Words for numbers: money, units, days and ranges as people read them, by the locale and the way a facet asks for."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from decimal import Decimal
from functools import lru_cache
from typing import Any

from babel.dates import format_date
from babel.numbers import format_currency, format_decimal, get_currency_symbol, get_decimal_symbol, get_group_symbol
from django.conf import settings
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import AGE, DAYS, MONEY, RATED, kind_of
from binsort.core.facets.spec import Range
from binsort.core.index.bins import Bin
from binsort.core.values.numbers import Number, approximate, half_up, plain, written

MOST_DECIMALS = 6


@dataclass(frozen=True, slots=True)
class NumberStyle:
    """What a facet's look says of how its numbers are written; what it leaves open is as usual."""

    prefix: str | None = None
    suffix: str | None = None
    decimals: int | None = None
    grouped: bool = True
    point: str = ""  # empty: as the locale has it
    group: str = ""

    @classmethod
    def of(cls, look: Mapping[str, Any]) -> "NumberStyle":
        """Read the ``numbers`` of a look; whatever cannot be used counts as not said."""
        said = look.get("numbers")
        if not isinstance(said, dict):
            return cls()
        decimals = said.get("decimals")
        usable = isinstance(decimals, int) and not isinstance(decimals, bool) and 0 <= decimals <= MOST_DECIMALS
        prefix, suffix = (said[name] if isinstance(said.get(name), str) else None for name in ("prefix", "suffix"))
        signs = (str(said[name]) if isinstance(said.get(name), str) else "" for name in ("point", "group"))
        return cls(prefix, suffix, decimals if usable else None, said.get("grouped", True) is not False, *signs)

    @property
    def signs(self) -> tuple[str, str]:
        """The decimal sign and what stands between thousands, empty for nothing; as the locale has them where nothing is said."""
        point = self.point or get_decimal_symbol(settings.LOCALE)
        group = self.group or get_group_symbol(settings.LOCALE)
        if group == point:
            group = "." if point == "," else ","
        return point, group if self.grouped else ""


@dataclass(frozen=True, slots=True)
class Words:
    """How numbers of a facet are written: money, a unit, or plain."""

    written: str  # of binsort.core.facets.kinds
    unit: str
    currency: str
    says_itself: bool = False  # its bins need no reason
    style: NumberStyle = NumberStyle()
    labels: Mapping[str, str] = field(default_factory=dict)  # of bins by their keys, in place of their own words
    is_brief: bool = False  # of two numbers only a dash between

    def bare(self) -> "Words":
        """Return how the same numbers are written with neither unit nor currency."""
        return replace(self, unit="", currency="", is_brief=True, style=replace(self.style, prefix="", suffix=""))

    def brief(self) -> "Words":
        """Return how the same ranges are written where there is little room."""
        return replace(self, is_brief=True)

    def without_unit(self) -> "Words":
        """Return how the same numbers are written without their unit."""
        return replace(self, unit="", is_brief=True, style=replace(self.style, suffix="" if self.style.suffix else self.style.suffix))

    def number(self, number: Number) -> str:
        """Write one number with its unit."""
        if self.written == DAYS:
            return _days(number, number, inclusive=True).partition("–")[0]
        if self.written == AGE:
            return ngettext("%(count)s day", "%(count)s days", int(number)) % {"count": f"{int(number):,}"}
        style = self.style
        if self.written == MONEY and self.currency and style == NumberStyle():
            return money(number, self.currency, short=True)
        prefix, suffix = self.signs
        if style.decimals is not None:
            number = half_up(number, style.decimals)
        text = _out_of_reach(number) or _decimal(written(number), style.decimals, style.signs)
        return f"{prefix or ''}{text}{suffix}"

    @property
    def signs(self) -> tuple[str, str]:
        """What stands before a number and behind it: as the style has it, else the sign of money, else the unit."""
        prefix, suffix = self.style.prefix, self.style.suffix
        if self.written == MONEY and self.currency and prefix is None and suffix is None:
            prefix = money_sign(self.currency)
        if suffix is None:
            suffix = f" {self.unit}" if self.unit and self.written != RATED else ""
        return prefix or "", suffix

    def boxed(self, text: str) -> str:
        """Write an end that stands in a box, plain in an address, with the decimals and the decimal sign of its style."""
        number = plain(text) if text and self.written not in (DAYS, AGE) else None
        if number is None:
            return text
        if self.written == MONEY and self.style.decimals is None and number != int(number) and number == half_up(number, 2):
            return replace(self, style=replace(self.style, decimals=2)).boxed(text)
        if self.style.decimals is None and not self.style.point:
            return text
        if self.style.decimals is not None and number != half_up(number, self.style.decimals):
            return text
        return _decimal(written(number), self.style.decimals, replace(self.style, grouped=False).signs)

    def range(self, low: Number | None, high: Number | None, *, inclusive: bool) -> str:
        """Say a range in words, the unit once."""
        if self.written == DAYS:
            return _days(low, high, inclusive=inclusive)
        if self.written == AGE:
            return _ages(low, high, inclusive=inclusive)
        if low is None:
            words = _("up to %(high)s") if inclusive else _("under %(high)s")
            return words % {"high": self.number(high or 0)}
        if high is None:
            return _("%(low)s and above") % {"low": self.number(low)}
        if self.written in (RATED, MONEY) and not self.is_brief:
            return _("%(low)s to %(high)s") % {"low": self.opening().number(low), "high": self.number(high)}
        return f"{self.opening().number(low)}–{self.number(high)}"

    def opening(self) -> "Words":
        """Return how the first number of two is written: what stands before it, not what stands behind."""
        style = replace(self.style, suffix="") if self.style.suffix else self.style
        return replace(self, unit="", style=style)


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


def _ages(low: Number | None, high: Number | None, *, inclusive: bool) -> str:
    """Say a range of days ago in words."""

    def days(count: Number) -> str:
        return ngettext("%(count)s day", "%(count)s days", int(count)) % {"count": f"{int(count):,}"}

    if low is None:
        last = (high or 0) if inclusive else (high or 0) - 1
        return _("in the last %(days)s") % {"days": days(last)}
    if high is None:
        return _("%(days)s ago and longer") % {"days": days(low)}
    return _("%(low)s to %(high)s ago") % {"low": f"{int(low):,}", "high": days(high if inclusive else high - 1)}


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
def _decimal(text: str, decimals: int | None, signs: tuple[str, str]) -> str:
    """Write a plain number with its signs: the decimal sign, and what stands between thousands."""
    pattern = "#,##0.####################" if decimals is None else f"#,##0{'.' if decimals else ''}{'0' * decimals}"
    english = str(format_decimal(Decimal(text), pattern, locale="en", decimal_quantization=decimals is not None))
    return english.translate({ord(","): signs[1], ord("."): signs[0]})


def bare_money(number: Number, currency: str, *, short: bool = False) -> str:
    """Write an amount without the sign of its currency, which stands elsewhere."""
    return money(number, currency, short=short).replace(money_sign(currency), "").strip()


def words_of(facet: Facet, unit: str, currency: str, look: Mapping[str, Any]) -> Words:
    """Return how a facet's numbers are written, and what its bins are called, as its look says."""
    kind = kind_of(facet.spec.source.kind)
    labels = look.get("labels")
    own = {key: label for key, label in labels.items() if isinstance(label, str)} if isinstance(labels, dict) else {}
    sign = currency or settings.CURRENCY if kind.written == MONEY else currency
    return Words(kind.written, unit, sign, kind.says_itself, NumberStyle.of(look), own)


def bin_words(bin: Bin, words: Words) -> str:
    """Return a bin's name: what it is called by hand, its own label, a range in words, a number with its unit."""
    if bin.key in words.labels:
        return words.labels[bin.key]
    if bin.range is not None and bin.label == bin.key:
        return words.range(bin.range.low, bin.range.high, inclusive=_said_inclusive(bin.range))
    if bin.least is not None and bin.label == written(bin.least) and (words.unit or words.written == AGE or words.style != NumberStyle()):
        return words.number(bin.least)
    return bin.label


def _said_inclusive(bounds: Range) -> bool:
    return bounds.low is None and bounds.high_inclusive
