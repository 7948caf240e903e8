"""Addresses of listings: the picks of a state written back as a query."""

from collections.abc import Mapping, Sequence
from urllib.parse import urlencode

from django.http import HttpRequest

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.query import FreeRange, Picks, pairs_of
from binsort.core.values.amounts import read_amount
from binsort.core.values.numbers import written

Pair = tuple[str, str]


def range_text(picked_range: FreeRange, kind: str) -> str:
    """Write a free range as it stands in an address."""
    low, high = picked_range.texts(kind)
    return f"{low or ''}..{high or ''}"


def pick_pairs(state: State) -> list[Pair]:
    """Return the effective picks, facet by facet in the order of the rack."""
    return picked_pairs(state.rack, state.picks)


def picked_pairs(rack: RackIndex, picked: Mapping[str, Picks]) -> list[Pair]:
    """Return some picks as they stand in an address: facet by facet in the order of the rack, in each by their keys, ranges last."""
    pairs = []
    for facet in rack.facets:
        picks = picked.get(facet.spec.key)
        if picks:
            pairs += [(facet.spec.key, key) for key in sorted(picks.bins)]
            pairs += sorted((facet.spec.key, range_text(picked_range, facet.spec.source.kind)) for picked_range in picks.ranges)
    return pairs


def toggled(state: State, key: str, value: str) -> list[Pair]:
    """Return the picks with one taken away if it is there, else added; where only one can be picked, in place of it."""
    pairs = pick_pairs(state)
    if (key, value) in pairs:
        return [pair for pair in pairs if pair != (key, value)]
    if state.rack.by_key[key].spec.pick == "one":
        pairs = [pair for pair in pairs if pair[0] != key]
    places = {facet.spec.key: place for place, facet in enumerate(state.rack.facets)}
    return sorted([*pairs, (key, value)], key=lambda pair: (places[pair[0]], pair[1] not in state.rack.by_key[pair[0]].by_key, pair[1]))


def query_string(pairs: Sequence[Pair]) -> str:
    """Write a query with its question mark, empty where there is nothing in it."""
    return f"?{urlencode(pairs)}" if pairs else ""


def split_address(address: str) -> tuple[str, tuple[Pair, ...]]:
    """Return an address without its query, and its query decoded."""
    path, _mark, query = address.partition("?")
    return path, tuple(pairs_of(query))


def typed_pairs(request: HttpRequest) -> list[Pair]:
    """Return the query of a request, decoded as the core decodes it."""
    raw = request.META.get("QUERY_STRING", "")
    return pairs_of(raw.encode("latin-1", "replace").decode("utf-8", "replace"))


def query_pairs(request: HttpRequest) -> list[Pair]:
    """Return the query of a request with the ends of ranges as addresses have them."""
    pairs = typed_pairs(request)
    return [(name, _plain_end(value) if name.endswith((".from", ".to")) else value) for name, value in pairs]


def _plain_end(text: str) -> str:
    """Return an end of a range as addresses have it, however it was typed into its field: "£5" is 5, "3,5" is 3.5."""
    read = read_amount(text)
    return written(read[0]) if read else text
