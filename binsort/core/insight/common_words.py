"""Common words: what the names of products really hold, to make groups of words of."""

import re
from collections import Counter

from binsort.core.index.catalogue_index import Index
from binsort.core.index.codes import DESCRIPTION, NAME, SKU, TAG
from binsort.core.values.text import folded

_WORD = re.compile(r"[^\W\d_]{3,}")
_FIELDS = {"name": NAME, "description": DESCRIPTION, "sku": SKU, "tag": TAG}
# Words that join others and tell nothing by themselves; common ones of English.
_JOINING = frozenset(
    [
        "and",
        "for",
        "the",
        "with",
        "per",
        "from",
        "into",
        "set",
        "pack",
        "all",
        "one",
        "two",
        "of",
        "in",
        "on",
        "to",
        "by",
        "or",
        "at",
        "as",
        "is",
        "it",
        "be",
        "not",
        "you",
        "your",
        "are",
        "can",
        "has",
        "have",
        "this",
        "that",
    ]
)


def common_words(index: Index, places: tuple[str, ...] = ("name",), most: int = 80) -> list[tuple[str, int]]:
    """Return the words that most products say in some places, each with how many; found once.

    Args:
        index: of the catalogue.
        places: ``name``, ``description``, ``sku``, ``tag``.
        most: how many words.
    """
    return index.remember(("common words", places, most), lambda: _counted(index, places).most_common(most))


def _counted(index: Index, places: tuple[str, ...]) -> Counter[str]:
    counts = Counter[str]()
    for place in places:
        key = _FIELDS[place]
        items, coded = index.facts.items(key), index.facts.field(key)
        for code in coded.counts.nonzero()[0].tolist():
            for word in set(_WORD.findall(folded(items[code]))) - _JOINING:
                counts[word] += int(coded.counts[code])
    return counts
