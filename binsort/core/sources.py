"""Sources: turning products into the column of values that a facet narrows by."""

import re
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from functools import cached_property

from .columns import PRODUCT, VARIANT, Column, ColumnBuilder, Value
from .numbers import Number, TooLong, exact, whole, written
from .products import Product, Property, Unusable, Variant, Written, given
from .spec import VARIANT_KINDS, Source
from .text import identity, initial, normalise
from .units import KNOWN, convert

_READING = re.compile(r"((?:([0-9]+) )?([0-9]+)/([0-9]+)|-?[0-9]+(?:\.[0-9]+)?)(?: ?(\S.*))?", re.DOTALL)


def boolean_text(value: Written) -> Written:
    """Return the text of a boolean; all else as it is."""
    return ("yes" if value else "no") if isinstance(value, bool) else value


class Spellings:
    """Counts how each value is written and answers with the spelling used most."""

    def __init__(self) -> None:
        self._counts: dict[str, Counter[str]] = {}
        self._values: dict[str, Value] = {}

    def add(self, text: str, key: str = "") -> None:
        """Count one occurrence of a normalised text."""
        self._counts.setdefault(key or identity(text), Counter())[text] += 1

    def of(self, key: str) -> str:
        """Return the spelling written most often, on a tie the smaller by code point."""
        return min(self._counts[key].items(), key=lambda item: (-item[1], item[0]))[0]

    def value(self, text: str) -> Value:
        """Return the value that a text is, in the spelling used most; to be asked once all is counted."""
        key = identity(text)
        found = self._values.get(key)
        if found is None:
            found = self._values[key] = Value(key, self.of(key))
        return found


class AttributeFacts:
    """What the whole catalogue, invisible products included, says of one attribute."""

    def __init__(self) -> None:
        self.name = Spellings()
        self.texts = Spellings()
        self.unit = ""
        self.on_variants = False
        self.has_numbers = False

    def add(self, prop: Property) -> None:
        """Take in one property in the order of the file."""
        self.name.add(prop.name)
        for value in prop.values:
            text = boolean_text(value)
            if isinstance(text, str):
                self.texts.add(text)
            elif not isinstance(text, Unusable):
                self.has_numbers = True
                self.unit = self.unit or prop.unit or ""


class SourceReader:
    """Reads columns out of products, in the order of the file."""

    def __init__(self, products: Sequence[Product], now: Number, report: Callable[[str], None] = lambda text: None) -> None:
        self.visible = [product for product in products if product.visible]
        self._all = products
        self._now = now
        self._report = report
        self.attributes = attribute_facts(products)
        self.variant_count = sum(len(product.articles) for product in self.visible)

    def level(self, source: Source) -> str:
        """Return whether a source's values belong to products or to variants."""
        if source.kind == "attribute" or source.origin == "attribute":
            facts = self.attributes.get(identity(source.attribute))
            return VARIANT if facts and facts.on_variants else PRODUCT
        return VARIANT if source.kind in VARIANT_KINDS else PRODUCT

    def unit(self, source: Source) -> str:
        """Return the unit in which a source's numbers are read, empty where they have none."""
        if source.kind not in ("attribute", "number_from") or source.unit:
            return source.unit
        facts = self.attributes.get(identity(source.attribute)) if source.attribute else None
        if facts and facts.unit:
            return facts.unit
        return self._first_unit(source) if source.kind == "number_from" else ""

    def column(self, source: Source) -> Column:
        """Build the column of one source."""
        level = self.level(source)
        builder = ColumnBuilder(level, self.variant_count if level == VARIANT else len(self.visible))
        getattr(self, f"_read_{source.kind}")(builder, source)
        return builder.build()

    # -- products

    def _read_brand(self, builder: ColumnBuilder, source: Source) -> None:
        spellings = Spellings()
        for product in self._all:
            if product.brand:
                spellings.add(product.brand)
        for number, product in enumerate(self.visible):
            if product.brand:
                builder.add(number, spellings.value(product.brand))

    def _read_tag(self, builder: ColumnBuilder, source: Source) -> None:
        spellings = Spellings()
        for product in self._all:
            for tag in product.tags:
                spellings.add(tag)
        for number, product in enumerate(self.visible):
            for tag in product.tags:
                builder.add(number, spellings.value(tag))

    def _read_category(self, builder: ColumnBuilder, source: Source) -> None:
        spellings = Spellings()
        for product in self._all:
            for path in product.categories:
                for key, label in _nodes(path):
                    spellings.add(label, key)
        values: dict[str, Value] = {}
        for number, product in enumerate(self.visible):
            for path in product.categories:
                keys = [key for key, _ in _nodes(path)]
                for depth, key in enumerate(keys, 1):
                    if key not in values:
                        labels = tuple(spellings.of(part) for part in keys[:depth])
                        values[key] = Value(key, labels[-1], path=labels, nodes=tuple(key.split(" > ")))
                    builder.add(number, values[key])

    def _read_rating(self, builder: ColumnBuilder, source: Source) -> None:
        for number, product in enumerate(self.visible):
            if product.rating is not None:
                builder.add(number, _number_value(product.rating))

    def _read_published(self, builder: ColumnBuilder, source: Source) -> None:
        for number, product in enumerate(self.visible):
            if product.published is not None:
                text = product.published.isoformat()
                builder.add(number, Value(text, text, product.published.toordinal()))

    def _read_initial(self, builder: ColumnBuilder, source: Source) -> None:
        for number, product in enumerate(self.visible):
            letter = initial(product.name)
            builder.add(number, Value(identity(letter), letter))

    # -- variants

    def _articles(self) -> Iterator[tuple[int, Product, Variant]]:
        number = 0
        for product in self.visible:
            for article in product.articles:
                yield number, product, article
                number += 1

    def _read_price(self, builder: ColumnBuilder, source: Source) -> None:
        for number, _, article in self._articles():
            price = article.offer.price_now(self._now)
            if price is not None:
                builder.add(number, _number_value(price))

    def _read_reduced(self, builder: ColumnBuilder, source: Source) -> None:
        for number, _, article in self._articles():
            if article.offer.is_reduced(self._now):
                builder.add(number, Value("yes", "yes"))

    def _read_stock(self, builder: ColumnBuilder, source: Source) -> None:
        values = {state: Value(state, state) for state in ("in", "backorder", "out")}
        for number, _, article in self._articles():
            builder.add(number, values[article.offer.stock])

    # -- attributes

    @cached_property
    def _given(self) -> dict[str, tuple[dict[int, list[Property]], dict[int, list[Property]]]]:
        """For each attribute the properties that products give, by product, and those that variants give, by variant."""
        found: dict[str, tuple[dict[int, list[Property]], dict[int, list[Property]]]] = {}
        for number, product in enumerate(self.visible):
            for key, properties in given(product.properties).items():
                found.setdefault(key, ({}, {}))[0][number] = properties
        for number, _, article in self._articles():
            if article.properties:
                for key, properties in given(article.properties).items():
                    found.setdefault(key, ({}, {}))[1][number] = properties
        return found

    def _owned_properties(self, name: str, level: str) -> Iterator[tuple[int, Product, list[Property]]]:
        """Yield each owner that has an attribute, with its properties of it: a variant's own, else its product's."""
        by_product, by_variant = self._given.get(identity(name), ({}, {}))
        if level == PRODUCT:
            for number, properties in by_product.items():
                yield number, self.visible[number], properties
            return
        first = 0
        for number, product in enumerate(self.visible):
            own = by_product.get(number)
            last = first + len(product.articles)
            for variant in range(first, last):
                found = by_variant.get(variant, own)
                if found is not None:
                    yield variant, product, found
            first = last

    def _read_attribute(self, builder: ColumnBuilder, source: Source) -> None:
        facts = self.attributes.get(identity(source.attribute))
        if facts is None:
            return
        target = self.unit(source)
        base = facts.unit or target
        for number, product, properties in self._owned_properties(source.attribute, self.level(source)):
            for prop in properties:
                for value in map(boolean_text, prop.values):
                    if isinstance(value, str):
                        builder.add(number, facts.texts.value(value))
                    elif not isinstance(value, Unusable):
                        self._add_number(builder, (number, product), value, (prop.unit or base, target, source.attribute))

    def _add_number(self, builder: ColumnBuilder, owner: tuple[int, Product], value: Number, reading: tuple[str, str, str]) -> None:
        unit, target, name = reading
        converted = convert(value, unit, target) if unit and target else value
        if converted is None:
            self._report(f"product {owner[1].id}: {name} {written(value)} {unit} cannot be read in {target}, read as no value")
        else:
            builder.add(owner[0], _number_value(converted))

    def _read_number_from(self, builder: ColumnBuilder, source: Source) -> None:
        facts = self.attributes.get(identity(source.attribute)) if source.origin == "attribute" else None
        target = self.unit(source)
        unitless = (facts.unit if facts else "") or target
        for number, product, texts in self._number_texts(source):
            for value, own in texts:
                read = read_number(value, own, source.prefix)
                if read is not None:
                    self._add_number(builder, (number, product), read[0], (read[1] or unitless, target, source.attribute or "tag"))

    def _number_texts(self, source: Source) -> Iterator[tuple[int, Product, list[tuple[Written, str]]]]:
        if source.origin == "tag":
            for number, product in enumerate(self.visible):
                yield number, product, [(tag, "") for tag in product.tags]
            return
        for number, product, properties in self._owned_properties(source.attribute, self.level(source)):
            yield number, product, [(value, prop.unit or "") for prop in properties for value in prop.values]

    def _first_unit(self, source: Source) -> str:
        """Return the unit of the first number read, in the order of the file."""
        key = identity(source.attribute)
        for product in self._all:
            if source.origin == "tag":
                found: list[tuple[Written, str]] = [(tag, "") for tag in product.tags]
            else:
                found = [
                    (value, prop.unit or "") for prop in product.all_properties() if identity(prop.name) == key for value in prop.values
                ]
            for value, own in found:
                read = read_number(value, own, source.prefix)
                if read is not None and read[1]:
                    return read[1]
        return ""


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


def attribute_facts(products: Sequence[Product]) -> dict[str, AttributeFacts]:
    """Return what the catalogue says of each attribute, by the identity of its name, in the order first met."""
    found: dict[str, AttributeFacts] = {}
    for product in products:
        for prop in product.all_properties():
            found.setdefault(identity(prop.name), AttributeFacts()).add(prop)
        for variant in product.variants:
            for key in given(variant.properties):
                found[key].on_variants = True
    return found


def _nodes(path: tuple[str, ...]) -> list[tuple[str, str]]:
    """Return the identity and the written label of a category and all its ancestors, topmost first."""
    keys = list(map(identity, path))
    return [(" > ".join(keys[: depth + 1]), label) for depth, label in enumerate(path)]


def _number_value(number: Number) -> Value:
    text = written(number)
    return Value(text, text, number)
