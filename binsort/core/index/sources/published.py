"""The date a product was published."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import DAYS, SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import PUBLISHED, FieldKey
from binsort.core.index.columns import Value

from .source_reader import Circumstances, SourceReader


class Published(SourceReader):
    """Reads dates of publishing."""

    kind = register(
        SourceKind(
            name="published",
            known_as=("new", "newest", "recent", "arrival", "date"),
            words="date added",
            has_dates=True,
            written=DAYS,
            group="dates",
        )
    )

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (PUBLISHED,)

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        text = item.isoformat()
        yield Value(text, text, item.toordinal())


READER = Published()
