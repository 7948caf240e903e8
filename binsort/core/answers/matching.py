"""Matching: from picks to the products that meet them, the same variant meeting all variant-level ones."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.facets.query import FreeRange, Picks
from binsort.core.facets.spec import FacetSpec
from binsort.core.index.bin_numbers import BinOf, bin_of_each, bin_of_followed
from binsort.core.index.bins import Bin, cut_into_bins, later_bins
from binsort.core.index.bitmaps import bitmap, bitmap_of_rising, intersection, mask_of, numbers, union
from binsort.core.index.catalogue_index import Index, Listing
from binsort.core.index.columns import VARIANT, Change

Part = TypeVar("Part")


class Facet:
    """A facet over an index: its bins with their members."""

    def __init__(self, spec: FacetSpec, index: Index, bins: list[Bin]) -> None:
        self.spec = spec
        self.column = index.column(spec.source)
        self.on_variants = self.column.level == VARIANT
        self.bins = bins
        self.by_key = {bin.key: bin for bin in bins}
        self.index = index
        self._projected: dict[str, BitMap] = {}
        self._split: dict[str, tuple[BitMap, BitMap]] = {}
        self._articles: dict[str, BitMap] = {}
        self._bin_of: BinOf | bool | None = False  # False: not looked at yet

    @classmethod
    def cut(cls, spec: FacetSpec, index: Index) -> "Facet":
        """Cut the column of a facet's source into its bins."""
        return cls(spec, index, cut_into_bins(spec, index.column(spec.source)))

    def later(self, index: Index, change: Change | None) -> "Facet":
        """Return the facet over a later index, bins that lost and gained nothing being the same objects."""
        if change is None:
            return Facet.cut(self.spec, index)
        column = index.column(self.spec.source)
        bins = later_bins(self.spec, (self.bins, self.column), column, change) if change else self.bins
        facet = Facet(self.spec, index, bins)
        facet._take_over((self._projected.copy(), self._split.copy()), {bin.key: bin for bin in self.bins}, change)
        if isinstance(self._bin_of, np.ndarray) and [bin.key for bin in bins] == [bin.key for bin in self.bins]:
            facet._bin_of = bin_of_followed(self._bin_of, bins, column.size, change)
        return facet

    @property
    def bin_of(self) -> BinOf | None:
        """The place among the bins that each owner is in, their number for none; None where an owner is in several."""
        if self._bin_of is False:
            self._bin_of = bin_of_each(self.bins, self.column.size)
        return self._bin_of  # type: ignore[return-value]

    def _take_over(
        self, known: tuple[dict[str, BitMap], dict[str, tuple[BitMap, BitMap]]], before: Mapping[str, Bin], change: Change
    ) -> None:
        """Bring what was found out about earlier bins up to date, at the cost of what changed."""
        projected, split = known
        moving = union(bitmap(owners) for _, owners in (*change.removed, *change.added))
        products = self.index.project(moving) if projected else moving
        variants = bitmap(self.index.facts.variants_of(numbers(products))) if projected else moving
        for key, members in projected.items():
            bin, old = self.by_key.get(key), before[key]
            if bin is None or bin.values != old.values or bin.range != old.range:
                continue
            same = bin.members is old.members
            if same and key in split:
                self._split[key] = split[key]
            self._projected[key] = members if same else (members - products) | self.index.project(bin.members & variants)

    def products(self, bin: Bin) -> BitMap:
        """Return the products in a bin."""
        if not self.on_variants:
            return bin.members
        if bin.key not in self._projected:
            self._projected[bin.key] = self.index.project(bin.members)
        return self._projected[bin.key]

    def split(self, bin: Bin) -> tuple[BitMap, BitMap]:
        """Return the variants in a bin whose product has no other in it, and those whose product has."""
        if bin.key not in self._split:
            several = self.index.several(bin.members)
            self._split[bin.key] = (bin.members - several, several)
        return self._split[bin.key]

    def variants_picked(self, picks: Picks) -> BitMap:
        """Return the variants of the products that meet the picks of a facet that is not on variants; those of a bin are found once."""
        for key in picks.bins:
            if key not in self._articles:
                self._articles[key] = self.index.variants_of(self.by_key[key].members)
        parts = [self._articles[key] for key in picks.bins]
        parts += [self.index.variants_of(self.range_members(picked_range)) for picked_range in picks.ranges]
        return intersection(*parts) if self.spec.matches_all else union(parts)

    def range_members(self, picked_range: FreeRange) -> BitMap:
        """Return the members, products or variants, of a free range."""
        return self.column.slice(*self.column.ranks(picked_range.low, picked_range.high, inclusive=True))

    def picked_members(self, picks: Picks) -> list[BitMap]:
        """Return the members of each pick."""
        return [*(self.by_key[key].members for key in picks.bins), *map(self.range_members, picks.ranges)]

    @cached_property
    def with_number(self) -> BitMap:
        """The products that have a number (or date) of this facet's source."""
        owners = self.column.with_number
        return self.index.project(owners) if self.on_variants else owners


@dataclass(frozen=True, slots=True)
class Conditions:
    """What picks ask of a product, by facet key."""

    products: Mapping[str, BitMap] = field(default_factory=dict)
    variants: Mapping[str, BitMap] = field(default_factory=dict)  # one variant must be in all of these
    variants_all: Mapping[str, Sequence[BitMap]] = field(default_factory=dict)  # each needs a variant that is in those, too
    articles: Mapping[str, Callable[[], BitMap]] = field(default_factory=dict)  # finds the variants of what ``products`` holds

    def has(self, key: str) -> bool:
        """Tell whether a facet has picks."""
        return key in self.products or key in self.variants or key in self.variants_all

    def without(self, key: str) -> "Conditions":
        """Return the conditions with one facet's picks removed."""
        parts = (self.products, self.variants, self.variants_all, self.articles)
        return Conditions(*(_without(part, key) for part in parts))  # type: ignore[arg-type]

    def with_members(self, facet: Facet, members: Sequence[BitMap]) -> "Conditions":
        """Return the conditions with one facet's picks replaced by these."""
        rest, key = self.without(facet.spec.key), facet.spec.key
        if not members:
            return rest
        if not facet.on_variants:
            joined = intersection(*members) if facet.spec.matches_all else union(members)
            return replace(rest, products={**rest.products, key: joined})
        if facet.spec.matches_all:
            return replace(rest, variants_all={**rest.variants_all, key: members})
        return replace(rest, variants={**rest.variants, key: union(members)})

    def with_picks(self, facet: Facet, picks: Picks) -> "Conditions":
        """Return the conditions with one facet's picks replaced by these."""
        conditions = self.with_members(facet, facet.picked_members(picks))
        if facet.spec.key not in conditions.products:
            return conditions
        return replace(conditions, articles={**conditions.articles, facet.spec.key: partial(facet.variants_picked, picks)})

    def among(self, name: str, products: BitMap) -> "Conditions":
        """Return the conditions with one more, which products meet that are among some; no facet has its name for a key."""
        return replace(self, products={**self.products, name: products})

    @property
    def same_variant(self) -> BitMap | None:
        """The variants that meet every any-of pick, None where there is no such pick."""
        return intersection(*self.variants.values()) if self.variants else None

    def of_products(self, listing: BitMap) -> BitMap:
        """Return the products of a listing that meet the product-level picks."""
        return intersection(listing, *self.products.values())

    def result(self, index: Index, listing: BitMap) -> BitMap:
        """Return the products of a listing that meet all picks."""
        products, same = self.of_products(listing), self.same_variant
        return self.having_all(index, products if same is None else products & index.project(same))

    def having_all(self, index: Index, products: BitMap) -> BitMap:
        """Return those of some products that have, for each all-of pick, a variant that meets it and every any-of pick."""
        same = self.same_variant
        for members in self.variants_all.values():
            for wanted in members:
                products = products & index.project(wanted if same is None else wanted & same)
        return products


class Left:
    """What conditions leave of a listing. Found once, and used for every facet that has no picks of its own."""

    def __init__(self, index: Index, path: Listing, conditions: Conditions) -> None:
        self.index, self.path, self.conditions = index, path, conditions
        self.listing = index.listing(path)
        self.counted: dict[str, NDArray[np.intp]] = {}  # by level: the bins of facets that are counted together
        self._without: dict[str, Left] = {}

    @cached_property
    def of_products(self) -> BitMap:
        """The products that meet the product-level picks."""
        return self.conditions.of_products(self.listing)

    @cached_property
    def same_variant(self) -> BitMap | None:
        """The variants that meet every any-of pick, None where there is no such pick."""
        return self.conditions.same_variant

    @cached_property
    def _any_of(self) -> BitMap:
        """The variants that meet every any-of pick, of products that meet the product-level ones."""
        assert self.same_variant is not None
        conditions, index = self.conditions, self.index
        parts = [
            conditions.articles[key]() if key in conditions.articles else index.variants_of(products)
            for key, products in conditions.products.items()
        ]
        return intersection(self.same_variant, index.variants_of_listing(self.path), *parts)

    @cached_property
    def _matching(self) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """The numbers of these variants, and the product of each."""
        variants = numbers(self._any_of).astype(np.intp)
        return variants, self.index.product_of[variants]

    @cached_property
    def products(self) -> BitMap:
        """The products that meet all picks."""
        if self.same_variant is None or self.index.one_variant_each:
            return self.conditions.result(self.index, self.listing)
        products = self.index.of_owners(self._matching[1])
        return products if not self.conditions.variants_all else self.conditions.having_all(self.index, products)

    @cached_property
    def products_left(self) -> NDArray[np.intp]:
        """The numbers of :attr:`products`."""
        return numbers(self.products).astype(np.intp)

    @cached_property
    def variants(self) -> BitMap:
        """The variants of the products left that meet every any-of pick."""
        if self.same_variant is None or self.index.one_variant_each:
            return self.index.variants_of(self.products, self.same_variant)
        return bitmap_of_rising(self._variants_with_owners[0]) if self.conditions.variants_all else self._any_of

    @cached_property
    def _variants_with_owners(self) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        if self.same_variant is None or self.index.one_variant_each:
            left = numbers(self.variants).astype(np.intp)
            return left, self.index.product_of[left]
        if not self.conditions.variants_all:
            return self._matching
        variants, owners = self._matching
        kept = np.flatnonzero(mask_of(self.products, self.index.size)[owners])
        return variants.take(kept), owners.take(kept)

    @property
    def variants_left(self) -> NDArray[np.intp]:
        """The numbers of :attr:`variants`."""
        return self._variants_with_owners[0]

    @property
    def owners_left(self) -> NDArray[np.intp]:
        """The product of each of :attr:`variants_left`."""
        return self._variants_with_owners[1]

    def without(self, key: str) -> "Left":
        """Return what is left with one facet's picks removed."""
        if not self.conditions.has(key):
            return self
        if key not in self._without:
            left = self._without[key] = Left(self.index, self.path, self.conditions.without(key))
            if self.same_variant is not None and key not in self.conditions.variants:  # the same variants meet the picks
                left.__dict__["same_variant"] = self.same_variant
            if self.same_variant is not None and key not in self.conditions.products:
                left.__dict__["of_products"] = self.of_products
        return self._without[key]


def _without(part: Mapping[str, Part], key: str) -> dict[str, Part]:
    return {name: members for name, members in part.items() if name != key}


def conditions_of(facets: Sequence[Facet], picks: Mapping[str, Picks]) -> Conditions:
    """Return the conditions of all facets' effective picks."""
    conditions = Conditions()
    for facet in facets:
        if facet.spec.key in picks:
            conditions = conditions.with_picks(facet, picks[facet.spec.key])
    return conditions
