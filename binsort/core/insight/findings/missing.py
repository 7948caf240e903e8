"""Products in no bin: without a value, with one that cannot be read, with one that nobody looked at yet."""

from collections.abc import Iterator

from binsort.core.facets.bin_edits import left_out, put_back
from binsort.core.facets.kinds import kind_of
from binsort.core.insight.coverage import lacking
from binsort.core.insight.value_list import WAITS

from .finding import SHOW, Bench, Finding, Found, Mend, by, has, products


class Unbinned(Finding):
    """Products that should be in a bin and are in none."""

    id = "unbinned"

    def look(self, bench: Bench) -> Iterator[Found]:
        count = bench.unbinned
        kind = kind_of(bench.facet.spec.source.kind)
        if not count or kind.may_be_absent or (kind.labels and bench.facet.spec.bins.only):
            return  # of a few words of ours some were chosen on purpose
        none = len(lacking(bench.state.rack.index, bench.facet.spec.source, bench.state.products))
        label = bench.facet.spec.label.lower() if bench.facet.spec.label.istitle() else bench.facet.spec.label
        rest = count - none
        if not rest:
            text = f"{products(count)} {has(count)} no {label}"
        elif not none:
            text = f"{products(count)} {has(count)} a value that no bin takes"
        else:
            text = (
                f"{products(count)} {'is' if count == 1 else 'are'} in no bin: {none:,} say nothing, {rest:,} something that no bin takes"
            )
        words = "Show it" if count == 1 else f"Show the {count:,}"
        yield Found(self.id, "", count, text, (Mend("show", words, f"leads to {products(count)}", leads=SHOW),))


class NewValues(Finding):
    """Values that came after the choice was made which to keep."""

    id = "new-values"

    def look(self, bench: Bench) -> Iterator[Found]:
        if bench.is_ranged or bench.facet.spec.free or kind_of(bench.facet.spec.source.kind).labels:
            return
        waiting = [value for value in bench.values if value.state == WAITS]
        count = sum(value.count for value in waiting)
        names = [value.name for value in waiting]
        if not waiting:
            return
        what = f"“{waiting[0].label}” is new" if len(waiting) == 1 else f"{len(waiting):,} values are new"
        yield Found(
            self.id,
            "",
            1 + count,
            f"{what} and in no bin yet: {products(count)}",
            (
                Mend(
                    "let-in",
                    "Give it a bin" if len(waiting) == 1 else "Give each a bin",
                    f"puts {products(count)} into bins",
                    by(put_back, names),
                ),
                Mend("leave-out", "Leave out", f"keeps {products(count)} in no bin", by(left_out, names)),
            ),
        )


class Unreadable(Finding):
    """Numbers in a unit that cannot be converted, or too long to be read."""

    id = "unreadable"

    def look(self, bench: Bench) -> Iterator[Found]:
        if bench.refused:
            text = f"{products(bench.refused)} {has(bench.refused)} a value that cannot be read in this unit"
            yield Found(self.id, "", bench.refused, text, (Mend("show", "Show them", f"leads to {products(bench.unbinned)}", leads=SHOW),))


FINDERS = (Unbinned(), NewValues(), Unreadable())
