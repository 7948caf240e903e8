"""What settings mean on this very facet, in a sentence with its real figures."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from django.utils.translation import gettext as _

from binsort.core.facets.query import Picks
from binsort.core.index.bins import Bin
from binsort.racks.number_words import bin_words

if TYPE_CHECKING:
    from .page import BenchSight

_LOOKED_AT = 6  # bins among which two are looked for that products share


def meanings(bench: "BenchSight") -> Iterator[tuple[str, str]]:
    """Yield the name of a setting and what its choices mean, those that can be told by the bins of the listing."""
    state, facet = bench.sight.state, bench.facet
    here = state.rack.on_listing(facet, state.listing)
    full = [(bin, count) for bin, count in zip(here.bins, here.counts, strict=True) if count]
    if len(full) < 2:
        return
    first, second = _pair(bench, [bin for bin, _count in sorted(full, key=lambda one: -one[1])[:_LOOKED_AT]])
    names = {"one": bin_words(first, bench.words), "other": bin_words(second, bench.words)}
    either, both = _met(bench, "any", first, second), _met(bench, "all", first, second)
    figures = {**names, "either": f"{either:,}", "both": f"{both:,}", "last": f"{here.counts[here.bins.index(second)]:,}"}
    yield "match", _("%(one)s or %(other)s: %(either)s; both at once: %(both)s") % figures
    yield (
        "pick",
        _("Many: %(one)s and %(other)s together give %(either)s. One: the second takes the place of the first, %(last)s.") % figures,
    )
    never = len(here.bins) - len(full)
    emptied = sum(count == 0 for count in _under(bench, first, full))
    if emptied or never:
        yield "empty", _empties(emptied, never)


def _empties(emptied: int, never: int) -> str:
    parts = []
    if emptied:
        parts.append(
            _("under a pick elsewhere as many as %(count)s are emptied: Dim shows them greyed, Hide takes them away") % {"count": emptied}
        )
    if never:
        parts.append(_("%(count)s have nothing on this listing: Dim hides these, Dim all greys them too") % {"count": never})
    words = "; ".join(parts)
    return f"{words[:1].upper()}{words[1:]}."


def _pair(bench: "BenchSight", bins: list[Bin]) -> tuple[Bin, Bin]:
    """Return two bins, if there are such that some products are in both."""
    for place, one in enumerate(bins):
        for other in bins[place + 1 :]:
            if bench.facet.products(one) & bench.facet.products(other) & bench.sight.state.products:
                return one, other
    return bins[0], bins[1]


def _met(bench: "BenchSight", match: str, one: Bin, other: Bin) -> int:
    products = bench.facet.products(one), bench.facet.products(other)
    joined = products[0] | products[1] if match == "any" else products[0] & products[1]
    return len(joined & bench.sight.state.products)


def _under(bench: "BenchSight", one: Bin, full: list[tuple[Bin, int]]) -> list[int]:
    """Return what the bins have under the pick elsewhere that empties most of them, of the fullest bins of the other facets."""
    state, worst = bench.sight.state, [count for _bin, count in full]
    for facet in state.rack.facets:
        if facet is bench.facet or not facet.bins:
            continue
        answer = state.facet(facet)
        fullest = max(answer.bins, key=lambda counted: counted.count, default=None)
        if fullest is None or not fullest.count:
            continue
        tried = state.with_picks({facet.spec.key: Picks((fullest.key,))})
        counts = [bin.count for bin in tried.facet(bench.facet).bins if bin.key in {made.key for made, _count in full}]
        if counts.count(0) > worst.count(0):
            worst = counts
    return worst
