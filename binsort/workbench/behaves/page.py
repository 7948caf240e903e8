"""How a rack behaves, as a working drawing of the shopper's page."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from django.utils.translation import gettext as _

from binsort.catalog.store.category_paths import category_identities
from binsort.catalog.store.product_rows import products_of
from binsort.core.answers.answer import State
from binsort.core.facets.behaviour import Behaviour, Sort
from binsort.core.facets.kinds import MONEY, kind_of
from binsort.core.facets.places import Places, shown_on
from binsort.core.facets.query import ATTRIBUTE_SORT, SORTS, Query
from binsort.core.index.columns import VARIANT
from binsort.core.products.availability import best_stock
from binsort.core.products.product import Product
from binsort.core.values.numbers import written
from binsort.racks.addresses import Pair, pick_pairs
from binsort.racks.models import Setup
from binsort.racks.number_words import money
from binsort.racks.setup import rack_document
from binsort.racks.shop_face import the_face
from binsort.racks.shown_facet import Shown
from binsort.racks.sort_words import sort_words
from binsort.workbench.rack.page import Sight, listings, rack_address

_CARDS, _PAGES_DRAWN, _SHOWN_FACETS = 6, 12, 3


@dataclass(frozen=True, slots=True)
class SortView:
    """A choice of order, with what would stand first."""

    key: str
    words: str
    label: str
    first: str
    is_start: bool
    has_data: bool  # whether products differ in it; else shoppers are not offered it


@dataclass(frozen=True, slots=True)
class CardView:
    """A product on the drawing."""

    name: str
    image: str
    price: str


@dataclass(frozen=True, slots=True)
class BehavesPage:
    """All that the page shows."""

    key: str
    label: str
    shop_name: str
    address: str  # of the rack
    listing_path: str
    listing_name: str
    listings: tuple[tuple[str, str], ...]
    others: int  # further listings that it shows on
    total: int
    result: int
    behaviour: Behaviour
    facets: tuple[Shown, ...]
    picks: tuple[str, ...]
    cards: tuple[CardView, ...]
    sorts: tuple[SortView, ...]
    more_sorts: tuple[tuple[str, str], ...]
    by_number: tuple[str, ...]  # attributes that could be sorted by
    pages: tuple[int, ...]  # products on each page, the first ones and the last
    page_count: int
    ways: tuple[tuple[str, int], ...]  # a pick and what the listing has without it

    @property
    def rest(self) -> int:
        """Products behind those on the first page."""
        return max(0, self.result - self.behaviour.per_page)

    @property
    def first_page(self) -> int:
        """Products on the first page."""
        return min(self.result, self.behaviour.per_page)


def behaves_page(setup: Setup, rack: str, pairs: list[Pair]) -> BehavesPage:
    """Build the page for a rack of the draft on a listing. Raises UnknownRack."""
    document = setup.draft.document
    behaviour = Behaviour.of(rack_document(document, rack))
    bare = Sight(setup, [pair for pair in pairs if pair[0] == "category"], rack=rack)
    tried = _sample(bare)
    sight = Sight(setup, [*bare.fixed, *tried], rack=rack)
    state, result = sight.state, len(sight.state.result)
    shown = [one for facet in state.rack.facets if (one := sight.preview(facet, most=6))]
    per = behaviour.per_page
    pages = [min(per, result - start) for start in range(0, result, per)]
    firsts, names = _firsts(sight, behaviour.sorts), listings()
    orders = sight.held.index.orders
    counts = shown_on(Places.of(document), category_identities()).get(rack, {})
    return BehavesPage(
        key=rack,
        label=sight.rack.label,
        shop_name=the_face().name_words,
        address=rack_address(document, rack),
        listing_path=sight.listing_path,
        listing_name=sight.listing_path.rpartition(" > ")[2] or _("All products"),
        listings=names,
        others=max(0, max(counts.values(), default=0) - 1),
        total=len(state.products),
        result=result,
        behaviour=behaviour,
        facets=tuple(shown[:_SHOWN_FACETS]),
        picks=tuple(sight.pick_words(*pair).partition(": ")[2] for pair in pick_pairs(state)),
        cards=tuple(_cards(sight, firsts[0])),
        sorts=tuple(
            _sort_view(sight, sort, first, place == 0) for place, (sort, first) in enumerate(zip(behaviour.sorts, firsts, strict=True))
        ),
        more_sorts=tuple((key, sort_words(Sort(key))) for key in SORTS if behaviour.sort_named(key) is None and orders.has_data(key)),
        by_number=tuple(given.name for given in sight.held.index.attributes() if orders.has_data(f"{ATTRIBUTE_SORT}{given.identity}")),
        pages=tuple(pages[:_PAGES_DRAWN]),
        page_count=len(pages),
        ways=tuple(_ways(sight)),
    )


def _sample(sight: Sight) -> list[Pair]:
    """Return picks to draw the page with: the fullest bin of each of the first two facets."""
    pairs: list[Pair] = []
    state = sight.state
    for facet in state.rack.facets:
        bins = State(state.rack, state.rack.read([*sight.fixed, *pairs])).facet(facet).bins
        fullest = max(bins, key=lambda answer: answer.count, default=None)
        if fullest is not None and fullest.count:
            pairs.append((facet.spec.key, fullest.key))
        if len(pairs) == 2:
            break
    return pairs


def _ways(sight: Sight) -> Iterator[tuple[str, int]]:
    picked = pick_pairs(sight.state)
    for pair in picked:
        others = [other for other in picked if other != pair]
        without = State(sight.state.rack, sight.state.rack.read([*sight.fixed, *others]))
        yield sight.pick_words(*pair).partition(": ")[2], len(without.result)


def _slots(sight: Sight, sort: Sort, count: int) -> list[int]:
    """Return the slots of the products of the listing that stand first in an order."""
    query = Query(sight.state.query.picks, sight.state.listing, sort.key)
    return State(sight.state.rack, query).part(0, count)


def _firsts(sight: Sight, sorts: Sequence[Sort]) -> list[list[tuple[int, Product]]]:
    """Return for each order the products that stand first, with their slots; of the first order as many as are drawn."""
    slots = [_slots(sight, sort, 1 if place else _CARDS) for place, sort in enumerate(sorts)]
    ids = sight.held.index.ids
    found = products_of([ids[slot] for group in slots for slot in group])
    return [[(slot, found[ids[slot]]) for slot in group if ids[slot] in found] for group in slots]


def _cards(sight: Sight, first: Sequence[tuple[int, Product]]) -> Iterator[CardView]:
    for _slot, product in first:
        yield CardView(product.name, product.image, _price(sight, product, down=False))


def _price(sight: Sight, product: Product, *, down: bool) -> str:
    prices = [price for article in product.articles if (price := article.offer.price_now(sight.held.now)) is not None]
    return money(max(prices) if down else min(prices), sight.held.currency) if prices else ""


def _sort_view(sight: Sight, sort: Sort, first: Sequence[tuple[int, Product]], is_start: bool) -> SortView:
    says = _says(sight, sort, *first[0]) if first else ""
    words = sort_words(Sort(sort.by, sort.attribute, sort.down))
    return SortView(sort.key, words, sort.label, says, is_start, sight.held.index.orders.has_data(sort.key))


def _says(sight: Sight, sort: Sort, slot: int, product: Product) -> str:
    """Return what the product that stands first has of what is sorted by."""
    if sort.by in ("price", "-price"):
        return _price(sight, product, down=sort.by == "-price")
    if sort.by == "-rating":
        return written(product.rating) if product.rating is not None else ""
    if sort.by == "newest":
        return product.published.isoformat() if product.published else ""
    if sort.by == "buyable":
        return best_stock([article.offer for article in product.articles])[1]
    if sort.by in ("listed", "name", "-name"):
        return product.name
    return _number(sight, sort, slot)


def _number(sight: Sight, sort: Sort, slot: int) -> str:
    """Return the number or the date by which a product stands first, empty where it has none."""
    index = sight.held.index
    by = index.orders.source(sort.key)
    if by is None:
        return ""
    source, column = by.source, index.column(by.source)
    owners = range(int(index.starts[slot]), int(index.starts[slot + 1])) if column.level == VARIANT else [slot]
    ranks = [int((column.greatest if by.down else column.least)[owner]) for owner in owners]
    known = [rank for rank in ranks if 0 <= rank < len(column.numbers)]
    if not known:
        return ""
    value, unit = column.values[max(known) if by.down else min(known)], index.unit(source)
    if kind_of(source.kind).written == MONEY:
        return money(value.number or 0, sight.held.currency, short=True)
    return f"{value.label}{' ' + unit if unit else ''}"
