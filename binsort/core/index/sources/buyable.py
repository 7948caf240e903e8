"""How soon an article can be had, for sorting only: in stock first, then to order, then sold out."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import STOCK, FieldKey
from binsort.core.index.columns import VARIANT, Value
from binsort.core.index.facts import Facts
from binsort.core.products.availability import BACKORDER, IN, OUT

from .source_reader import Circumstances, SourceReader, number_value

_PLACES = {IN: 0, BACKORDER: 1, OUT: 2}


class Buyable(SourceReader):
    """Reads the place of an article's stock state, the best one 0."""

    kind = register(SourceKind(name="buyable", has_numbers=True, for_sorting=True))

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (STOCK,)

    def level(self, facts: Facts, source: Source) -> str:
        return VARIANT

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        yield number_value(_PLACES[item])


READER = Buyable()
