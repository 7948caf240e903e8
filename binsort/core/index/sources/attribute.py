"""The values of an attribute."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import MEASURED, SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import FieldKey
from binsort.core.index.columns import Value
from binsort.core.index.facts import Facts
from binsort.core.products.product import Property, Written
from binsort.core.values.numbers import Unusable
from binsort.core.values.text import identity

from .attribute_fields import attribute_fields, attribute_level, converted, own_unit
from .source_reader import Circumstances, SourceReader, Spellings, Units


def boolean_text(value: Written) -> Written:
    """Return the text of a boolean; all else as it is."""
    return ("yes" if value else "no") if isinstance(value, bool) else value


def _spelled_values(item: Property) -> Iterator[tuple[str, str]]:
    for value in map(boolean_text, item.values):
        if isinstance(value, str):
            yield identity(value), value


class Attribute(SourceReader):
    """Reads the values of an attribute."""

    kind = register(SourceKind(name="attribute", properties=frozenset({"attribute", "unit"}), has_numbers=True, written=MEASURED))

    def spellings(self) -> Spellings | None:
        return _spelled_values

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return attribute_fields(source)

    def level(self, facts: Facts, source: Source) -> str:
        return attribute_level(facts, source)

    def units(self, facts: Facts, source: Source) -> Units:
        own = own_unit(facts, source) if source.attribute else ""
        return source.unit or own, own or source.unit

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        for value in map(boolean_text, item.values):
            if isinstance(value, str):
                key = identity(value)
                yield Value(key, at.label(key))
            elif not isinstance(value, Unusable):
                yield converted(value, item.unit or "", at)


READER = Attribute()
