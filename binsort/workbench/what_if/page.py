"""The page *What if*: a rack as it is and as it is tried, who gains and who loses, and what would help as well."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.http import QueryDict
from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.core.answers.answer import State
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import Query
from binsort.core.insight.clicks import FEW, Reach
from binsort.core.insight.what_if import ADD, BEST, CLASSES, DROP, MOVE, OURS, TOP, Change, Compared, classes, reach_of, tried
from binsort.core.values.text import category_path, identity
from binsort.footfall.kinds import USED
from binsort.footfall.reading import sums
from binsort.racks.models import Setup
from binsort.racks.setup import Document, rack_document
from binsort.tally.current import Current, current
from binsort.workbench.rack.page import listings, rack_address
from binsort.workbench.start.page import Step, proposal_of, steps

_DAYS = 90  # of visits by which shoppers do as ours do
_HARDER, _HELPS, _MANY = 3, 3, 20_000  # named; products above which what would help is not looked for by itself
_PITCH = 26  # pixels from one shelf of the small racks to the next
SHOPPERS = (OURS, TOP, BEST)


@dataclass(frozen=True, slots=True)
class Tie:
    """A facet in both racks: where it stands in each."""

    label: str
    before: int | None
    after: int | None
    moved: bool

    @property
    def path(self) -> str:
        """The line between the two."""
        if self.before is None or self.after is None:
            return ""
        start, end = self.before * _PITCH + 13, self.after * _PITCH + 13
        return f"M0 {start}C60 {start} 60 {end} 120 {end}"


@dataclass(frozen=True, slots=True)
class Part:
    """A class of clicks on a bar, in hundredths."""

    x: float
    width: float
    count: int
    words: str
    is_never: bool


@dataclass(frozen=True, slots=True)
class Flow:
    """Products that go from one class to another."""

    kind: str  # fewer, same, more
    outline: str


@dataclass(frozen=True, slots=True)
class Harder:
    """A product that takes more clicks."""

    name: str
    number: str
    before: str
    after: str
    why: str
    address: str


@dataclass(frozen=True, slots=True)
class Help:
    """A further change that would help."""

    words: str
    average: float
    address: str


@dataclass(frozen=True, slots=True)
class WhatIfPage:
    """All that the page shows."""

    rack: str
    label: str
    listing: str
    listings: tuple[tuple[str, str], ...]
    total: int
    shopper: str
    is_unknown: bool  # how ours do: nobody's visits were counted yet
    shoppers: tuple[tuple[str, str, str], ...]  # key, words, address
    changes: tuple[tuple[str, str], ...]  # words, address without it
    kept: tuple[str, ...]  # the changes as a form has them
    facets: tuple[tuple[str, str], ...]
    offered: tuple[tuple[str, str], ...]
    places: range
    ties: tuple[Tie, ...]
    height: int
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
    few_level: float
    helps: tuple[Help, ...]
    clear: str
    query: str
    rack_address: str


def changed_by(data: QueryDict) -> list[Change]:
    """Return the changes that a query or a form names; what is none is passed over. A form's own new one comes last."""
    texts = [*data.getlist("change")]
    if data.get("new") and data.get("facet"):
        place = data.get("place", "1")
        texts.append(f"{data['new']}:{data['facet']}" + ("" if data["new"] == DROP else f":{place}"))
    return [change for text in texts if (change := Change.of(text)) is not None]


def offered_facets(setup: Setup) -> dict[str, Document]:
    """Return the facets that the catalogue offers and the set-up does not have, by the keys of their proposals."""
    proposal = proposal_of(current())
    used = {_source(facet) for facet in setup.draft.document["facets"]}
    return {one.key: _alone(one.document) for one in proposal.candidates if _source(one.document) not in used}


def _source(facet: Mapping[str, Any]) -> tuple[str, str]:
    return facet["source"]["kind"], identity(str(facet["source"].get("attribute", facet["source"].get("prefix", ""))))


def _alone(document: Document) -> Document:
    """Return a proposed facet without the rules that belong to its own rack."""
    return {name: value for name, value in document.items() if name not in ("show_when", "key")}


def what_if_page(setup: Setup, rack: str, changes: Sequence[Change], asked: Mapping[str, str]) -> WhatIfPage:
    """Build the page. Raises UnknownRack, NotReady."""
    rack_document(setup.draft.document, rack)
    return _WhatIf(setup, rack, changes, asked).page()


class _WhatIf:
    def __init__(self, setup: Setup, rack: str, changes: Sequence[Change], asked: Mapping[str, str]) -> None:
        self._held: Current = current()
        self._document, self._rack = setup.draft.document, rack
        self._path = tuple(map(identity, category_path(asked["category"]))) or None
        self._listing = asked["category"] if self._path and self._held.index.has_category(self._path) else ""
        self._path = self._path if self._listing else None
        self._shopper = asked["shopper"] if asked["shopper"] in SHOPPERS else TOP
        self._offered = offered_facets(setup)
        self._use: Mapping[str, int] = sums(_DAYS, USED).get(USED.key, {}) if self._shopper == OURS else {}
        self._changes = self._that_can_be(changes)

    def _that_can_be(self, changes: Sequence[Change]) -> list[Change]:
        """Leave out what changes nothing."""
        kept: list[Change] = []
        before = self._document
        for change in changes[:12]:
            after = tried(self._document, self._rack, [*kept, change], self._offered)
            if after != before:
                kept.append(change)
                before = after
        return kept

    def _reach(self, document: Document) -> tuple[State, Reach]:
        specs = {spec.key: spec for spec in facet_file(document).facets}
        rack = self._held.rack([specs[key] for key in rack_document(document, self._rack)["facets"]])
        state = State(rack, Query(category=self._path))
        return state, reach_of(state, self._shopper, self._use)

    def page(self) -> WhatIfPage:
        after_document = tried(self._document, self._rack, self._changes, self._offered)
        (state, before), (_state, after) = self._reach(self._document), self._reach(after_document)
        both, total = Compared(before, after), len(state.products)
        rack = rack_document(self._document, self._rack)
        labels = {facet["key"]: facet["label"] for facet in self._document["facets"]}
        return WhatIfPage(
            rack=self._rack,
            label=rack["label"],
            listing=self._listing,
            listings=listings(),
            total=total,
            shopper=self._shopper,
            is_unknown=self._shopper == OURS and not self._use,
            shoppers=tuple((key, words, self._address(shopper=key)) for key, words in
                           ((OURS, _("as ours do")), (TOP, _("top first")), (BEST, _("at best")))),
            changes=tuple((self._words(one), self._address([other for other in self._changes if other != one])) for one in self._changes),
            kept=tuple(one.text for one in self._changes),
            facets=tuple((key, labels[key]) for key in rack["facets"]),
            offered=tuple((key, facet["label"]) for key, facet in self._offered.items()),
            places=range(1, len(rack["facets"]) + 2),
            ties=tuple(self._ties(after_document)),
            height=_PITCH * max(len(rack["facets"]), len(rack_document(after_document, self._rack)["facets"])) + 4,
            before=before.average,
            after=after.average,
            fewer=both.fewer,
            same=both.same,
            more=both.more,
            old=tuple(_bar(before)),
            new=tuple(_bar(after)),
            flows=tuple(_flows(both)) if self._changes else (),
            harder=tuple(self._harder(state, both)),
            drain_before=tuple(steps(before, total)),
            drain_after=tuple(steps(after, total)),
            few_level=100 * (FEW / max(total, FEW)) ** 0.5,
            helps=tuple(self._helps(after_document, after)) if total <= _MANY else (),
            clear=self._address([]),
            query=self._address().partition("?")[2],
            rack_address=rack_address(self._document, self._rack),
        )  # fmt: skip

    def _address(self, changes: Sequence[Change] | None = None, shopper: str = "") -> str:
        query = QueryDict(mutable=True)
        query.setlist("change", [one.text for one in (self._changes if changes is None else changes)])
        query["shopper"] = shopper or self._shopper
        if self._listing:
            query["category"] = self._listing
        return f"{reverse('what-if', args=[self._rack])}?{query.urlencode()}"

    def _label(self, key: str) -> str:
        facets = {facet["key"]: facet["label"] for facet in self._document["facets"]}
        return str(facets.get(key) or self._offered.get(key, {}).get("label", key))

    def _words(self, one: Change) -> str:
        said = {"facet": self._label(one.key), "place": one.place + 1}
        if one.kind == DROP:
            return _("%(facet)s off") % said
        return (_("%(facet)s added, place %(place)s") if one.kind == ADD else _("%(facet)s to place %(place)s")) % said

    def _ties(self, after: Document) -> Iterator[Tie]:
        old, new = (rack_document(document, self._rack)["facets"] for document in (self._document, after))
        labels = {facet["key"]: facet["label"] for document in (self._document, after) for facet in document["facets"]}
        named = {one.key for one in self._changes}
        for key in dict.fromkeys((*new, *old)):
            places = [keys.index(key) if key in keys else None for keys in (old, new)]
            yield Tie(labels[key], places[0], places[1], key in named or None in places)

    # -- who gains, who loses

    def _harder(self, state: State, both: Compared) -> Iterator[Harder]:
        facts, products = self._held.index.facts, list(state.products)
        for place in both.harder(_HARDER):
            slot = products[place]
            gained, lost = int(both.after.picks[place]), int(both.before.picks[place])
            if both.after.left[place] > FEW:
                why = _("Its picks leave %(count)s, so pages are turned") % {"count": f"{int(both.after.left[place]):,}"}
            elif gained > lost:
                why = _("One more shelf stands before what tells it apart")
            else:
                why = _("More is left when its picks are made")
            yield Harder(
                facts.names[slot], facts.ids[slot], _sizes(both.before, place), _sizes(both.after, place), why,
                reverse("product", args=[facts.ids[slot]]),
            )  # fmt: skip

    # -- what would help as well

    def _helps(self, document: Document, after: Reach) -> Iterator[Help]:
        """Yield the further changes of what is tried that bring the average down most."""
        keys = rack_document(document, self._rack)["facets"]
        options = [Change(MOVE, key, place) for key in keys for place in range(min(3, len(keys))) if keys.index(key) != place]
        options += [Change(ADD, key, place) for key in list(self._offered)[:10] for place in (0, 2) if place <= len(keys)]
        found = []
        for one in options:
            average = self._reach(tried(document, self._rack, [one], self._offered))[1].average
            if average < after.average - 0.05:
                found.append((average, self._words(one), one))
        best: dict[str, tuple[float, str, Change]] = {}
        for average, words, one in sorted(found, key=lambda item: item[:2]):
            best.setdefault(one.key, (average, words, one))
        for average, words, one in list(best.values())[:_HELPS]:
            yield Help(words, average, self._address([*self._changes, one]))


def _sizes(reach: Reach, place: int) -> str:
    """Return how many products are left before the first pick and after each."""
    return " → ".join(f"{int(step[place]):,}" for step in reach.after[: int(reach.picks[place]) + 1])


def _words_of(number: int) -> str:
    return (_("1 click"), _("2 clicks"), _("3 clicks"), _("4 clicks"), _("5 or more"), _("never"))[number]


def _bar(reach: Reach) -> Iterator[Part]:
    found = classes(reach)
    total, x = found.size or 1, 0.0
    for number in range(CLASSES):
        count = int((found == number).sum())
        if count:
            yield Part(round(x, 2), round(100 * count / total, 2), count, _words_of(number), number == CLASSES - 1)
            x += 100 * count / total


def _flows(both: Compared) -> Iterator[Flow]:
    """Yield the ribbons between the two bars, those with more clicks never too thin to be seen."""
    table, total = both.table, both.table.sum() or 1
    above, below = [0, *table.sum(axis=1).cumsum().tolist()], [0, *table.sum(axis=0).cumsum().tolist()]
    taken = [[0] * CLASSES, [0] * CLASSES]
    for low in range(CLASSES):
        for high in range(CLASSES):
            count = int(table[low, high])
            if not count:
                continue
            begin, end = above[low] + taken[0][low], below[high] + taken[1][high]
            taken[0][low] += count
            taken[1][high] += count
            kind = "same" if low == high else "fewer" if high < low else "more"
            thick = max(100 * count / total, 0.35 if kind == "more" else 0.0)
            a, b = round(100 * begin / total, 2), round(100 * end / total, 2)
            yield Flow(kind, f"M{a} 0C{a} 50 {b} 50 {b} 100H{b + thick:.2f}C{b + thick:.2f} 50 {a + thick:.2f} 50 {a + thick:.2f} 0z")
