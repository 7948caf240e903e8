"""The rack view: shelves of vessels over a listing, with the picks being tried."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any
from urllib.parse import quote

from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.catalog.store.category_paths import category_paths
from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.query import read_free_range
from binsort.core.index.catalogue_index import CATEGORY
from binsort.core.insight.coverage import lacking, percent
from binsort.core.insight.vessels import drop_one
from binsort.racks.addresses import Pair, pick_pairs, query_string, toggled
from binsort.racks.attribute_use import looks_with_colours, served
from binsort.racks.models import Setup
from binsort.racks.presentation import Choice, Shown, Words, bin_words, shown, words_of
from binsort.racks.setup import changed_facets, changes_since_live, facet_document
from binsort.tally.current import Current, current
from binsort.workbench.sheet.cells import sheet_key
from binsort.workbench.shelf.view import ShelfView, shelf_of

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
class PreviewFacet:
    """A facet as a shopper sees it, to be clicked: choices with their addresses."""

    facet: Shown
    first: tuple[tuple[Choice, str], ...]
    more: int  # choices that are not shown
    turn_address: str  # shows them, or hides them again; empty where nothing can be tried
    is_open: bool
    kept: tuple[Pair, ...]  # what stays picked when its ends are set

    @property
    def span(self) -> tuple[float, float]:
        """Where on its axis the range lies that is picked, and how wide it is, in hundredths."""
        bars = self.facet.range.bars if self.facet.range else ()
        inside = [bar for bar in bars if bar.inside] or list(bars)
        if not inside:
            return 0, 100
        first, steps = inside[0].step, inside[0].steps
        return 100 * first / steps, 100 * (inside[-1].step + 1 - first) / steps


def still_preview(drawn: Shown | None) -> PreviewFacet | None:
    """Return a facet as a shopper sees it, where nothing can be tried."""
    if drawn is None:
        return None
    return PreviewFacet(drawn, tuple((choice, "") for choice in drawn.first), len(drawn.more), "", is_open=False, kept=())


@dataclass(frozen=True, slots=True)
class RackPage:
    """All that the rack view shows."""

    label: str
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
    preview: tuple[PreviewFacet, ...]
    ways: tuple[WayView, ...]  # of an empty result

    @property
    def trying(self) -> bool:
        """Whether something is picked."""
        return bool(self.picks)

    @property
    def listing_query(self) -> str:
        """What keeps the listing in an address of another page."""
        return listing_query(self.listing_path)

    @property
    def result_share(self) -> int:
        """The result in hundredths of the listing."""
        return percent(self.result, self.total) if self.total else 0


def listing_query(path: str) -> str:
    """Return what keeps a listing in an address, empty for all products."""
    return f"?category={quote(path)}" if path else ""


class Sight:
    """The draft's rack over a listing, with picks: what the pages of the workbench draw from."""

    def __init__(self, setup: Setup, pairs: Sequence[Pair], path: str = "") -> None:
        self.edition = setup.draft
        self.held: Current = current()
        self.path = path
        self.rack = self.edition.facet_file.racks[0]
        index = self.held.rack(self.rack.facets)
        self.state = State(index, index.read(pairs))
        self.changed = changed_facets(setup)
        self.listing_path = _listing_path(self.state)
        self.opened = [key for name, key in dict.fromkeys(pairs) if name == _OPEN and key in self.state.rack.by_key]
        self.fixed: list[Pair] = [("category", self.listing_path)] if self.listing_path else []

    def words(self, facet: Facet) -> Words:
        return words_of(facet, self.held.index.unit(facet.spec.source), self.held.currency)

    def look(self, key: str) -> dict[str, Any]:
        return self._looks[key]

    @cached_property
    def _looks(self) -> dict[str, dict[str, Any]]:
        looks = {spec.key: facet_document(self.edition.document, spec.key).get("look", {}) for spec in self.rack.facets}
        return looks_with_colours(looks, self.rack.facets)

    def address(self, pairs: Sequence[Pair], opened: Sequence[str] | None = None) -> str:
        return self.path + query_string([*self.fixed, *pairs, *_open_pairs(self.opened if opened is None else opened)])

    def turn_address(self, key: str) -> str:
        """Return the address that shows all bins of a facet, or sums up the small ones again."""
        others = [other for other in self.opened if other != key]
        return self.address(pick_pairs(self.state), others if key in self.opened else [*others, key])

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
        )

    def unbinned(self, facet: Facet, count: int) -> tuple[str, bool]:
        """Return where the products in no bin are to be seen, and whether they have no value at all: the sheet is where they get one."""
        query, source = listing_query(self.listing_path), facet.spec.source
        key = sheet_key(source)
        if key and count and count == len(lacking(self.held.index, source, self.state.products)):  # who lacks a value is in no bin
            pairs = [*self.fixed, ("missing", key)]
            return f"{reverse('catalogue')}{query_string(pairs)}#fill", True
        return f"{reverse('facet-unbinned', args=[facet.spec.key])}{query}", False

    def preview(self, facet: Facet) -> Shown | None:
        """Return one facet as a shopper sees it, None where it is not shown."""
        answer = self.state.facet(facet)
        return shown(self.state, facet, answer, self.look(facet.spec.key), self.words(facet)) if answer.shown else None

    def to_be_tried(self, drawn: Shown) -> PreviewFacet:
        """Return a facet as a shopper sees it, with where its choices lead."""
        key = drawn.key
        is_open = key in self.opened
        first = drawn.choices if is_open else drawn.first
        free = kind_of(self.state.rack.by_key[key].spec.source.kind).has_ranges
        own = {f"{key}{end}" for end in (".from", ".to")}
        kept = [pair for pair in pick_pairs(self.state) if pair[0] not in own and not (pair[0] == key and free and ".." in pair[1])]
        return PreviewFacet(
            facet=drawn,
            first=tuple(
                (choice, self.address(toggled(self.state, key, choice.key)) if choice.enabled or choice.picked else "") for choice in first
            ),
            more=len(drawn.more),
            turn_address=self.turn_address(key),
            is_open=is_open,
            kept=(*self.fixed, *kept, *_open_pairs(self.opened)),
        )

    def ways_out(self, picked: Sequence[Pair]) -> tuple[WayView, ...]:
        """Return the picks whose dropping gives products, where there are none; best first."""
        if self.state.result or not picked:
            return ()
        return tuple(
            WayView(self.pick_words(key, value), total, self.address([pair for pair in picked if pair != (key, value)]))
            for key, value, total in drop_one(self.state)
        )

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
    below = [(" > ".join(path), "\u2003" * (len(path) - 1) + path[-1]) for path in category_paths().values()]
    return (("", _("All products")), *below)


def rack_page(setup: Setup, pairs: Sequence[Pair], path: str) -> RackPage:
    """Build the rack view for the draft."""
    sight = Sight(setup, pairs, path)
    state = sight.state
    picked = pick_pairs(state)
    seen = set(served(sight.rack.facets))  # a shopper sees no facet of an attribute that does not serve narrowing
    previews = (sight.preview(facet) for facet in state.rack.facets if facet.spec in seen)
    shelves = [sight.shelf(facet) for facet in state.rack.facets]
    return RackPage(
        label=sight.rack.label,
        listing_path=sight.listing_path,
        listings=listings(),
        behind=sight.held.behind,
        total=len(state.products),
        result=len(state.result),
        picks=tuple(_pick_view(sight, pair, picked) for pair in picked),
        kept=(*picked, *_open_pairs(sight.opened)),
        clear=sight.address([]),
        shelves=tuple(shelf for shelf in shelves if not shelf.is_silent),
        silent=tuple(shelf for shelf in shelves if shelf.is_silent),
        preview=tuple(sight.to_be_tried(shown) for shown in previews if shown),
        ways=sight.ways_out(picked),
    )


def _pick_view(sight: Sight, pair: Pair, picked: Sequence[Pair]) -> PickView:
    return PickView(sight.pick_words(*pair), sight.address([other for other in picked if other != pair]))


def draft_state(setup: Setup) -> dict[str, Any]:
    """Return what the top bar says of the draft."""
    return {"setup": setup, "draft_changes": changes_since_live(setup), "can_undo": setup.draft.base_id is not None}
