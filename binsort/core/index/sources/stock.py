"""The stock state of an article."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import STOCK, FieldKey
from binsort.core.index.columns import VARIANT, Value
from binsort.core.index.facts import Facts
from binsort.core.products.availability import STOCK_WORDS

from .source_reader import Circumstances, SourceReader

_LABELS = dict(STOCK_WORDS)


class Stock(SourceReader):
    """Reads the stock state of an article."""

    kind = register(
        SourceKind(
            name="stock",
            known_as=("availability", "available", "inventory", "sold out", "backorder"),
            words="stock",
            says_itself=True,
            labels=_LABELS,
            place=50,
            proposal={"label": "Stock", "bins": {"rename": _LABELS, "order": list(_LABELS.values())}},
        )
    )

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (STOCK,)

    def level(self, facts: Facts, source: Source) -> str:
        return VARIANT

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        yield Value(item, item)


READER = Stock()
