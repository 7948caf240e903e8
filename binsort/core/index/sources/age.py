"""How many days ago a product was published."""

from collections.abc import Iterable, Iterator
from typing import Any

from binsort.core.facets.kinds import AGE, SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import PUBLISHED, FieldKey
from binsort.core.index.columns import Value
from binsort.core.values.dates import SECONDS_OF_DAY, today
from binsort.core.values.numbers import Number

from .source_reader import Circumstances, SourceReader, number_value

_PROPOSAL = {"label": "New", "at_most": [7, 30, 90], "pick": "one"}


class Age(SourceReader):
    """Reads the days since a product was published; they change at midnight, UTC."""

    kind = register(
        SourceKind(
            name="age",
            known_as=("new", "newest", "recent", "days"),
            words="days since added",
            has_numbers=True,
            written=AGE,
            group="dates",
            proposal=_PROPOSAL,
            place=70,
        )
    )

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (PUBLISHED,)

    def next_change(self, items: Iterable[Any], now: Number) -> Number | None:
        return (now // SECONDS_OF_DAY + 1) * SECONDS_OF_DAY

    def is_timed(self, item: Any) -> bool:
        return True

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        days = today(at.now) - item.toordinal()
        if days >= 0:
            yield number_value(days)


READER = Age()
