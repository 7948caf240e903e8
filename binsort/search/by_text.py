"""Search by text: the products whose name, tags or article numbers hold every word, typing errors forgiven.

Names are searched by PostgreSQL's full text (so that "halyards" finds a halyard, and the beginning of a word is enough), article
numbers by groups of three letters, tags in the index. A word that is nowhere stands for the words most like it.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import reduce
from typing import Any

import numpy as np
from django.contrib.postgres.aggregates import StringAgg
from django.contrib.postgres.search import SearchQuery, SearchVector
from django.db.models import QuerySet, TextField
from django.db.models.functions import Cast
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.catalog.models import TEXT_CONFIG, Product, Variant
from binsort.core.facets.spec import FacetSpec, Source
from binsort.core.index.bitmaps import bitmap_of_rising, numbers
from binsort.core.index.catalogue_index import Index
from binsort.core.values.text import identity, normalise, unaccented
from binsort.racks.models import Edition
from binsort.tally.current import Current

from .vocabulary import WORD, likest_words
from .words import Phrases, phrases_of, products_of, taken_out

MOST_LETTERS, _MOSTWORDS = 80, 6
_KEPT = 40  # searches of an index
_ERRORS = 3  # letters for which one error is forgiven; the fewest that numbers are searched by
_TAG = Source("tag")
FacetSpecs = tuple[FacetSpec, ...]
_NAME, _OTHER, _ALIKE = 1, 2, 8  # how far from a word each way of finding it is


@dataclass(frozen=True, slots=True)
class Found:
    """What a search found: the products, the best match first."""

    text: str
    products: BitMap
    distance: NDArray[np.int16]  # of each slot, meaningful for the products only
    forgiven: tuple[str, ...]  # words that are nowhere; what is most like them was taken


def search(held: Current, text: str, edition: Edition | None = None) -> Found:
    """Return what a text finds in the whole catalogue; what was found is kept while the catalogue stays as it is.

    Args:
        held: the counts.
        text: what was typed.
        edition: the set-up, which may say that words lead to a bin.
    """
    text, phrases = normalise(text)[:MOST_LETTERS], phrases_of(edition)
    specs = edition.facet_file.facets if edition and phrases else ()
    known: dict[tuple[str, Phrases, FacetSpecs], Found] = held.index.remember("searches", dict)
    key = identity(text), phrases, specs
    found = known.pop(key, None) or _search(held, text, phrases, specs)
    known[key] = found  # the one used last stands last
    while len(known) > _KEPT:
        known.pop(next(iter(known)), None)
    return found


def _search(held: Current, text: str, known: Phrases, specs: FacetSpecs) -> Found:
    index = held.index
    typed = list(dict.fromkeys(WORD.findall(identity(text))))[:_MOSTWORDS]
    phrases, words = taken_out(typed, known)
    distance = np.zeros(index.size, dtype=np.int16)
    forgiven: list[str] = []
    found = []
    for phrase in phrases:
        named = reduce(BitMap.__and__, (_slots(index, _named(word)) for word in phrase.words))
        meant = products_of(held, phrase, specs)
        distance[numbers(meant - named)] += _OTHER
        found.append(meant | named)
    for word in words:
        by_name = _slots(index, _named(word))
        other = reduce(BitMap.__or__, (_slots(index, numbered) for numbered in _numbered(word)), _tagged(index, word))
        if not by_name and not other and len(word) >= _ERRORS:
            by_name = _forgiven(index, word)
            forgiven.append(word)
            distance[numbers(by_name)] += _ALIKE
        distance[numbers(by_name)] += _NAME
        distance[numbers(other - by_name)] += _OTHER
        found.append(by_name | other)
    products = reduce(BitMap.__and__, found) if found else BitMap()
    return Found(text, products & index.every_product, distance, tuple(forgiven))


def _slots(index: Index, products: QuerySet[Any, Any]) -> BitMap:
    """Return the products that a query gives the keys of; as one text, because many rows are slow to read."""
    joined = products.aggregate(joined=StringAgg("key", ","))["joined"]
    return bitmap_of_rising(index.facts.slots_there(np.unique(np.fromstring(joined or "", dtype=np.int64, sep=","))))


def _key(name: str) -> Cast:
    return Cast(name, TextField())


def _named(word: str) -> QuerySet[Any, Any]:
    """Ask for the products whose name has a word that begins so, by the index of words."""
    raw = f"{_quoted(word)}:*"
    query = SearchQuery(raw, config=TEXT_CONFIG, search_type="raw") | SearchQuery(
        raw, config="simple", search_type="raw"
    )  # "haly" has no stem
    named = Product.objects.annotate(words=SearchVector("name", config=TEXT_CONFIG)).filter(words=query)
    return named.values(key=_key("pk"))


def _quoted(word: str) -> str:
    return "'" + word.replace("\\", "").replace("'", "''") + "'"


def _numbered(word: str) -> Iterator[QuerySet[Any, Any]]:
    """Ask for the products that have a number, or an article with one, that holds the word, by its letters."""
    if len(word) >= _ERRORS:
        yield Product.objects.filter(identity__icontains=word).values(key=_key("pk"))
        yield Variant.objects.filter(sku__icontains=word).values(key=_key("product_id")).distinct()


def _tagged(index: Index, word: str) -> BitMap:
    """Return the products that have a tag with a word that begins so."""
    column, plain = index.column(_TAG), unaccented(word)
    codes = [
        code for code, value in enumerate(column.values) if any(part.startswith(plain) for part in WORD.findall(unaccented(value.identity)))
    ]
    return reduce(BitMap.__or__, map(column.members, codes), BitMap())


def _forgiven(index: Index, word: str) -> BitMap:
    """Return the products whose name has a word that differs in the fewest letters."""
    for likest in likest_words(index.facts.names, word, max(1, len(word) // _ERRORS)):
        found = reduce(BitMap.__or__, (_slots(index, _named(other)) for other in likest)) & index.every_product
        if found:
            return found
    return BitMap()


def by_match(index: Index, found: Found, result: BitMap) -> Sequence[int]:
    """Return the slots of a result, best match first; ties in the order of the catalogue."""
    slots = numbers(result).astype(np.intp)
    return slots[np.lexsort((index.orders.ties(slots), found.distance[slots]))].tolist()  # type: ignore[no-any-return]
