"""A listing as the shop shows it: everything the page needs, from one state of the counting core."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, partial
from itertools import islice
from math import ceil

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.catalog.models import Category
from binsort.core.facets.behaviour import HERE, Behaviour
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.places import ABOVE, BELOW, DRAWER, SIDE, Listing
from binsort.core.values.text import category_path, identity, path_identity
from binsort.racks.addresses import Pair, query_string, split_address
from binsort.racks.attribute_use import is_open_to_search_engines, not_narrowing, served
from binsort.racks.presentation import unsent_picks
from binsort.racks.shown_facet import Shown
from binsort.racks.sort_words import sort_words

from .addresses import category_address, departments_of
from .asked import SEEN, SHOWN, Asked
from .cards import Card, Cards
from .drawn import Drawn, Pick, Picked, Pill
from .former import not_offered
from .near import Near, near_of
from .planned import Placed, Planned
from .seen import written_seen
from .shelf_of_pages import Compartment, shelf_of_pages
from .ways import Way, ways_of


@dataclass(frozen=True, slots=True)
class Words:
    """The shop's own words around the products."""

    clear: str
    nothing: str
    then: str
    opener: str


@dataclass(frozen=True)
class ListingPage:
    """All that the listing page shows."""

    asked: Asked
    trail: tuple[Category, ...]
    above: tuple[Placed, ...]
    side: tuple[Placed, ...]
    below: tuple[Placed, ...]
    pills: tuple[Pill, ...]
    notices: tuple[str, ...]
    kept: tuple[Pair, ...]  # what the form sends besides its visible controls
    departments: Callable[[], tuple[Category, ...]]
    is_more: bool  # only the products after those that were seen are drawn

    @cached_property
    def title(self) -> str:
        """The heading of the page."""
        return self.asked.title

    @property
    def path(self) -> str:
        """The address without its query."""
        return self.asked.path

    @property
    def total(self) -> int:
        """How many products meet the picks."""
        return len(self.asked.state.result)

    @property
    def total_words(self) -> str:
        """What a button says that shows them."""
        own, count = self.behaviour.apply, f"{self.total:,}"
        return f"{own} ({count})" if own else ngettext("Show %(count)s product", "Show %(count)s products", self.total) % {"count": count}

    @cached_property
    def listing(self) -> int:
        """How many products there are on this listing, or found on it by text."""
        if self.asked.hosted:
            return len(self.asked.unpicked.result)
        products, found = self.asked.state.products, self.asked.state.found
        return len(products) if found is None else products.intersection_cardinality(found)

    @property
    def whole(self) -> int:
        """How many products there are on this listing, whatever is searched for."""
        return self.listing if self.asked.hosted else len(self.asked.state.products)

    @property
    def left_share(self) -> float:
        """How much of the listing meets the picks, in hundredths."""
        return 100 * self.total / self.whole if self.whole else 0

    @cached_property
    def behaviour(self) -> Behaviour:
        """How the page behaves."""
        return self.asked.behaves

    @property
    def facets(self) -> tuple[Shown, ...]:
        """All facets, in the order of the page."""
        return tuple(placed.facet for placed in (*self.above, *self.side, *self.below))

    @cached_property
    def side_is_empty(self) -> bool:
        """Whether no facet ever stands at the side of this listing, so that it takes no room."""
        return not self.asked.planned.plan.facets[SIDE] and not self.opens_from_button

    @property
    def has_drawer(self) -> bool:
        """Whether there is a drawer on a phone."""
        return bool(self.asked.planned.plan.facets[DRAWER])

    @cached_property
    def opens_from_button(self) -> bool:
        """Whether what to narrow by opens from a button on wide screens: as set, or because the drawer alone has a rack."""
        return self.behaviour.wide != "open" or (not self.asked.planned.plan.facets[SIDE] and self.has_drawer)

    @property
    def behind(self) -> str:
        """From where it opens."""
        return self.behaviour.wide if self.behaviour.wide != "open" else "left"

    @cached_property
    def page_class(self) -> str:
        """The classes of the page: how its places are laid out."""
        behaves = self.behaviour
        has_room = behaves.width != "narrow" and len(self.asked.planned.plan.facets[SIDE]) >= _TWO_COLUMNS
        marks = (
            ("two-columns", has_room and not self.opens_from_button),
            ("no-side", self.side_is_empty or self.opens_from_button),
            (f"behind {self.behind}", self.opens_from_button),
            ("side-right", behaves.side == "right"),
            (f"side-{behaves.width}", behaves.width != "usual"),
        )
        return " ".join(["page", *(name for name, is_so in marks if is_so)])

    @cached_property
    def picked(self) -> Picked:
        """What is picked and searched for."""
        return Picked(self.pills, self.search, self.without_search if self.search else "", self.clear, self.words.clear)

    @cached_property
    def picks(self) -> tuple[Pick, ...]:
        """All picks."""
        return tuple(pick for pill in self.pills for pick in pill.picks)

    @property
    def search(self) -> str:
        """What is searched for."""
        return self.asked.found.text if self.asked.found else ""

    @property
    def forgiven(self) -> tuple[str, ...]:
        """Words that are nowhere, for which others were taken."""
        return self.asked.found.forgiven if self.asked.found else ()

    @cached_property
    def ways_out(self) -> tuple[Way, ...]:
        """What to leave out where nothing is left."""
        return ways_of(self.asked)

    @cached_property
    def near(self) -> Near:
        """What comes close where nothing is left."""
        return near_of(self.asked)

    @cached_property
    def words(self) -> Words:
        """The shop's own words."""
        behaves = self.behaviour
        return Words(
            behaves.clear or _("Clear all"),
            behaves.nothing or _("No product has all of this at once"),
            behaves.then or _("Leave out one of these, and there is something again:"),
            behaves.opener or _("Narrow by"),
        )

    @property
    def action(self) -> str:
        """Where the form leads: here, or to another listing."""
        if self.behaviour.results == HERE:
            return self.path
        path = tuple(map(identity, category_path(self.behaviour.results)))
        there = _named(path) if path else None
        return category_address(there) if there else reverse("shop")

    @cached_property
    def carried(self) -> tuple[Pair, ...]:
        """The page's own category as a pick, where results show on another listing and the owner lets it go along.

        Empty where nothing that shows there lies outside of it, or no facet there can say it.
        """
        asked = self.asked
        if self.behaviour.results == HERE or self.behaviour.carried == "no" or not asked.nodes:
            return ()
        there = tuple(map(identity, category_path(self.behaviour.results)))
        if there[: len(asked.nodes)] == asked.nodes:
            return ()  # all that shows there lies in it
        planned = Planned.of(asked.edition, Listing.of(there or None))
        rack = asked.held.rack(served(planned.specs, asked.held.beside("not narrowing", not_narrowing)))
        for facet in (one for one in rack.facets if kind_of(one.spec.source.kind).is_tree and one.spec.key not in asked.state.picks):
            found = next((bin.key for bin in rack.on_listing(facet, there or None).bins if bin.nodes == asked.nodes), "")
            if found:
                return ((facet.spec.key, found),)
        return ()

    # -- order

    @property
    def sort(self) -> str:
        """The order asked for."""
        return self.asked.sort.key

    @cached_property
    def sorts(self) -> tuple[tuple[str, str], ...]:
        """The choices of order, by their keys."""
        return tuple((sort.key, sort_words(sort)) for sort in self.asked.sorts)

    # -- addresses

    @cached_property
    def clear(self) -> str:
        """The address with nothing picked or searched for; the order stays."""
        return self.asked.without_search().address([])

    @cached_property
    def without_search(self) -> str:
        """The address with nothing searched for."""
        return self.asked.without_search().address(self.asked.picks)

    @property
    def tag_words(self) -> str:
        """The listing's tag as a query of another page names it; empty for others."""
        return self.asked.tag[1] if self.asked.tag else ""

    @property
    def path_words(self) -> str:
        """The listing's category as a query names it; empty for all products."""
        return " > ".join(self.asked.nodes or ())

    @cached_property
    def address(self) -> str:
        """The address of this very page."""
        page = [("page", str(self.page))] if self.page > 1 else []
        more = [(SHOWN, str(self.asked.shown))] if self.asked.shown > self.asked.per else []
        seen = [(name, value) for name, value in self.asked.pairs if name == SEEN][-1:] if self.page > 1 and not self.is_more else []
        return self.asked.address(self.asked.picks, *page, *more, *seen)

    @property
    def is_canonical(self) -> bool:
        """Whether this listing was asked for by its own address; what could not be understood is said at the address it came by."""
        return bool(self.notices or self.asked.typed.wrong) or self.asked.came == split_address(self.address)

    @property
    def canonical(self) -> str:
        """The address that stands for this listing, however it is sorted and however many products are on a page."""
        page = [("page", str(self.page))] if 1 < self.page <= self.pages else []
        return self.asked.path + query_string([*self.asked.fixed, *self.asked.picks, *page])

    @property
    def is_for_search_engines(self) -> bool:
        """Whether search engines may list it: with products, and no pick but one bin of a facet that the owner opened to them."""
        asked = self.asked
        if asked.found or not self.total or asked.kept:
            return False
        picks = [(key, pick) for key, picks in asked.state.picks.items() for pick in picks.each]
        return not picks or (
            len(picks) == 1 and isinstance(picks[0][1], str) and is_open_to_search_engines(asked.looks.get(picks[0][0], {}))
        )

    # -- the shelf of pages

    @property
    def page(self) -> int:
        """The page asked for."""
        return self.asked.state.query.page

    @property
    def pages(self) -> int:
        """How many pages there are."""
        return max(1, ceil(self.total / self.asked.per))

    @property
    def first(self) -> int:
        """How many products stand before this page."""
        return (self.page - 1) * self.asked.per

    @cached_property
    def seen(self) -> int:
        """How many products stand before the end of this page."""
        return min(self.total, self.first + self.asked.shown)

    @cached_property
    def seen_keys(self) -> str:
        """The products seen up to here, as an address has them."""
        index = self.asked.index
        slots = [*self.asked.seen, *self.slots]
        return written_seen(index.facts.keys[slots].tolist()) if slots else ""

    @cached_property
    def slots(self) -> list[int]:
        """The products of this page."""
        asked = self.asked
        if self.is_more:
            return asked.following(asked.per)
        if asked.seen:
            return asked.following(asked.shown)
        return asked.part(self.first, self.first + asked.shown)

    @cached_property
    def cards(self) -> tuple[Card, ...]:
        """The products of this page, drawn. Raises NotReady where all of them went meanwhile."""
        return Cards(self.asked).of(self.slots)

    @property
    def next(self) -> str:
        """The address of the page after this one; empty after the last."""
        if self.seen >= self.total:
            return ""
        page = self.seen // self.asked.per + 1
        return self._page_address(page, *([(SEEN, self.seen_keys)] if self.seen_keys else []))

    @property
    def more(self) -> str:
        """The address of this page with one page more on it; empty where there is none."""
        return "" if self.seen >= self.total else self._shown_address(self.next_shown)

    @property
    def left_out(self) -> int:
        """How many products one page more would add."""
        return max(0, min(self.total - self.seen, self.asked.per))

    @property
    def next_shown(self) -> int:
        """How many products this page has with one page more on it."""
        return self.asked.shown + self.asked.per

    @property
    def previous(self) -> str:
        """The address of the page before this one; empty before the first."""
        return self._page_address(min(self.page - 1, self.pages)) if self.page > 1 else ""

    def _page_address(self, page: int, *more: Pair) -> str:
        return self.asked.address(self.asked.picks, *([("page", str(page))] if page > 1 else []), *more)

    def _shown_address(self, shown: int) -> str:
        page = [("page", str(self.page))] if self.page > 1 else []
        return self.asked.address(self.asked.picks, *page, (SHOWN, str(shown)))

    @property
    def shelf(self) -> tuple[Compartment, ...]:
        """The pages of the listing as a shelf: those seen, the next one, those after it; many of them folded together."""
        here = range(self.page, min(self.pages, -(-self.seen // self.asked.per)) + 1)
        return shelf_of_pages(here, self.total, self.asked.per, lambda page: self.next if page == here.stop else self._page_address(page))


_TWO_COLUMNS = 7  # facets at the side


def listing_page(asked: Asked, *, is_more: bool = False) -> ListingPage:
    """Build a listing, or only the products after those that were seen."""
    drawn = Drawn(asked)
    facets = drawn.facets()
    places = {where: tuple(asked.planned.placed(where, facets)) for where in (ABOVE, SIDE, BELOW)}
    listed = [one.facet for where in (ABOVE, SIDE, BELOW) for one in places[where]]
    return ListingPage(
        asked=asked,
        trail=asked.trail,
        above=places[ABOVE],
        side=places[SIDE],
        below=places[BELOW],
        pills=tuple(drawn.pills()),
        notices=tuple(not_offered(asked.state.query, asked.state.rack, asked.edition)),
        kept=(*asked.category, *(pair for pair in asked.kept if pair[0] == "per"), *asked.own(unsent_picks(asked.state, listed))),
        departments=partial(departments_of, asked.held),
        is_more=is_more,
    )


def _named(listing: tuple[str, ...] | None) -> Category | None:
    """Return the category that a path names, if the shop has it."""
    name = path_identity(listing) if listing else ""
    return Category.objects.filter(path_identity=name).first() if name and "\0" not in name else None


def title_of(page: ListingPage) -> str:
    """Return the title of the page in the browser: what is picked, and how much that leaves."""
    said = [pick.label for pick in islice(page.picks, 3)] + (["…"] if len(page.picks) > 3 else [])
    words = [f"“{page.search}”"] if page.search else []
    return f"{page.title}: {', '.join([*words, *said])} ({page.total:,})" if said or words else page.title
