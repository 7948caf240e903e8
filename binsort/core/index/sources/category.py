"""Every category that a product is in, and all above them."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import CATEGORIES, FieldKey
from binsort.core.index.columns import Value

from .source_reader import Circumstances, SourceReader, Spellings
from .spelled import spelled_path

_PROPOSAL = {"label": "Category", "scope": "under", "under": "listing", "deep": True, "order": "count", "look": {"control": "tree"}}


class Category(SourceReader):
    """Reads categories."""

    kind = register(
        SourceKind(
            name="category",
            known_as=("department", "section", "collection", "type", "group"),
            words="category tree",
            is_tree=True,
            proposal=_PROPOSAL,
            place=10,
        )
    )

    def spellings(self) -> Spellings | None:
        return spelled_path

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (CATEGORIES,)

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        keys = [key for key, _ in spelled_path(item)]
        for depth, key in enumerate(keys, 1):
            labels = tuple(map(at.label, keys[:depth]))
            yield Value(key, labels[-1], path=labels, nodes=tuple(key.split(" > ")))


READER = Category()
