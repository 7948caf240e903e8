"""Dates and moments: reading and writing; moments are seconds since the start of year 1, UTC."""

import re
import time
from datetime import date
from fractions import Fraction

from .numbers import MOST_DIGITS, Number, whole, written

_DATE = re.compile(
    r"([0-9]{4})-([0-9]{2})-([0-9]{2})"
    r"(?:T([0-9]{2}):([0-9]{2})(?::([0-9]{2})(?:\.([0-9]+))?)?(Z|[+-][0-9]{2}:[0-9]{2})?)?"
)
SECONDS_OF_DAY = _DAY = 86_400


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


_FIRST, _LAST = date.min.toordinal(), date.max.toordinal()
_AWAY = 86_340  # seconds of the widest offset from UTC


def moment_text(moment: Number, *, end: bool = False) -> str:
    """Write a moment (seconds since the start of year 1, UTC) as :func:`.numbers.instant` reads it.

    >>> moment_text(63_854_006_400), moment_text(63_854_006_400, end=True), moment_text(63_854_006_400 + 43_200)
    ('2024-06-14', '2024-06-13', '2024-06-14T12:00:00Z')
    """
    days, seconds = divmod(moment, _DAY)
    if not seconds and _FIRST <= days - end <= _LAST:
        return date.fromordinal(int(days) - end).isoformat()
    if not _FIRST <= days <= _LAST:  # only by its offset from UTC can it have been within these years
        away, offset = (_AWAY, "-23:59") if days > _LAST else (-_AWAY, "+23:59")
        return date.fromordinal(int((moment - away) // _DAY)).isoformat() + _clock(moment - away) + offset
    return date.fromordinal(int(days)).isoformat() + _clock(moment) + "Z"


def _clock(moment: Number) -> str:
    seconds = moment % _DAY
    whole = int(seconds)
    rest = written(seconds - whole).removeprefix("0") if seconds != whole else ""
    return f"T{whole // 3600:02}:{whole // 60 % 60:02}:{whole % 60:02}{rest}"


def today(now: Number) -> int:
    """Return the ordinal of the day, in UTC, that a moment is on.

    >>> date.fromordinal(today(instant("2024-06-15T00:30:00+01:00"))).isoformat()
    '2024-06-14'
    """
    return int(now // _DAY)


_YEAR_ONE_TO_EPOCH = 719_163 * 86_400  # day ordinal of 1 January 1970


def now_in_seconds() -> Number:
    """Return this moment in whole seconds since the start of year 1, UTC, as :func:`instant` counts."""
    return int(time.time()) + _YEAR_ONE_TO_EPOCH
