"""The dates that an attribute gives as text, for sorting only."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import DAYS, SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import FieldKey
from binsort.core.index.columns import Value
from binsort.core.index.facts import Facts
from binsort.core.values.dates import day

from .attribute_fields import attribute_fields, attribute_level
from .source_reader import Circumstances, SourceReader


class AttributeDay(SourceReader):
    """Reads those texts of an attribute that are dates, each as the day that is written."""

    kind = register(SourceKind(name="attribute_day", properties=frozenset({"attribute"}), has_dates=True, written=DAYS, for_sorting=True))

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return attribute_fields(source)

    def level(self, facts: Facts, source: Source) -> str:
        return attribute_level(facts, source)

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        for value in item.values:
            found = day(value) if isinstance(value, str) else None
            if found is not None:
                yield Value(found.isoformat(), found.isoformat(), found.toordinal())


READER = AttributeDay()
