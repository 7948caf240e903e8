"""The page *Footfall*: products stand on the board, visits hang from it; and what that says of the rack."""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from urllib.parse import urlencode

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l
from django.utils.translation import ngettext

from binsort.core.answers.matching import Facet
from binsort.core.facets.query import pairs_of
from binsort.core.insight.findings import VISITED_FINDERS
from binsort.core.insight.findings.whole import SEARCH
from binsort.footfall.kinds import BASKET, DEAD_END, FEW, FIRST, IN_VAIN, OPENED, PICK, REACHED, TOGETHER, UNFOLDED, USED, VISIT
from binsort.footfall.reading import LEAST, often, sums, times, times_of_all
from binsort.footfall.switch import is_on
from binsort.racks.models import Setup
from binsort.racks.number_words import bin_words
from binsort.racks.setup import rack_document
from binsort.workbench.checkup.looking import Finding
from binsort.workbench.checkup.page import open_findings
from binsort.workbench.checkup.rows import Rows, RowView, bins_to_choose
from binsort.workbench.rack.page import Sight, listings, rack_address

DAYS = (7, 30, 90)
_HANGS = 26  # pixels: the longest bar
_BINS = 11  # of a shelf that are drawn
_TOLD = frozenset(finder.id for finder in VISITED_FINDERS)
_FLAGS = {
    "hardly-used": _l("hardly used"),
    "hardly-opened": _l("hardly opened"),
    "used-most": _l("used most"),
}  # beside a shelf, by finding


@dataclass(frozen=True, slots=True)
class BinView:
    """A compartment, with the visits that picked it."""

    label: str
    count: int
    width: float  # hundredths of the shelf
    hangs: int  # pixels
    said: str  # share of visits
    is_never: bool
    is_dead: bool  # a pick of it is one of those that lead nowhere


@dataclass(frozen=True, slots=True)
class Tie:
    """How a shelf takes part in a dead end."""

    kind: str  # start, through, end
    words: str
    bins: tuple[str, ...]  # keys of those that are picked


@dataclass(frozen=True, slots=True)
class ShelfView:
    """A facet, with the visits that used it."""

    key: str
    label: str
    address: str
    place: str
    bins: tuple[BinView, ...]
    rest: int
    unbinned: int
    unbinned_width: float
    used: str
    used_share: float
    flag: str
    tie: Tie | None


@dataclass(frozen=True, slots=True)
class FootfallPage:
    """All that the page shows."""

    rack: str
    label: str
    listing: str
    listings: tuple[tuple[str, str], ...]
    total: int
    days: int
    choices: tuple[tuple[int, str], ...]  # days, and their address
    picks: str  # address of the rack where picks are tried
    is_on: bool
    visits: int
    said: tuple[tuple[str, str], ...]  # number and words
    shelves: tuple[ShelfView, ...]
    findings: tuple[RowView, ...]
    searches: tuple[RowView, ...]  # those in vain
    bins: tuple[tuple[str, list[tuple[str, str]]], ...]  # by facet, bins that a text may lead to
    together: tuple[tuple[str, str], ...]  # two facets, share of visits
    funnel: tuple[tuple[int, str, int], ...]  # of a hundred visits, words, pixels
    reached: int  # products whose page was opened from a listing


def footfall_page(setup: Setup, rack: str, days: str, category: str) -> FootfallPage:
    """Build the page of a rack. Raises UnknownRack, NotReady."""
    rack_document(setup.draft.document, rack)
    number = int(days) if days in {str(one) for one in DAYS} else 30
    sight = Sight(setup, [("category", category)] if category else [], rack=rack)
    return _Footfall(setup, sight, number).page()


class _Footfall:
    def __init__(self, setup: Setup, sight: Sight, days: int) -> None:
        self._setup, self._sight, self._days = setup, sight, days
        self._told: dict[str, str] = {}
        self._places = {facet.spec.key: place for place, facet in enumerate(sight.state.rack.facets)}
        self._sums: Mapping[str, Counter[str]] = sums(days)
        self._visits = times(self._sums, VISIT)

    def page(self) -> FootfallPage:
        sight, rack = self._sight, self._sight.rack
        here = reverse("footfall", args=[rack.key])
        kept = {"category": sight.listing_path} if sight.listing_path else {}
        findings, makes = self._findings(), Rows(self._setup, sight.held)
        self._told = {one.about.key: one.found.id for one in findings if one.found.id in _FLAGS}
        ties = self._tie(findings)
        rows = tuple(makes.row(one, is_drawn=False, is_new=False) for one in findings)
        searches = tuple(row for row in rows if row.finding.about.kind == SEARCH)[:5]
        return FootfallPage(
            rack=rack.key,
            label=rack.label,
            listing=sight.listing_path,
            listings=listings(),
            total=len(sight.state.products),
            days=self._days,
            choices=tuple((one, f"{here}?{urlencode({'days': one, **kept})}") for one in DAYS),
            picks=rack_address(sight.edition.document, rack.key) + (f"?{urlencode(kept)}" if kept else ""),
            is_on=is_on(),
            visits=self._visits if self._visits >= LEAST else 0,
            said=tuple(self._said()),
            shelves=tuple(self._shelf(facet, ties.get(facet.spec.key)) for facet in sight.state.rack.facets),
            findings=tuple(row for row in rows if row.finding.about.kind != SEARCH),
            searches=searches,
            bins=tuple(bins_to_choose(self._setup, sight.held)) if searches else (),
            together=tuple(self._together()),
            funnel=tuple(self._funnel()),
            reached=len(self._sums.get(REACHED.key, ())) if self._visits >= LEAST else 0,
        )

    def _share(self, count: int) -> str:
        """Say how many of a hundred visits that is; nothing exact of fewer than five."""
        if not count:
            return _("never")
        if count < LEAST or not self._visits:
            return _("few")
        share = 100 * count / self._visits
        return "<1%" if share < 1 else f"{min(round(share), 100)}%"

    def _said(self) -> Iterator[tuple[str, str]]:
        for kind, words in ((FIRST, _("used the rack")), (DEAD_END, _("met a dead end")), (IN_VAIN, _("searched in vain"))):
            yield self._share(times_of_all(self._sums, kind)), words

    def _shelf(self, facet: Facet, tie: Tie | None) -> ShelfView:
        sight, key = self._sight, facet.spec.key
        here = sight.state.rack.on_listing(facet, sight.state.listing)
        words = sight.words(facet)
        held = [(bin, count) for bin, count in zip(here.bins, here.counts, strict=True) if count]
        top = min((len(bin.nodes) for bin, _count in held), default=0)
        held = [(bin, count) for bin, count in held if len(bin.nodes) == top]
        picked = {bin.key: times(self._sums, PICK, f"{key}={bin.key}") for bin, _count in held}
        most = max([*picked.values(), 1])
        whole = max(sum(count for _bin, count in held) + here.unbinned, 1)
        bins = tuple(
            BinView(
                bin_words(bin, words), count, 100 * count / whole, self._hangs(picked[bin.key], most), self._share(picked[bin.key]),
                not picked[bin.key], tie is not None and bin.key in tie.bins,
            )
            for bin, count in held[:_BINS]
        )  # fmt: skip
        used = times(self._sums, USED, key)
        share = 100 * used / self._visits if self._visits and used >= LEAST else 0
        return ShelfView(
            key=key,
            label=facet.spec.label,
            address=reverse("facet", args=[key]),
            place=self._place(key),
            bins=bins,
            rest=max(0, len(held) - _BINS),
            unbinned=here.unbinned,
            unbinned_width=100 * here.unbinned / whole,
            used=self._share(used),
            used_share=min(share, 100),
            flag=str(_FLAGS.get(self._told.get(key, ""), "")),
            tie=tie,
        )

    def _place(self, key: str) -> str:
        """Say where a facet stands, and whether it starts open; of one that does not, how many open it."""
        is_open = self._sight.look(key).get("open", True) is not False
        said = f"{_ordinal(self._places[key] + 1)}, {_('open') if is_open else _('shut')}"
        opened = times(self._sums, UNFOLDED, key)
        return said if is_open or not self._visits else _("%(said)s, %(share)s open it") % {"said": said, "share": self._share(opened)}

    def _hangs(self, count: int, most: int) -> int:
        return max(3, round(_HANGS * count / most)) if count >= LEAST else 0

    def _findings(self) -> tuple[Finding, ...]:
        """Return what visits tell of this rack, in the checkup's order."""
        return tuple(one for one in open_findings(self._setup) if one.found.id in _TOLD and one.about.rack in ("", self._sight.rack.key))

    def _tie(self, findings: Sequence[Finding]) -> dict[str, Tie]:
        """Return how the shelves of the dead end that most met are tied, by facet; the shelves between them are passed."""
        for one in findings:
            picks = [(name, value) for name, value in pairs_of(one.found.subject) if name in self._sight.state.rack.by_key]
            keys = sorted({name for name, _value in picks}, key=self._places.__getitem__)
            if one.found.id == "dead-end" and len(keys) > 1:
                first, last = self._places[keys[0]], self._places[keys[-1]]
                words = ngettext("%(count)s dead end", "%(count)s dead ends", one.met or 0) % {"count": f"{one.met or 0:,}"}
                kinds = {key: "start" if at == first else "end" if at == last else "through" for key, at in self._places.items()}
                return {
                    key: Tie(kinds[key], words if at == last else "", tuple(value for name, value in picks if name == key))
                    for key, at in self._places.items()
                    if first <= at <= last
                }
        return {}

    def _together(self) -> Iterator[tuple[str, str]]:
        """Yield the facets of the rack that visits pick in at once, most often first."""
        labels = {facet.spec.key: facet.spec.label for facet in self._sight.state.rack.facets}
        pairs = ((what.split(" "), count) for what, count in often(self._sums, TOGETHER, 50))
        said = ((_(" with ").join(labels[key] for key in keys), self._share(count)) for keys, count in pairs if labels.keys() >= set(keys))
        return islice(said, 4)

    def _funnel(self) -> Iterator[tuple[int, str, int]]:
        if self._visits < LEAST:
            return
        steps = (
            (self._visits, _("came")),
            (times_of_all(self._sums, FIRST), _("used the rack")),
            (times(self._sums, FEW), _("got to 12")),
            (times(self._sums, OPENED), _("opened one")),
            (times(self._sums, BASKET), _("basket")),
        )
        for count, words in steps:
            share = min(100, round(100 * count / self._visits))
            yield share, words, max(3, round(60 * share / 100))


def _ordinal(number: int) -> str:
    """Return a place in words.

    >>> _ordinal(1), _ordinal(12), _ordinal(23)
    ('1st', '12th', '23rd')
    """
    ending = "th" if 10 <= number % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{ending}"
