"""Answers: the result of some picks on a listing, and the count of every bin beside them."""

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import repeat
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.facets.query import Picks, Query, read_query
from binsort.core.facets.rules import Occasion, taking_part
from binsort.core.facets.spec import FacetSpec
from binsort.core.index.bins import TREE, Bin, in_order
from binsort.core.index.bitmaps import union
from binsort.core.index.catalogue_index import CATEGORY, Changes, Index, Listing, Tree, unchanged
from binsort.core.index.orders import PRICE
from binsort.core.values.numbers import Number

from .bin_counts import Counter, bounds
from .matching import Conditions, Facet, Left, conditions_of
from .ordering import ordered_part
from .side_by_side import SideBySide

SEARCH, WITHIN = "q", "_within"  # no facet can have these keys
EMPTIED = "emptied"  # of empty bins those are seen that picks have emptied
_KEPT_LISTINGS = 64  # whose bins, in order and with their counts, are kept


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
    names: tuple[tuple[str, ...], tuple[str, ...]]  # of the bins: keys and labels
    products: tuple[BitMap, ...]  # of each bin
    places: NDArray[np.intp]  # of each bin among all of the facet's
    tree: Tree | None  # that they stand in the order of


class RackIndex:
    """The facets of a rack over an index; answers queries."""

    def __init__(self, index: Index, specs: Sequence[FacetSpec], facets: Sequence[Facet] | None = None) -> None:
        self.index = index
        self.specs = tuple(specs)
        self.facets = tuple(Facet.cut(spec, index) for spec in specs) if facets is None else tuple(facets)
        self.by_key = {facet.spec.key: facet for facet in self.facets}
        self._beside: dict[bool, SideBySide] = {}  # by whether on variants
        # By listing and the products within which it is counted, which are held here; then by facet.
        self._on_listing: dict[tuple[Listing, int | None], tuple[BitMap | None, dict[str, OnListing]]] = {}

    @classmethod
    def of_known(cls, index: Index, specs: Sequence[FacetSpec], known: Mapping[FacetSpec, Facet]) -> "RackIndex":
        """Return a rack of which some facets were cut from this index already."""
        return cls(index, specs, [known.get(spec) or Facet.cut(spec, index) for spec in specs])

    def later(self, index: Index, changes: Changes, known: dict[FacetSpec, Facet] | None = None) -> "RackIndex":
        """Return the same rack over a later index; only what changed is cut anew.

        Args:
            index: the later one.
            changes: what changed in its columns.
            known: facets that another rack brought along already; the rest of this one's are put there, too.
        """
        known = {} if known is None else known
        for facet in self.facets:
            if facet.spec not in known:
                known[facet.spec] = facet.later(index, changes.get(facet.spec.source.column_key))
        facets = [known[spec] for spec in self.specs]
        rack = RackIndex(index, self.specs, facets)
        if unchanged(changes, CATEGORY) and index.every_product == self.index.every_product:
            same = {facet.spec.key for facet in facets if unchanged(changes, facet.spec.source)}
            rack._on_listing = {
                where: (None, {key: known for key, known in list(kept.items()) if key in same})
                for where, (within, kept) in list(self._on_listing.items())
                if within is None
            }
        return rack

    def beside(self, facet: Facet) -> SideBySide:
        """Return the facets of a facet's level side by side."""
        if facet.on_variants not in self._beside:
            self._beside[facet.on_variants] = SideBySide.of([one for one in self.facets if one.on_variants == facet.on_variants])
        return self._beside[facet.on_variants]

    def answer(self, query: Query, *, per: int = 24) -> Answer:
        """Answer a query that :meth:`read` understood."""
        state = State(self, query)
        return Answer(
            total=len(state.result),
            listing=len(state.products),
            facets=state.facets,
            products=tuple(self.index.ids.many(state.page(per))),
            ignored=query.ignored,
        )

    def read(self, pairs: Sequence[tuple[str, str]], category: Listing = None) -> Query:
        """Understand a query in this rack; ``category`` goes before the query's own."""
        return read_query(pairs, self.specs, self._keys_on, category, lambda sort: self.index.orders.source(sort) is not None)

    def _keys_on(self, key: str, listing: Listing) -> frozenset[str]:
        return self.on_listing(self.by_key[key], listing).keys

    def nodes(self, key: str, bin: str) -> tuple[str, ...]:
        """Return the category of a bin, by the keys of its facet and its own; empty where there is no such bin."""
        facet = self.by_key.get(key)
        return facet.by_key[bin].nodes if facet and bin in facet.by_key else ()

    @property
    def today(self) -> int:
        """The ordinal of the day that rules on time go by: that of the index's moment in UTC, unless the shop keeps another."""
        return self.index.today

    def on_listing(self, facet: Facet, listing: Listing, within: BitMap | None = None) -> OnListing:
        """Return a facet's bins on a listing, in order, with their counts while nothing is picked.

        Args:
            facet: of this rack.
            listing: its category.
            within: the products that it is about besides; what was found for the very same object is kept.
        """
        if listing is not None and not self.index.has_category(listing):
            return _on_listing(facet, listing, BitMap())
        where = listing, None if within is None else id(within)
        _held, kept = self._on_listing.pop(where, (within, {}))
        here = kept.get(facet.spec.key)
        tree = self.index.tree if facet.spec.order.removeprefix("-") == TREE else None
        if here is None or (here.tree is not tree and here.tree != tree):
            products = self.index.listing(listing) if within is None else self.index.listing(listing) & within
            here = kept[facet.spec.key] = _on_listing(facet, listing, products)
        self._on_listing[where] = within, kept  # the one used last stands last
        while len(self._on_listing) > _KEPT_LISTINGS:
            oldest = next(iter(self._on_listing), where)
            self._on_listing.pop(oldest, None)
        return here


def _on_listing(facet: Facet, listing: Listing, products: BitMap) -> OnListing:
    within = [place for place, bin in enumerate(facet.bins) if in_scope(facet.spec, bin, listing)]
    bins = [facet.bins[place] for place in within]
    counts = [products.intersection_cardinality(facet.products(bin)) for bin in bins]
    members = list(map(facet.products, bins))
    binned = facet.with_number if facet.spec.free and not facet.spec.ranges else union(members)
    tree = facet.index.tree if facet.spec.order.removeprefix("-") == TREE else None
    order = in_order(facet.spec, bins, counts, tree)
    return OnListing(
        bins=tuple(bins[place] for place in order),
        counts=tuple(counts[place] for place in order),
        unbinned=len(products) - products.intersection_cardinality(binned),
        keys=frozenset(bin.key for bin in bins),
        names=(tuple(bins[place].key for place in order), tuple(bins[place].label for place in order)),
        products=tuple(members[place] for place in order),
        places=np.array([within[place] for place in order], dtype=np.intp),
        tree=tree,
    )


def in_scope(spec: FacetSpec, bin: Bin, listing: Listing) -> bool:
    """Tell whether a bin of a facet shows on a listing; only categories have a scope."""
    if spec.scope == "all":
        return True
    if spec.scope == "top":
        return len(bin.nodes) == 1
    above = (listing or ()) if spec.under_listing else spec.under
    depth = len(bin.nodes) - len(above)
    return bin.nodes[: len(above)] == above and (depth > 0 if spec.deep else depth == 1)


class State:
    """One query on its way to an answer: the listing, the effective picks, the result."""

    def __init__(self, rack: RackIndex, query: Query, found: BitMap | None = None, within: BitMap | None = None) -> None:
        """Understand what is asked.

        Args:
            rack: whose facets are picked.
            query: that :meth:`RackIndex.read` understood.
            found: the products that a search by text found, None where nothing is searched for; all else is counted among them.
            within: the products that the listing is about besides its category, such as those of a tag; None for all.
        """
        self.rack = rack
        self.query = query
        self.found = found
        self.listing = query.category
        self.within = within
        self.products = rack.index.listing(query.category) if within is None else rack.index.listing(query.category) & within
        self.shown = taking_part(rack.specs, query.picks, Occasion(query.category, rack.today, rack.nodes))
        self.picks: Mapping[str, Picks] = {key: picks for key, picks in query.picks.items() if key in self.shown}
        conditions = conditions_of(rack.facets, self.picks)
        for name, products in ((SEARCH, found), (WITHIN, within)):
            conditions = conditions if products is None else conditions.among(name, products)
        self.conditions: Conditions = conditions
        self._facets: dict[str, FacetAnswer] = {}

    def with_picks(self, picks: Mapping[str, Picks]) -> "State":
        """Return the same query with other picks; rules between facets are looked at anew."""
        return State(self.rack, replace(self.query, picks=dict(picks)), self.found, self.within)

    def without_picks(self, keys: Container[str]) -> "State":
        """Return the same query without the picks of some facets; rules between facets are looked at anew."""
        return self.with_picks({key: picks for key, picks in self.picks.items() if key not in keys})

    @cached_property
    def left(self) -> Left:
        """What the picks leave of the listing."""
        return Left(self.rack.index, self.listing, self.conditions)

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
        here = self.rack.on_listing(facet, self.listing, self.within)
        counter = Counter(self.left, facet, None if picks else self.rack.beside(facet))
        counts = counter.bins(here.bins, here.products, here.places)
        ends = bounds(self.left, facet) if spec.free else None
        return FacetAnswer(
            key=spec.key,
            shown=spec.key in self.shown and (bool(picks) or any(here.counts if spec.empty == EMPTIED else counts) or ends is not None),
            unbinned=here.unbinned,
            bounds=ends,
            free=tuple((*picked_range.texts(spec.source.kind), counter.range(picked_range)) for picked_range in picks.ranges),
            bins=_bin_answers(here, counts, picks, spec.empty),
        )

    def page(self, per: int) -> list[int]:
        """Return the slots of the products on the query's page."""
        per = self.query.per or per
        return self.part((self.query.page - 1) * per, self.query.page * per)

    def prices(self, slot: int) -> tuple[Number, Number] | None:
        """Return the least and the greatest price of a product over its variants that meet the any-of picks, None without a price."""
        index, same = self.rack.index, self.left.same_variant
        variants = range(int(index.starts[slot]), int(index.starts[slot + 1]))
        counted = [variant for variant in variants if same is None or variant in same]
        column = index.column(PRICE)
        least, greatest = min(column.least[counted], default=0), max(column.greatest[counted], default=-1)
        return None if greatest < 0 else (column.numbers[int(least)], column.numbers[int(greatest)])

    def part(self, start: int, stop: int) -> list[int]:
        """Return the slots of the result's products from one place to before another, in the order asked for."""
        same_variant = None if self.left.same_variant is None else lambda: self.left.variants
        return ordered_part(self.rack.index.orders, self.query.sort, self.result, start, stop, same_variant=same_variant)


def _bin_answers(here: OnListing, counts: Sequence[int], picks: Picks, empty: str) -> tuple[BinAnswer, ...]:
    """Return the answers of bins; most hold something and are not picked, and are made all alike."""
    keys, labels = here.names
    answers = list(map(tuple.__new__, repeat(BinAnswer), zip(keys, labels, counts, repeat(False), repeat(True), repeat(True))))
    shown, enabled = empty != "hide", empty == "keep"  # what a bin is that nothing is in
    picked = set(picks.bins)
    others = [place for place, key in enumerate(keys) if key in picked] if picked else []
    others += [place for place, count in enumerate(counts) if not count] if 0 in counts else []
    for place in others:
        key = keys[place]
        is_seen = bool(counts[place]) or key in picked
        stays = shown if empty != EMPTIED else bool(here.counts[place])
        answers[place] = BinAnswer(key, labels[place], counts[place], key in picked, is_seen or stays, is_seen or enabled)
    return tuple(answers)
