"""Words in the name, the description, the SKU or the tags, in groups that the facet lists."""

import unicodedata
from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import DESCRIPTION, NAME, SKU, TAG, FieldKey
from binsort.core.index.columns import Value
from binsort.core.values.text import folded, identity

from .source_reader import Circumstances, SourceReader

_FIELDS: dict[str, FieldKey] = {"name": NAME, "description": DESCRIPTION, "sku": SKU, "tag": TAG}


class Words(SourceReader):
    """Reads the groups whose words are said."""

    kind = register(
        SourceKind(
            name="words",
            known_as=("title", "text", "name", "sku"),
            words="words",
            properties=frozenset({"in", "groups"}),
            is_in_groups=True,
            group="text",
        )
    )

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return tuple(_FIELDS[place] for place in source.places)

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        said = folded(item)
        for group in at.source.groups:
            if any(says(said, text) for text in group.texts):
                yield Value(identity(group.label), group.label)


def says(said: str, text: str) -> bool:
    """Tell whether a text begins somewhere in another where a word begins; both are identities.

    >>> says("braided rope", "braid"), says("upbraid", "braid"), says("10 mm-braid", "braid"), says("a110", "110")
    (True, False, True, False)
    """
    place = said.find(text)
    while place > 0 and _is_of_word(said[place - 1]):
        place = said.find(text, place + 1)
    return place >= 0


def _is_of_word(character: str) -> bool:
    """Tell whether a character is a letter, a mark or a decimal digit."""
    category = unicodedata.category(character)
    return category[0] in "LM" or category == "Nd"


READER = Words()
