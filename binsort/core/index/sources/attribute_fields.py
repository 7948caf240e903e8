"""Attributes as sources: their fields, their level, the unit of their numbers."""

from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any

from binsort.core.facets.spec import Source
from binsort.core.index.codes import FieldKey, attribute
from binsort.core.index.columns import PRODUCT, VARIANT, Value
from binsort.core.index.facts import Facts
from binsort.core.products.product import Property
from binsort.core.values.numbers import Number, written
from binsort.core.values.text import identity
from binsort.core.values.units import convert

from .source_reader import Circumstances, number_value


def attribute_fields(source: Source) -> tuple[FieldKey, ...]:
    """Return the fields of an attribute: as products give it, and as variants do."""
    name = identity(source.attribute)
    return attribute(name, PRODUCT), attribute(name, VARIANT)


def attribute_level(facts: Facts, source: Source) -> str:
    """Return whether an attribute is one of products or of variants."""
    return VARIANT if on_variants(facts, identity(source.attribute)) else PRODUCT


def on_variants(facts: Facts, name: str) -> bool:
    """Tell whether any product gives an attribute on a variant."""
    return any(item.values for _, item in _said(facts, attribute(name, VARIANT)))


def _said(facts: Facts, key: FieldKey) -> Iterator[tuple[int, Any]]:
    items = facts.items(key)
    return ((code, items[code]) for code in facts.field(key).counts.nonzero()[0].tolist())


def own_unit(facts: Facts, source: Source) -> str:
    """Return the first unit that a number of an attribute has, empty where none has one."""
    return first_unit(facts, attribute_fields(source), _unit_of_numbers)


def _unit_of_numbers(item: Property) -> str:
    if item.unit and any(isinstance(value, int | Fraction) and not isinstance(value, bool) for value in item.values):
        return item.unit
    return ""


def first_unit(facts: Facts, fields: tuple[FieldKey, ...], unit_in: Callable[[Any], str]) -> str:
    """Return the first unit in the order of the catalogue, a product's own before its variants'."""
    units = [{code: unit for code, item in _said(facts, key) if (unit := unit_in(item))} for key in fields]
    distinct = {unit for by_place in units for unit in by_place.values()}
    if len(distinct) < 2:
        return next(iter(distinct), "")
    firsts = [(*facts.first(key, list(by_place)), by_place) for key, by_place in zip(fields, units, strict=True) if by_place]
    _, code, by_place = min(firsts, key=lambda item: item[0])  # a product's own field stands first
    return by_place[code]


def converted(value: Number, unit: str, at: Circumstances) -> Value | str:
    """Return a number in the unit of its source, or why it cannot be read in that."""
    unit, target = unit or at.units[1], at.units[0]
    number = convert(value, unit, target) if unit and target else value
    if number is None:
        return f"{at.source.attribute or 'tag'} {written(value)} {unit} cannot be read in {target}, read as no value"
    return number_value(number)
