"""Words that lead to bins: what a shop's set-up says its shoppers call things."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pyroaring import BitMap

from binsort.core.facets.found_by import found_by, named
from binsort.core.facets.spec import FacetSpec
from binsort.core.values.text import identity
from binsort.racks.models import Edition
from binsort.tally.current import Current

from .vocabulary import WORD


@dataclass(frozen=True, slots=True)
class Phrase:
    """Words, as identities, and the bin that they lead to."""

    words: tuple[str, ...]
    facet: str
    bin: str


Phrases = tuple[Phrase, ...]


def phrases_of(edition: Edition | None) -> Phrases:
    """Return the words of a set-up, the longest first."""
    document: dict[str, Any] = edition.document if edition else {"facets": []}
    made = (Phrase(tuple(WORD.findall(identity(text))), facet, bin) for facet, bin, text in found_by(document))
    return tuple(sorted((one for one in made if one.words), key=lambda one: -len(one.words)))


def taken_out(words: Sequence[str], phrases: Phrases) -> tuple[list[Phrase], list[str]]:
    """Return the phrases that stand in a row of words, and the words that are left.

    >>> bungee, plait = Phrase(("bungee",), "group", "shock-cord"), Phrase(("8", "plait"), "group", "8-plait")
    >>> taken_out(["8", "plait", "navy"], (plait, bungee))
    ([Phrase(words=('8', 'plait'), facet='group', bin='8-plait')], ['navy'])
    """
    left, taken = list(words), []
    for phrase in phrases:
        size = len(phrase.words)
        place = next((start for start in range(len(left) - size + 1) if tuple(left[start : start + size]) == phrase.words), None)
        if place is not None:
            taken.append(phrase)
            del left[place : place + size]
    return taken, left


def products_of(held: Current, phrase: Phrase, specs: Sequence[FacetSpec]) -> BitMap:
    """Return the products of a phrase's bin, none where there is no such bin any more."""
    spec = next((one for one in specs if one.key == phrase.facet), None)
    facet = held.rack([spec]).by_key[phrase.facet] if spec else None
    wanted = identity(phrase.bin)
    bins = [bin for bin in facet.bins if identity(named(bin.label, bin.nodes)) == wanted] if facet else []
    return facet.products(bins[0]) if facet and bins else BitMap()
