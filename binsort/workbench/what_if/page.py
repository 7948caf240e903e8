"""The page *What if*: a rack as it is and as it is tried, who gains and who loses, and what would help as well."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.http import QueryDict
from django.urls import reverse
from django.utils.translation import gettext as _
from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.index.bitmaps import bitmap, numbers
from binsort.core.insight.clicks import FEW, Reach
from binsort.core.insight.number_line import number_line
from binsort.core.insight.suggested_cuts import cut_in_two
from binsort.core.insight.what_if import (
    ADD,
    BEST,
    CUT,
    DROP,
    MOVE,
    OURS,
    TOP,
    Change,
    Compared,
    cuts_of,
    options,
    reach_of,
    tried,
)
from binsort.core.values.numbers import Number, written
from binsort.core.values.text import category_path, identity
from binsort.footfall.kinds import USED
from binsort.footfall.reading import sums
from binsort.racks.models import Setup
from binsort.racks.number_words import words_of
from binsort.racks.setup import Document, rack_document
from binsort.tally.current import Current, current
from binsort.workbench.rack.page import listings, rack_address
from binsort.workbench.start.offered import offered_facets
from binsort.workbench.start.page import Step, steps
from binsort.workbench.start.reaches import reach_on, state_on

from .drawing import Flow, Part, ShelfView, Tie, bar, flows, height, shelves, ties

_DAYS = 90  # of visits by which shoppers do as ours do
_HARDER, _HELPS = 3, 3  # named
_MANY, _LONG = 20_000, 30_000  # products above which what would help is looked for when asked, and at best is counted when asked
_GUESSED, _TRIED = 4_000, 6  # products for a first guess of what would help, and changes that are then tried with all
SHOPPERS = (OURS, TOP, BEST)
LIVE, DRAFT = "live", "draft"


@dataclass(frozen=True, slots=True)
class Harder:
    """A product that takes more clicks."""

    name: str
    number: str
    before: tuple[Step, ...]
    after: tuple[Step, ...]
    why: str
    address: str


@dataclass(frozen=True, slots=True)
class Help:
    """A further change that would help."""

    words: str
    average: float
    share: float  # of the clicks now, in hundredths
    address: str


@dataclass(frozen=True, slots=True)
class Clicks:
    """What the changes do to the clicks."""

    before: float
    after: float
    fewer: int
    same: int
    more: int
    old: tuple[Part, ...]
    new: tuple[Part, ...]
    flows: tuple[Flow, ...]
    harder: tuple[Harder, ...]
    drain_before: tuple[Step, ...]
    drain_after: tuple[Step, ...]
    helps: tuple[Help, ...] | None  # None: not looked for yet


@dataclass(frozen=True, slots=True)
class WhatIfPage:
    """All that the page shows."""

    rack: str
    label: str
    listing: str
    listings: tuple[tuple[str, str], ...]
    total: int
    shopper: str
    said: str  # of this shopper
    shoppers: tuple[tuple[str, str, str], ...]  # key, words, address
    against: str
    againsts: tuple[tuple[str, str, str], ...]  # key, words, address
    changes: tuple[tuple[str, str], ...]  # words, address without it
    kept: tuple[str, ...]  # the changes as a form has them
    facets: tuple[tuple[str, str], ...]
    offered: tuple[tuple[str, str], ...]
    cut: tuple[tuple[str, str], ...]  # facets that are cut: key, label
    places: range
    old_shelves: tuple[ShelfView, ...]
    new_shelves: tuple[ShelfView, ...]
    ties: tuple[Tie, ...]
    height: int
    is_changed: bool
    clicks: Clicks | None  # None: they are not counted yet
    few_level: float
    here: str
    clear: str
    quick: str  # address with a shopper that is counted at once
    query: str
    rack_address: str


def changed_by(data: QueryDict) -> list[Change]:
    """Return the changes that a query or a form names; what is none is passed over. A form's own new one comes last."""
    texts = [*data.getlist("change")]
    if data.get("new") and data.get("facet"):
        place = data.get("place", "1")
        texts.append(f"{data['new']}:{data['facet']}" + ("" if data["new"] == DROP else f":{place}"))
    return [change for text in texts if (change := Change.of(text)) is not None]


def what_if_page(setup: Setup, rack: str, changes: Sequence[Change], asked: Mapping[str, str]) -> WhatIfPage:
    """Build the page. Raises UnknownRack, NotReady.

    Args:
        setup: the set-up.
        rack: the key of the rack.
        changes: what is tried.
        asked: ``category``, ``shopper``, ``against``; ``look``: also what takes its time.
    """
    rack_document(setup.draft.document, rack)
    return _WhatIf(setup, rack, changes, asked).page()


class _WhatIf:
    def __init__(self, setup: Setup, rack: str, changes: Sequence[Change], asked: Mapping[str, str]) -> None:
        self._held: Current = current()
        self._draft, self._rack = setup.draft.document, rack
        live = setup.for_shoppers
        is_live = live is not None and any(one["key"] == rack and one["facets"] for one in live.document["racks"])
        self._against = LIVE if is_live and asked["against"] != DRAFT else DRAFT
        self._base = live.document if live is not None and self._against == LIVE else self._draft
        self._can_be_live = is_live
        path = tuple(map(identity, category_path(asked["category"]))) or None
        self._listing = asked["category"] if path and self._held.index.has_category(path) else ""
        self._path = path if self._listing else None
        self._shopper = asked["shopper"] if asked["shopper"] in SHOPPERS else TOP
        self._is_asked = asked["look"] == "1"
        self._offered = offered_facets(setup)
        self._use: Mapping[str, int] = sums(_DAYS, USED).get(USED.key, {}) if self._shopper == OURS else {}
        self._changes = self._that_can_be(changes)

    def _that_can_be(self, changes: Sequence[Change]) -> list[Change]:
        """Leave out what changes nothing."""
        kept: list[Change] = []
        before = self._draft
        for change in changes[:12]:
            after = tried(self._draft, self._rack, [*kept, change], self._offered)
            if after != before:
                kept.append(change)
                before = after
        return kept

    def _state(self, document: Document) -> State:
        return state_on(self._held, document, self._rack, self._path)

    def page(self) -> WhatIfPage:
        document = tried(self._draft, self._rack, self._changes, self._offered)
        before, after = self._state(self._base), self._state(document)
        rack, total, named = rack_document(self._draft, self._rack), len(after.products), {one.key for one in self._changes}
        labels = {facet["key"]: facet["label"] for facet in document["facets"]}
        facets = rack_document(document, self._rack)["facets"]
        moved = named | (before.rack.by_key.keys() ^ after.rack.by_key.keys())
        waits = self._shopper == BEST and total > _LONG and not self._is_asked
        return WhatIfPage(
            rack=self._rack,
            label=rack["label"],
            listing=self._listing,
            listings=listings(),
            total=total,
            shopper=self._shopper,
            said=self._said(),
            shoppers=tuple((key, words, self._address(shopper=key)) for key, words in
                           ((OURS, _("as ours do")), (TOP, _("top first")), (BEST, _("at best")))),
            against=self._against,
            againsts=tuple((key, words, self._address(against=key)) for key, words in
                           ((LIVE, _("Live")), (DRAFT, _("Draft"))) if self._can_be_live),
            changes=tuple((self._words(one), self._address([other for other in self._changes if other != one])) for one in self._changes),
            kept=tuple(one.text for one in self._changes),
            facets=tuple((key, labels[key]) for key in facets),
            offered=tuple((key, facet["label"]) for key, facet in self._offered.items()),
            cut=tuple((facet["key"], facet["label"]) for facet in document["facets"] if facet["key"] in facets and cuts_of(facet)),
            places=range(1, len(facets) + 2),
            old_shelves=tuple(shelves(before, moved)),
            new_shelves=tuple(shelves(after, moved)),
            ties=tuple(ties(before, after, moved)),
            height=height(before, after),
            is_changed=before.rack.specs != after.rack.specs,
            clicks=None if waits else self._clicks(document, before, after),
            few_level=100 * (FEW / max(total, FEW)) ** 0.5,
            here=self._address(),
            clear=self._address([]),
            quick=self._address(shopper=TOP),
            query=self._address().partition("?")[2],
            rack_address=rack_address(self._draft, self._rack),
        )  # fmt: skip

    def _address(self, changes: Sequence[Change] | None = None, shopper: str = "", against: str = "") -> str:
        query = QueryDict(mutable=True)
        query.setlist("change", [one.text for one in (self._changes if changes is None else changes)])
        query["shopper"] = shopper or self._shopper
        query["against"] = against or self._against
        if self._listing:
            query["category"] = self._listing
        return f"{reverse('what-if', args=[self._rack])}?{query.urlencode()}"

    def _said(self) -> str:
        """Say what this shopper does, where it is not what one would think."""
        if self._shopper != OURS:
            return ""
        if not self._use:
            return _("Nobody's picks were counted yet: this is a shopper who picks top first.")
        if self._changes and all(one.kind == MOVE for one in self._changes):
            return _("Ours pick first what they like most, wherever it stands: moving a facet changes no click of theirs.")
        return ""

    def _label(self, key: str) -> str:
        facets = {facet["key"]: facet["label"] for facet in self._draft["facets"]}
        return str(facets.get(key) or self._offered.get(key, {}).get("label", key))

    def _words(self, one: Change) -> str:
        said = {"facet": self._label(one.key), "place": one.place + 1}
        if one.kind == CUT and one.at is not None:
            facet = self._state(self._draft).rack.by_key.get(one.key)  # none where it is an added one that is cut
            words = words_of(facet, self._held.index.unit(facet.spec.source), self._held.currency, {}) if facet else None
            return _("%(facet)s cut at %(number)s") % {**said, "number": words.number(one.at) if words else written(one.at)}
        if one.kind == DROP:
            return _("%(facet)s off") % said
        return (_("Add %(facet)s, place %(place)s") if one.kind == ADD else _("%(facet)s to place %(place)s")) % said

    # -- who gains, who loses

    def _clicks(self, document: Document, before: State, after: State) -> Clicks:
        both = Compared(*(reach_on(self._held, state, self._shopper, self._use) for state in (before, after)))
        total = len(after.products)
        looks = total <= _MANY or (self._is_asked and self._shopper != BEST)
        return Clicks(
            before=both.before.average,
            after=both.after.average,
            fewer=both.fewer,
            same=both.same,
            more=both.more,
            old=tuple(bar(both.before)),
            new=tuple(bar(both.after)),
            flows=tuple(flows(both)),
            harder=tuple(self._harder(after, both)),
            drain_before=tuple(steps(both.before, total)),
            drain_after=tuple(steps(both.after, total)),
            helps=tuple(self._helps(document, after, both.after.average)) if looks else None,
        )

    def _harder(self, state: State, both: Compared) -> Iterator[Harder]:
        facts, products = self._held.index.facts, numbers(state.products)
        for place in both.harder(_HARDER):
            slot = int(products[place])
            yield Harder(
                facts.names[slot], facts.ids[slot], _steps(both.before, place), _steps(both.after, place),
                self._why_harder(state, both, place, slot), reverse("product", args=[facts.ids[slot]]),
            )  # fmt: skip

    def _why_harder(self, state: State, both: Compared, place: int, slot: int) -> str:
        """Say why a product takes more clicks than before."""
        for change in self._changes:
            facet = state.rack.by_key.get(change.key)
            if facet and change.kind in (MOVE, CUT) and not any(slot in facet.products(bin) for bin in facet.bins):
                return _("It is in no bin of %(facet)s, so that shelf does not help") % {"facet": facet.spec.label}
        if both.after.left[place] > FEW:
            return _("Its picks leave %(count)s, so pages are turned") % {"count": f"{int(both.after.left[place]):,}"}
        if both.after.picks[place] > both.before.picks[place]:
            return _("One more shelf stands before what tells it apart")
        return _("More is left when its picks are made")

    # -- what would help as well

    def _helps(self, document: Document, state: State, average: float) -> Iterator[Help]:
        """Yield the further changes of what is tried that bring the average down most."""
        found = options(document, self._rack, self._offered, self._cuts(document, state))
        states = {one: self._state(tried(document, self._rack, [one], self._offered)) for one in found}
        if len(state.products) > _MANY:
            found = self._likely(found, states, state)
        known = [(reach_of(states[one], self._shopper, self._use).average, self._words(one), one) for one in found]
        best: dict[str, tuple[float, str, Change]] = {}
        for number, words, one in sorted((item for item in known if item[0] < average - 0.05), key=lambda item: item[:2]):
            best.setdefault(one.key, (number, words, one))
        for number, words, one in list(best.values())[:_HELPS]:
            yield Help(words, number, 100 * number / average, self._address([*self._changes, one]))

    def _likely(self, found: list[Change], states: Mapping[Change, State], state: State) -> list[Change]:
        """Return those that help most where only some products are looked at, evenly taken."""
        every = numbers(state.products)
        some: BitMap = bitmap(every[:: max(1, len(every) // _GUESSED)])
        guessed = {one: reach_of(states[one], self._shopper, self._use, some).average for one in found}
        return sorted(found, key=lambda one: guessed[one])[:_TRIED]

    def _cuts(self, document: Document, state: State) -> dict[str, Number]:
        """Return where the fullest range of each facet that is cut could be cut in two."""
        cuts: dict[str, Number] = {}
        documents: dict[str, dict[str, Any]] = {facet["key"]: facet for facet in document["facets"]}
        for facet in state.rack.facets:
            here = state.rack.on_listing(facet, state.listing)
            fullest = max(zip(here.counts, here.bins, strict=True), key=lambda one: one[0], default=None)
            if fullest and fullest[1].range and cuts_of(documents[facet.spec.key]):
                at = cut_in_two(number_line(self._held.index, facet, state.products), fullest[1].range)
                cuts |= {facet.spec.key: at} if at is not None else {}
        return cuts


def _steps(reach: Reach, place: int) -> tuple[Step, ...]:
    """Return how many products are left of a product's way before the first pick and after each."""
    left = [int(step[place]) for step in reach.after[: int(reach.picks[place]) + 1]]
    return tuple(Step("", number, 100 * (number / max(left[0], 1)) ** 0.5) for number in left)
