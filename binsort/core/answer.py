"""Answers: the result of some picks on a listing, and the count of every bin beside them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple, TypeAlias

import numpy as np
from pyroaring import BitMap

from .bins import Bin, in_order
from .bitmaps import numbers, union
from .counting import Counter, bounds
from .index import PUBLISHED, RATING, Index
from .matching import Conditions, Facet, Left, conditions_of
from .query import Picks, Query, read_query
from .rules import taking_part
from .spec import FacetSpec

Listing: TypeAlias = tuple[str, ...] | None  # identities of a category's path, None for all products


class BinAnswer(NamedTuple):
    """One bin as a shopper sees it."""

    key: str
    label: str
    count: int  # type: ignore[assignment]  # stands before the method of tuples, which nobody needs here
    picked: bool
    shown: bool
    enabled: bool


@dataclass(frozen=True, slots=True)
class FacetAnswer:
    """One facet as a shopper sees it."""

    key: str
    shown: bool
    unbinned: int
    bounds: tuple[str, str] | None
    free: tuple[tuple[str | None, str | None, int], ...]
    bins: tuple[BinAnswer, ...]


@dataclass(frozen=True, slots=True)
class Answer:
    """All that a listing page shows."""

    total: int
    listing: int
    facets: tuple[FacetAnswer, ...]
    products: tuple[str, ...]
    ignored: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class OnListing:
    """What a facet is on one listing before anything is picked."""

    bins: tuple[Bin, ...]  # in scope, in the shopper's order
    counts: tuple[int, ...]
    unbinned: int
    keys: frozenset[str]


class RackIndex:
    """The facets of a rack over an index; answers queries."""

    def __init__(self, index: Index, specs: Sequence[FacetSpec]) -> None:
        self.index = index
        self.specs = tuple(specs)
        self.facets = tuple(Facet(spec, index) for spec in specs)
        self.by_key = {facet.spec.key: facet for facet in self.facets}
        self._on_listing: dict[tuple[str, Listing], OnListing] = {}

    def answer(self, query: Query, *, per: int = 24) -> Answer:
        """Answer a query that :meth:`read` understood."""
        state = State(self, query)
        return Answer(
            total=len(state.result),
            listing=len(state.products),
            facets=state.facets,
            products=tuple(self.index.ids[number] for number in state.page(per)),
            ignored=query.ignored,
        )

    def read(self, pairs: Sequence[tuple[str, str]], category: Listing = None) -> Query:
        """Understand a query in this rack; ``category`` goes before the query's own."""
        return read_query(pairs, self.specs, lambda key, listing: self.on_listing(self.by_key[key], listing).keys, category)

    def on_listing(self, facet: Facet, listing: Listing) -> OnListing:
        """Return a facet's bins on a listing, in order, with their counts while nothing is picked."""
        if listing is not None and not self.index.has_category(listing):
            return _on_listing(facet, listing, BitMap())
        key = (facet.spec.key, listing)
        if key not in self._on_listing:
            self._on_listing[key] = _on_listing(facet, listing, self.index.listing(listing))
        return self._on_listing[key]


def _on_listing(facet: Facet, listing: Listing, products: BitMap) -> OnListing:
    bins = [made for made in facet.bins if in_scope(facet.spec, made, listing)]
    counts = [products.intersection_cardinality(facet.products(made)) for made in bins]
    binned = facet.with_number if facet.spec.free and not facet.spec.ranges else union(map(facet.products, bins))
    order = in_order(facet.spec, bins, counts)
    return OnListing(
        bins=tuple(bins[place] for place in order),
        counts=tuple(counts[place] for place in order),
        unbinned=len(products) - products.intersection_cardinality(binned),
        keys=frozenset(made.key for made in bins),
    )


def in_scope(spec: FacetSpec, made: Bin, listing: Listing) -> bool:
    """Tell whether a bin of a facet shows on a listing; only categories have a scope."""
    if spec.source.kind != "category" or spec.scope == "all":
        return True
    if spec.scope == "top":
        return len(made.nodes) == 1
    above = (listing or ()) if spec.under_listing else spec.under
    depth = len(made.nodes) - len(above)
    return made.nodes[: len(above)] == above and (depth > 0 if spec.deep else depth == 1)


class State:
    """One query on its way to an answer: the listing, the effective picks, the result."""

    def __init__(self, rack: RackIndex, query: Query) -> None:
        self.rack = rack
        self.query = query
        self.listing = query.category
        self.products = rack.index.listing(query.category)
        self.shown = taking_part(rack.specs, query.picks)
        self.picks: Mapping[str, Picks] = {key: picks for key, picks in query.picks.items() if key in self.shown}
        self.conditions: Conditions = conditions_of(rack.facets, self.picks)
        self._facets: dict[str, FacetAnswer] = {}

    @cached_property
    def left(self) -> Left:
        """What the picks leave of the listing."""
        return Left(self.rack.index, self.products, self.conditions)

    @property
    def result(self) -> BitMap:
        """The products that meet all picks."""
        return self.left.products

    def result_with(self, facet: Facet, members: Sequence[BitMap]) -> BitMap:
        """Return the result if a facet's picks were these members."""
        return self.conditions.with_members(facet, members).result(self.rack.index, self.products)

    @property
    def facets(self) -> tuple[FacetAnswer, ...]:
        """The answer of every facet of the rack, in its order."""
        return tuple(self.facet(facet) for facet in self.rack.facets)

    def facet(self, facet: Facet) -> FacetAnswer:
        """Answer for one facet; found once."""
        if facet.spec.key not in self._facets:
            self._facets[facet.spec.key] = self._answer(facet)
        return self._facets[facet.spec.key]

    def _answer(self, facet: Facet) -> FacetAnswer:
        spec, picks = facet.spec, self.picks.get(facet.spec.key, Picks())
        here = self.rack.on_listing(facet, self.listing)
        counter = Counter(self.left, facet)
        counts = counter.bins(here.bins)
        ends = bounds(self.left, facet) if spec.free else None
        return FacetAnswer(
            key=spec.key,
            shown=spec.key in self.shown and (bool(picks) or any(counts) or ends is not None),
            unbinned=here.unbinned,
            bounds=ends,
            free=tuple((*found.texts(spec.source.kind), counter.range(found)) for found in picks.ranges),
            bins=tuple(_bin_answer(made, count, made.key in picks.bins, spec.empty) for made, count in zip(here.bins, counts, strict=True)),
        )

    def page(self, per: int) -> list[int]:
        """Return the dense numbers of the products on the query's page."""
        per = self.query.per or per
        found = self.sorted_result(self.query.sort)
        return [int(number) for number in found[(self.query.page - 1) * per : self.query.page * per]]

    @cached_property
    def matching_prices(self) -> tuple[np.ndarray[tuple[int], np.dtype[np.int32]], np.ndarray[tuple[int], np.dtype[np.int32]]]:
        """The ranks of each product's least and greatest price over the variants that meet the any-of picks."""
        same = self.left.same_variant
        return self.rack.index.prices if same is None else self.rack.index.prices_within(same)

    def sorted_result(self, sort: str) -> np.ndarray[tuple[int], np.dtype[np.uint32]]:
        """Return the dense numbers of the result's products in the order asked for; ties in file order."""
        found = numbers(self.result)
        if sort == "listed":
            return found
        keys = self._sort_keys(sort)[found]
        return found[np.argsort(keys, kind="stable")]

    def _sort_keys(self, sort: str) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
        index = self.rack.index
        if sort in ("name", "-name"):
            return index.name_rank if sort == "name" else -index.name_rank
        if sort in ("newest", "-rating"):
            return -index.column(PUBLISHED if sort == "newest" else RATING).greatest.astype(np.int64)
        least, greatest = self.matching_prices
        return least.astype(np.int64) if sort == "price" else -greatest.astype(np.int64)


def _bin_answer(made: Bin, count: int, picked: bool, empty: str) -> BinAnswer:
    bare = count == 0 and not picked
    return BinAnswer(made.key, made.label, count, picked, shown=not (bare and empty == "hide"), enabled=not (bare and empty != "keep"))
