"""Proposals: every source that a catalogue offers, as a facet with sensible settings, best first."""

import re
from collections import Counter
from collections.abc import Collection, Iterator, Sequence
from copy import deepcopy
from dataclasses import dataclass
from math import log2
from typing import Any

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.kinds import SourceKind, kinds
from binsort.core.facets.query import RESERVED, Query
from binsort.core.facets.spec import FacetSpec, Source, facet_spec
from binsort.core.index.catalogue_index import GivenAttribute, Index
from binsort.core.index.codes import BRAND, TAG
from binsort.core.values.colours import are_colours
from binsort.core.values.text import identity, slug, unaccented

from .common_words import common_words
from .cuts import FEW_VALUES, column_weights, round_cuts

VALUES, NUMBERS, DATES, TEXT = "values", "numbers", "dates", "text"
_PROPOSED_WORDS = 8
_GROUPED_TAG = re.compile(r"([^\W\d_][^:=/_-]*?)\s*[:=/_-]\s*([^\W\d].*)")  # what stands before the first mark, and behind it
_LEAST_IN_GROUP, _MOST_GROUPS = 3, 6
_LEAST_TAGS = 8  # tags that share a prefix before a number is read out of them
_NUMBERED_TAG = re.compile(r"(.*?[^0-9.\s-])[\s:_-]*([0-9]+(?:\.[0-9]+)?)(?: ?[^0-9]*)?")


@dataclass(frozen=True, slots=True)
class Proposal:
    """A facet that could be added, tried out on a listing."""

    document: dict[str, Any]
    spec: FacetSpec
    group: str
    state: State  # of a rack of this facet alone, with nothing picked
    binned: int
    bins: tuple[int, ...]  # counts of the bins that hold something
    score: float

    @property
    def average(self) -> float:
        """How many products a pick leaves on average."""
        return sum(self.bins) / len(self.bins) if self.bins else 0


def proposals(index: Index, listing: tuple[str, ...] | None, taken: Sequence[str]) -> list[Proposal]:
    """Return a proposal for every source of the catalogue that puts something in a bin on a listing, best first.

    Args:
        index: the catalogue's index.
        listing: where to try them.
        taken: keys that facets have already.
    """
    proposed_facets = []
    keys = set(taken)
    for group, document in _documents(index):
        document["key"] = free_key(document["label"], keys)
        proposal = _tried(index, listing, group, document)
        if proposal.bins:
            keys.add(document["key"])
            proposed_facets.append(proposal)
    return sorted(proposed_facets, key=lambda proposal: (-proposal.score, proposal.spec.label))


def _documents(index: Index) -> Iterator[tuple[str, dict[str, Any]]]:
    declared = sorted((kind for kind in kinds() if kind.proposal), key=lambda kind: kind.place)
    for kind in declared:
        yield kind.group, proposed(index, kind)
    for given in index.attributes():
        yield attribute_document(index, given)
    yield from _numbered_tags(index)
    yield from ((VALUES, document) for document in grouped_tags(index))
    if words := words_document(index):
        yield TEXT, words
    yield DATES, dated_document(index)


def proposed(index: Index, kind: SourceKind) -> dict[str, Any]:
    """Return the facet (without a key) that a kind of source proposes by itself."""
    document = {"source": {"kind": kind.name}, **deepcopy(dict(kind.proposal or {}))}
    return numeric_document(index, document) if kind.proposed_cuts else document


def numeric_document(index: Index, document: dict[str, Any]) -> dict[str, Any]:
    """Give a facet of numbers round cuts, or leave each number a bin where there are few."""
    column = index.column(facet_spec({"key": "x", **document}).source)
    if len(column.numbers) <= FEW_VALUES and "free" not in document:
        return document
    cuts = round_cuts(column.numbers, column_weights(column))
    return {**document, "cuts": cuts, "empty": "emptied"} if cuts else document


def attribute_document(index: Index, given: GivenAttribute) -> tuple[str, dict[str, Any]]:
    """Return the group and the facet (without a key) that an attribute suggests."""
    document: dict[str, Any] = {"label": tidy_label(given.name), "source": {"kind": "attribute", "attribute": given.name}}
    column = index.column(Source("attribute", given.name))
    texts = [value.label for value in column.values if value.number is None]
    if given.has_numbers and len(column.numbers) > len(texts):
        return NUMBERS, numeric_document(index, document)
    document["order"] = "count"
    if are_colours(texts):
        document["look"] = {"control": "swatches"}
    return VALUES, document


def _numbered_tags(index: Index) -> Iterator[tuple[str, dict[str, Any]]]:
    """Find what tags such as ``length-12`` have before their number."""
    prefixes: Counter[str] = Counter()
    tags, counts = index.facts.items(TAG), index.facts.field(TAG).counts
    for code in counts.nonzero()[0].tolist():
        match = _NUMBERED_TAG.fullmatch(tags[code])
        if match:
            prefixes[tags[code][: match.start(2)]] += int(counts[code])
    for prefix, count in prefixes.most_common(5):
        if count >= _LEAST_TAGS:
            label = slug(prefix).replace("-", " ").capitalize()
            source = {"kind": "number_from", "from": "tag", "prefix": prefix}
            yield TEXT, numeric_document(index, {"label": label, "source": source})


def grouped_tags(index: Index) -> Iterator[dict[str, Any]]:
    """Yield a facet (without a key) for each group of tags that begin alike, such as ``use:racing`` and ``use:cruising``."""
    groups: dict[str, dict[str, str]] = {}
    products: Counter[str] = Counter()
    tags, counts = index.facts.items(TAG), index.facts.field(TAG).counts
    for code in counts.nonzero()[0].tolist():
        match = _GROUPED_TAG.fullmatch(tags[code])
        if match:
            group, rest = identity(match[1]), match[2]
            groups.setdefault(group, {})[tags[code]] = tidy_label(rest)
            products[group] += int(counts[code])
    for group, count in products.most_common(_MOST_GROUPS):
        if len(groups[group]) >= _LEAST_IN_GROUP and count >= _LEAST_TAGS:
            bins = {"only": sorted(groups[group], key=identity), "rename": groups[group]}
            yield {"label": tidy_label(group), "source": {"kind": "tag"}, "bins": bins, "order": "count", "empty": "emptied"}


def words_document(index: Index) -> dict[str, Any] | None:
    """Return a facet (without a key) of the commonest words in names, None where no word is common."""
    size = max(len(index.every_product), 1)
    brands = {word for brand in index.facts.items(BRAND) for word in identity(brand).split()}
    common = [word for word, count in common_words(index) if word not in brands and 0.02 * size <= count <= 0.6 * size]
    words = common[:_PROPOSED_WORDS]
    if len(words) < 2:
        return None
    groups = [{"label": word.capitalize(), "texts": [word]} for word in words]
    return {"label": "Kind", "source": {"kind": "words", "in": ["name"], "groups": groups}, "order": "count"}


def dated_document(index: Index) -> dict[str, Any]:
    """Cut dates at the starts of the last years."""
    column = index.column(Source("published"))
    years = sorted({value.label[:4] for value in column.values})
    starts = [f"{year}-01-01" for year in years[1:]][-4:]
    document = {"label": "Date added", "source": {"kind": "published"}, "order": "-value"}
    return {**document, "cuts": starts} if starts else {**document, "free": True}


def tidy_label(name: str) -> str:
    """Return the name of a column as people would write it: words apart, the first letter large.

    >>> [tidy_label(name) for name in ("operating_system", "screenSize", "WEIGHT_KG", "Breaking load", "HDMI", "pH")]
    ['Operating system', 'Screen size', 'Weight kg', 'Breaking load', 'HDMI', 'pH']
    """
    words = re.sub(r"[_\s]+", " ", name).strip()
    parts = re.sub(r"(?<=[a-z])(?=[A-Z][a-z])", " ", words)
    if parts != words:
        parts = parts.lower()
    elif "_" in name and words.isupper():
        parts = words.lower()
    return parts[:1].upper() + parts[1:] if parts[1:] == parts[1:].lower() and parts else parts or name


def free_key(label: str, taken: Collection[str], *, or_else: str = "facet") -> str:
    """Make a key of a label: small letters without accents, digits, ``-``; a number added where it is taken, ``by-`` before a word that
    addresses have already.
    """
    key = re.sub("[^a-z0-9_-]", "", slug(unaccented(label.casefold()))).strip("-")
    key = key if key[:1].isalpha() else f"{or_else}-{key}".rstrip("-")
    key = f"by-{key}" if key in RESERVED else key
    base, number = key, 1
    while key in taken:
        number += 1
        key = f"{base}-{number}"
    return key


def _tried(index: Index, listing: tuple[str, ...] | None, group: str, document: dict[str, Any]) -> Proposal:
    spec = facet_spec(document)
    rack = index.remember(("tried", spec), lambda: RackIndex(index, [spec]))
    state = State(rack, Query(category=listing))
    here = rack.on_listing(rack.facets[0], listing)
    counts = tuple(count for count in here.counts if count)
    binned = len(state.products) - here.unbinned
    return Proposal(document, spec, group, state, binned, counts, _score(counts, binned, len(state.products)))


def _score(counts: Sequence[int], binned: int, listing: int) -> float:
    """Weigh how evenly the bins split against how many products are left out; many bins are work to read."""
    total = sum(counts)
    if not listing or len(counts) < 2:
        return 0.05 * binned / max(listing, 1)
    entropy = -sum(count / total * log2(count / total) for count in counts)
    gain = min(entropy, 3) / 3
    reading = 1 if len(counts) <= 12 else 12 / len(counts)
    return binned / listing * gain * (0.4 + 0.6 * reading)
