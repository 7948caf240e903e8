"""How many of an article are in stock."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import LEVEL, FieldKey
from binsort.core.index.columns import VARIANT, Value
from binsort.core.index.facts import Facts

from .source_reader import Circumstances, SourceReader, number_value


class Level(SourceReader):
    """Reads the inventory level of an article."""

    kind = register(
        SourceKind(
            name="level",
            known_as=("inventory", "quantity", "availability", "left"),
            words="stock level",
            has_numbers=True,
            group="numbers",
            proposed_cuts=True,
            place=55,
            proposal={"label": "Stock level"},
        )
    )

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (LEVEL,)

    def level(self, facts: Facts, source: Source) -> str:
        return VARIANT

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        yield number_value(item)


READER = Level()
