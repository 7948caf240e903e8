"""A listing as the shop shows it: everything the page needs, from one state of the counting core."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.catalog.models import Category
from binsort.catalog.store.product_rows import products_of
from binsort.core.answers.answer import State
from binsort.core.facets.query import SORTS
from binsort.core.index.catalogue_index import Index
from binsort.core.insight.coverage import percent
from binsort.core.insight.vessels import drop_one
from binsort.core.products.availability import best_stock
from binsort.core.products.product import Product
from binsort.core.values.numbers import written
from binsort.core.values.text import path_identity
from binsort.racks.addresses import Pair, pick_pairs, query_string, range_text
from binsort.racks.attribute_use import looks_with_colours, served
from binsort.racks.controls import control_of
from binsort.racks.presentation import Shown, Swatch, bin_swatch, bin_words, money, shown, words_of
from binsort.racks.setup import facet_document, the_setup
from binsort.tally.current import Current, NotReady, current

PER_PAGE, MOST_PER_PAGE = 24, 100
SORT_WORDS = {
    "listed": _l("As the shop lists them"),
    "price": _l("Price, lowest first"),
    "-price": _l("Price, highest first"),
    "name": _l("Name, A to Z"),
    "-name": _l("Name, Z to A"),
    "newest": _l("Newest first"),
    "-rating": _l("Best liked first"),
}


@dataclass(frozen=True, slots=True)
class Card:
    """A product in a listing."""

    id: str
    name: str
    brand: str
    image: str
    price: str
    was: str
    price_varies: bool
    stock: str
    stock_words: str
    rating: str
    reviews: str


@dataclass(frozen=True, slots=True)
class Pick:
    """A pick with its way out."""

    label: str
    facet: str
    without: str  # address
    swatch: Swatch | None


@dataclass(frozen=True, slots=True)
class WayOut:
    """For an empty result: a pick to drop and what that gives."""

    label: str
    total: int
    address: str


@dataclass(frozen=True, slots=True)
class ListingPage:
    """All that the listing page shows."""

    title: str
    trail: tuple[Category, ...]
    path: str
    total: int
    listing: int
    facets: tuple[Shown, ...]
    picks: tuple[Pick, ...]
    ways_out: tuple[WayOut, ...]
    cards: tuple[Card, ...]
    sort: str
    sorts: tuple[tuple[str, str], ...]
    kept: tuple[Pair, ...]  # what the form sends besides its visible controls
    page: int
    pages: int
    seen: int
    next: str
    previous: str
    departments: tuple[Category, ...]

    @property
    def clear(self) -> str:
        """The address with nothing picked."""
        return self.path + query_string([pair for pair in self.kept if pair[0] == "category"])

    @property
    def seen_share(self) -> int:
        """How much of the result has been shown, in hundredths."""
        return percent(self.seen, self.total) if self.total else 0


def listing_page(pairs: Sequence[Pair], category: Category | None, path: str) -> ListingPage:
    """Build a listing.

    Args:
        pairs: the query, decoded.
        category: that of the address, None for all products.
        path: the address without its query.
    """
    held = current()
    edition = the_setup().live
    rack = held.rack(served(edition.facet_file.racks[0].facets) if edition and edition.facet_file.racks else (), for_shoppers=True)
    nodes = tuple(category.path_identity.split(" > ")) if category else None
    state = State(rack, rack.read(pairs, nodes))
    looks = {spec.key: facet_document(edition.document, spec.key).get("look", {}) for spec in rack.specs} if edition else {}
    page = _Page(held, state, looks_with_colours(looks, rack.specs), path, in_query=category is None)
    trail = _trail(category or _named(state.listing))
    return page.build(trail)


def departments_of(index: Index) -> tuple[Category, ...]:
    """Return the top categories that have products to show."""
    return tuple(row for row in Category.objects.filter(parent=None) if index.has_category((row.path_identity,)))


def _named(listing: tuple[str, ...] | None) -> Category | None:
    """Return the category that a query names, if the shop has it."""
    name = path_identity(listing) if listing else ""
    return Category.objects.filter(path_identity=name).first() if name and "\0" not in name else None


def _trail(category: Category | None) -> tuple[Category, ...]:
    return tuple(category.ancestors(include_self=True)) if category else ()


class _Page:
    def __init__(self, held: Current, state: State, looks: dict[str, Any], path: str, *, in_query: bool) -> None:
        self.held, self.state, self.looks, self.path = held, state, looks, path
        self.currency = held.currency
        self.words = {f.spec.key: words_of(f, held.index.unit(f.spec.source), held.currency) for f in state.rack.facets}
        self.fixed: list[Pair] = [("category", " > ".join(state.listing))] if in_query and state.listing else []
        self.sorted: list[Pair] = [("sort", state.query.sort)] if state.query.sort != "listed" else []
        self.per: list[Pair] = [("per", str(state.query.per))] if state.query.per else []

    def address(self, picks: Sequence[Pair], page: int = 1) -> str:
        paged = [("page", str(page))] if page > 1 else []
        return self.path + query_string([*self.fixed, *picks, *self.sorted, *self.per, *paged])

    def build(self, trail: tuple[Category, ...]) -> ListingPage:
        state, picks = self.state, pick_pairs(self.state)
        per = min(state.query.per or PER_PAGE, MOST_PER_PAGE)
        total, page = len(state.result), state.query.page
        pages = max(1, ceil(total / per))
        facets = tuple(self.shown_facets())
        return ListingPage(
            title=trail[-1].name if trail else _("All products") if not state.listing else _("Nothing here"),
            trail=trail,
            path=self.path,
            total=total,
            listing=len(state.products),
            facets=facets,
            picks=tuple(self.picked()),
            ways_out=() if total or not picks else tuple(self.ways_out(picks)),
            cards=self.cards(state.part((page - 1) * per, page * per)),
            sort=state.query.sort,
            sorts=tuple((name, str(SORT_WORDS[name])) for name in SORTS),
            kept=(*self.fixed, *self.per, *self.hidden_picks(facets)),
            page=page,
            pages=pages,
            seen=min(total, page * per),
            next=self.address(picks, page + 1) if page < pages else "",
            previous=self.address(picks, min(page - 1, pages)) if page > 1 else "",
            departments=departments_of(self.held.index),
        )

    def shown_facets(self) -> list[Shown]:
        answers = zip(self.state.rack.facets, self.state.facets, strict=True)
        return [
            shown(self.state, facet, answer, self.looks.get(facet.spec.key, {}), self.words[facet.spec.key])
            for facet, answer in answers
            if answer.shown
        ]

    def hidden_picks(self, facets: Sequence[Shown]) -> list[Pair]:
        """Return picks that no visible control of the form sends."""
        sliders = {facet.key for facet in facets if facet.control.is_range}
        pairs: list[Pair] = []
        for facet in self.state.rack.facets:
            picks = self.state.picks.get(facet.spec.key)
            if picks is None:
                continue
            pairs += [(facet.spec.key, key) for key in picks.bins if facet.spec.key in sliders]
            pairs += [(facet.spec.key, range_text(item, facet.spec.source.kind)) for item in picks.ranges[:-1]]
        return pairs

    def pick_label(self, key: str, value: str) -> str:
        facet, words = self.state.rack.by_key[key], self.words[key]
        if value in facet.by_key:
            return bin_words(facet.by_key[value], words)
        picked_range = next(item for item in self.state.picks[key].ranges if range_text(item, facet.spec.source.kind) == value)
        if picked_range.low is None or picked_range.high is None:
            return f"{facet.spec.label} {words.range(picked_range.low, picked_range.high, inclusive=True)}"
        return f"{words.number(picked_range.low)} to {words.number(picked_range.high)}"

    def picked(self) -> list[Pick]:
        pairs = pick_pairs(self.state)
        picks = []
        for key, value in pairs:
            facet = self.state.rack.by_key[key]
            look = self.looks.get(key, {})
            colours = bin_swatch(look, facet.by_key[value]) if control_of(look).has_colours and value in facet.by_key else None
            without = self.address([pair for pair in pairs if pair != (key, value)])
            picks.append(Pick(self.pick_label(key, value), facet.spec.label, without, colours))
        return picks

    def ways_out(self, pairs: Sequence[Pair]) -> list[WayOut]:
        return [
            WayOut(self.pick_label(key, value), total, self.address([pair for pair in pairs if pair != (key, value)]))
            for key, value, total in drop_one(self.state)
        ]

    def cards(self, slots: Sequence[int]) -> tuple[Card, ...]:
        """Return the cards of some products; one that went since the counting is passed over. Raises NotReady where all of them did."""
        ids = self.state.rack.index.ids
        products = products_of([ids[slot] for slot in slots])
        if len(slots) and not products:
            raise NotReady
        return tuple(self.card(slot, products[ids[slot]]) for slot in slots if ids[slot] in products)

    def card(self, number: int, product: Product) -> Card:
        ends = self.state.prices(number)
        low = ends[0] if ends else None
        stock, stock_words = best_stock(article.offer for article in product.articles)
        return Card(
            id=product.id,
            name=product.name,
            brand=product.brand,
            image=self.image(number, product),
            price=money(low, self.currency) if low is not None else "",
            was=self.was(product, low),
            price_varies=ends is not None and ends[0] != ends[1],
            stock=stock,
            stock_words=stock_words,
            rating=written(product.rating) if product.rating is not None else "",
            reviews=written(product.review_count) if product.review_count is not None else "",
        )

    def image(self, number: int, product: Product) -> str:
        """Return the picture of the first article that meets the picks, so that a pick of red shows red."""
        same, index = self.state.left.same_variant, self.state.rack.index
        if same is None or not product.variants:
            return product.image
        first = int(index.starts[number])
        images = [article.image for place, article in enumerate(product.variants, first) if place in same]
        return next((image for image in images if image), product.image)

    def was(self, product: Product, low: Any) -> str:
        """Return the regular price of the cheapest article, where it is reduced."""
        now = self.held.now
        for article in product.articles:
            if article.offer.price_now(now) == low and article.offer.is_reduced(now) and article.offer.regular is not None:
                return money(article.offer.regular, self.currency)
        return ""
