"""The page of a rack to start with: its shelves with what each is worth, what is left off and why, and the way to few products."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from math import sqrt
from typing import Any

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.query import Query
from binsort.core.insight import starter
from binsort.core.insight.clicks import FEW, Reach
from binsort.core.insight.likeness import Likeness
from binsort.core.insight.starter import Candidate, LeftOff, OnRack, start
from binsort.core.values.text import identity
from binsort.racks.addresses import query_string
from binsort.racks.attribute_use import not_narrowing
from binsort.racks.models import Setup
from binsort.racks.number_words import words_of
from binsort.racks.shop_face import the_face
from binsort.tally.current import Current, current
from binsort.workbench.shelf.view import ShelfView, shelf_of, source_words

from .words import why_off, why_on

_WIDTH = 406  # of a shelf, in pixels
LEAST = 0.05  # clicks below which a shelf saves nothing to speak of
_AS_FAST = 0.005  # clicks
_DRAINED = 7  # clicks that are drawn


@dataclass(frozen=True, slots=True)
class ShelfLine:
    """A facet on the proposed rack, or one that was taken up besides."""

    key: str
    label: str
    source: str
    ticked: bool
    shelf: ShelfView
    leaves: int
    left: float  # how much of the catalogue that is, in hundredths
    saves: str
    why: str
    waits: bool
    there: bool  # it shows on some listings only: `saves` is on average over those who meet it


@dataclass(frozen=True, slots=True)
class Ribbon:
    """Products that are in a bin of the one facet and a bin of the other: where it begins above and ends below, in hundredths."""

    outline: str


@dataclass(frozen=True, slots=True)
class OffLine:
    """A facet that is left off."""

    key: str
    label: str
    source: str
    why: str
    ribbons: tuple[Ribbon, ...]
    binned: float  # hundredths, where there are no ribbons
    other: str  # the label of the facet that says the same


@dataclass(frozen=True, slots=True)
class Step:
    """How many products are left after a click, and how high the level stands: by square root."""

    words: str
    left: int
    level: float


@dataclass(frozen=True, slots=True)
class StartPage:
    """All that the page shows."""

    total: int
    sources: int
    shelves: tuple[ShelfLine, ...]
    off: tuple[OffLine, ...]
    ticked: int
    with_rack: float
    without: float
    drain_with: tuple[Step, ...]
    drain_without: tuple[Step, ...]
    few_level: float
    hanging: tuple[int, ...]  # places of the shelves that hang on the first
    choices: tuple[tuple[str, str, bool], ...]  # as a shopper sees them: label, what it offers, whether it waits
    rack: str = ""  # of a second proposal: the rack that it is for
    has_name: bool = True  # the shop says what it is called
    saves_nothing: bool = False
    shorter: tuple[str, ...] = ()  # labels of fewer facets that lead there as fast, where all of them save nothing
    shorter_address: str = ""


def start_page(setup: Setup, ticked: Sequence[str] | None) -> StartPage:
    """Build the page. Raises NotReady.

    Args:
        setup: the set-up.
        ticked: keys of facets; None for those that are proposed.
    """
    held = current()
    proposal = proposal_of(held)
    known = {one.key: one for one in proposal.candidates}
    keys = list(proposal.proposed) if ticked is None else [key for key in ticked if key in known]
    figures = proposal.figures(keys)
    worth = {one.candidate.key: one for one in proposal.figures([*proposal.proposed, *keys]).shelves}
    order = [*proposal.proposed, *(one.candidate.key for one in proposal.left_off if one.candidate.key in keys)]
    hanging = [known[key].spec.label for key in order if known[key].homes and key in keys]
    shelves = tuple(_line(held, worth[key], proposal.total, hanging, ticked=key in keys) for key in order)
    saves_nothing = bool(keys) and proposal.without.average - figures.reach.average < LEAST
    fewer = _fewer(proposal, keys, figures.reach.average) if saves_nothing else keys
    off = [one for one in proposal.left_off if one.candidate.key not in keys]
    off.sort(key=lambda one: (_ORDER.index(one.why), -one.candidate.binned))
    return StartPage(
        total=proposal.total,
        sources=len(proposal.candidates),
        shelves=shelves,
        off=tuple(_off(held, one, proposal.total) for one in off),
        ticked=len(keys),
        with_rack=figures.reach.average,
        without=proposal.without.average,
        drain_with=tuple(steps(figures.reach, proposal.total)),
        drain_without=tuple(steps(proposal.without, proposal.total)),
        few_level=100 * sqrt(FEW / max(proposal.total, FEW)),
        hanging=tuple(place for place, line in enumerate(shelves) if line.waits and line.ticked),
        choices=tuple(_choices(shelves)),
        has_name=bool(the_face().name),
        saves_nothing=saves_nothing,
        shorter=tuple(known[key].spec.label for key in fewer) if len(fewer) < len(keys) else (),
        shorter_address=reverse("start") + query_string([("chosen", "1"), ("anew", "1"), *(("facet", key) for key in fewer)]),
    )


def _fewer(proposal: starter.Start, keys: Sequence[str], average: float) -> list[str]:
    """Return those of some facets without which shoppers would be slower; the last ones go first."""
    kept = list(keys)
    for key in reversed(keys):
        without = [other for other in kept if other != key]
        if proposal.figures(without).reach.average <= average + _AS_FAST:
            kept = without
    return kept


_ORDER = (starter.SAME, starter.EXACT, starter.RARE, starter.ONE_BIN, starter.NARROW, starter.MANY, starter.ENOUGH, starter.SELDOM)


def documents_of(setup: Setup, keys: Sequence[str]) -> list[dict[str, Any]]:
    """Return the documents of proposed facets, in the order of the proposal."""
    proposal = proposal_of(current())
    known = {one.key: one for one in proposal.candidates}
    order = [*proposal.proposed, *(one.candidate.key for one in proposal.left_off)]
    return [known[key].document for key in order if key in set(keys)]


def proposal_of(held: Current) -> starter.Start:
    """Return the rack that the catalogue proposes."""
    off = held.beside("not narrowing", not_narrowing)
    return held.index.remember(
        ("start", tuple(sorted(off))), lambda: start(held.index, lambda spec: identity(spec.source.attribute or "") not in off)
    )


def _line(held: Current, one: OnRack, total: int, hanging: list[str], *, ticked: bool) -> ShelfLine:
    why = why_on(one, total, hanging if one.why == starter.FIRST else [])
    line = shelf_line(held, one.candidate, (one.leaves, one.saves, total), why=why, ticked=ticked)
    return replace(line, waits=bool(one.candidate.homes))


def shelf_line(held: Current, candidate: Candidate, figures: tuple[float, float, int], *, why: str, ticked: bool) -> ShelfLine:
    """Return a proposed facet as a line.

    Args:
        held: the counts.
        candidate: the facet.
        figures: products that one pick leaves, clicks that it saves on average over all, all products; what waits for
            departments says what it saves there.
        why: it is there.
        ticked: it is to be taken.
    """
    leaves, saves, total = figures
    saves /= candidate.reach
    return ShelfLine(
        key=candidate.key,
        label=candidate.spec.label,
        source=_source_of(held, candidate),
        ticked=ticked,
        shelf=_shelf_view(held, candidate),
        leaves=round(leaves),
        left=100 * leaves / total if total else 0,
        saves=f"−{saves:.1f}" if saves >= LEAST else "0",
        why=why,
        waits=False,
        there=candidate.reach < 1,
    )


def _shelf_view(held: Current, candidate: Candidate) -> ShelfView:
    rack = RackIndex(held.index, [candidate.spec], [candidate.facet])
    look = candidate.document.get("look", {})
    words = words_of(candidate.facet, held.index.unit(candidate.spec.source), held.currency, look)
    return shelf_of(State(rack, Query()), candidate.facet, look, words, width=_WIDTH)


def _source_of(held: Current, candidate: Candidate) -> str:
    look = candidate.document.get("look", {})
    return source_words(candidate.facet, words_of(candidate.facet, held.index.unit(candidate.spec.source), held.currency, look))


def _off(held: Current, one: LeftOff, total: int) -> OffLine:
    return OffLine(
        key=one.candidate.key,
        label=one.candidate.spec.label,
        source=_source_of(held, one.candidate),
        why=why_off(one, total),
        ribbons=tuple(_ribbons(one.likeness)) if one.likeness else (),
        binned=100 * one.candidate.binned / total if total else 0,
        other=one.other.spec.label if one.other else "",
    )


_RIBBONS = 30  # that are drawn at most


def _ribbons(alike: Likeness) -> Iterator[Ribbon]:
    """Yield what flows from the bins of the facet that is left off, above, to those of the one that says the same, below."""
    table = alike.table
    whole = int(table.sum())
    if not whole:
        return
    above, below = table.sum(axis=0), table.sum(axis=1)
    top, bottom = [0, *above.cumsum().tolist()], [0, *below.cumsum().tolist()]
    flows = [(int(table[low, high]), low, high) for low in range(table.shape[0]) for high in range(table.shape[1]) if table[low, high]]
    thick = {pair[1:] for pair in sorted(flows, reverse=True)[:_RIBBONS]}
    taken_above, taken_below = [0] * table.shape[1], [0] * table.shape[0]
    for count, low, high in sorted(flows, key=lambda flow: (flow[2], flow[1])):
        begin, end = top[high] + taken_above[high], bottom[low] + taken_below[low]
        taken_above[high] += count
        taken_below[low] += count
        if (low, high) in thick:
            left, right, under, over = (round(100 * number / whole, 2) for number in (begin, begin + count, end, end + count))
            yield Ribbon(f"M{left} 0C{left} 50 {under} 50 {under} 100H{over}C{over} 50 {right} 50 {right} 0z")


def steps(reach: Reach, total: int) -> Iterator[Step]:
    """Yield how a listing drains, click by click, until few products are left."""
    for number, left in enumerate(reach.drain(_DRAINED)):
        words = _("start") if number == 0 else str(number)
        yield Step(words, round(left), 100 * sqrt(left / total) if total else 0)
        if left <= FEW:
            return


def _choices(shelves: Sequence[ShelfLine]) -> Iterator[tuple[str, str, bool]]:
    for line in shelves:
        if line.ticked:
            count = len(line.shelf.vessels) + line.shelf.rest
            yield line.label, ngettext("%(count)s choice", "%(count)s choices", count) % {"count": count}, line.waits
