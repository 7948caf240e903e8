"""The tags of a product."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import TAG, FieldKey
from binsort.core.index.columns import Value
from binsort.core.values.text import identity

from .source_reader import Circumstances, SourceReader, Spellings
from .spelled import spelled


class Tag(SourceReader):
    """Reads tags."""

    kind = register(
        SourceKind(
            name="tag",
            known_as=("label", "keyword"),
            may_be_absent=True,
            words="tags",
            proposal={"label": "Tag", "order": "count"},
            place=90,
        )
    )

    def spellings(self) -> Spellings | None:
        return spelled

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (TAG,)

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        key = identity(item)
        yield Value(key, at.label(key))


READER = Tag()
