"""Products in no bin: without a value, with one that cannot be read, with one that nobody looked at yet."""

from collections.abc import Iterator

from binsort.core.facets.bin_edits import left_out, put_back
from binsort.core.facets.kinds import kind_of
from binsort.core.insight.coverage import lacking, not_asked
from binsort.core.insight.value_list import WAITS

from .finding import SHOW, Bench, Finding, Found, Mend, by, has, products


class Unbinned(Finding):
    """Products that should be in a bin and are in none."""

    id = "unbinned"

    def look(self, bench: Bench) -> Iterator[Found]:
        kind, source = kind_of(bench.facet.spec.source.kind), bench.facet.spec.source
        if not bench.unbinned or kind.may_be_absent or (kind.labels and bench.facet.spec.bins.only):
            return  # of a few words of ours some were chosen on purpose
        none = lacking(bench.state.rack.index, source, bench.state.products)
        beside = len(none & not_asked(bench.state.rack.index, source))
        asked, rest = len(none) - beside, bench.unbinned - len(none)
        count = asked + rest
        if not count:
            return  # nothing there is meant to have one
        label = bench.facet.spec.label.lower() if bench.facet.spec.label.istitle() else bench.facet.spec.label
        if not rest:
            text = f"{products(count)} {has(count)} no {label}"
        elif not asked:
            text = f"{products(count)} {has(count)} a value that no bin takes"
        else:
            text = (
                f"{products(count)} {'is' if count == 1 else 'are'} in no bin: {asked:,} say nothing, {rest:,} something that no bin takes"
            )
        more = f"Whoever picks in {bench.facet.spec.label} never meets {'it' if count == 1 else 'them'}."
        if beside:
            more += f" {beside:,} more are of categories where hardly anything has one."
        words = "Show it" if count == 1 else f"Show the {count:,}"
        yield self.says("", count, text, Mend("show-meant", words, f"leads to {products(count)}", leads=SHOW), more=more)


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
        give = "Give it a bin" if len(waiting) == 1 else "Give each a bin"
        few = ", ".join(value.label for value in waiting[:4]) + (" …" if len(waiting) > 4 else "")
        yield self.says(
            "",
            count,
            f"{what} and in no bin yet: {products(count)}",
            Mend("let-in", give, f"puts {products(count)} into bins", by(put_back, names)),
            Mend("leave-out", "Leave out", f"keeps {products(count)} in no bin", by(left_out, names)),
            more=few if len(waiting) > 1 else "",
        )


class Unreadable(Finding):
    """Numbers in a unit that cannot be converted, or too long to be read."""

    id = "unreadable"

    def look(self, bench: Bench) -> Iterator[Found]:
        if bench.refused:
            text = f"{products(bench.refused)} {has(bench.refused)} a value that cannot be read in this unit"
            show = Mend("show", "Show them", f"leads to {products(bench.unbinned)}", leads=SHOW)
            yield self.says("", bench.refused, text, show, more="No pick of this facet finds them.")


FINDERS = (Unbinned(), NewValues(), Unreadable())
