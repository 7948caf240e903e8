"""Dates as people write them. Whether day or month comes first cannot be told from one date, so it is decided once for all that stand
together, see :func:`day_order`."""

import re
from collections.abc import Iterable
from datetime import date
from functools import lru_cache

DAY_FIRST, MONTH_FIRST = "day", "month"
MONTHS = ("january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december")
_BY_NAME = {name[:length]: number for number, name in enumerate(MONTHS, 1) for length in range(3, len(name) + 1)} | {"sept": 9}
_DIGITS = re.compile(r"([0-9]{1,2})([./-])([0-9]{1,2})\2([0-9]{4}|[0-9]{2})")
_YEAR_FIRST = re.compile(r"([0-9]{4})([./-]?)([0-9]{2})\2([0-9]{2})")
_NAMED = re.compile(r"([0-9]{1,2})(?:st|nd|rd|th)?[ .-]+([a-z]+)[ .,-]+([0-9]{4}|[0-9]{2})")
_NAMED_FIRST = re.compile(r"([a-z]+)[ .]+([0-9]{1,2})(?:st|nd|rd|th)?,? +([0-9]{4})")
_WEEKDAY = re.compile(r"(?:mon|tues?|wed(?:nes)?|thu(?:rs)?|fri|sat(?:ur)?|sun)(?:day)?,? +")
_CENTURY = 69  # two digits up to 68 are years from 2000, as POSIX has it for strptime


@lru_cache(maxsize=50_000)
def read_date(text: str, order: str = DAY_FIRST) -> date | None:
    """Read a date, None for what is none, or for one that this order does not allow.

    Args:
        text: as written: ``2021-03-31``, ``31/03/2021``, ``31.3.21``, ``31 March 2021``, ``Mar 31, 2021``.
        order: which of day and month comes first where both are numbers.

    >>> read_date("31/03/2021"), read_date("6/30/2024", "month"), read_date("30 June 2024"), read_date("6/30/2024")
    (datetime.date(2021, 3, 31), datetime.date(2024, 6, 30), datetime.date(2024, 6, 30), None)
    """
    plain = _WEEKDAY.sub("", " ".join(text.lower().split()), count=1)
    if match := _YEAR_FIRST.fullmatch(plain):
        return _date(match[1], match[3], match[4])
    if match := _DIGITS.fullmatch(plain):
        day, month = (match[1], match[3]) if order == DAY_FIRST else (match[3], match[1])
        return _date(match[4], month, day)
    if match := _NAMED.fullmatch(plain):
        return _date(match[3], _BY_NAME.get(match[2], 0), match[1])
    if match := _NAMED_FIRST.fullmatch(plain):
        return _date(match[3], _BY_NAME.get(match[1], 0), match[2])
    return None


def day_order(texts: Iterable[str]) -> str:
    """Return which of day and month comes first in dates that stand together, empty where none of them tells.

    >>> day_order(["03/04/2024", "31/03/2021"]), day_order(["1/2/2024", "6/30/2024"]), day_order(["1/2/2024"])
    ('day', 'month', '')
    """
    told = {DAY_FIRST: 0, MONTH_FIRST: 0}
    for text in texts:
        match = _DIGITS.fullmatch(text.strip())
        if match and int(match[1]) > 12 >= int(match[3]):
            told[DAY_FIRST] += 1
        elif match and int(match[3]) > 12 >= int(match[1]):
            told[MONTH_FIRST] += 1
        elif match and match[2] == ".":
            told[DAY_FIRST] += 1  # no country writes the month first with points
    return max(told, key=lambda order: told[order]) if any(told.values()) else ""


def said_date(written: date, *, brief: bool = False) -> str:
    """Write a date so that nobody takes its month for its day.

    >>> said_date(date(2021, 3, 31)), said_date(date(2021, 3, 31), brief=True)
    ('31 March 2021', '31 Mar 2021')
    """
    month = MONTHS[written.month - 1].capitalize()
    return f"{written.day} {month[:3] if brief else month} {written.year}"


def _date(year: str, month: str | int, day: str) -> date | None:
    number = int(year) if len(year) == 4 else int(year) + (2000 if int(year) < _CENTURY else 1900)
    try:
        return date(number, int(month), int(day))
    except ValueError:
        return None
