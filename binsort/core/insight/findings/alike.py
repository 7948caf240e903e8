"""Values that are one value written in several ways, and values that say nothing."""

import re
from collections.abc import Iterator

from binsort.core.facets.bin_edits import left_out, merged
from binsort.core.facets.kinds import kind_of
from binsort.core.insight.look_alikes import look_alikes
from binsort.core.values.text import identity

from .finding import Bench, Document, Finding, Found, Mend, by, listed, products

KEPT_APART = "kept_apart"  # in a facet's look: labels that the owner said are two values
_MOST = 4  # shown at once
_MANY_VALUES = 1500  # above which comparing each with each would take too long beside the work
# What catalogues write where there is nothing to say; common practice of the trade.
JUNK = re.compile(
    r"default|default title|n\s?/?\s?a\.?|none|null|nil|unknown|undefined|not (?:set|applicable|specified)|unspecified|misc(?:ellaneous)?"
    r"|other|others|various|tbc|tba|tbd|test|uncategori[sz]ed|no value|empty|[-–—.?x*_]+"
)


class LookAlikes(Finding):
    """Bins whose labels look alike."""

    id = "look-alikes"

    def look(self, bench: Bench) -> Iterator[Found]:
        kind = kind_of(bench.facet.spec.source.kind)
        if bench.is_ranged or kind.is_tree or kind.labels or kind.is_in_groups or len(bench.bins) > _MANY_VALUES:
            return
        by_label = {bin.label: (bin, count) for bin, count in zip(bench.bins, bench.counts, strict=True)}
        apart = {frozenset(map(identity, labels)) for labels in bench.document.get("look", {}).get(KEPT_APART, ())}
        names = {value.identity: value.name for value in bench.values}
        for group in look_alikes({label: count for label, (_, count) in by_label.items()})[:_MOST]:
            labels = [group.keep, *group.others]
            if frozenset(map(identity, labels)) in apart:
                continue
            moved = sum(by_label[label][1] for label in group.others)
            if not moved:
                continue  # none of it on this listing
            values = [names[value] for label in group.others for value in by_label[label][0].values]
            held = [names[value] for value in by_label[group.keep][0].values]
            why = f"{listed([f'“{label}”' for label in labels])} look alike: {group.why}"
            touched = moved + by_label[group.keep][1]
            keep = "Keep both" if len(labels) == 2 else "Keep all"
            yield self.says(
                identity(group.keep),
                touched,
                why,
                Mend(
                    "merge",
                    f"Merge into {group.keep}",
                    f"moves {products(moved)} into {group.keep}",
                    by(merged, values, group.keep, held),
                ),
                Mend("keep", keep, "moves nothing", by(_kept_apart, labels)),
                more=f"Whoever picks {group.keep} misses {moved:,} of {products(touched)}.",
                bins=tuple(by_label[label][0].key for label in labels),
            )


def _kept_apart(document: Document, labels: list[str]) -> Document:
    look = document.get("look", {})
    return {**document, "look": {**look, KEPT_APART: [*look.get(KEPT_APART, ()), labels]}}


class Junk(Finding):
    """Bins of values that say nothing."""

    id = "junk"

    def look(self, bench: Bench) -> Iterator[Found]:
        kind = kind_of(bench.facet.spec.source.kind)
        if bench.is_ranged or kind.is_in_groups or kind.labels:
            return
        names = {value.identity: value.name for value in bench.values}
        for bin, count in zip(bench.bins, bench.counts, strict=True):
            if not JUNK.fullmatch(identity(bin.label)):
                continue
            values = [names[value] for value in (bin.values or (" > ".join(bin.nodes),)) if value in names]
            mend = Mend("leave-out", "Leave out", f"takes {products(count)} out of this bin", by(left_out, values))
            text = f"“{bin.label}” says nothing to a shopper: {products(count)}"
            yield self.says(bin.key, count, text, mend, more="It stands among the choices, and chooses nothing.", bins=(bin.key,))


FINDERS = (LookAlikes(), Junk())
