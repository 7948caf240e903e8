"""Ranges that leave gaps or overlap, that end below what there is, and values that lie exactly on a cut."""

from bisect import bisect_left
from collections.abc import Iterator
from itertools import pairwise

from binsort.core.facets.kinds import kind_of
from binsort.core.facets.range_edits import with_bounds
from binsort.core.facets.spec import Range, written_bound

from .balance import cuts_of
from .finding import Bench, Document, Finding, Found, Mend, by, products

_MANY_ON_A_CUT = 0.1  # of the products with a value


def _between(low: Range, high: Range) -> Range:
    return Range(low.high, high.low, False, "", "")


def _with_range(document: Document, place: int, end: str, value: object) -> Document:
    ranges = [dict(item) for item in document["ranges"]]
    if value is None:
        ranges[place].pop(end, None)
    else:
        ranges[place][end] = value
    return {**document, "ranges": ranges}


def _by_hand(bench: Bench) -> list[tuple[int, Range]]:
    """Return ranges by hand with both ends or one, from low to high, with their places in the file."""
    if "ranges" not in bench.document:
        return []
    listed = list(enumerate(bench.facet.spec.ranges))
    return sorted(listed, key=lambda item: (item[1].low is not None, item[1].low or 0, item[1].high is None, item[1].high or 0))


def _bound(bench: Bench, value: object) -> object:
    kind = bench.facet.spec.source.kind
    return written_bound(value, kind) if kind_of(kind).has_dates else value  # type: ignore[arg-type]


class Gaps(Finding):
    """Products between two ranges."""

    id = "gaps"

    def look(self, bench: Bench) -> Iterator[Found]:
        line = bench.line
        for (place, low), (_, high) in pairwise(_by_hand(bench)):
            if line is None or low.high is None or high.low is None or not low.high < high.low:
                continue
            count = line.in_range(_between(low, high))
            if count:
                text = f"{products(count)} fall between {bench.number(low.high)} and {bench.number(high.low)}: no range takes them"
                words = f"Let the lower range go on to {bench.number(high.low)}"
                change = by(_with_range, place, "to", _bound(bench, high.low))
                mend = Mend("close", words, f"puts {products(count)} into it", change)
                yield self.says(str(place), count, text, mend, more="No pick of this facet finds them.")


class Overlaps(Finding):
    """Products in two ranges."""

    id = "overlaps"
    matters = 0.5

    def look(self, bench: Bench) -> Iterator[Found]:
        line = bench.line
        for (place, low), (_, high) in pairwise(_by_hand(bench)):
            if line is None or high.low is None or (low.high is not None and low.high <= high.low) or low.low == high.low:
                continue
            shared = Range(high.low, min((end for end in (low.high, high.high) if end is not None), default=None), False, "", "")
            count = line.in_range(shared)
            if count:
                text = f"{products(count)} from {bench.number(high.low)} on are in two ranges"
                words = f"End the lower range at {bench.number(high.low)}"
                change = by(_with_range, place, "to", _bound(bench, high.low))
                yield self.says(str(place), count, text, Mend("end", words, f"takes {products(count)} out of one of them", change))


class OnACut(Finding):
    """Many products whose number is exactly that of a cut."""

    id = "on-a-cut"
    matters = 0.25

    def look(self, bench: Bench) -> Iterator[Found]:
        line = bench.line
        if line is None or line.are_days:
            return
        cuts = cuts_of(bench)
        on = [
            (line.weights[rank], rank)
            for cut in cuts
            if (rank := bisect_left(line.numbers, cut)) and line.numbers[rank : rank + 1] == [cut]
        ]
        count, rank = max(on, default=(0, 0))  # the cut that matters most
        if count < max(3, _MANY_ON_A_CUT * line.entries) or rank + 1 >= len(line.numbers):
            return
        cut, above = line.numbers[rank], line.numbers[rank + 1]
        others = sorted({above, *(one for one in cuts if one != cut)})
        text = f"{products(count)} {'lies' if count == 1 else 'lie'} exactly on {bench.number(cut)} and count above it"
        words = f"Cut at {bench.number(above)} instead"
        mend = Mend("turn", words, f"moves {products(count)} into the lower bin", by(with_bounds, others))
        yield self.says(bench.number(cut), count, text, mend, more=f"Who wants up to {bench.number(cut)} misses those that are just that.")


class AboveMissing(Finding):
    """Products above the last range, or below the first."""

    id = "above-missing"

    def look(self, bench: Bench) -> Iterator[Found]:
        line, document = bench.line, bench.document
        if line is None or not bench.is_ranged or bench.facet.spec.free:
            return
        highs = [item.high for item in bench.facet.spec.ranges]
        if None in highs or "at_most" in document:
            return
        top = max(bench.facet.spec.ranges, key=lambda item: item.high)  # type: ignore[arg-type,return-value]
        start = line.ranks(Range(None, top.high, top.high_inclusive, "", ""))[1]
        count = line.count(start, len(line.numbers))
        if not count:
            return
        words = f"Let the last one stay open: {bench.number(top.low or 0)} and above"

        def opened(document: Document) -> Document:
            if "ranges" in document:
                return _with_range(document, bench.facet.spec.ranges.index(top), "to", None)
            changed = {**document, "cuts": document["cuts"][:-1]}
            changed.pop("ends", None)
            return changed

        text = f"{products(count)} above {bench.number(top.high or 0)} {'is' if count == 1 else 'are'} in no bin"
        mend = Mend("open", words, f"puts {products(count)} into it", opened)
        yield self.says("", count, text, mend, more="No pick of this facet finds them.")


FINDERS = (Gaps(), Overlaps(), OnACut(), AboveMissing())
