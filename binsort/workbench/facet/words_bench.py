"""The bench of groups of words: what names really hold at the left, the groups with their words at the right."""

from dataclasses import dataclass
from typing import Any

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.insight.common_words import common_words
from binsort.core.values.text import identity

PLACES = ("name", "description", "sku", "tag")


@dataclass(frozen=True, slots=True)
class GroupRow:
    """A group as it is typed."""

    label: str
    texts: str
    count: int
    key: str


@dataclass(frozen=True, slots=True)
class WordsBench:
    """All that the bench shows."""

    words: tuple[tuple[str, int, bool], ...]  # a word, the products that say it, whether a group has it
    groups: tuple[GroupRow, ...]
    places: frozenset[str]


def words_bench(state: State, facet: Facet, document: dict[str, Any]) -> WordsBench:
    """Build the bench for a facet of groups of words."""
    here = state.rack.on_listing(facet, state.listing)
    counts = {identity(bin.label): (count, bin.key) for bin, count in zip(here.bins, here.counts, strict=True)}
    source = document["source"]
    taken = {identity(text) for group in source["groups"] for text in group["texts"]}
    places = tuple(place for place in PLACES if place in source["in"])
    return WordsBench(
        words=tuple((word, count, word in taken) for word, count in common_words(state.rack.index, places)),
        groups=tuple(
            GroupRow(group["label"], ", ".join(group["texts"]), *counts.get(identity(group["label"]), (0, "")))
            for group in source["groups"]
        ),
        places=frozenset(source["in"]),
    )
