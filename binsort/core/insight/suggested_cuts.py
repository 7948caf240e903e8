"""Suggested cuts: several ways to part numbers into ranges, each with the counts it would give."""

from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from binsort.core.facets.spec import Range
from binsort.core.values.numbers import Number, approximate, half_up, whole, written

from .axis import axis_of, chosen_scale, nice, preferred
from .number_line import NumberLine, sturges

FEWEST, MOST = 2, 12  # bins that can be asked for
_USUAL_LEAST, _USUAL_MOST = 3, 7


@dataclass(frozen=True, slots=True)
class Way:
    """A way to suggest cuts."""

    key: str
    find: Callable[[NumberLine, int], list[Number]]
    for_dates: bool | None = None  # None: for dates and all other numbers


def proposed_bins(line: NumberLine) -> int:
    """Return how many bins to propose: half of what Sturges gives a histogram, between 3 and 7, never more than there are numbers."""
    return max(FEWEST, min(_USUAL_MOST, max(_USUAL_LEAST, round(sturges(line.entries) / 2)), len(line.numbers)))


def even_widths(line: NumberLine, bins: int) -> list[Number]:
    """Part the span into ranges of one width; the cuts are as round as a hundredth of that width allows."""
    low, high = line.numbers[0], line.numbers[-1]
    exact = [low + Fraction(high - low) * step / bins for step in range(1, bins)]
    width = approximate(Fraction(high - low) / bins)
    places = _places(nice(width / 50, rounded=True)) if width > 0 else 0
    return useful([half_up(whole(Fraction(cut)), places) for cut in exact], line)


def _places(step: float) -> int:
    return max(0, len(written(whole(Fraction(str(step)))).partition(".")[2]))


def even_counts(line: NumberLine, bins: int) -> list[Number]:
    """Part products into ranges that hold about as many each; of all cuts with one count the simplest is taken."""
    below = line.starts[1:-1]  # entries below each number but the first
    if not len(below):
        return []
    ranks = {1 + int(np.argmin(np.abs(below - line.entries * step / bins))) for step in range(1, bins)}
    return [_between(line, rank) for rank in sorted(ranks)]


def natural_groups(line: NumberLine, bins: int) -> list[Number]:
    """Part numbers where they leave gaps, so that each group is as close together as can be; the simplest cut within each gap."""
    ranks = natural_breaks(line.floats, np.array(line.weights, dtype=float), bins)
    return [_between(line, rank) for rank in ranks]


def natural_breaks(values: NDArray[np.float64], weights: NDArray[np.float64], groups: int) -> list[int]:
    """Return where each group but the first begins, so that the squared deviations from the groups' means are least.

    W. D. Fisher, "On grouping for maximum homogeneity" (1958); G. F. Jenks, "The data model concept in statistical mapping"
    (1967). Exact, by dynamic programming; that the best beginning of the last group never moves back is what lets each
    level of halving be found in one go, in time of ``groups * n * log n``.

    Args:
        values: distinct, rising.
        weights: how often each occurs.
        groups: how many to make; fewer where there are fewer values.

    >>> natural_breaks(np.array([1.0, 2, 3, 20, 21, 22, 90]), np.ones(7), 3)
    [3, 6]
    """
    count = len(values)
    groups = min(groups, count)
    if groups < 2:
        return []
    centred = values - np.average(values, weights=weights)
    sums = [np.concatenate(([0.0], np.cumsum(weights * centred**power))) for power in (0, 1, 2)]

    def cost(start: NDArray[np.int64], stop: NDArray[np.int64]) -> NDArray[np.float64]:
        zero, one, two = (part[stop] - part[start] for part in sums)
        return np.asarray(np.maximum(two - one * one / zero, 0))

    best = cost(np.zeros(count, dtype=np.int64), np.arange(1, count + 1))  # of the first ``n + 1`` values in one group
    begins = []
    for group in range(1, groups):
        best, begin = _one_group_more(best, group, cost)
        begins.append(begin)
    breaks, last = [], count - 1
    for begin in reversed(begins):
        breaks.append(int(begin[last]))
        last = int(begin[last]) - 1
    return breaks[::-1]


def _one_group_more(
    best: NDArray[np.float64], group: int, cost: Callable[[NDArray[np.int64], NDArray[np.int64]], NDArray[np.float64]]
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Return the least cost of the first ``n + 1`` values in one group more, and where that group begins."""
    count = len(best)
    least, begin = np.full(count, np.inf), np.zeros(count, dtype=np.int64)
    parts = [(group, count, group, count - 1)]  # of the last value from, up to; of the beginning from, to
    while parts:
        middles = np.array([(low + high) // 2 for low, high, _, _ in parts])
        froms = np.array([first for _, _, first, _ in parts])
        tos = np.minimum(np.array([last for _, _, _, last in parts]), middles)
        sizes = tos - froms + 1
        starts = np.concatenate(([0], np.cumsum(sizes)[:-1]))
        tried = np.repeat(froms - starts, sizes) + np.arange(int(sizes.sum()))
        costs = best[tried - 1] + cost(tried, np.repeat(middles, sizes) + 1)
        found = np.minimum.reduceat(costs, starts)
        is_least = np.flatnonzero(costs == np.repeat(found, sizes))
        at = tried[is_least[np.searchsorted(is_least, starts)]]
        least[middles], begin[middles] = found, at
        parts = [
            part
            for (low, high, first, last), middle, place in zip(parts, middles.tolist(), at.tolist(), strict=True)
            for part in ((low, middle, first, place), (middle + 1, high, place, last))
            if part[0] < part[1]
        ]
    return least, begin


def round_numbers(line: NumberLine, bins: int) -> list[Number]:
    """Part numbers at round ones: even steps of 1, 2 or 5; where values are skewed those of 1, 2, 5, 10, 20, 50… that part them best."""
    floats = line.floats
    if chosen_scale(floats) == "even":
        axis = axis_of(floats)
        step = Fraction(str(nice((axis.high - axis.low) / bins, rounded=True)))
        first, last = line.numbers[0] // step + 1, -(-line.numbers[-1] // step)
        return useful([whole(step * number) for number in range(int(first), int(last) + 1)][: MOST - 1], line)
    rising = useful([whole(Fraction(str(number))) for number in preferred(float(floats[-1]))], line)
    return _evenest(rising, line, bins)


def _evenest(cuts: list[Number], line: NumberLine, bins: int) -> list[Number]:
    """Return those of many cuts that split products most evenly, one taken out after the other where least is lost."""
    kept = list(cuts)
    while len(kept) > bins - 1:
        edges = [0, *(int(line.starts[bisect_left(line.numbers, cut)]) for cut in kept), line.entries]
        joined = [after - before for before, after in zip(edges, edges[2:], strict=False)]
        kept.pop(joined.index(min(joined)))
    return kept


def calendar(line: NumberLine, bins: int) -> list[Number]:
    """Part dates at the beginnings of years, half years, quarters, months or weeks, whichever gives about so many bins."""
    first, last = (date.fromordinal(int(number)) for number in (line.numbers[0], line.numbers[-1]))
    ways = [_months(first, last, months) for months in (120, 60, 24, 12, 6, 3, 1)]
    ways.append([day for day in range(first.toordinal() + 1, last.toordinal() + 1) if date.fromordinal(day).weekday() == 0])
    best = min(ways, key=lambda cuts: (abs(len(cuts) + 1 - bins), len(cuts)))
    return useful(list(best[-(MOST - 1) :]), line)


def _months(first: date, last: date, months: int) -> list[int]:
    """Return the days after ``first``, up to ``last``, on which a span of so many months begins, counted from January of year 0."""
    count = first.year * 12 + first.month - 1
    begins = []
    for month in range(count - count % months, last.year * 12 + last.month, months):
        if month >= 12:
            begins.append(date(month // 12, month % 12 + 1, 1).toordinal())
    return [day for day in begins if first.toordinal() < day <= last.toordinal()]


def useful(cuts: Sequence[Number], line: NumberLine) -> list[Number]:
    """Return cuts that rise and leave a number between any two, and beyond the first and the last."""
    kept: list[Number] = []
    last = 0
    for cut in sorted(set(cuts)):
        place = bisect_left(line.numbers, cut)
        if last < place < len(line.numbers):
            kept.append(cut)
            last = place
    return kept


def _between(line: NumberLine, rank: int) -> Number:
    """Return the simplest cut that parts a number from the one below it."""
    return (simplest_day if line.are_days else simplest)(line.numbers[rank - 1], line.numbers[rank])


def simplest_day(low: Number, high: Number) -> Number:
    """Return the day after ``low``, up to ``high``, that says most: the first of a year, of a quarter, of a month, a Monday, or any.

    >>> date.fromordinal(simplest_day(date(2024, 2, 20).toordinal(), date(2024, 5, 3).toordinal())).isoformat()
    '2024-04-01'
    """
    days = [date.fromordinal(day) for day in range(max(int(low) + 1, int(high) - 800), int(high) + 1)]
    best = min(days, key=lambda day: ((day.month, day.day) != (1, 1), day.month % 3 != 1 or day.day != 1, day.day != 1, day.weekday()))
    return best.toordinal()


def simplest(low: Number, high: Number) -> Number:
    """Return the number above ``low``, up to ``high``, that is with fewest digits; of several one that ends in 5, near the middle.

    >>> simplest(12, 87), simplest(Fraction("9.95"), Fraction("10.2")), simplest(3, 4)
    (50, 10, 4)
    """
    gap = Fraction(high) - Fraction(low)
    power = max(len(str(int(end))) for end in (low, high)) + 1
    while True:
        step = Fraction(10) ** power
        first, last = low // step + 1, high // step
        if first <= last:
            middle = (Fraction(low) + gap / 2) / step
            best = min(range(int(first), int(last) + 1), key=lambda number: (number % 5 != 0, abs(number - middle)))
            return whole(step * best)
        power -= 1


WAYS = {
    way.key: way
    for way in (
        Way("widths", even_widths),
        Way("counts", even_counts),
        Way("groups", natural_groups),
        Way("round", round_numbers, for_dates=False),
        Way("calendar", calendar, for_dates=True),
    )
}


def cut_in_two(line: NumberLine, bounds: Range) -> Number | None:
    """Return where a range is cut so that about as many lie below as above, None where all its numbers are one."""
    inside = line.part(*line.ranks(bounds))
    found = useful(even_counts(inside, 2), inside) if len(inside.numbers) > 1 else []
    return found[0] if found else None


def suggested(line: NumberLine, way: str, bins: int = 0) -> list[Number]:
    """Return the cuts that a way suggests, rising; none where there are too few numbers to part.

    Args:
        line: the numbers of a listing.
        way: a key of :data:`WAYS`. Raises KeyError.
        bins: how many to aim at; 0 for as many as :func:`proposed_bins` says.
    """
    if len(line.numbers) < 2:
        return []
    wanted = min(MOST, max(FEWEST, bins)) if bins else proposed_bins(line)
    cuts = WAYS[way].find(line, wanted)
    if WAYS[way].for_dates is None and all(isinstance(number, int) for number in line.numbers) and way == "widths":
        cuts = useful([half_up(cut, 0) for cut in cuts], line)
    return cuts


def counts_of(line: NumberLine, cuts: Sequence[Number]) -> list[int]:
    """Return how many products each range between cuts holds, from the lowest to the highest."""
    edges = [0, *(bisect_left(line.numbers, cut) for cut in cuts), len(line.numbers)]
    return [line.count(start, stop) for start, stop in pairwise(edges)]
