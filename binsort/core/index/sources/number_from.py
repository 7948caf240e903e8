"""Numbers hidden in tags, or in the values of an attribute."""

import re
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from binsort.core.facets.kinds import MEASURED, SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import TAG, FieldKey
from binsort.core.index.columns import PRODUCT, Value
from binsort.core.index.facts import Facts
from binsort.core.products.product import Property, Written
from binsort.core.values.numbers import Number, TooLong, Unusable, exact, whole
from binsort.core.values.text import normalise
from binsort.core.values.units import KNOWN

from .attribute_fields import attribute_fields, attribute_level, converted, first_unit, own_unit
from .source_reader import Circumstances, SourceReader, Units

READING = re.compile(r"((?:([0-9]+) )?([0-9]+)/([0-9]+)|-?[0-9]+(?:\.[0-9]+)?)(?: ?(\S.*))?", re.DOTALL)


class NumberFrom(SourceReader):
    """Reads the number in each tag, or value of an attribute."""

    kind = register(
        SourceKind(
            name="number_from",
            properties=frozenset({"from", "attribute", "prefix", "unit"}),
            has_numbers=True,
            written=MEASURED,
            group="text",
        )
    )

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return attribute_fields(source) if source.origin == "attribute" else (TAG,)

    def level(self, facts: Facts, source: Source) -> str:
        return attribute_level(facts, source) if source.origin == "attribute" else PRODUCT

    def units(self, facts: Facts, source: Source) -> Units:
        own = own_unit(facts, source) if source.attribute else ""
        target = source.unit or own or first_unit(facts, self.fields(source), lambda item: _unit_read(item, source.prefix))
        return target, own or target

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        for value, own in _texts(item):
            read = read_number(value, own, at.source.prefix)
            if read is not None:
                yield converted(*read, at)


def _unit_read(item: Property | str, prefix: str) -> str:
    return next((read[1] for value, own in _texts(item) if (read := read_number(value, own, prefix)) and read[1]), "")


def _texts(item: Property | str) -> list[tuple[Written, str]]:
    return [(item, "")] if isinstance(item, str) else [(value, item.unit or "") for value in item.values]


def read_number(value: Written, own_unit: str, prefix: str) -> tuple[Number, str] | None:
    """Read the number in a tag, a text value or a number; returns it with its unit.

    >>> read_number("length-12 m", "", "length-"), read_number("1 1/2 in", "", "")
    ((12, 'm'), (Fraction(3, 2), 'in'))
    """
    prefix = normalise(prefix)
    if isinstance(value, bool | Unusable):
        return None
    if not isinstance(value, str):
        return None if prefix else (value, own_unit)
    if value[: len(prefix)].lower() != prefix.lower():
        return None
    match = READING.fullmatch(normalise(value[len(prefix) :]))
    if match is None:
        return None
    text, units, above, below, unit = match.groups()
    if unit and unit not in KNOWN:
        return None
    try:
        if below is None:
            return exact(text), unit or own_unit
        if not exact(below):
            return None
        return whole(exact(units or "0") + Fraction(exact(above)) / exact(below)), unit or own_unit
    except TooLong:
        return None


READER = NumberFrom()
