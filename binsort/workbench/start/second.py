"""A second proposal: what a rack does not have and the catalogue offers, each with the clicks that it would save beside what is there."""

from collections.abc import Sequence
from math import sqrt

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.answers.answer import State
from binsort.core.insight.clicks import FEW
from binsort.core.insight.coverage import percent
from binsort.core.insight.starter import Candidate
from binsort.core.insight.what_if import ADD, TOP, Change, tried
from binsort.racks.models import Setup
from binsort.racks.setup import Document, rack_document
from binsort.tally.current import Current, current

from .offered import alone, worth_adding
from .page import LEAST, ShelfLine, StartPage, shelf_line, steps
from .reaches import reach_on, state_on


def rack_with_facets(setup: Setup) -> str:
    """Return the first rack of the draft that has facets, empty where none has."""
    return next((str(rack["key"]) for rack in setup.draft.document["racks"] if rack["facets"]), "")


def changes_for(setup: Setup, rack: str, keys: Sequence[str]) -> list[Change]:
    """Return how proposed facets are added to a rack: each before the first one a pick of which leaves more. Raises NotReady."""
    found, changes = worth_adding(setup), list[Change]()
    documents = {one.key: alone(one.document) for one in found}
    for one in (one for one in found if one.key in set(keys)):
        changed = tried(setup.draft.document, rack, changes, documents)
        changes.append(Change(ADD, one.key, _place(current(), changed, rack, one)))
    return changes


def _place(held: Current, document: Document, rack: str, candidate: Candidate) -> int:
    """Return the place of a new facet: before the first one a pick of which leaves more products on average."""
    state = state_on(held, document, rack)
    own = _leaves(candidate.counts, len(state.products) - candidate.binned)
    for place, facet in enumerate(state.rack.facets):
        here = state.rack.on_listing(facet, None)
        if facet.spec.show_when is None and place and _leaves(here.counts, here.unbinned) > own:
            return place
    return len(state.rack.facets)


def _leaves(counts: Sequence[int], unbinned: int) -> float:
    """Return what a pick leaves on average, of those in no bin all."""
    total = sum(counts) + unbinned
    return (sum(count * count for count in counts) + unbinned * total) / max(total, 1)


def second_page(setup: Setup, rack: str, ticked: Sequence[str] | None) -> StartPage:
    """Build the page. Raises NotReady.

    Args:
        setup: the set-up.
        rack: the key of a rack that has facets.
        ticked: keys of facets; None for those that save clicks.
    """
    held, document = current(), setup.draft.document
    found = worth_adding(setup)
    documents = {one.key: alone(one.document) for one in found}
    before = state_on(held, document, rack)
    now = reach_on(held, before, TOP, {})

    def average(keys: Sequence[str]) -> State:
        return state_on(held, tried(document, rack, changes_for(setup, rack, keys), documents), rack)

    saves = {one.key: now.average - reach_on(held, average([one.key]), TOP, {}).average for one in found}
    keys = [one.key for one in found if (saves[one.key] >= LEAST if ticked is None else one.key in ticked)]
    with_them = reach_on(held, average(keys), TOP, {})
    total, label = len(before.products), rack_document(document, rack)["label"]
    lines = [_line(held, one, saves[one.key], (total, label), ticked=one.key in keys) for one in found]
    return StartPage(
        total=total,
        sources=len(found),
        shelves=tuple(sorted(lines, key=lambda line: -saves[line.key])),
        off=(),
        ticked=len(keys),
        with_rack=with_them.average,
        without=now.average,
        drain_with=tuple(steps(with_them, total)),
        drain_without=tuple(steps(now, total)),
        few_level=100 * sqrt(FEW / max(total, FEW)),
        hanging=(),
        choices=(),
        rack=label,
    )


def _line(held: Current, one: Candidate, saves: float, beside: tuple[int, str], *, ticked: bool) -> ShelfLine:
    total, rack = beside
    leaves = sum(count * count for count in one.counts) / max(sum(one.counts), 1)
    have = _("All have one.") if one.binned == total else _("%(share)s%% have it.") % {"share": percent(one.binned, total)}
    bins = ngettext("%(count)s bin", "%(count)s bins", len(one.counts)) % {"count": f"{len(one.counts):,}"}
    worth = _("Beside %(rack)s it saves next to nothing.") % {"rack": rack} if saves < LEAST else ""
    return shelf_line(held, one, (leaves, saves, total), why=f"{have} {bins}. {worth}".strip(), ticked=ticked)
