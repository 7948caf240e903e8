"""Counting: how many products each bin would give, its facet's picks replaced by it."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.facets.query import FreeRange
from binsort.core.facets.spec import written_bound
from binsort.core.index.bins import Bin
from binsort.core.values.numbers import Number

from .matching import Facet, Left
from .side_by_side import SideBySide, count_alone

_SPARSE = 3  # where fewer than one owner in so many is left, counting all bins by their numbers is faster
_FEW_BINS = 3


class Counter:
    """Counts the bins of one facet under the conditions of all facets."""

    def __init__(self, left: Left, facet: Facet, beside: SideBySide | None = None) -> None:
        """Prepare for a facet.

        Args:
            left: what the picks of all facets leave.
            facet: whose bins are counted.
            beside: the facets of its level that are counted with it, where it has no picks of its own.
        """
        self._facet, self._beside = facet, beside
        self._left = left if facet.spec.matches_all else left.without(facet.spec.key)
        self._index = left.index
        self._all_of = [wanted for members in self._left.conditions.variants_all.values() for wanted in members]
        self._by_each = facet.on_variants and not facet.spec.matches_all and bool(self._all_of)
        self._by_window = facet.on_variants and not self._by_each and self._left.same_variant is not None

    def bins(self, bins: Sequence[Bin], products: Sequence[BitMap], places: NDArray[np.intp]) -> list[int]:
        """Count bins.

        Args:
            bins: of the facet.
            products: in each of them.
            places: of the bins among all of the facet's.
        """
        if self._by_each:  # the all-of picks must be met by variants of the counted bin
            return [self._count_each(bin.members) for bin in bins]
        if self._by_window:
            at_once = self._all_at_once(len(self._left.variants), places)
            return self._in_window(bins) if at_once is None else at_once
        if not self._facet.on_variants:
            at_once = self._all_at_once(len(self._left.products), places)
            if at_once is not None:
                return at_once
        return list(map(self._left.products.intersection_cardinality, products))

    def _all_at_once(self, size: int, places: NDArray[np.intp]) -> list[int] | None:
        """Count every bin by the numbers of the owners that are left, None where bin by bin is faster."""
        facet = self._facet
        if len(places) <= _FEW_BINS or size * _SPARSE >= facet.column.size:
            return None
        if self._beside is not None and facet.spec.key in self._beside.spans:
            level = facet.column.level
            if level not in self._left.counted:
                self._left.counted[level] = self._beside.counts(self._left, on_variants=facet.on_variants)
            first, end = self._beside.spans[facet.spec.key]
            return self._left.counted[level][first:end][places].tolist()  # type: ignore[no-any-return]
        bin_of = facet.bin_of
        return None if bin_of is None else count_alone(self._left, facet, bin_of)[places].tolist()

    def _in_window(self, bins: Sequence[Bin]) -> list[int]:
        """Count variants where a product has but one in the bin, and products where it has several."""
        window, count, split = self._left.variants, self._index.count_products, self._facet.split
        in_window = window.intersection_cardinality
        return [in_window(alone) + count(several & window) for alone, several in map(split, bins)]

    def _count_each(self, members: BitMap) -> int:
        same = self._left.same_variant
        allowed = members if same is None else members & same
        products = self._left.of_products & self._index.project(allowed)
        for wanted in self._all_of:
            products = products & self._index.project(wanted & allowed)
        return len(products)

    def range(self, picked_range: FreeRange) -> int:
        """Count a free range as a bin of its own."""
        members = self._facet.range_members(picked_range)
        if self._by_each:
            return self._count_each(members)
        if self._by_window:
            return self._index.count_products(members & self._left.variants)
        products = self._index.project(members) if self._facet.on_variants else members
        return self._left.products.intersection_cardinality(products)


def bounds(left: Left, facet: Facet) -> tuple[str, str] | None:
    """Return the ends of a free facet: those that are fixed, else the least and greatest number over the result without its own picks."""
    fixed = facet.spec.ends_at
    found = fixed if None not in fixed else _found_ends(left.without(facet.spec.key), facet)
    if found is None:
        return None
    low, high = (own if fix is None else fix for own, fix in zip(found, fixed, strict=True))
    assert low is not None and high is not None
    return written_bound(low, facet.spec.source.kind), written_bound(high, facet.spec.source.kind)


def _found_ends(rest: Left, facet: Facet) -> tuple[Number, Number] | None:
    if facet.on_variants and rest.same_variant is None:
        return facet.column.ends(rest.products, rest.index.size, rest.index.product_of)
    return facet.column.ends(rest.variants if facet.on_variants else rest.products, facet.column.size)
