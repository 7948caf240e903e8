"""Units of measure: the spellings we know and exact conversion between them.

Factors are those of NIST SP 811 (2008), appendix B, where the unit is defined exactly.
"""

import re
from dataclasses import dataclass
from fractions import Fraction

from .numbers import Number, whole


@dataclass(frozen=True, slots=True)
class Unit:
    """A known unit: its symbol, what it measures, and its size in the base unit of that dimension."""

    symbol: str
    dimension: str
    size: Fraction


# symbol, dimension, size, further spellings
_TABLE: tuple[tuple[str, str, str, str], ...] = (
    ("µm", "length", "0.000001", "μm um micron microns micrometre micrometres micrometer micrometers"),
    ("mm", "length", "0.001", "millimetre millimetres millimeter millimeters MM"),
    ("cm", "length", "0.01", "centimetre centimetres centimeter centimeters CM"),
    ("m", "length", "1", "metre metres meter meters mtr"),
    ("km", "length", "1000", "kilometre kilometres kilometer kilometers"),
    ("in", "length", "0.0254", 'inch inches " ″'),
    ("ft", "length", "0.3048", "foot feet ' ′"),
    ("yd", "length", "0.9144", "yard yards"),
    ("mg", "mass", "0.000001", "milligram milligrams"),
    ("g", "mass", "0.001", "gram grams gramme grammes"),
    ("kg", "mass", "1", "kilogram kilograms kilogramme kilogrammes KG"),
    ("t", "mass", "1000", "tonne tonnes"),
    ("oz", "mass", "0.028349523125", "ounce ounces"),
    ("lb", "mass", "0.45359237", "lbs pound pounds"),
    ("N", "force", "1", "newton newtons Newton"),
    ("daN", "force", "10", "decanewton decanewtons"),
    ("kN", "force", "1000", "kilonewton kilonewtons KN"),
    ("kgf", "force", "9.80665", "kilogram-force"),
    ("tf", "force", "9806.65", "tonne-force tonnes-force"),
    ("lbf", "force", "4.4482216152605", "pound-force"),
    ("ml", "volume", "0.001", "mL millilitre millilitres milliliter milliliters ML"),
    ("cl", "volume", "0.01", "cL centilitre centilitres"),
    ("l", "volume", "1", "L litre litres liter liters ltr"),
    ("mW", "power", "0.001", "milliwatt milliwatts"),
    ("W", "power", "1", "watt watts Watt"),
    ("kW", "power", "1000", "kilowatt kilowatts"),
    ("mV", "voltage", "0.001", "millivolt millivolts"),
    ("V", "voltage", "1", "volt volts Volt"),
    ("kV", "voltage", "1000", "kilovolt kilovolts"),
)

KNOWN: dict[str, Unit] = {
    spelling: Unit(symbol, dimension, Fraction(size))
    for symbol, dimension, size, spellings in _TABLE
    for spelling in (symbol, *spellings.split())
}


def in_words(symbol: str) -> str:
    """Return the name of more than one of a unit, its symbol where it has none.

    >>> in_words("in"), in_words("ft"), in_words("kN"), in_words("tf")
    ('inches', 'feet', 'kilonewtons', 'tonnes-force')
    """
    spellings = next(spellings.split() for own, _dimension, _size, spellings in _TABLE if own == symbol)
    plural = (one for one in spellings if re.fullmatch(r"[a-z]{3,}s(-force)?|feet|[a-z]+-force", one))
    return next((one for one in plural if not one.startswith("tonne-")), symbol)


def same(one: str, other: str) -> bool:
    """Tell whether two spellings name one unit."""
    return one == other or (one in KNOWN and KNOWN.get(one) == KNOWN.get(other))


def convert(number: Number, source: str, target: str) -> Number | None:
    """Convert exactly, None where the units do not convert.

    >>> convert(5, "tonnes-force", "kN")
    Fraction(196133, 4000)
    """
    if same(source, target):
        return number
    one, other = KNOWN.get(source), KNOWN.get(target)
    if one is None or other is None or one.dimension != other.dimension:
        return None
    return whole(Fraction(number) * one.size / other.size)
