"""The first letter of a product's name."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import INITIAL, FieldKey
from binsort.core.index.columns import Value
from binsort.core.values.text import identity

from .source_reader import Circumstances, SourceReader


class Initial(SourceReader):
    """Reads first letters."""

    kind = register(
        SourceKind(
            name="initial",
            known_as=("letter", "alphabet", "a-z"),
            words="first letter of the name",
            group="text",
            is_initial=True,
            proposal={"label": "First letter", "look": {"control": "strip"}},
            place=99,
        )
    )

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (INITIAL,)

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        yield Value(identity(item), item)


READER = Initial()
