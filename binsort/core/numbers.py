"""Exact numbers and dates: reading, writing, rounding. Nothing here ever rounds unless asked to."""

import re
from datetime import date
from fractions import Fraction
from functools import lru_cache
from typing import TypeAlias

Number: TypeAlias = int | Fraction  # integral numbers are always int, so equal numbers are equal objects

MOST_DIGITS = 1000
WRITTEN_PLACES = 12  # decimals of a number that has no finite decimal form

_LITERAL = re.compile(r"(-?)([0-9]+)(?:\.([0-9]+))?(?:[eE]([+-]?[0-9]+))?")
_PLAIN = re.compile(r"-?[0-9]+(?:\.[0-9]+)?")
_DATE = re.compile(
    r"([0-9]{4})-([0-9]{2})-([0-9]{2})"
    r"(?:T([0-9]{2}):([0-9]{2})(?::([0-9]{2})(?:\.([0-9]+))?)?(Z|[+-][0-9]{2}:[0-9]{2})?)?"
)
_DAY = 86_400


class TooLong(Exception):
    """A number of more than 1,000 plain digits; it is no value."""


def whole(number: Fraction) -> Number:
    """Return an int where the number is integral."""
    return number.numerator if number.denominator == 1 else number


@lru_cache(maxsize=100_000)
def exact(literal: str) -> Number:
    """Read a JSON number literal exactly.

    >>> exact("24.50"), exact("7.0"), exact("1e1")
    (Fraction(49, 2), 7, 10)

    Raises:
        ValueError: the text is no number.
        TooLong: its plain form has more than 1,000 digits.
    """
    match = _LITERAL.fullmatch(literal)
    if match is None:
        raise ValueError(literal)
    sign, before, after, power = match.groups()
    digits = (before + (after or "")).lstrip("0")
    if not digits:
        return 0
    shift = _bounded(power or "0") - len(after or "")
    significant = digits.rstrip("0")
    shift += len(digits) - len(significant)
    if max(1, len(significant) + shift) + max(0, -shift) > MOST_DIGITS:
        raise TooLong(literal[:40])
    value = int(sign + significant)
    return value * 10**shift if shift >= 0 else whole(Fraction(value, 10**-shift))


def _bounded(power: str) -> int:
    """Read an exponent, cut off far beyond any that could still give 1,000 digits."""
    digits = power.lstrip("+-").lstrip("0")
    size = int(digits or "0") if len(digits) < 10 else 10**10
    return -size if power.startswith("-") else size


def plain(text: str) -> Number | None:
    """Read ``-?digits[.digits]``, else None. Raises TooLong."""
    return exact(text) if _PLAIN.fullmatch(text) else None


def half_up(number: Number, places: int) -> Number:
    """Round half up, towards +∞.

    >>> half_up(Fraction("4.25"), 1), half_up(Fraction("-4.25"), 1)
    (Fraction(43, 10), Fraction(-21, 5))
    """
    scale = 10**places
    above, below = number.numerator, number.denominator
    return whole(Fraction((2 * scale * above + below) // (2 * below), scale))


def written(number: Number) -> str:
    """Write a number in its shortest plain form.

    >>> written(Fraction("0.50")), written(Fraction(1, 3)), written(-5)
    ('0.5', '0.333333333333', '-5')
    """
    return str(number) if isinstance(number, int) else _written(number.numerator, number.denominator)


@lru_cache(maxsize=100_000)
def _written(above: int, below: int) -> str:
    """Write a fraction; taken apart, because a Fraction is slow to find in a cache."""
    places = _finite_places(below)
    if places is None:
        rounded = half_up(Fraction(above, below), WRITTEN_PLACES)
        if isinstance(rounded, int):
            return str(rounded)
        above, below, places = rounded.numerator, rounded.denominator, WRITTEN_PLACES
    digits = str(abs(above) * 10**places // below).rjust(places + 1, "0")
    sign = "-" if above < 0 else ""
    return f"{sign}{digits[:-places]}.{digits[-places:]}".rstrip("0").rstrip(".")


def _finite_places(denominator: int) -> int | None:
    """Return how many decimals write a fraction exactly, None where no number of them does."""
    twos = fives = 0
    while denominator % 2 == 0:
        denominator, twos = denominator // 2, twos + 1
    while denominator % 5 == 0:
        denominator, fives = denominator // 5, fives + 1
    return max(twos, fives) if denominator == 1 else None


def approximate(number: Number) -> float:
    """Return a float near a number, for drawing only; beyond what a float holds, its end."""
    try:
        return float(number)
    except OverflowError:
        return 1e300 if number > 0 else -1e300


def day(text: str) -> date | None:
    """Read the date as written of an ISO 8601 date or date-time, None for all else.

    >>> day("2024-06-30T23:30-02:00")
    datetime.date(2024, 6, 30)
    """
    parsed = _moment(text)
    return parsed[0] if parsed else None


def instant(text: str, *, end: bool = False) -> Number | None:
    """Read a moment as exact seconds since the start of year 1, UTC.

    A bare date is its start, or with ``end`` the start of the day after. None for all else.
    """
    parsed = _moment(text)
    if parsed is None:
        return None
    written_day, seconds = parsed
    if seconds is None:
        return (written_day.toordinal() + end) * _DAY
    return written_day.toordinal() * _DAY + seconds


def _moment(text: str) -> tuple[date, Number | None] | None:
    match = _DATE.fullmatch(text)
    if match is None:
        return None
    year, month, dom, hour, minute, second, fraction, offset = match.groups()
    try:
        written_day = date(int(year), int(month), int(dom))
    except ValueError:
        return None
    if hour is None:
        return written_day, None
    if int(hour) > 23 or int(minute) > 59 or int(second or 0) > 59:
        return None
    away = _offset(offset or "Z")
    if away is None:
        return None
    part = whole(Fraction(int(fraction[:MOST_DIGITS]), 10 ** len(fraction[:MOST_DIGITS]))) if fraction else 0
    return written_day, int(hour) * 3600 + int(minute) * 60 + int(second or 0) + part - away


def _offset(text: str) -> int | None:
    if text == "Z":
        return 0
    hours, minutes = int(text[1:3]), int(text[4:6])
    if hours > 23 or minutes > 59:
        return None
    return (-1 if text[0] == "-" else 1) * (hours * 3600 + minutes * 60)
