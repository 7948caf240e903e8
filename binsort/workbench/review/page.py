"""Review: every change of the draft, in words and as old and new vessels, with what it does for shoppers."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from functools import cached_property
from typing import Any

from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.catalog.store.category_paths import category_paths, identities_of
from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.places import CATEGORY, PLACES, Listing, Places, plan
from binsort.core.facets.query import Query
from binsort.core.index.bins import Bin
from binsort.core.insight.compared import Compared, compared, side_of
from binsort.core.insight.coverage import percent
from binsort.core.values.text import category_path, identity
from binsort.racks.controls import control_of
from binsort.racks.differences import Difference, differences
from binsort.racks.models import DraftLink, Edition, Entry, PutLive, Schedule, Setup
from binsort.racks.number_words import bin_words, words_of
from binsort.racks.presentation import bin_swatch
from binsort.racks.setup import Document
from binsort.racks.shown_facet import Swatch
from binsort.tally.current import Current, current
from binsort.workbench.rack.page import listings

from .drawing import Drawing, drawing_of

_NAMED = 4
_DRAWN = 12  # changes with vessels; more at once are told in words and counts


@dataclass(frozen=True, slots=True)
class ChangeView:
    """One facet or rack that differs."""

    number: int
    kind: str  # facet or rack
    key: str
    label: str
    words: str
    drawing: Drawing | None
    bins: str  # how many become how many
    moved: str
    left: str
    by: str
    when: str
    is_new: bool
    is_gone: bool


@dataclass(frozen=True, slots=True)
class PromiseView:
    """What the change means for shoppers; a warning where it takes something away."""

    text: str
    is_warning: bool = False


@dataclass(frozen=True, slots=True)
class ReviewPage:
    """All that the page shows."""

    edition_id: int
    listing_path: str
    listings: tuple[tuple[str, str], ...]
    total: int
    changes: tuple[ChangeView, ...]
    same: tuple[tuple[str, tuple[int, ...]], ...]  # facets that stay as they are, with the shares of their bins
    promises: tuple[PromiseView, ...]
    live: PutLive | None
    scheduled: Schedule | None
    is_older: bool  # what waits is not the draft as it is now
    link: DraftLink | None
    soon: str  # a moment to propose, as a field of a form has it


def review_page(setup: Setup, path: str) -> ReviewPage:
    """Build the page: the draft against what shoppers see, on a listing."""
    live = setup.for_shoppers
    return _Review(setup, setup.draft, live, path).page()


class _Review:
    def __init__(self, setup: Setup, new: Edition, old: Edition | None, path: str) -> None:
        self.setup, self.new, self.old = setup, new, old
        self.held: Current = current()
        self.listing = tuple(map(identity, category_path(path))) or None
        self.before = old.document if old else {"facets": [], "racks": []}
        self.after = new.document
        self.path = path if self.listing else ""

    def page(self) -> ReviewPage:
        changes = tuple(self.changes())
        changed = {change.key for change in changes if change.kind == "facet"}
        row = PutLive.objects.select_related("actor").first()
        scheduled = Schedule.objects.select_related("actor").filter(ended_at=None).first()
        now = timezone.localtime()
        return ReviewPage(
            edition_id=self.new.pk,
            listing_path=self.path,
            listings=listings(),
            total=len(self.products),
            changes=changes,
            same=tuple(self.same(changed)),
            promises=tuple(self.promises(changed)),
            live=row,
            scheduled=scheduled,
            is_older=scheduled is not None and scheduled.edition_id != self.new.pk,
            link=DraftLink.objects.filter(ended_at=None).first(),
            soon=f"{(now + timedelta(days=1)):%Y-%m-%dT08:00}",
        )

    @cached_property
    def states(self) -> tuple[State, State]:
        """The two editions on the listing, with nothing picked: all facets of each."""
        files = (self.old.facet_file.facets if self.old else (), self.new.facet_file.facets)
        racks = [self.held.rack(facets) for facets in files]
        return State(racks[0], Query(category=self.listing)), State(racks[1], Query(category=self.listing))

    @property
    def products(self) -> Any:
        return self.states[1].products

    def changes(self) -> Iterator[ChangeView]:
        for number, one in enumerate(differences(self.before, self.after), 1):
            yield self.facet(number, one) if one.kind == "facet" else self.rack(number, one)

    def facet(self, number: int, one: Difference) -> ChangeView:
        key, old, new = one.key, one.before, one.after
        shown: Document = new or old or {}
        sides = [self.states[place].rack.by_key.get(key) for place in (0, 1)]
        is_drawn = _bears_on_bins(old, new) and number <= _DRAWN
        found = compared(side_of(self.states[0], sides[0]), side_of(self.states[1], sides[1]))
        by, when = self.made_by(key, "facet")
        counts = len(found.before.bins), len(found.after.bins)
        return ChangeView(
            number=number,
            kind="facet",
            key=key,
            label=shown["label"],
            words=one.words,
            drawing=self.drawn(found, sides[1] or sides[0], shown) if is_drawn and self.total_of(found) else None,
            bins=_("%(old)s to %(new)s bins") % {"old": counts[0], "new": counts[1]} if counts[0] != counts[1] else _bins(counts[1]),
            moved=ngettext("%(count)s product moved", "%(count)s products moved", found.moved) % {"count": f"{found.moved:,}"}
            if found.moved
            else _("no product moved"),
            left=ngettext("%(count)s product left its bin for none", "%(count)s products left their bins for none", found.left)
            % {"count": f"{found.left:,}"}
            if found.left
            else "",
            by=by,
            when=when,
            is_new=old is None,
            is_gone=new is None,
        )

    @staticmethod
    def total_of(found: Compared) -> int:
        return sum(ribbon.count for ribbon in found.ribbons)

    def drawn(self, found: Compared, facet: Facet | None, document: Document) -> Drawing:
        look = document.get("look", {})
        words = words_of(facet, self.held.index.unit(facet.spec.source), self.held.currency, look) if facet else None

        def name(bin: Bin) -> str:
            return bin_words(bin, words) if words else bin.label

        def swatch(bin: Bin) -> Swatch | None:
            return bin_swatch(look, bin) if control_of(look).has_colours else None

        return drawing_of(found, name, swatch)

    def rack(self, number: int, one: Difference) -> ChangeView:
        shown: Document = one.after or one.before or next(rack for rack in self.after["racks"] if rack["key"] == one.key)
        by, when = self.made_by(one.key, "rack")
        return ChangeView(
            number, "rack", one.key, shown["label"], one.words, None, "", "", "", by, when, one.before is None, one.after is None
        )

    def made_by(self, key: str, kind: str) -> tuple[str, str]:
        """Return who changed a facet or rack last since it went live, and when."""
        entry = self.last_changes.get((kind, key))
        if entry is None:
            return "", ""
        return (entry.actor.get_full_name() or entry.actor.get_username()) if entry.actor else "", said_when(entry.at)

    @cached_property
    def last_changes(self) -> dict[tuple[str, str], Entry]:
        """The newest change of each facet and rack since what is live was put there."""
        found: dict[tuple[str, str], Entry] = {}
        for entry in Entry.objects.select_related("actor").filter(kind=Entry.Kind.SETUP).exclude(touches=[])[:500]:
            for name in entry.touches:
                kind, _blank, key = name.partition(" ")
                found.setdefault((kind, key), entry)
        return found

    def same(self, changed: set[str]) -> Iterator[tuple[str, tuple[int, ...]]]:
        state = self.states[1]
        for facet in state.rack.facets:
            if facet.spec.key not in changed:
                here = state.rack.on_listing(facet, state.listing)
                total = sum(here.counts) + here.unbinned
                yield facet.spec.label, tuple(percent(count, total) for count in here.counts[:12] if count) if total else ()

    # -- for shoppers

    def promises(self, changed: set[str]) -> Iterator[PromiseView]:
        touched, empty, named = self.listings_touched(changed)
        words = ngettext("On %(count)s listing", "On %(count)s listings", touched) % {"count": f"{touched:,}"}
        if empty:
            yield PromiseView(
                _("%(on)s; %(names)s will have nothing to narrow by") % {"on": words, "names": ", ".join(named)}, is_warning=True
            )
        else:
            yield PromiseView(_("%(on)s, each with something to narrow by") % {"on": words})
        yield from self.links(changed)
        yield PromiseView(_("Picks that are in no bin any more are left out, the rest of a shopper's picks stays"))

    def listings_touched(self, changed: set[str]) -> tuple[int, int, list[str]]:
        """Return on how many listings something changes, and on how many nothing is left to narrow by, with the first of these."""
        places = Places.of(self.before), Places.of(self.after)
        known: dict[tuple[tuple[str, ...], ...], tuple[bool, bool]] = {}  # by the racks at the places: most listings have the same
        touched, empty, names = 0, 0, []
        paths = tuple(category_paths().values())
        same = identities_of(paths)
        top = tuple(tuple(one.at(Listing(), where).rack for where in PLACES) for one in places)
        along = [top, *zip(places[0].along(same), places[1].along(same), strict=True)]
        for name, path, here in zip((_("all products"), *(path[-1] for path in paths)), ((), *same), along, strict=True):
            if here not in known:
                known[here] = self.difference(Listing(CATEGORY, path) if path else Listing(), places, changed)
            if known[here] != (False, False) and (not path or len(self.held.index.listing(path))):
                touched += known[here][0]
                empty += known[here][1]
                names += [name] if known[here][1] else []
        return touched, empty, names[:_NAMED]

    def difference(self, listing: Listing, places: tuple[Places, Places], changed: set[str]) -> tuple[bool, bool]:
        """Tell whether a listing changes, and whether nothing is left there to narrow by."""
        old, new = (plan(document, listing, one) for document, one in zip((self.before, self.after), places, strict=True))
        racks = {placed.rack for one in (old, new) for placed in one.racks.values()}
        behaves = any(_rack(self.before, key) != _rack(self.after, key) for key in racks if key)
        return old.keys != new.keys or bool(changed & set(new.keys)) or behaves, bool(old.keys and not new.keys)

    def links(self, changed: set[str]) -> Iterator[PromiseView]:
        """Yield what becomes of links with picks whose bins are gone."""
        for key in sorted(changed):
            old, new = (state.rack.by_key.get(key) for state in self.states)
            if old is None:
                continue
            words = words_of(old, self.held.index.unit(old.spec.source), self.held.currency, {})
            gone = [bin_words(bin, words) for bin in old.bins if new is None or bin.key not in new.by_key]
            if new is None:
                yield PromiseView(_("Links with a pick of %(label)s lead to the listing without it") % {"label": old.spec.label})
            elif gone:
                names = ", ".join(gone[:_NAMED]) + (
                    f" {_('and %(count)s more') % {'count': len(gone) - _NAMED}}" if len(gone) > _NAMED else ""
                )
                yield PromiseView(_("Links with %(names)s lead to the listing without that pick") % {"names": names})


def _rack(document: Document, key: str) -> Document | None:
    return next((rack for rack in document["racks"] if rack["key"] == key), None)


def _bears_on_bins(old: Document | None, new: Document | None) -> bool:
    """Tell whether a change can move products."""
    if old is None or new is None:
        return True
    names = ("source", "bins", "cuts", "ends", "at_least", "at_most", "ranges", "scope", "under", "deep", "free")
    return any(old.get(name) != new.get(name) for name in names)


def _bins(count: int) -> str:
    return ngettext("%(count)s bin", "%(count)s bins", count) % {"count": f"{count:,}"}


def said_when(at: Any) -> str:
    """Return a moment in words, by the shop's clock."""
    local, today = timezone.localtime(at), timezone.localdate()
    days = (today - local.date()).days
    day = _("today") if days == 0 else _("yesterday") if days == 1 else f"{local:%-d %B}"
    return f"{day} {local:%H:%M}"


def taken_back(document: Document, live: Document, kind: str, key: str) -> None:
    """Let a facet or a rack of a document be what it is live, in place."""
    part: list[Document] = document["facets" if kind == "facet" else "racks"]
    was = next((one for one in live["facets" if kind == "facet" else "racks"] if one["key"] == key), None)
    here = next((one for one in part if one["key"] == key), None)
    if here is not None and was is not None:
        here.clear()
        here.update(was)
    elif was is not None:
        part.append(was)
    elif here is not None:
        part.remove(here)
    if kind == "facet":
        _put_on_racks(document, live, key, was is not None)


def _put_on_racks(document: Document, live: Document, key: str, is_there: bool) -> None:
    """Let a facet that is on no rack stand on those that have it live, where it stands there; one that is not live on none."""
    orders = {rack["key"]: rack["facets"] for rack in live["racks"] if key in rack["facets"]}
    is_lost = not any(key in rack["facets"] for rack in document["racks"])
    for rack in document["racks"]:
        if not is_there:
            rack["facets"] = [name for name in rack["facets"] if name != key]
        elif is_lost and rack["key"] in orders:
            order = orders[rack["key"]]
            before = [name for name in order[: order.index(key)] if name in rack["facets"]]
            place = rack["facets"].index(before[-1]) + 1 if before else 0
            rack["facets"] = [*rack["facets"][:place], key, *rack["facets"][place:]]
