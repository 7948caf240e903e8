"""The rack view: shelves of vessels over a listing, with the picks being tried."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any
from urllib.parse import quote

from django.utils.translation import gettext as _

from binsort.catalog.store.category_paths import category_paths
from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.index.catalogue_index import CATEGORY
from binsort.racks.addresses import Pair, pick_pairs, query_string, toggled
from binsort.racks.attribute_use import looks_with_colours, served
from binsort.racks.models import Setup
from binsort.racks.presentation import Shown, Words, bin_words, shown, words_of
from binsort.racks.setup import changed_facets, changes_since_live, facet_document
from binsort.tally.current import Current, current
from binsort.workbench.shelf.view import ShelfView, shelf_of


@dataclass(frozen=True, slots=True)
class PickView:
    """A pick being tried, with its way out."""

    text: str
    address: str


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
    preview: tuple[Shown, ...]

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
        return round(100 * self.result / self.total) if self.total else 0


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
        self.fixed: list[Pair] = [("category", self.listing_path)] if self.listing_path else []

    def words(self, facet: Facet) -> Words:
        return words_of(facet, self.held.index.unit(facet.spec.source), self.held.currency)

    def look(self, key: str) -> dict[str, Any]:
        return self._looks[key]

    @cached_property
    def _looks(self) -> dict[str, dict[str, Any]]:
        looks = {spec.key: facet_document(self.edition.document, spec.key).get("look", {}) for spec in self.rack.facets}
        return looks_with_colours(looks, self.rack.facets)

    def address(self, pairs: Sequence[Pair]) -> str:
        return self.path + query_string([*self.fixed, *pairs])

    def shelf(self, facet: Facet) -> ShelfView:
        """Return one facet as a shelf."""
        key = facet.spec.key

        def address(bin_key: str) -> str:
            return self.address(toggled(self.state, key, bin_key))

        drawn = shelf_of(self.state, facet, self.look(key), self.words(facet), address=address)
        return replace(drawn, changed=key in self.changed)

    def preview(self, facet: Facet) -> Shown | None:
        """Return one facet as a shopper sees it, None where it is not shown."""
        answer = self.state.facet(facet)
        return shown(self.state, facet, answer, self.look(facet.spec.key), self.words(facet)) if answer.shown else None


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
    return RackPage(
        label=sight.rack.label,
        listing_path=sight.listing_path,
        listings=listings(),
        behind=sight.held.behind,
        total=len(state.products),
        result=len(state.result),
        picks=tuple(_pick_view(sight, pair, picked) for pair in picked),
        kept=tuple(picked),
        clear=sight.address([]),
        shelves=tuple(sight.shelf(facet) for facet in state.rack.facets),
        preview=tuple(shown for shown in previews if shown),
    )


def _pick_view(sight: Sight, pair: Pair, picked: Sequence[Pair]) -> PickView:
    key, value = pair
    facet = sight.state.rack.by_key[key]
    name = bin_words(facet.by_key[value], sight.words(facet)) if value in facet.by_key else value.replace("..", " to ")
    return PickView(f"{facet.spec.label}: {name}", sight.address([other for other in picked if other != pair]))


def draft_state(setup: Setup) -> dict[str, Any]:
    """Return what the top bar says of the draft."""
    return {"setup": setup, "draft_changes": changes_since_live(setup), "can_undo": setup.draft.base_id is not None}
