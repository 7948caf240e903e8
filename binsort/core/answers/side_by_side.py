"""Facets side by side: for each owner a row of bin numbers, so that the bins of all of them are counted in one pass."""

from collections.abc import Sequence
from itertools import accumulate, pairwise
from typing import Self

import numpy as np
from numpy.typing import NDArray

from binsort.core.index.bin_numbers import BinOf

from .matching import Facet, Left

_SHIFTS = 12  # variants of one product up to which repeats are found by looking at those before


class SideBySide:
    """The facets of one level whose owners are in one bin each.

    Every facet has a span of numbers of its own, one for each bin and one for none of them.
    """

    def __init__(self, keys: Sequence[str], firsts: Sequence[int], rows: NDArray[np.unsignedinteger]) -> None:
        self.spans = dict(zip(keys, pairwise(firsts), strict=True))
        self._facets, self._size, self._numbers = rows.shape[1], firsts[-1], rows.dtype
        self._rows = rows.view(f"V{max(1, rows[:1].nbytes)}").ravel() if rows.size else rows  # whole rows are taken at once

    @classmethod
    def of(cls, facets: Sequence[Facet]) -> Self:
        """Put those of some facets of one level side by side that can be."""
        columns = {facet.spec.key: bin_of for facet in facets if facet.bins and (bin_of := facet.bin_of) is not None}
        firsts = [0, *accumulate(len(facet.bins) + 1 for facet in facets if facet.spec.key in columns)]
        rows = np.empty((len(next(iter(columns.values()), ())), len(columns)), dtype=np.min_scalar_type(firsts[-1]))
        for place, (column, first) in enumerate(zip(columns.values(), firsts, strict=False)):
            rows[:, place] = column.astype(rows.dtype) + rows.dtype.type(first)
        return cls(list(columns), firsts, rows)

    def counts(self, left: Left, *, on_variants: bool) -> NDArray[np.intp]:
        """Count what is left in all bins: products, a product once though several of its variants are in a bin."""
        numbers = self._rows.take(left.variants_left if on_variants else left.products_left).view(self._numbers)
        if not on_variants:
            return np.bincount(numbers, minlength=self._size)
        numbers = numbers.reshape(-1, self._facets)
        if not left.index.one_variant_each:
            numbers = numbers[first_in_bin(left.owners_left, numbers, left.index.most_variants)]
        return np.bincount(numbers.ravel(), minlength=self._size)


def count_alone(left: Left, facet: Facet, bin_of: BinOf) -> NDArray[np.intp]:
    """Count what is left in the bins of one facet, as :meth:`SideBySide.counts` does, owners in no bin last."""
    size = len(facet.bins) + 1
    if not facet.on_variants:
        return np.bincount(bin_of[left.products_left], minlength=size)
    numbers = bin_of[left.variants_left]
    if not left.index.one_variant_each:
        numbers = numbers[first_in_bin(left.owners_left, numbers, left.index.most_variants)]
    return np.bincount(numbers, minlength=size)


def first_in_bin(owners: NDArray[np.intp], bins: NDArray[np.unsignedinteger], most: int) -> NDArray[np.bool_]:
    """Tell of each variant whether it is the first of its product in its bin, for one facet or several side by side.

    Args:
        owners: the product of each, rising.
        bins: the bin of each, in a column for each facet where there are several.
        most: variants that a product has at most.

    >>> first_in_bin(np.array([4, 4, 4, 7]), np.array([1, 0, 1, 1], dtype=np.uint8), 3).tolist()
    [True, True, False, True]
    """
    if bins.ndim == 2 and most > _SHIFTS:
        return np.column_stack([first_in_bin(owners, column, most) for column in bins.T])
    if most > _SHIFTS:
        first = np.zeros(len(owners), dtype=bool)
        first[np.unique(owners * (int(bins.max(initial=0)) + 1) + bins, return_index=True)[1]] = True
        return first
    repeated = np.zeros(bins.shape, dtype=bool)
    for back in range(1, most):
        same = owners[back:] == owners[:-back]
        repeated[back:] |= (bins[back:] == bins[:-back]) & (same if bins.ndim == 1 else same[:, None])
    return ~repeated
