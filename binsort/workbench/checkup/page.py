"""The page *Checkup*: findings by weight, by rack or by kind, each with its mend and what that does, and those left as they are."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.core.answers.answer import State
from binsort.core.facets.query import Query
from binsort.core.facets.spec import facet_spec
from binsort.core.insight.findings import Mend
from binsort.core.insight.findings.finding import SHOW
from binsort.core.insight.findings.whole import LISTING, PRODUCTS, RACK
from binsort.core.values.text import identity
from binsort.racks.models import LeftAsIs, Setup
from binsort.racks.setup import drawn_document
from binsort.tally.current import Current, current
from binsort.workbench.shelf.small import Part, before_and_after

from .looking import Finding, look

_DRAWN = 14  # findings whose effect is drawn
_MOST = 0.1  # share of all products from which on a finding costs shoppers most
BY = ("weight", "rack", "kind")


@dataclass(frozen=True, slots=True)
class MendView:
    """A way out as a button, or a link where it changes nothing."""

    key: str
    words: str
    effect: str
    address: str  # empty: a button


@dataclass(frozen=True, slots=True)
class RowView:
    """A finding."""

    finding: Finding
    share: float  # its weight, in hundredths of all products
    where: str
    open: str  # address of what it is about
    mends: tuple[MendView, ...]
    before: tuple[Part, ...]
    after: tuple[Part, ...]
    is_new: bool
    form: str  # address that a mend of a facet is sent to


@dataclass(frozen=True, slots=True)
class CheckupPage:
    """All that the page shows."""

    groups: tuple[tuple[str, tuple[RowView, ...]], ...]
    count: int
    racks: tuple[tuple[str, str], ...]
    rack: str
    by: str
    left: tuple[LeftAsIs, ...]
    keys: tuple[tuple[str, str, str], ...]  # of all findings that are open


def open_findings(setup: Setup) -> list[Finding]:
    """Return the findings that nobody left as they are. Raises NotReady."""
    left = {(one.place, one.finding, one.subject): one.said for one in LeftAsIs.objects.all()}
    return [one for one in look(setup) if left.get(one.key) != one.found.text]


def checkup_page(setup: Setup, asked: Mapping[str, str], seen: Iterable[tuple[str, str, str]] | None) -> CheckupPage:
    """Build the page. Raises NotReady.

    Args:
        setup: the set-up.
        asked: ``rack``: of one rack alone; ``by``: how they are put together.
        seen: keys of the findings that were there when this person looked last; None for nobody knows.
    """
    held, every = current(), open_findings(setup)
    racks = tuple((rack["key"], rack["label"]) for rack in setup.draft.document["racks"])
    rack = asked.get("rack", "") if asked.get("rack", "") in dict(racks) else ""
    by = asked.get("by", "") if asked.get("by", "") in BY else BY[0]
    wanted = [one for one in every if not rack or one.about.rack == rack]
    known = None if seen is None else set(seen)
    rows = [_row(setup, held, one, place, known) for place, one in enumerate(wanted)]
    now = {one.key: one.found.text for one in look(setup)}
    return CheckupPage(
        groups=tuple(_groups(rows, by, dict(racks), len(held.index.every_product))),
        count=len(wanted),
        racks=racks,
        rack=rack,
        by=by,
        left=tuple(one for one in LeftAsIs.objects.select_related("actor") if now.get((one.place, one.finding, one.subject)) == one.said),
        keys=tuple(one.key for one in every),
    )


def _groups(rows: list[RowView], by: str, racks: dict[str, str], total: int) -> Iterator[tuple[str, tuple[RowView, ...]]]:
    """Yield the findings under their headings."""
    if by == "weight":
        most = [row for row in rows if row.finding.found.weight >= _MOST * total]
        rest = [row for row in rows if row not in most]
        named = ((_("Costs shoppers most"), most), (_("Worth a look"), rest))
        yield from ((name, tuple(listed)) for name, listed in named if listed)
        return
    headings: dict[str, list[RowView]] = {}
    for row in rows:
        kind = row.finding.found.id.replace("-", " ").capitalize()
        name = racks.get(row.finding.about.rack, _("The catalogue")) if by == "rack" else kind
        headings.setdefault(name, []).append(row)
    yield from ((name, tuple(listed)) for name, listed in headings.items())


def _row(setup: Setup, held: Current, one: Finding, place: int, known: set[tuple[str, str, str]] | None) -> RowView:
    total = len(held.index.every_product)
    before, after = _effect(setup, held, one) if place < _DRAWN else ((), ())
    touched = min(round(one.found.weight), total)
    query = _query(one)
    return RowView(
        finding=one,
        share=100 * touched / total if total else 0,
        where=_where(setup, one),
        open=_open(one, query),
        mends=tuple(_mend(one, mend, query) for mend in one.found.mends),
        before=before,
        after=after,
        is_new=known is not None and one.key not in known,
        form="" if one.is_whole else reverse("facet-act", args=[one.about.key]) + query,
    )


def _query(one: Finding) -> str:
    pairs = [("rack", one.about.rack), ("category", one.listing)]
    return f"?{urlencode([pair for pair in pairs if pair[1]])}" if any(value for _name, value in pairs) else ""


def _where(setup: Setup, one: Finding) -> str:
    document = setup.draft.document
    facets = {facet["key"]: facet["label"] for facet in document["facets"]}
    racks = {rack["key"]: rack["label"] for rack in document["racks"]}
    if one.about.kind == PRODUCTS:
        return _("The catalogue")
    parts = [facets.get(one.about.key, "") if one.about.kind not in (RACK, LISTING) else "", racks.get(one.about.rack, "")]
    return " · ".join(part for part in parts if part)


def _open(one: Finding, query: str) -> str:
    if one.about.kind == RACK:
        return reverse("rack-of", args=[one.about.key])
    if one.about.kind == LISTING:
        return f"{reverse('rack-of', args=[one.about.rack])}?{urlencode({'category': one.about.key})}"
    if one.about.kind == PRODUCTS:
        return _products(one)
    return reverse("facet", args=[one.about.key]) + query


def _products(one: Finding) -> str:
    if one.found.id == "unused-attribute":
        return reverse("attributes")
    return f"{reverse('catalogue')}?{urlencode({'category': one.about.key})}"


def _mend(one: Finding, mend: Mend, query: str) -> MendView:
    address = ""
    if mend.change is None:
        goes = {"placing": reverse("placing"), "products": _products(one), "add": f"{reverse('rack-add')}?{urlencode(_add(one))}"}
        address = goes.get(mend.target, "") if mend.leads == SHOW else ""
        address = address or _open(one, query)
    return MendView(mend.key, mend.words, mend.effect, address)


def _add(one: Finding) -> dict[str, str]:
    return {"rack": one.about.rack, "category": one.about.key}


def _effect(setup: Setup, held: Current, one: Finding) -> tuple[tuple[Part, ...], tuple[Part, ...]]:
    """Return what the first mend does to the bins of a facet, as small vessels; nothing where it moves no product."""
    mend = next((mend for mend in one.found.mends if mend.change is not None), None)
    if mend is None or mend.change is None or one.is_whole:
        return (), ()
    document = drawn_document(setup.draft.document, one.about.key, one.about.rack)
    listing = tuple(map(identity, one.listing.split(" > "))) if one.listing else None
    states = [State(held.rack([facet_spec(made)]), Query(category=listing)) for made in (document, mend.change(document))]
    return before_and_after(states[0], states[1])
