"""Amounts: numbers as people write them, with signs for thousands and decimals, and a unit or currency beside them.

Which sign parts the decimals cannot always be told from one number: ``12,500`` is twelve thousand five hundred to some
and twelve and a half to others. It is decided once for all numbers that stand together, see :func:`decimal_sign`.
"""

import re
from collections import Counter
from collections.abc import Iterable
from fractions import Fraction
from functools import lru_cache

from .numbers import Number, TooLong, exact, whole, written
from .text import normalise
from .units import KNOWN

POINT, COMMA = ".", ","
_OTHER = {POINT: COMMA, COMMA: POINT}
_NUMBER = re.compile(r"([-−]?)\s*(\D*?)\s*([-−]?[0-9][0-9.,'’ \u00a0\u202f]*)\s*(.*)", re.DOTALL)
_CODES = "GBP USD EUR JPY CHF SEK NOK DKK ISK PLN CZK HUF RON BGN TRY CAD AUD NZD CNY HKD SGD INR KRW ZAR BRL MXN ILS AED"
_SIGNS = {
    "£": "GBP", "$": "USD", "€": "EUR", "¥": "JPY", "US$": "USD", "A$": "AUD", "C$": "CAD", "zł": "PLN", "Kč": "CZK", "Fr.": "CHF",
}  # fmt: skip
CURRENCIES = {**_SIGNS, **{code: code for code in _CODES.split()}}  # signs and codes (ISO 4217) that stand beside an amount
KRONE = ("kr", "kr.", ":-")  # of several countries
_BLANKS = re.compile(r"[\s'’]")
_BY_BLANKS = re.compile(r"[-−]?[0-9]{1,3}([\s'’][0-9]{3})+([.,][0-9]*)?")
_GROUPED = {sign: re.compile(rf"-?[1-9][0-9]{{0,2}}({re.escape(sign)}[0-9]{{3}})+") for sign in (POINT, COMMA)}


@lru_cache(maxsize=50_000)
def read_amount(text: str, decimal: str = "") -> tuple[Number, str] | None:
    """Read a number with the unit or currency behind or before it, None where it is none.

    Args:
        text: as written.
        decimal: the sign that parts decimals; empty to go by this number alone, where one comma before three digits
            groups thousands.

    >>> read_amount("1.234,5 kg"), read_amount("£12"), read_amount("1,234"), read_amount("0,125 m"), read_amount("M8")
    ((Fraction(2469, 2), 'kg'), (12, '£'), (1234, ''), (Fraction(1, 8), 'm'), None)
    >>> read_amount("CHF 12"), read_amount("12 kr"), read_amount("-£5"), read_amount("£-5.50")
    ((12, 'CHF'), (12, 'kr'), (-5, '£'), (Fraction(-11, 2), '£'))
    >>> read_amount("12,500", ","), read_amount("12.500", ","), read_amount("12.50", ",")
    ((Fraction(25, 2), ''), (12500, ''), None)
    """
    parted = _parted(text)
    if parted is None:
        return None
    digits, unit = parted
    mark = decimal or _mark_of(digits) or POINT  # alone, 1,234 is grouped and 1.234 is not
    before, _, after = digits.partition(mark)
    group = _OTHER[mark]
    if mark in after or group in after or (group in before and not _GROUPED[group].fullmatch(before)):
        return None
    try:
        return whole(Fraction(exact(f"{before.replace(group, '')}.{after or '0'}"))), unit
    except (ValueError, TooLong):
        return None


def decimal_sign(texts: Iterable[str]) -> str:
    """Return the sign that parts the decimals of numbers that stand together, empty where none of them tells.

    Where some tell one and some the other, the one that more of them tell: the others cannot be read then.

    >>> decimal_sign(["0,750", "12,500"]), decimal_sign(["12,500"]), decimal_sign(["3.450,00"]), decimal_sign(["1,234,567"])
    (',', '', ',', '.')
    """
    told = Counter(mark for text in texts if (parted := _parted(text)) and (mark := _mark_of(parted[0])))
    return max(told, key=lambda mark: (told[mark], mark == POINT)) if told else ""


def is_unclear(text: str) -> bool:
    """Tell whether a number by itself could be read in two ways.

    >>> is_unclear("1,299"), is_unclear("1.299"), is_unclear("12.50"), is_unclear("1299")
    (True, True, False, False)
    """
    parted = _parted(text)
    return parted is not None and (POINT in parted[0] or COMMA in parted[0]) and not _mark_of(parted[0])


def said_amount(number: Number) -> str:
    """Write a number with commas between thousands, for showing how one was read.

    >>> said_amount(3450), said_amount(Fraction("1234.5"))
    ('3,450', '1,234.5')
    """
    before, point, after = written(number).partition(".")
    return f"{'-' if number < 0 else ''}{abs(int(before)):,}{point}{after}"


def _parted(text: str) -> tuple[str, str] | None:
    """Return the digits with their signs and the unit, None for what is no number."""
    match = _NUMBER.fullmatch(normalise(text))
    if match is None:
        return None
    sign, before, digits, behind = match[1], match[2], match[3], match[4].strip()
    if (before and (behind or not _is_currency(before))) or (sign and digits[0] in "-−"):
        return None
    if _BLANKS.search(digits.strip()) and not _BY_BLANKS.fullmatch(digits.strip()):
        return None  # two numbers, or a date
    unit = behind or before
    if unit and unit not in KNOWN and unit != "%" and not _is_currency(unit) and not re.fullmatch(r"[A-Z]{3}", behind):
        return None
    return ("-" if sign else "") + re.sub(r"['’\s]", "", digits).replace("−", "-"), unit


def _is_currency(text: str) -> bool:
    return text in CURRENCIES or text in KRONE


def _mark_of(digits: str) -> str:
    """Return the sign for decimals that a number tells by itself, empty where it tells none."""
    last = max((POINT, COMMA), key=digits.rfind)
    if last not in digits:
        return ""
    if _OTHER[last] in digits:
        return last
    if digits.count(last) > 1:
        return _OTHER[last]  # it groups thousands
    return "" if _GROUPED[last].fullmatch(digits) else last
