"""Amounts: numbers as people write them, with signs for thousands and decimals, and a unit or currency beside them."""

import re
from fractions import Fraction
from functools import lru_cache

from .numbers import Number, TooLong, exact, whole
from .text import normalise
from .units import KNOWN

_NUMBER = re.compile(r"([-−]?[0-9][0-9.,'’ \u00a0\u202f]*)\s*(.*)", re.DOTALL)


@lru_cache(maxsize=50_000)
def read_amount(text: str) -> tuple[Number, str] | None:
    """Read a number with the unit or currency behind or before it, None where it is none.

    The last of point and comma parts the decimals; one that stands before groups of three digits only is for reading.

    >>> read_amount("1.234,5 kg"), read_amount("£12"), read_amount("1,234"), read_amount("0,125 m"), read_amount("M8")
    ((Fraction(2469, 2), 'kg'), (12, '£'), (1234, ''), (Fraction(1, 8), 'm'), None)
    """
    text = normalise(text)
    before = text[:1] if text[:1] in "£$€¥" else ""
    match = _NUMBER.fullmatch(text.removeprefix(before).strip())
    if match is None:
        return None
    digits = re.sub(r"['’\s]", "", match[1]).replace("−", "-")
    unit = match[2].strip() or before
    if unit and unit not in KNOWN and not re.fullmatch(r"[£$€¥%]|[A-Z]{3}", unit):
        return None
    point, comma = digits.rfind("."), digits.rfind(",")
    if point >= 0 and comma >= 0:
        sign = "." if point > comma else ","
        digits = digits.replace("," if sign == "." else ".", "").replace(sign, ".")
    elif comma >= 0:
        grouped = re.fullmatch(r"-?[1-9][0-9]{0,2}(,[0-9]{3})+", digits)
        digits = digits.replace(",", "" if grouped else ".")
    elif digits.count(".") > 1 and re.fullmatch(r"-?[1-9][0-9]{0,2}(\.[0-9]{3})+", digits):
        digits = digits.replace(".", "")
    try:
        return whole(Fraction(exact(digits))), unit
    except (ValueError, TooLong):
        return None
