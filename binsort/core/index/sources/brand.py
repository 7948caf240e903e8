"""The brand of a product."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import BRAND, FieldKey
from binsort.core.index.columns import Value
from binsort.core.values.text import identity

from .source_reader import Circumstances, SourceReader, Spellings
from .spelled import spelled


class Brand(SourceReader):
    """Reads brand."""

    kind = register(
        SourceKind(
            name="brand",
            known_as=("maker", "manufacturer", "vendor", "supplier", "make"),
            words="brand",
            proposal={"label": "Brand", "order": "count"},
            place=20,
        )
    )

    def spellings(self) -> Spellings | None:
        return spelled

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (BRAND,)

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        key = identity(item)
        yield Value(key, at.label(key))


READER = Brand()
