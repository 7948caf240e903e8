"""Readings: which values the things said in a field are, for one source of a facet."""

import re
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any

from binsort.core.facets.spec import VARIANT_KINDS, Source
from binsort.core.products.product import Offer, Property, Written
from binsort.core.values.numbers import Number, TooLong, Unusable, exact, whole, written
from binsort.core.values.text import identity, normalise
from binsort.core.values.units import KNOWN, convert

from .codes import BRAND, CATEGORIES, INITIAL, PRICING, PUBLISHED, RATING, STOCK, TAG, FieldKey, Pricing, attribute
from .columns import PRODUCT, VARIANT, Value
from .facts import Facts

_READING = re.compile(r"((?:([0-9]+) )?([0-9]+)/([0-9]+)|-?[0-9]+(?:\.[0-9]+)?)(?: ?(\S.*))?", re.DOTALL)
_OF_KIND = {
    "brand": BRAND, "tag": TAG, "category": CATEGORIES, "rating": RATING, "published": PUBLISHED, "initial": INITIAL,
    "price": PRICING, "reduced": PRICING, "stock": STOCK,
}  # fmt: skip


def fields_of(source: Source) -> tuple[FieldKey, ...]:
    """Return the fields that a source reads."""
    if source.kind == "attribute" or source.origin == "attribute":
        name = identity(source.attribute)
        return attribute(name, PRODUCT), attribute(name, VARIANT)
    return (TAG,) if source.kind == "number_from" else (_OF_KIND[source.kind],)


def level_of(facts: Facts, source: Source) -> str:
    """Return whether a source's values belong to products or to variants."""
    if source.kind == "attribute" or source.origin == "attribute":
        return VARIANT if on_variants(facts, identity(source.attribute)) else PRODUCT
    return VARIANT if source.kind in VARIANT_KINDS else PRODUCT


def on_variants(facts: Facts, name: str) -> bool:
    """Tell whether any product gives an attribute on a variant."""
    key = attribute(name, VARIANT)
    return any(item.values for item in _said(facts, key))


def _said(facts: Facts, key: FieldKey) -> Iterator[Any]:
    items = facts.items(key)
    return (items[code] for code in facts.field(key).counts.nonzero()[0].tolist())


# -- units


def unit_of(facts: Facts, source: Source) -> tuple[str, str]:
    """Return the unit in which a source's numbers are read, and that of its numbers without one; empty where they have none."""
    if source.kind not in ("attribute", "number_from"):
        return source.unit, ""
    own = _first_unit(facts, fields_of(source), _unit_of_numbers) if source.attribute else ""
    if source.kind == "attribute":
        return source.unit or own, own or source.unit
    target = source.unit or own or _first_unit(facts, fields_of(source), lambda item: _unit_read(item, source.prefix))
    return target, own or target


def _unit_of_numbers(item: Property) -> str:
    if item.unit and any(isinstance(value, int | Fraction) and not isinstance(value, bool) for value in item.values):
        return item.unit
    return ""


def _unit_read(item: Property | str, prefix: str) -> str:
    return next((read[1] for value, own in _texts(item) if (read := read_number(value, own, prefix)) and read[1]), "")


def _first_unit(facts: Facts, fields: tuple[FieldKey, ...], unit_in: Callable[[Any], str]) -> str:
    """Return the first unit in the order of the catalogue, a product's own before its variants'."""
    units = [{code: unit for code, item in _coded(facts, key) if (unit := unit_in(item))} for key in fields]
    distinct = {unit for found in units for unit in found.values()}
    if len(distinct) < 2:
        return next(iter(distinct), "")
    firsts = [(*facts.first(key, list(found)), found) for key, found in zip(fields, units, strict=True) if found]
    _, code, found = min(firsts, key=lambda item: item[0])  # a product's own field stands first
    return found[code]


def _coded(facts: Facts, key: FieldKey) -> Iterator[tuple[int, Any]]:
    items = facts.items(key)
    return ((code, items[code]) for code in facts.field(key).counts.nonzero()[0].tolist())


# -- what is written how


def spellings(source: Source) -> Callable[[Any], Iterator[tuple[str, str]]] | None:
    """Return what yields the identity and the spelling of each text in an item, None where values have but one spelling."""
    ways: dict[str, Callable[[Any], Iterator[tuple[str, str]]]] = {
        "brand": _spelled, "tag": _spelled, "category": _spelled_path, "attribute": _spelled_values,
    }  # fmt: skip
    return ways.get(source.kind)


def _spelled(item: str) -> Iterator[tuple[str, str]]:
    yield identity(item), item


def _spelled_path(item: tuple[str, ...]) -> Iterator[tuple[str, str]]:
    keys = list(map(identity, item))
    for depth, label in enumerate(item, 1):
        yield " > ".join(keys[:depth]), label


def _spelled_values(item: Property) -> Iterator[tuple[str, str]]:
    for value in map(boolean_text, item.values):
        if isinstance(value, str):
            yield identity(value), value


def boolean_text(value: Written) -> Written:
    """Return the text of a boolean; all else as it is."""
    return ("yes" if value else "no") if isinstance(value, bool) else value


# -- values


class ItemReader:
    """Reads the items of one source's fields into values."""

    def __init__(self, facts: Facts, source: Source, now: Number, label: Callable[[str], str]) -> None:
        self.source, self.now = source, now
        self.unit, self.unitless = unit_of(facts, source)
        self._label = label
        self._prefix = source.prefix
        self.read: Callable[[Any], Iterator[Value | str]] = getattr(self, f"_{source.kind}")

    def _brand(self, item: str) -> Iterator[Value]:
        key = identity(item)
        yield Value(key, self._label(key))

    _tag = _brand

    def _category(self, item: tuple[str, ...]) -> Iterator[Value]:
        keys = [key for key, _ in _spelled_path(item)]
        for depth, key in enumerate(keys, 1):
            labels = tuple(map(self._label, keys[:depth]))
            yield Value(key, labels[-1], path=labels, nodes=tuple(key.split(" > ")))

    def _rating(self, item: Number) -> Iterator[Value]:
        yield _number_value(item)

    def _published(self, item: Any) -> Iterator[Value]:
        text = item.isoformat()
        yield Value(text, text, item.toordinal())

    def _initial(self, item: str) -> Iterator[Value]:
        yield Value(identity(item), item)

    def _stock(self, item: str) -> Iterator[Value]:
        yield Value(item, item)

    def _price(self, item: Pricing) -> Iterator[Value]:
        price = Offer(*item).price_now(self.now)
        if price is not None:
            yield _number_value(price)

    def _reduced(self, item: Pricing) -> Iterator[Value]:
        if Offer(*item).is_reduced(self.now):
            yield Value("yes", "yes")

    def _attribute(self, item: Property) -> Iterator[Value | str]:
        for value in map(boolean_text, item.values):
            if isinstance(value, str):
                key = identity(value)
                yield Value(key, self._label(key))
            elif not isinstance(value, Unusable):
                yield self._converted(value, item.unit or self.unitless)

    def _number_from(self, item: Property | str) -> Iterator[Value | str]:
        for value, own in _texts(item):
            read = read_number(value, own, self._prefix)
            if read is not None:
                yield self._converted(read[0], read[1] or self.unitless)

    def _converted(self, value: Number, unit: str) -> Value | str:
        converted = convert(value, unit, self.unit) if unit and self.unit else value
        if converted is None:
            return f"{self.source.attribute or 'tag'} {written(value)} {unit} cannot be read in {self.unit}, read as no value"
        return _number_value(converted)


def _texts(item: Property | str) -> list[tuple[Written, str]]:
    return [(item, "")] if isinstance(item, str) else [(value, item.unit or "") for value in item.values]


def _number_value(number: Number) -> Value:
    text = written(number)
    return Value(text, text, number)


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
    match = _READING.fullmatch(normalise(value[len(prefix) :]))
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
