"""Sizes: the order of labels that say how large something is, by letters, by words, or by numbers with units."""

import re
from collections.abc import Sequence
from fractions import Fraction

from .amounts import read_amount
from .numbers import Number
from .text import identity, natural_key
from .units import KNOWN, convert

# The ladder of clothing sizes; common practice of the trade.
_WORDS = {"extra small": -2, "x small": -2, "small": -1, "medium": 0, "large": 1, "x large": 2, "extra large": 2, "one size": 99}
_LETTERS = re.compile(r"(?:(\d{1,2})x|(x{0,6}))(s|l)|(m)|(os)")
_NUMBER = re.compile(r"\s*(\d+ \d+/\d+|\d+/\d+|-?\d+(?:[.,]\d+)?)\s*([^\d\s].*)?")


def size_key(label: str, unit: str = "") -> tuple[int, Number] | None:
    """Return what a size sorts by, None for a label that says no size.

    Args:
        label: such as ``M``, ``2XL``, ``Extra large``, ``12 mm`` or ``3/8 in``.
        unit: that numbers with a unit are brought to; those that cannot be, and those without one, stand by their number.

    >>> sorted(["XL", "S", "2XL", "M", "XXS", "L"], key=size_key)
    ['XXS', 'S', 'M', 'L', 'XL', '2XL']
    """
    text = identity(label).replace("-", " ")
    if text in _WORDS:
        return 0, _WORDS[text]
    match = _LETTERS.fullmatch(text.replace(" ", ""))
    if match:
        times, crosses, end, middle, _ = match.groups()
        if middle:
            return 0, 0
        if end is None:
            return 0, 99
        steps = 1 + (int(times) if times else len(crosses))
        return 0, steps if end == "l" else -steps
    return _number_key(text, unit)


def _number_key(text: str, unit: str) -> tuple[int, Number] | None:
    match = _NUMBER.fullmatch(text)
    if match is None:
        return None
    number = _read(match[1])
    if number is None:
        return None
    own = match[2] or ""
    converted = convert(number, own, unit) if unit and own in KNOWN else None
    return 1, number if converted is None else converted


def _read(text: str) -> Number | None:
    if "/" not in text:
        read = read_amount(text)
        return read[0] if read else None
    whole, _, part = text.rpartition(" ")
    above, _, below = part.partition("/")
    return Fraction(int(above), int(below)) + int(whole or 0) if int(below) else None


def by_size(labels: Sequence[str]) -> list[str]:
    """Return labels from the smallest size to the largest; those that say no size follow in natural order.

    >>> by_size(["1 in", "12 mm", "3/8 in", "unknown", "2 cm"])
    ['3/8 in', '12 mm', '2 cm', '1 in', 'unknown']
    """
    units = [match[2] for label in labels if (match := _NUMBER.fullmatch(identity(label))) and match[2] in KNOWN]
    unit = units[0] if units else ""
    keys = {label: size_key(label, unit) for label in labels}
    return sorted(labels, key=lambda label: (keys[label] is None, keys[label] or (0, 0), natural_key(label)))


def are_sizes(labels: Sequence[str]) -> bool:
    """Tell whether most labels say a size: only then is an order by size worth offering."""
    return len(labels) > 1 and sum(size_key(label) is not None for label in labels) * 2 > len(labels)
