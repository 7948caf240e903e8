"""Bins that hold nearly all, or nearly nothing; a facet of one bin."""

from collections.abc import Iterator, Sequence

from binsort.core.facets.kinds import kind_of
from binsort.core.facets.range_edits import with_bounds
from binsort.core.insight.suggested_cuts import cut_in_two, suggested
from binsort.core.values.numbers import Number, approximate

from .finding import Bench, Document, Finding, Found, Mend, by, products

NEARLY_ALL, NEARLY_NOTHING = 0.6, 0.02  # of the products that have a value
_LEAST = 20  # products below which shares say little


def cuts_of(bench: Bench) -> list[Number]:
    """Return the cuts of a facet, none where its ranges are made otherwise."""
    if "cuts" not in bench.document:
        return []
    ends = {end for item in bench.facet.spec.ranges for end in (item.low, item.high) if end is not None}
    return sorted(ends)


class Lopsided(Finding):
    """A range that holds most of the products."""

    id = "lopsided"
    matters = 0.5

    def look(self, bench: Bench) -> Iterator[Found]:
        cuts, line = cuts_of(bench), bench.line
        if not cuts or line is None or line.entries < _LEAST:
            return
        for bin, count in zip(bench.bins, bench.counts, strict=True):
            if count <= NEARLY_ALL * line.entries or bin.range is None:
                continue
            cut = cut_in_two(line, bin.range)
            share = round(100 * count / line.entries)
            mends = []
            if cut is not None:
                words = f"Cut it at {bench.number(cut)}"
                mends.append(Mend("cut", words, f"parts {products(count)} in two", by(with_bounds, sorted({*cuts, cut}))))
                near = min(cuts, key=lambda one: abs(approximate(one) - approximate(cut)))
                moved = sorted({cut, *(one for one in cuts if one != near)})
                if len(cuts) > 1:
                    words = f"Move {bench.number(near)} to {bench.number(cut)}"
                    mends.append(Mend("move", words, "moves the nearest cut into it", by(with_bounds, moved)))
            if mends:
                text = f"“{bench.name(bin)}” holds {share}% of the products"
                more = f"A pick of it still leaves {count:,} of {bench.total:,}."
                yield self.says(bin.key, count, text, *mends, more=more, bins=(bin.key,))


class NearlyEmpty(Finding):
    """Ranges between cuts that hold next to nothing."""

    id = "nearly-empty"

    def look(self, bench: Bench) -> Iterator[Found]:
        cuts, line = cuts_of(bench), bench.line
        if len(cuts) < 2 or line is None or line.entries < _LEAST:
            return
        for bin, count in zip(bench.bins, bench.counts, strict=True):
            bounds = bin.range
            if bounds is None or count > NEARLY_NOTHING * line.entries:
                continue
            gone = bounds.low if bounds.low is not None else bounds.high
            kept = [cut for cut in cuts if cut != gone]
            text = f"“{bench.name(bin)}” holds {products(count) if count else 'no product'}"
            words = f"Take the cut at {bench.number(gone or 0)} out"
            mend = Mend("uncut", words, f"joins it with its neighbour: {products(count)} move", by(with_bounds, kept))
            yield self.says(bin.key, count, text, mend, more="It takes the room of a choice.", bins=(bin.key,))


class OneBin(Finding):
    """A facet with nothing to choose between."""

    id = "one-bin"
    matters = 0.25

    def look(self, bench: Bench) -> Iterator[Found]:
        held = [bin for bin, count in zip(bench.bins, bench.counts, strict=True) if count]
        if len(held) != 1 or bench.facet.spec.free or kind_of(bench.facet.spec.source.kind).may_be_absent or bench.total < 2:
            return
        if not bench.is_ranged and bench.unbinned:
            return  # a pick leaves those in no bin behind
        mends: list[Mend] = []
        if bench.is_ranged and bench.line and (cuts := suggested(bench.line, "counts")):
            words = f"Cut at {', '.join(map(bench.number, cuts))}"
            spreads = f"spreads {products(bench.line.entries)} over {len(cuts) + 1} bins"
            mends = [Mend("cuts", words, spreads, by(_cut_anew, cuts))]
        text = f"All are in “{bench.name(held[0])}”: a pick narrows nothing here"
        yield self.says("", bench.total, text, *mends, bins=(held[0].key,))


def _cut_anew(document: Document, cuts: Sequence[Number]) -> Document:
    gone = ("cuts", "at_least", "at_most", "ranges", "ends", "bins")
    return with_bounds({name: value for name, value in document.items() if name not in gone}, cuts)


class NoBins(Finding):
    """A value bench so long that nobody reads it: numbers without cuts."""

    id = "many-numbers"
    matters = 0.1

    def look(self, bench: Bench) -> Iterator[Found]:
        line = bench.line
        if bench.is_ranged or bench.facet.spec.free or line is None or len(bench.bins) < _LEAST or len(line.numbers) < _LEAST:
            return
        cuts = suggested(line, "calendar" if line.are_days else "round")
        if not cuts:
            return
        words = f"Cut at {', '.join(map(bench.number, cuts[:4]))}{'…' if len(cuts) > 4 else ''}"
        text = f"{len(bench.bins):,} numbers are {len(bench.bins):,} bins: few will read them"
        yield self.says("", line.entries, text, Mend("cuts", words, f"makes {len(cuts) + 1} ranges of them", by(_cut_anew, cuts)))


FINDERS = (Lopsided(), NearlyEmpty(), OneBin(), NoBins())
