"""The rack view: shelves of vessels over a listing, with the picks being tried."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Any
from urllib.parse import quote, urlencode

from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.catalog.store.category_paths import category_paths
from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.facet_file import Rack
from binsort.core.facets.query import Query, read_free_range
from binsort.core.facets.rule_edits import Line
from binsort.core.index.catalogue_index import CATEGORY
from binsort.core.insight.coverage import lacking, percent
from binsort.core.insight.ways_out import ways_out
from binsort.core.values.text import category_path, identity, path_identity
from binsort.racks.addresses import Pair, pick_pairs, picked_pairs, query_string, toggled
from binsort.racks.attribute_use import dictionary_colours, looks_with_colours, not_narrowing, served
from binsort.racks.models import Setup
from binsort.racks.number_words import Words, bin_words, words_of
from binsort.racks.pictures import pictures_of
from binsort.racks.presentation import shown, unsent_picks
from binsort.racks.setup import Document, changed_facets, changes_since_live, facet_document, own_looks, said_on_rack
from binsort.racks.shown_facet import Shown
from binsort.tally.current import Current, current
from binsort.workbench.rules.card import CardView, TieView, card_of, rule_words, ties_of
from binsort.workbench.sheet.cells import MEANT, sheet_key
from binsort.workbench.shelf.view import ShelfView, shelf_of

from .rule_mode import RULES

EVERY = "*"  # no key of a rack: the facets of all of them
_OPEN = "shelf.open"  # in an address: facets all of whose bins are shown; no key of a facet holds a dot


@dataclass(frozen=True, slots=True)
class PickView:
    """A pick being tried, with its way out."""

    text: str
    address: str


@dataclass(frozen=True, slots=True)
class WayView:
    """A way out of an empty result: the pick to drop, and how many products that gives."""

    text: str
    count: int
    address: str


@dataclass(frozen=True, slots=True)
class RackPage:
    """All that the rack view shows."""

    key: str
    label: str
    path: str  # its address without what is asked
    racks: tuple["RackLink", ...]
    listing_path: str
    listings: tuple[tuple[str, str], ...]
    behind: bool  # very many products changed at once and are being counted
    total: int
    result: int
    picks: tuple[PickView, ...]
    kept: tuple[Pair, ...]
    clear: str
    shelves: tuple[ShelfView, ...]
    silent: tuple[ShelfView, ...]  # those that say nothing on this listing
    preview: tuple[Shown, ...]
    unsent: tuple[Pair, ...]  # what its form sends besides its controls
    ways: tuple[WayView, ...]  # of an empty result
    headings: dict[str, str]
    ruling: bool  # it is being set when facets show
    rules_address: str  # turns that on or off
    card: CardView | None  # of the facet whose rule is open
    ties: tuple[TieView, ...]
    counted: tuple[tuple[str, int, int], ...]  # what shoppers see of it: under which picks, facets shown, all facets

    @property
    def trying(self) -> bool:
        """Whether something is picked."""
        return bool(self.picks)

    @property
    def listing_query(self) -> str:
        """What keeps the listing in an address of another page."""
        return listing_query(self.listing_path)

    @property
    def rules_done(self) -> str:
        """The address at which no rule is open."""
        return self.path + query_string([pair if pair[0] != RULES else (RULES, "-") for pair in self._all])

    @property
    def here_address(self) -> str:
        """The address of the page as it stands."""
        return self.path + query_string(self._all)

    @property
    def _all(self) -> list[Pair]:
        return [*([("category", self.listing_path)] if self.listing_path else []), *self.kept]

    @property
    def listing_place(self) -> str:
        """What chooses the listing in view on the page of listings."""
        return f"?{urlencode({'at': path_identity(tuple(map(identity, category_path(self.listing_path))))})}" if self.listing_path else ""

    @property
    def add_address(self) -> str:
        """Where a facet is added to it."""
        asked = {"rack": self.key, "category": self.listing_path}
        return f"{reverse('rack-add')}?{urlencode({name: text for name, text in asked.items() if text})}"

    @property
    def result_share(self) -> int:
        """The result in hundredths of the listing."""
        return percent(self.result, self.total) if self.total else 0


@dataclass(frozen=True, slots=True)
class RackLink:
    """A rack that can be looked at."""

    key: str
    label: str
    facets: int
    address: str
    here: bool


def listing_query(path: str) -> str:
    """Return what keeps a listing in an address, empty for all products."""
    return f"?category={quote(path)}" if path else ""


def rack_address(document: Document, key: str) -> str:
    """Return the address of a rack; the first one stands at the address of the tool."""
    return reverse("rack") if key == document["racks"][0]["key"] else reverse("rack-of", args=[key])


def rack_links(document: Document, here: str, query: str) -> tuple[RackLink, ...]:
    """Return every rack of a document, with the address that shows it on the listing of a query."""
    return tuple(
        RackLink(rack["key"], rack["label"], len(rack["facets"]), rack_address(document, rack["key"]) + query, rack["key"] == here)
        for rack in document["racks"]
    )


def _every(racks: Sequence[Rack]) -> Rack:
    """Return the facets of all racks as one."""
    return Rack(EVERY, str(_("All racks")), tuple(dict.fromkeys(spec for rack in racks for spec in rack.facets)))


class Sight:
    """A rack of the draft over a listing, with picks: what the pages of the workbench draw from."""

    def __init__(self, setup: Setup, pairs: Sequence[Pair], path: str = "", rack: str = "") -> None:
        self.edition = setup.draft
        self.held: Current = current()
        self.path = path
        racks = self.edition.facet_file.racks
        self.rack = _every(racks) if rack == EVERY else next((one for one in racks if one.key == rack), racks[0])
        index = self.held.rack(self.rack.facets)
        self.state = State(index, index.read(pairs))
        self.changed = changed_facets(setup)
        self.listing_path = _listing_path(self.state)
        self.opened = [key for name, key in dict.fromkeys(pairs) if name == _OPEN and key in self.state.rack.by_key]
        self.ruled = next((key for name, key in pairs if name == RULES), "")  # the facet whose rule is open, ``-`` for none
        self.fixed: list[Pair] = [("category", self.listing_path)] if self.listing_path else []

    def words(self, facet: Facet) -> Words:
        return words_of(facet, self.held.index.unit(facet.spec.source), self.held.currency, self.look(facet.spec.key))

    def look(self, key: str) -> dict[str, Any]:
        return self._looks[key]

    @cached_property
    def _looks(self) -> dict[str, dict[str, Any]]:
        own = own_looks(self.edition.document, self.rack.key) if self.rack.key != EVERY else {}
        shared = {spec.key: facet_document(self.edition.document, spec.key).get("look", {}) for spec in self.rack.facets}
        looks: dict[str, dict[str, Any]] = {key: own.get(key, look) for key, look in shared.items()}
        return looks_with_colours(looks, self.rack.facets, dictionary_colours())

    def address(self, pairs: Sequence[Pair], opened: Sequence[str] | None = None) -> str:
        return self.path + query_string([*self.fixed, *pairs, *_open_pairs(self.opened if opened is None else opened), *self.ruling])

    @property
    def ruling(self) -> list[Pair]:
        """What keeps an address where it is set when facets show."""
        return [(RULES, self.ruled)] if self.ruled else []

    def rules_address(self, key: str) -> str:
        """Return the address at which the rule of a facet is open; ``-``: of none; empty: all is as usual."""
        pairs = [*self.fixed, *pick_pairs(self.state), *_open_pairs(self.opened), *([(RULES, key)] if key else [])]
        return self.path + query_string(pairs)

    def turn_address(self, key: str) -> str:
        """Return the address that shows all bins of a facet, or sums up the small ones again."""
        others = [other for other in self.opened if other != key]
        return self.address(pick_pairs(self.state), others if key in self.opened else [*others, key])

    @cached_property
    def headings(self) -> dict[str, str]:
        """The headings of the rack, by the key of the facet below each."""
        return {} if self.rack.key == EVERY else said_on_rack(self.edition.document, self.rack.key, "headings")

    def shelf(self, facet: Facet) -> ShelfView:
        """Return one facet as a shelf."""
        key = facet.spec.key

        def address(bin_key: str) -> str:
            return self.address(toggled(self.state, key, bin_key))

        drawn = shelf_of(self.state, facet, self.look(key), self.words(facet), address=address, opened=key in self.opened)
        unbinned_address, has_none = self.unbinned(facet, drawn.unbinned)
        return replace(
            drawn,
            changed=key in self.changed,
            unbinned_address=unbinned_address,
            has_none=has_none,
            turn_address=self.turn_address(key),
            rule=rule_words(self.state, facet_document(self.edition.document, key), self.words),
            rule_address=self.rules_address(key if self.ruled != key else "-"),
            is_ruled=self.ruled == key,
            heading=self.headings.get(key, ""),
            called=self.look(key).get("called", ""),
            off=identity(facet.spec.source.attribute) in self.held.beside("not narrowing", not_narrowing),
        )

    def unbinned(self, facet: Facet, count: int, *, only_meant: bool = False) -> tuple[str, bool]:
        """Return where the products in no bin are to be seen, and whether they have no value at all: the sheet is where they get one.

        Args:
            facet: the facet.
            count: how many are in no bin.
            only_meant: those in categories where hardly anything has a value are left out.
        """
        source = facet.spec.source
        key = sheet_key(source)
        if key and count and count == len(lacking(self.held.index, source, self.state.products)):  # who lacks a value is in no bin
            pairs = [*self.fixed, ("missing", key), *([(MEANT, "1")] if only_meant else [])]
            return f"{reverse('catalogue')}{query_string(pairs)}#fill", True
        query = query_string([*self.fixed, *([(MEANT, "1")] if only_meant else [])])
        return f"{reverse('facet-unbinned', args=[facet.spec.key])}{query}", False

    def preview(self, facet: Facet, *, most: int | None = None, whenever: bool = False) -> Shown | None:
        """Return one facet as a shopper sees it, with its first choices or all; None where it is not shown.

        Args:
            facet: the facet.
            most: choices that are drawn, None for all of them.
            whenever: as it is once its rule holds; None only where there is nothing to choose.
        """
        answer, look = self.state.facet(facet), self.look(facet.spec.key)
        has_some = whenever and (answer.bounds is not None or any(bin.count for bin in answer.bins))
        if not answer.shown and not has_some:
            return None
        return shown(self.state, facet, answer, look, self.words(facet), pictures_of(self.state, facet, look), most=most)

    def unsent(self, facets: Sequence[Shown]) -> tuple[Pair, ...]:
        """Return what a form of some facets has to send besides their controls, so that nothing else changes."""
        return (*self.fixed, *unsent_picks(self.state, facets), *_open_pairs(self.opened), *self.ruling)

    def ways_out(self, picked: Sequence[Pair]) -> tuple[WayView, ...]:
        """Return the picks whose dropping gives products, where there are none; best first."""
        if self.state.result or not picked:
            return ()
        ways = []
        for way in ways_out(self.state):
            kept = picked_pairs(self.state.rack, way.state.query.picks)
            words = ", ".join(self.pick_words(*pair) for pair in pick_pairs(self.state) if pair not in kept)
            ways.append(WayView(words, way.total, self.address(kept)))
        return tuple(ways)

    def pick_words(self, key: str, value: str) -> str:
        """Return a pick in words."""
        facet = self.state.rack.by_key[key]
        if value in facet.by_key:
            return f"{facet.spec.label}: {bin_words(facet.by_key[value], self.words(facet))}"
        free = read_free_range(value, facet.spec.source.kind)
        words = self.words(facet).range(free.low, free.high, inclusive=True) if free else value
        return f"{facet.spec.label}: {words}"


def _open_pairs(keys: Sequence[str]) -> list[Pair]:
    return [(_OPEN, key) for key in keys]


def _listing_path(state: State) -> str:
    if not state.listing:
        return ""
    for value in state.rack.index.column(CATEGORY).values:
        if value.nodes == state.listing:
            return " > ".join(value.path)
    return " > ".join(state.listing)


def listings() -> tuple[tuple[str, str], ...]:
    """Return every listing that can be looked at: the value for the address and the name, indented by depth."""
    return _listings_of(tuple(category_paths().values()), _("All products"))


@lru_cache(maxsize=8)
def _listings_of(paths: tuple[tuple[str, ...], ...], all_products: str) -> tuple[tuple[str, str], ...]:
    below = [(" > ".join(path), "\u2003" * (len(path) - 1) + path[-1]) for path in paths]
    return (("", all_products), *below)


def rack_page(
    setup: Setup, pairs: Sequence[Pair], path: str, rack: str = "", *, asked: tuple[Sequence[Line], bool] | None = None
) -> RackPage:
    """Build the rack view for a rack of the draft; the first one unless said otherwise.

    Args:
        setup: the set-up.
        pairs: the query, decoded.
        path: the address without its query.
        rack: the key of the rack.
        asked: lines of a rule that make a circle, and whether all of them must hold.
    """
    sight = Sight(setup, pairs, path, rack)
    state = sight.state
    picked = pick_pairs(state)
    seen = set(served(sight.rack.facets, not_narrowing()))  # a shopper sees no facet of an attribute that does not serve narrowing
    previews = tuple(one for facet in state.rack.facets if facet.spec in seen and (one := sight.preview(facet)))
    shelves = [sight.shelf(facet) for facet in state.rack.facets]
    return RackPage(
        key=sight.rack.key,
        label=sight.rack.label,
        path=path,
        racks=rack_links(sight.edition.document, sight.rack.key, listing_query(sight.listing_path)),
        listing_path=sight.listing_path,
        listings=listings(),
        behind=sight.held.behind,
        total=len(state.products),
        result=len(state.result),
        picks=tuple(_pick_view(sight, pair, picked) for pair in picked),
        kept=(*picked, *_open_pairs(sight.opened), *sight.ruling),
        clear=sight.address([]),
        shelves=tuple(shelf for shelf in shelves if not shelf.is_silent or shelf.is_ruled),
        silent=tuple(shelf for shelf in shelves if shelf.is_silent and not shelf.is_ruled),
        preview=previews,
        unsent=sight.unsent(previews),
        ways=sight.ways_out(picked),
        headings=sight.headings,
        ruling=bool(sight.ruled),
        rules_address=sight.rules_address("" if sight.ruled else "-"),
        card=card_of(state, sight.edition.document, sight.ruled, sight.words, asked=asked) if sight.ruled in state.rack.by_key else None,
        ties=ties_of(state, sight.edition.document["facets"]) if sight.ruled else (),
        counted=tuple(_counted(sight)) if sight.ruled else (),
    )


def _counted(sight: Sight) -> Iterator[tuple[str, int, int]]:
    """Yield how many facets shoppers see with nothing picked, and with what is being tried."""
    state = sight.state
    bare = State(state.rack, Query(category=state.listing))
    yield _("Nothing picked"), sum(answer.shown for answer in bare.facets), len(bare.facets)
    if state.picks:
        names = ", ".join(sight.pick_words(*pair).partition(": ")[2] for pair in pick_pairs(state))
        yield _("%(names)s picked") % {"names": names}, sum(answer.shown for answer in state.facets), len(state.facets)


def _pick_view(sight: Sight, pair: Pair, picked: Sequence[Pair]) -> PickView:
    return PickView(sight.pick_words(*pair), sight.address([other for other in picked if other != pair]))


def draft_state(setup: Setup) -> dict[str, Any]:
    """Return what the top bar says of the draft."""
    can_undo = setup.draft.base_id is not None
    return {
        "setup": setup,
        "draft_changes": changes_since_live(setup),
        "can_undo": can_undo,
        "undo_words": setup.draft.summary if can_undo else "",
    }
