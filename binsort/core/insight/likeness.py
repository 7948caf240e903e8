"""Likeness of two facets: how much one says of what the other says."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .clicks import Ints, Shelf


@dataclass(frozen=True, slots=True)
class Likeness:
    """What a facet says of another, over the rows that are in bins of both."""

    table: NDArray[np.int64]  # rows of the one facet, columns of the other: how many are in both bins
    covered: float  # of what the other facet has in bins, the share that this one has, too

    @property
    def told(self) -> float:
        """The share of what the other facet says that is known once this one is: mutual information over its entropy (Theil's U).

        >>> Likeness(np.array([[8, 0], [0, 4]]), 1.0).told, Likeness(np.array([[2, 2], [2, 2]]), 1.0).told
        (1.0, 0.0)
        """
        whole = self.table.sum()
        if not whole:
            return 0.0
        shares = self.table / whole
        own = _entropy(shares.sum(axis=0))
        return float((_entropy(shares.sum(axis=1)) + own - _entropy(shares.ravel())) / own) if own else 0.0

    @property
    def guessed(self) -> float:
        """The share of products whose bin of the other facet is the one that most have in their bin of this one."""
        whole = self.table.sum()
        return float(self.table.max(axis=1).sum() / whole) if whole else 0.0


def _entropy(shares: NDArray[np.float64]) -> float:
    some = shares[shares > 0]
    return float(-(some * np.log2(some)).sum())


def likeness(one: Shelf, other: Shelf, every: int = 1) -> Likeness:
    """Compare two shelves of a walk row by row.

    Args:
        one: what may tell.
        other: what may be told.
        every: only each so many-th row is looked at, for a first guess.
    """
    both: Ints = np.flatnonzero((np.diff(one.starts) > 0) & (np.diff(other.starts) > 0))
    shared, both = both.size, both[::every]
    pairs = [_of_rows(shelf, both) for shelf in (one, other)]
    table = np.zeros((len(one.keys), len(other.keys)), dtype=np.int64)
    counts = [np.diff(shelf.starts)[both] for shelf in (one, other)]
    # every bin of the one beside every bin of the other, row by row
    sizes = counts[0] * counts[1]
    row = np.repeat(np.arange(both.size), sizes)
    place = np.arange(row.size) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    first = pairs[0][1][pairs[0][0][row] + place // counts[1][row]]
    second = pairs[1][1][pairs[1][0][row] + place % counts[1][row]]
    np.add.at(table, (first, second), 1)
    others = int((np.diff(other.starts) > 0).sum())
    return Likeness(table, shared / others if others else 0.0)


FEW_BINS = 12  # that people take in at a glance
_FINER = 2  # times as many bins
_FULLY = 0.95  # of what the coarse one says


def is_finer(exact: Shelf, coarse: Shelf, every: int = 1) -> bool:
    """Tell whether one shelf says the same as another, only more exactly: a composition in 46 bins beside a fabric in five.

    The coarse one is for narrowing, the exact one for reading: common practice of the trade.
    """
    few, many = _bins_used(coarse), _bins_used(exact)
    if not 2 <= few <= FEW_BINS or many <= max(FEW_BINS, _FINER * few):
        return False
    alike = likeness(exact, coarse, every)
    return alike.covered >= _FULLY and alike.told >= _FULLY and likeness(coarse, exact, every).covered >= _FULLY


def _bins_used(shelf: Shelf) -> int:
    return int(np.unique(shelf.bins).size)


def _of_rows(shelf: Shelf, rows: Ints) -> tuple[Ints, Ints]:
    """Return where the bins of some rows begin, and the bins."""
    return shelf.starts[rows], shelf.bins
