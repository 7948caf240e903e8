"""Counting: how many products each bin would give, its facet's picks replaced by it."""

from collections.abc import Callable, Sequence

from pyroaring import BitMap

from .bins import Bin
from .bitmaps import numbers
from .index import Index
from .matching import Conditions, Facet
from .query import FreeRange
from .spec import written_bound


class Counter:
    """Counts the bins of one facet under the conditions of all facets."""

    def __init__(self, index: Index, listing: BitMap, conditions: Conditions, facet: Facet) -> None:
        self._index = index
        self._facet = facet
        self._rest = conditions if facet.spec.matches_all else conditions.without(facet.spec.key)
        self._same = self._rest.same_variant
        self._all_of = [wanted for members in self._rest.variants_all.values() for wanted in members]
        meets_all_of = facet.on_variants and not facet.spec.matches_all and self._all_of
        # Where other all-of picks must be met by variants of the counted bin, they are checked bin by bin.
        self._base = self._rest.of_products(listing) if meets_all_of else self._rest.result(index, listing)
        self.bins: Callable[[Sequence[Bin]], list[int]]
        if not facet.on_variants or (self._same is None and not meets_all_of):
            self.bins = self._by_products
        elif meets_all_of:
            self.bins = self._by_each
        else:
            self.bins = self._by_window

    def _by_products(self, bins: Sequence[Bin]) -> list[int]:
        base, products = self._base, self._facet.products
        return [base.intersection_cardinality(products(made)) for made in bins]

    def _by_window(self, bins: Sequence[Bin]) -> list[int]:
        window = self._window
        return [self._index.count_products(made.members & window) for made in bins]

    def _by_each(self, bins: Sequence[Bin]) -> list[int]:
        return [self._count_each(made.members) for made in bins]

    def _count_each(self, members: BitMap) -> int:
        allowed = members if self._same is None else members & self._same
        found = self._base & self._index.project(allowed)
        for wanted in self._all_of:
            found = found & self._index.project(wanted & allowed)
        return len(found)

    @property
    def _window(self) -> BitMap:
        """The variants that may meet a pick of this facet."""
        variants = self._index.variants_of(self._base)
        return variants if self._same is None else variants & self._same

    def range(self, found: FreeRange) -> int:
        """Count a free range as a bin of its own."""
        members = self._facet.range_members(found)
        if self.bins == self._by_products and self._facet.on_variants:
            return self._base.intersection_cardinality(self._index.project(members))
        return self.bins([Bin("", "", members)])[0]


def bounds(index: Index, listing: BitMap, conditions: Conditions, facet: Facet) -> tuple[str, str] | None:
    """Return the least and greatest number of a free facet over the result with its own picks removed."""
    rest = conditions.without(facet.spec.key)
    owners = rest.result(index, listing)
    if facet.on_variants:
        same = rest.same_variant
        owners = index.variants_of(owners) if same is None else index.variants_of(owners) & same
    column, found = facet.column, numbers(owners)
    if not len(found):
        return None
    least, greatest = int(column.least[found].min()), int(column.greatest[found].max())
    if greatest < 0:
        return None
    return written_bound(column.numbers[least], facet.spec.source.kind), written_bound(column.numbers[greatest], facet.spec.source.kind)
