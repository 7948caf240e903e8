"""Exact numbers: reading, writing, rounding. Nothing here ever rounds unless asked to."""

import re
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import TypeAlias

Number: TypeAlias = int | Fraction  # integral numbers are always int, so equal numbers are equal objects

MOST_DIGITS = 1000
WRITTEN_PLACES = 12  # decimals of a number that has no finite decimal form

_LITERAL = re.compile(r"(-?)([0-9]+)(?:\.([0-9]+))?(?:[eE]([+-]?[0-9]+))?")
_PLAIN = re.compile(r"-?[0-9]+(?:\.[0-9]+)?")


class TooLong(Exception):
    """A number of more than 1,000 plain digits; it is no value."""


def whole(number: Fraction) -> Number:
    """Return an int where the number is integral."""
    return number.numerator if number.denominator == 1 else number


@lru_cache(maxsize=20_000)
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


@lru_cache(maxsize=20_000)
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


@dataclass(frozen=True, slots=True)
class Unusable:
    """A number of too many digits: given, but no value."""

    reason: str
