"""Drawing the range bench: bars, flags, ribbons, ticks, and the steps by which cuts are nudged."""

from collections.abc import Sequence
from datetime import date
from fractions import Fraction
from typing import Any

import numpy as np
from babel.dates import format_date
from django.conf import settings
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.insight.axis import LOG, SCALES, Axis, nice
from binsort.core.insight.number_line import LineBar, NumberLine
from binsort.core.values.numbers import Number, written

from .page_address import Address

WIDE = 686  # pixels of the bench on a screen 1280 wide
HIGH = 100  # units of the histogram
FLAG = 62  # pixels that a flag with its figure needs
FLAG_ROWS = 4


def numbers_data(line: NumberLine) -> dict[str, Any]:
    """Return what a page needs to count any range exactly: see :mod:`binsort.core.insight.number_line`."""
    repeats = np.flatnonzero(line.before >= 0)
    return {
        "numbers": [str(number) for number in line.numbers],  # whole numbers, and fractions as two of them
        "starts": line.starts.tolist(),
        "repeats": repeats.tolist(),
        "before": line.before[repeats].tolist(),
    }


def scale_choices(axis: Axis, address: Address, *, can_log: bool) -> tuple[tuple[str, str, str, bool], ...]:
    """Return the ways an axis can go: key, words, address of the page with it, whether it goes so."""
    words = {"even": _("Even"), "roots": _("Square root"), "log": _("Log")}
    usable = [scale for scale in SCALES if scale != LOG or can_log]
    return tuple((scale, words[scale], address(scale=scale), scale == axis.scale) for scale in usable)


def finest(line: NumberLine) -> Number:
    """Return the least step between numbers that are written like those of a line: one in their last decimal."""
    places = max((len(written(number).partition(".")[2]) for number in line.numbers[:5000]), default=0)
    return exact_of(10.0 ** -min(places, 6))


def step_at(axis: Axis, value: float, least: float) -> float:
    """Return the round step by which a cut at a value is nudged: about a hundredth of the axis there."""
    share = axis.share(value)
    span = abs(axis.value(min(1, share + 0.005)) - axis.value(max(0, share - 0.005)))
    return max(least, nice(span, rounded=True)) if span else least


def flag_rows(shares: Sequence[float]) -> list[int]:
    """Return the row of each flag, so that none hides another's figure."""
    ends = [-100.0] * FLAG_ROWS
    rows = []
    for share in shares:
        row = next((place for place, end in enumerate(ends) if end <= share), min(range(FLAG_ROWS), key=ends.__getitem__))
        ends[row] = share + 100 * FLAG / WIDE
        rows.append(row)
    return rows


def bars_path(bars: Sequence[LineBar], count: int, highest: float) -> str:
    """Return the bars as one path over an axis 1,000 wide and a height of 100."""
    parts = []
    for bar in bars:
        height = max(1.2, HIGH * bar.density(count) / highest)
        width = max(1.0, 1000 * (bar.right - bar.left) - 1.6)
        parts.append(f"M{1000 * bar.left + 0.8:.2f} {HIGH}v{-height:.2f}h{width:.2f}v{height:.2f}z")
    return "".join(parts)


def ribbon(left: float, right: float, low: float, high: float) -> str:
    """Return the path from a range on the axis down to its compartment, 1,000 wide and 100 high."""
    a, b, c, d = (10 * value for value in (left, right, low, high))
    return f"M{a:.1f} 0C{a:.1f} 55 {c:.1f} 45 {c:.1f} 100L{d:.1f} 100C{d:.1f} 45 {b:.1f} 55 {b:.1f} 0z"


def lines_of(highest: float) -> list[tuple[float, str]]:
    """Return one or two lines to read the histogram by."""
    step = nice(highest / 2.4, rounded=True)
    steps = [step * number for number in (1, 2) if step * number < highest and step >= 1]
    return [
        (round(100 * height / highest, 2), ngettext("%(count)s product", "%(count)s products", int(height)) % {"count": f"{int(height):,}"})
        for height in steps
    ]


def exact_of(value: float) -> Number:
    number = Fraction(repr(value)) if "e" not in repr(value) else Fraction(value).limit_denominator(10**9)
    return number.numerator if number.denominator == 1 else number


def day_ticks(axis: Axis) -> list[float]:
    """Return beginnings of years, or of months where there are few years."""
    first, last = (date.fromordinal(max(1, int(end))) for end in (axis.low, axis.high))
    years = [date(year, 1, 1).toordinal() for year in range(first.year, last.year + 2)]
    months = [date(year, month, 1).toordinal() for year in range(first.year, last.year + 1) for month in range(1, 13)]
    days = [day for day in (years if last.year - first.year > 2 else months) if axis.low <= day <= axis.high]
    return [float(day) for day in days[:: max(1, len(days) // 9)]]


def year_or_day(ordinal: int) -> str:
    day = date.fromordinal(ordinal)
    return str(day.year) if (day.month, day.day) == (1, 1) else str(format_date(day, "MMM yy", locale=settings.LOCALE))
