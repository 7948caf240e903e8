"""Counting: how many products each bin would give, its facet's picks replaced by it."""

from collections.abc import Callable, Sequence

from pyroaring import BitMap

from binsort.core.facets.query import FreeRange
from binsort.core.facets.spec import written_bound
from binsort.core.index.bins import Bin

from .matching import Facet, Left


class Counter:
    """Counts the bins of one facet under the conditions of all facets."""

    def __init__(self, left: Left, facet: Facet) -> None:
        self._facet = facet
        self._left = left if facet.spec.matches_all else left.without(facet.spec.key)
        self._index = left.index
        self._all_of = [wanted for members in self._left.conditions.variants_all.values() for wanted in members]
        self.bins: Callable[[Sequence[Bin], Sequence[BitMap]], list[int]]  # of bins and their products
        if facet.on_variants and not facet.spec.matches_all and self._all_of:
            self.bins = self._by_each  # the all-of picks must be met by variants of the counted bin
        elif not facet.on_variants or self._left.same_variant is None:
            self.bins = self._by_products
        else:
            self.bins = self._by_window

    def _by_products(self, bins: Sequence[Bin], products: Sequence[BitMap]) -> list[int]:
        return list(map(self._left.products.intersection_cardinality, products))

    def _by_window(self, bins: Sequence[Bin], products: Sequence[BitMap]) -> list[int]:
        """Count variants where a product has but one in the bin, and products where it has several."""
        window, count, split = self._left.variants, self._index.count_products, self._facet.split
        in_window = window.intersection_cardinality
        return [in_window(alone) + count(several & window) for alone, several in map(split, bins)]

    def _by_each(self, bins: Sequence[Bin], products: Sequence[BitMap]) -> list[int]:
        return [self._count_each(made.members) for made in bins]

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
        if self.bins == self._by_window:
            return self._index.count_products(members & self._left.variants)
        products = self._index.project(members) if self._facet.on_variants else members
        return self.bins([Bin("", "", members)], [products])[0]


def bounds(left: Left, facet: Facet) -> tuple[str, str] | None:
    """Return the least and greatest number of a free facet over the result with its own picks removed."""
    rest = left.without(facet.spec.key)
    if facet.on_variants and rest.same_variant is None:
        ends = facet.column.ends(rest.products, left.index.size, left.index.product_of)
    else:
        ends = facet.column.ends(rest.variants if facet.on_variants else rest.products, facet.column.size)
    return None if ends is None else (written_bound(ends[0], facet.spec.source.kind), written_bound(ends[1], facet.spec.source.kind))
