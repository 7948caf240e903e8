"""Cuts: suggesting boundaries that split a listing evenly and are round enough to be read."""

from bisect import bisect_left
from collections.abc import Sequence
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from binsort.core.index.columns import Column
from binsort.core.values.numbers import Number, approximate, whole

from .axis import nice

_ROUND = ((1, 0), (5, 1), (2, 1), (3, 3), (4, 3), (6, 3), (8, 3), (Fraction(5, 2), 4), (Fraction(3, 2), 4), (Fraction(15, 2), 5))
_CLOSE = 0.25  # of their size: numbers that lie closer together than that are parted by even steps, too
FEW_VALUES = 7  # up to so many distinct numbers are choices by themselves


def round_cuts(numbers: Sequence[Number], weights: Sequence[int], *, bins: int = 5) -> list[Number]:
    """Suggest round cuts that split products about evenly.

    Each cut is the roundest number near an even split: what it adds in unevenness is weighed against
    how many digits a shopper has to read.

    Args:
        numbers: the distinct numbers, rising.
        weights: how many products have each.
        bins: how many bins to aim at.

    >>> round_cuts(list(range(1, 101)), [1] * 100, bins=4)
    [20, 50, 80]
    >>> round_cuts([430, *range(600, 640), 790], [1] * 42, bins=4)
    [610, 620, 630]
    """
    if len(numbers) < 2:
        return []
    below = np.concatenate(([0], np.cumsum(weights))).astype(float)
    total = below[-1]
    candidates = _candidates(numbers[0], numbers[-1]) + _far_from_nothing(numbers, below / total)
    shares = [below[_count_below(numbers, value)] / total for value, _ in candidates]
    chosen: list[Number] = []
    for step in range(1, bins):
        wanted = step / bins
        ranked = sorted((abs(share - wanted) + 0.018 * cost, value) for (value, cost), share in zip(candidates, shares, strict=True))
        if ranked and ranked[0][0] < 0.35 / bins + 0.1:
            chosen.append(ranked[0][1])
    return _without_empty_bins(sorted(set(chosen)), numbers)


def _candidates(low: Number, high: Number) -> list[tuple[Number, int]]:
    """Return round numbers strictly between the ends, with what each costs to read."""
    roundness: dict[Number, int] = {}
    reach: Number = max(-low, high) if low < 0 else high
    power = 0
    while 10**power < reach:
        power += 1
    for exponent in range(power - 4, power + 1):
        scale = Fraction(10) ** exponent
        for mantissa, cost in _ROUND:
            for value in (whole(mantissa * scale), whole(-mantissa * scale)):
                if low < value <= high:
                    roundness[value] = min(cost, roundness.get(value, cost))
    if low < 0 <= high:
        roundness[0] = 0
    return list(roundness.items())


def _far_from_nothing(numbers: Sequence[Number], shares: NDArray[np.float64]) -> list[tuple[Number, int]]:
    """Return even steps through the middle nine tenths of numbers that lie close together far from 0, where round numbers are rare."""
    first, last = (min(int(np.searchsorted(shares, share, side="right")) - 1, len(numbers) - 1) for share in (0.05, 0.95))
    low, high = numbers[first], numbers[last]
    if high <= low or high - low > _CLOSE * max(-low, high):
        return []
    step = Fraction(str(nice(approximate(high - low) / 10, rounded=True)))
    steps = range(int(low // step) + 1, int(high // step) + 1)
    return [(whole(step * number), 2 if number % 2 == 0 or number % 5 == 0 else 3) for number in steps]


def _count_below(numbers: Sequence[Number], value: Number) -> int:
    return bisect_left(numbers, value)


def _without_empty_bins(cuts: list[Number], numbers: Sequence[Number]) -> list[Number]:
    kept: list[Number] = []
    last = 0
    for cut in cuts:
        place = _count_below(numbers, cut)
        if last < place < len(numbers):
            kept.append(cut)
            last = place
    return kept


def column_weights(column: Column) -> list[int]:
    """Return how many owners have each number of a column."""
    stops = column.offsets[: len(column.numbers) + 1]
    return [int(count) for count in np.diff(stops)]
