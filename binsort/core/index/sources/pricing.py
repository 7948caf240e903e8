"""What the sources that read prices share: the field, the level, and that sales begin and end."""

from collections.abc import Iterable
from typing import Any

from binsort.core.facets.spec import Source
from binsort.core.index.codes import PRICING, FieldKey
from binsort.core.index.columns import VARIANT
from binsort.core.index.facts import Facts
from binsort.core.values.numbers import Number

from .source_reader import SourceReader


class PricingReader(SourceReader):
    """Reads prices."""

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (PRICING,)

    def level(self, facts: Facts, source: Source) -> str:
        return VARIANT

    def next_change(self, items: Iterable[Any], now: Number) -> Number | None:
        moments = (moment for item in items for sale in item.sales for moment in (sale.start, sale.end))
        return min((moment for moment in moments if moment is not None and moment > now), default=None)

    def is_timed(self, item: Any) -> bool:
        return bool(item.sales)
