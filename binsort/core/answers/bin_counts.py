"""Counting: how many products each bin would give, its facet's picks replaced by it."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.facets.query import FreeRange
from binsort.core.facets.spec import written_bound
from binsort.core.index.bin_numbers import BinOf
from binsort.core.index.bins import Bin

from .matching import Facet, Left

_SPARSE = 3  # where fewer than one owner in so many is left, counting all bins by their numbers is faster
_FEW_BINS = 3
_SHIFTS = 12  # variants of one product up to which repeats are found by looking at those before


class Counter:
    """Counts the bins of one facet under the conditions of all facets."""

    def __init__(self, left: Left, facet: Facet) -> None:
        self._facet = facet
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
            return [self._count_each(made.members) for made in bins]
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
        bin_of = self._facet.bin_of if len(places) > _FEW_BINS and size * _SPARSE < self._facet.column.size else None
        if bin_of is None:
            return None
        counts = self._of_variants(bin_of) if self._facet.on_variants else np.bincount(bin_of[self._left.products_left], minlength=1)
        return _padded(counts, len(self._facet.bins))[places].tolist()  # type: ignore[no-any-return]

    def _of_variants(self, bin_of: BinOf) -> NDArray[np.intp]:
        """Count the products of each bin's variants that are left, a product once though several of its variants are in a bin."""
        found = bin_of[self._left.variants_left]
        if self._index.one_variant_each:
            return np.bincount(found, minlength=1)
        return np.bincount(found[first_in_bin(self._left.owners_left, found, self._index.most_variants)], minlength=1)

    def _in_window(self, bins: Sequence[Bin]) -> list[int]:
        """Count variants where a product has but one in the bin, and products where it has several."""
        window, count, split = self._left.variants, self._index.count_products, self._facet.split
        in_window = window.intersection_cardinality
        return [in_window(alone) + count(several & window) for alone, several in map(split, bins)]

    def _count_each(self, members: BitMap) -> int:
        same = self._left.same_variant
        allowed = members if same is None else members & same
        found = self._left.of_products & self._index.project(allowed)
        for wanted in self._all_of:
            found = found & self._index.project(wanted & allowed)
        return len(found)

    def range(self, found: FreeRange) -> int:
        """Count a free range as a bin of its own."""
        members = self._facet.range_members(found)
        if self._by_each:
            return self._count_each(members)
        if self._by_window:
            return self._index.count_products(members & self._left.variants)
        products = self._index.project(members) if self._facet.on_variants else members
        return self._left.products.intersection_cardinality(products)


def _padded(counts: NDArray[np.intp], size: int) -> NDArray[np.intp]:
    """Return counts with noughts for the bins behind the last one met."""
    return counts if len(counts) >= size else np.concatenate((counts, np.zeros(size - len(counts), dtype=counts.dtype)))


def first_in_bin(owners: NDArray[np.intp], bins: BinOf, most: int) -> NDArray[np.bool_]:
    """Tell of each variant whether it is the first of its product in its bin.

    Args:
        owners: the product of each, rising.
        bins: the bin of each.
        most: variants that a product has at most.

    >>> first_in_bin(np.array([4, 4, 4, 7]), np.array([1, 0, 1, 1], dtype=np.uint8), 3).tolist()
    [True, True, False, True]
    """
    if most > _SHIFTS:
        first = np.zeros(len(owners), dtype=bool)
        first[np.unique(owners * (int(bins.max(initial=0)) + 1) + bins, return_index=True)[1]] = True
        return first
    repeated = np.zeros(len(owners), dtype=bool)
    for back in range(1, most):
        repeated[back:] |= (owners[back:] == owners[:-back]) & (bins[back:] == bins[:-back])
    return ~repeated


def bounds(left: Left, facet: Facet) -> tuple[str, str] | None:
    """Return the least and greatest number of a free facet over the result with its own picks removed."""
    rest = left.without(facet.spec.key)
    if facet.on_variants and rest.same_variant is None:
        ends = facet.column.ends(rest.products, left.index.size, left.index.product_of)
    else:
        ends = facet.column.ends(rest.variants if facet.on_variants else rest.products, facet.column.size)
    return None if ends is None else (written_bound(ends[0], facet.spec.source.kind), written_bound(ends[1], facet.spec.source.kind))
