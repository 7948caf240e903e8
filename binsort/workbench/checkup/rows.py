"""A finding as a row: what it touches, what it says, what its mend does to the bins, and its buttons."""

from collections.abc import Iterator
from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.answers.answer import State
from binsort.core.facets.query import Query
from binsort.core.facets.spec import facet_spec
from binsort.core.index.bins import Bin
from binsort.core.insight.findings import Mend
from binsort.core.insight.findings.finding import SHOW, Document
from binsort.core.insight.findings.visited import WORDS
from binsort.core.insight.findings.visits import LEAST
from binsort.core.insight.findings.whole import FACET, LISTING, PRODUCTS, RACK, SEARCH
from binsort.core.values.strict_json import dumps
from binsort.core.values.text import identity
from binsort.racks.models import Setup
from binsort.racks.number_words import bin_words, words_of
from binsort.racks.setup import drawn_document
from binsort.tally.current import Current, current
from binsort.workbench.footfall.visits import DAYS
from binsort.workbench.shelf.small import Drawn, Part, as_it_is, before_and_after

from .looking import Finding

VESSEL = 210  # pixels
_KEPT = 200  # findings whose effect is kept as it was drawn
Parts = tuple[Part, ...]


@dataclass(frozen=True, slots=True)
class MendView:
    """A way out as a button, or a link where it changes nothing."""

    key: str
    words: str
    effect: str
    address: str  # empty: a button
    chooses: bool  # a bin has to be chosen for it


@dataclass(frozen=True, slots=True)
class RowView:
    """A finding."""

    finding: Finding
    share: float  # products that it touches, in hundredths of all
    met: str  # visits that met it, in words; empty where too few were counted to say
    where: str
    open: str  # address of what it is about
    mends: tuple[MendView, ...]
    before: Parts
    after: Parts
    is_alone: bool  # what there is now is drawn, and no mend by itself changes it
    is_new: bool
    form: str  # address that a mend of a facet is sent to


class Rows:
    """Makes rows of findings."""

    def __init__(self, setup: Setup, held: Current) -> None:
        self._held, self._document = held, setup.draft.document
        self._facets = {facet["key"]: facet["label"] for facet in self._document["facets"]}
        self._racks = {rack["key"]: rack["label"] for rack in self._document["racks"]}

    def row(self, one: Finding, *, is_drawn: bool, is_new: bool) -> RowView:
        """Return a finding as a row."""
        total, query = len(self._held.index.every_product), _query(one)
        before, after, is_alone = self._drawn(one) if is_drawn else ((), (), False)
        return RowView(
            finding=one,
            share=100 * min(one.found.touched, total) / total if total else 0,
            met=self._met(one),
            where=self._where(one),
            open=_open(one, query),
            mends=tuple(_mend(one, mend, query) for mend in one.found.mends),
            before=before,
            after=after,
            is_alone=is_alone,
            is_new=is_new,
            form="" if one.is_whole else reverse("facet-act", args=[one.about.key]) + query,
        )

    def _met(self, one: Finding) -> str:
        if one.met is None:
            return ""
        if one.met < LEAST:
            return _("hardly a visit")
        about = _rounded(one.met)
        if one.days >= DAYS:
            return _("about %(visits)s visits a month") % {"visits": f"{about:,}"}
        days = ngettext("%(days)s day", "%(days)s days", one.days) % {"days": one.days}
        return _("about %(visits)s visits in %(days)s") % {"visits": f"{about:,}", "days": days}

    def _where(self, one: Finding) -> str:
        if one.about.kind in (PRODUCTS, SEARCH):
            return _("Search") if one.about.kind == SEARCH else _("The catalogue")
        parts = [self._facets.get(one.about.key, "") if one.about.kind not in (RACK, LISTING) else "", self._racks.get(one.about.rack, "")]
        return " · ".join(part for part in parts if part)

    def _drawn(self, one: Finding) -> tuple[Parts, Parts, bool]:
        """Return what a mend does as it was drawn last, while catalogue, facet and finding stay as they are."""
        known: dict[tuple[object, ...], tuple[Parts, Parts, bool]] = self._held.index.remember("drawn findings", dict)
        of_facet = drawn_document(self._document, one.about.key, one.about.rack) if one.about.kind == FACET else {}
        key = one.key, one.found.text, one.listing, dumps(of_facet)
        if (drawn := known.get(key)) is None:
            drawn = known[key] = self._effect(one)
            for old in list(known)[:-_KEPT]:
                known.pop(old, None)
        return drawn

    def _effect(self, one: Finding) -> tuple[Parts, Parts, bool]:
        """Return what the first mend does to the bins of a facet as small vessels; where none does, the facet as it is, alone."""
        mend = next((mend.change for mend in one.found.mends if mend.change is not None), None)
        if one.about.kind != FACET:
            return (*self._added(one, mend(self._document)), False) if mend and one.found.id == "unused-attribute" else ((), (), False)
        document = drawn_document(self._document, one.about.key, one.about.rack)
        now, how = self._state(one, document), self._how(document)
        if mend and not one.is_whole:
            before, after = before_and_after(now, self._state(one, mend(document)), how)
            if before or after:
                return before, after, False
        return (as_it_is(now, one.found.bins, how), (), True) if one.found.bins or not one.is_whole else ((), (), False)

    def _added(self, one: Finding, changed: Document) -> tuple[Parts, Parts]:
        """Return the facet that a mend adds to the set-up, and that there is none before."""
        made = next(facet for facet in changed["facets"] if facet["key"] not in self._facets)
        return before_and_after(State(self._held.rack([]), Query()), self._state(one, made), self._how(made))

    def _state(self, one: Finding, document: Document) -> State:
        listing = tuple(map(identity, one.listing.split(" > "))) if one.listing else None
        return State(self._held.rack([facet_spec(document)]), Query(category=listing))

    def _how(self, document: Document) -> Drawn:
        """Return how a facet is drawn: with its bins in words."""
        facet = self._held.rack([facet_spec(document)]).facets[0]
        words = words_of(facet, self._held.index.unit(facet.spec.source), self._held.currency, document.get("look", {}))
        return Drawn(VESSEL, lambda one: bin_words(one, words))


def bins_to_choose(setup: Setup, held: Current) -> Iterator[tuple[str, list[tuple[str, str]]]]:
    """Yield the facets with bins of values, and these as a form has them: FACET=BIN, in words."""
    for facet in held.rack(setup.draft.facet_file.facets).facets:
        if facet.spec.ranges or facet.spec.free:
            continue
        words = words_of(facet, held.index.unit(facet.spec.source), held.currency, {})
        bins = [(f"{facet.spec.key}={bin.key}", bin_words(bin, words)) for bin in facet.bins if facet.products(bin)]
        if bins:
            yield facet.spec.label, sorted(bins, key=lambda one: identity(one[1]))[:500]


def subject_of(setup: Setup, one: Finding) -> str:
    """Return what a finding is about, as a sentence about its mend begins; empty where the mend says it itself."""
    if one.about.kind == SEARCH:
        return f"“{one.about.key}”"
    listed = {FACET: "facets", RACK: "racks"}.get(one.about.kind, "")
    return next((item["label"] for item in setup.draft.document[listed] if item["key"] == one.about.key), "") if listed else ""


def bin_of(setup: Setup, key: str, bin: str) -> Bin | None:
    """Return a bin of a facet by its key, None where there is none."""
    facet = current().rack(setup.draft.facet_file.facets).by_key.get(key)
    return facet.by_key.get(bin) if facet else None


def _rounded(number: int) -> int:
    """Return a number to two figures.

    >>> [_rounded(number) for number in (7, 83, 417, 4_181)]
    [7, 83, 420, 4200]
    """
    step = int(10 ** max(0, len(str(number)) - 2))
    return int(number / step + 0.5) * step


def _query(one: Finding) -> str:
    pairs = [("rack", one.about.rack), ("category", one.listing)]
    return f"?{urlencode([pair for pair in pairs if pair[1]])}" if any(value for _name, value in pairs) else ""


def _open(one: Finding, query: str) -> str:
    if one.about.kind == RACK:
        return reverse("rack-of", args=[one.about.key])
    if one.about.kind == LISTING:
        return f"{reverse('rack-of', args=[one.about.rack])}?{urlencode({'category': one.about.key})}"
    if one.about.kind == PRODUCTS:
        return _products(one)
    if one.about.kind == SEARCH:
        return f"{reverse('shop')}?{urlencode({'q': one.about.key})}"
    return reverse("facet", args=[one.about.key]) + query


def _products(one: Finding) -> str:
    if one.found.id == "unused-attribute":
        return reverse("attributes")
    return f"{reverse('catalogue')}?{urlencode({'category': one.about.key})}"


def _mend(one: Finding, mend: Mend, query: str) -> MendView:
    address = ""
    if mend.change is None and mend.target != WORDS:
        name, _mark, rest = mend.target.partition("?")
        goes = {
            "placing": reverse("placing"),
            "attributes": reverse("attributes"),
            "products": _products(one),
            "add": f"{reverse('rack-add')}?{urlencode({'rack': one.about.rack, 'category': one.about.key})}",
            "shop": f"{reverse('shop')}?{rest}",
        }
        address = (goes.get(name, "") if mend.leads == SHOW else "") or _open(one, query)
    return MendView(mend.key, mend.words, mend.effect, address, mend.target == WORDS)
