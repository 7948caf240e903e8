"""A product as the shop shows it: on the article that was looked for, with the way back to where it was found."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import islice

from binsort.catalog.models import Category
from binsort.core.facets.kinds import OFFERED
from binsort.core.index.bitmaps import union
from binsort.core.products.availability import best_stock
from binsort.core.products.product import Offer, Product, Variant
from binsort.core.values.dates import now_in_seconds
from binsort.core.values.numbers import Number, written
from binsort.core.values.text import identity
from binsort.racks.addresses import query_string
from binsort.racks.attribute_use import off_pages
from binsort.racks.number_words import money
from binsort.racks.shown_facet import Swatch

from .addresses import departments_of, product_address, trail_of
from .articles import NOT_SAID, Article, Grid, article_of, grids, option_names, said
from .asked import Asked
from .basket import article_key, is_sold
from .cards import Card, Cards, matching_articles
from .linked_data import Absolute, Node, product_data
from .why import Why, slot_of, why

ARTICLE = "article"  # in an address: the number of the article on which the page opens
_LONGEST_WAY = 2_000  # products of a listing among which the neighbours of one are found
_PICTURES = 6
_BESIDE = 2  # neighbours on each side


@dataclass(frozen=True, slots=True)
class Origin:
    """The listing from which somebody came."""

    title: str
    address: str
    total: int
    search: str
    picks: tuple[tuple[str, Swatch | None], ...]  # in words, with their colours
    place: int  # of the product in it, from 1; 0 where it is not in it, or not known
    previous: str  # address of the product before it
    next: str
    beside: tuple[Card, ...]


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture of an article, which it leads to."""

    image: str
    address: str
    words: str  # the options of the article
    is_shown: bool


@dataclass(frozen=True, slots=True)
class ProductView:
    """All that the product page shows."""

    id: str
    address: str  # whatever led to it
    name: str
    brand: str
    description: str
    image: str
    pictures: tuple[Picture, ...]  # where there are several
    trail: tuple[Category, ...]
    price: str
    price_varies: bool
    was: str
    stock: str
    stock_words: str
    rating: str
    reviews: str
    review_count: int
    facts: tuple[tuple[str, str], ...]
    option_names: tuple[str, ...]  # of the articles
    articles: tuple[Article, ...]
    grids: tuple[Grid, ...]
    matching: int  # articles that are what was looked for; 0 where nothing was
    chosen: Article | None
    why: Why | None
    origin: Origin | None
    tags: tuple[str, ...]
    departments: Callable[[], tuple[Category, ...]]
    add: str  # the article that can be put into the basket, as forms name it; empty where one is to be chosen, or it is not sold
    linked_data: Callable[[Absolute], Node]  # the product as search engines read it

    @property
    def chosen_words(self) -> str:
        """The options of the chosen article; empty where none is."""
        return ", ".join(option for option in self.chosen.options if option != NOT_SAID) if self.chosen else ""


def product_page(id: str, asked: Asked) -> ProductView | None:
    """Build the page of a visible product, None where there is none of this identity.

    Args:
        id: of the product.
        asked: the listing from which somebody came.
    """
    product = asked.held.products_of([id]).get(id)
    if product is None:
        return None
    hidden, currency, now = off_pages(), asked.held.currency, now_in_seconds()
    slot, reason, matching = _followed(asked, product)
    names = option_names(product, hidden)
    chosen = _chosen(asked, slot, product, matching)
    made = tuple(_articles(asked, product, names, matching, chosen))
    at = next((article for article in made if article.chosen), None)
    sold = chosen or (None if product.variants else product.articles[0])
    offers = [article.offer for article in ((chosen,) if chosen else product.articles)]
    prices, was = _prices(offers, now)
    stock, stock_words = best_stock(offers)
    return ProductView(
        id=product.id,
        address=product_address(product.id),
        name=product.name,
        brand=product.brand,
        description=product.description,
        image=(chosen.image if chosen else "") or product.image,
        pictures=_pictures(product, made),
        trail=trail_of(tuple(map(identity, product.categories[0])) if product.categories else None),
        price=money(min(prices), currency) if prices else "",
        price_varies=len(set(prices)) > 1,
        was=money(was, currency) if was is not None else "",
        stock=stock,
        stock_words=at.stock_words if at else stock_words,
        rating=written(product.rating) if product.rating is not None else "",
        reviews=written(product.review_count) if product.review_count is not None else "",
        review_count=int(product.review_count or 0),
        facts=tuple((prop.name, said(prop)) for prop in product.properties if prop.values and identity(prop.name) not in hidden),
        option_names=tuple(names),
        articles=made,
        grids=grids(made, names, _picked(asked)),
        matching=len(matching),
        chosen=at,
        why=reason,
        origin=_origin(asked, product, slot) if _is_from(asked) else None,
        tags=product.tags,
        departments=partial(departments_of, asked.held),
        add=article_key(product, sold.sku) if sold and is_sold(sold.offer, now) else "",
        linked_data=partial(product_data, product, now, currency, hidden),
    )


def _articles(
    asked: Asked, product: Product, names: Sequence[str], matching: Sequence[Variant], chosen: Variant | None
) -> Iterator[Article]:
    """Yield the articles of a product."""
    now, currency = now_in_seconds(), asked.held.currency
    for one in product.variants:
        yield article_of(one, names, now, currency, matches=one in matching, chosen=one is chosen, address=_address(asked, product, one))


def _is_from(asked: Asked) -> bool:
    """Tell whether somebody came from a listing that is not all products."""
    return bool(asked.picks or asked.nodes or asked.tag or asked.found)


def _followed(asked: Asked, product: Product) -> tuple[int | None, Why | None, tuple[Variant, ...]]:
    """Return the slot of a product that somebody came to from a listing, why it is there, and which of its articles match the picks."""
    slot = slot_of(asked, product) if _is_from(asked) else None
    reason = why(asked, product, slot) if asked.picks or asked.found else None
    is_narrowed = reason is not None and reason.is_in and asked.state.left.same_variant is not None
    return slot, reason, tuple(matching_articles(asked, slot, product)) if is_narrowed and slot is not None else ()


def _prices(offers: Sequence[Offer], now: Number) -> tuple[list[Number], Number | None]:
    """Return the prices of some offers, and what the cheapest cost before it was reduced, None where it is not."""
    prices = [price for offer in offers if (price := offer.price_now(now)) is not None]
    reduced = (offer for offer in offers if offer.is_reduced(now) and offer.price_now(now) == min(prices))
    return prices, next((offer.regular for offer in reduced if offer.regular is not None), None)


def _pictures(product: Product, articles: Sequence[Article]) -> tuple[Picture, ...]:
    """Return the pictures of the articles, each once: where it is shown on the page, of that article, else of the first."""
    found: dict[str, Picture] = {}
    for variant, article in zip(product.variants, articles, strict=True):
        if variant.image and (variant.image not in found or article.chosen):
            words = ", ".join(option for option in article.options if option != NOT_SAID)
            found[variant.image] = Picture(variant.image, article.address, words, article.chosen)
    return tuple(islice(found.values(), _PICTURES)) if len(found) > 1 else ()


def _chosen(asked: Asked, slot: int | None, product: Product, matching: Sequence[Variant]) -> Variant | None:
    """Return the article on which the page opens: the one asked for, else the first that was looked for, best one in stock.

    None where nothing was looked for: the page then speaks of all articles.
    """
    wanted = [value for name, value in asked.pairs if name == ARTICLE and ARTICLE not in asked.state.rack.by_key]
    named = next((variant for variant in product.variants if wanted and variant.sku == wanted[-1]), None)
    in_stock = next((variant for variant in matching if variant.offer.stock == "in"), None)
    return named or in_stock or next(iter(matching), None) or next(_meant(asked, slot, product), None)


def _meant(asked: Asked, slot: int | None, product: Product) -> Iterator[Variant]:
    """Yield the articles that are what was looked for, but for how they are sold: the navy one, though it is sold out."""
    asking = [
        union(facet.picked_members(picks))
        for facet in asked.state.rack.facets
        if (picks := asked.state.picks.get(facet.spec.key)) and facet.on_variants and facet.spec.source.kind not in OFFERED
    ]
    if slot is None or not asking:
        return
    for number, variant in enumerate(product.variants, int(asked.index.starts[slot])):
        if all(number in members for members in asking):
            yield variant


def _address(asked: Asked, product: Product, variant: Variant) -> str:
    return product_address(product.id) + query_string([*asked.listing_pairs, (ARTICLE, variant.sku)])


def _picked(asked: Asked) -> dict[str, set[str]]:
    """Return the values that were looked for, by the option they are of."""
    found: dict[str, set[str]] = {}
    for facet in asked.state.rack.facets:
        picks = asked.state.picks.get(facet.spec.key)
        if not picks or not facet.spec.source.attribute:
            continue
        values = found.setdefault(identity(facet.spec.source.attribute), set())
        for bin in map(facet.by_key.__getitem__, picks.bins):
            values |= set(bin.values)
            if bin.range:
                low, high = facet.column.ranks(bin.range.low, bin.range.high, inclusive=bin.range.high_inclusive)
                values |= {identity(value.label) for value in facet.column.values[low:high]}
    return found


def _origin(asked: Asked, product: Product, slot: int | None) -> Origin:
    total = len(asked.state.result)
    place, around = 0, []
    if slot is not None and slot in asked.state.result and total <= _LONGEST_WAY:
        slots = asked.part(0, total)
        place = slots.index(slot) + 1
        around = slots[max(0, place - 1 - _BESIDE) : place + _BESIDE]
    cards = Cards(asked).of(around)
    at = next((number for number, card in enumerate(cards) if card.id == product.id), 0)
    return Origin(
        title=asked.title,
        address=asked.shop_address,
        total=total,
        search=asked.found.text if asked.found else "",
        picks=tuple((asked.said(key, pick), asked.swatch(key, pick)) for key, picks in asked.state.picks.items() for pick in picks.each),
        place=place,
        previous=cards[at - 1].address if at > 0 else "",
        next=cards[at + 1].address if cards and at + 1 < len(cards) else "",
        beside=cards if len(cards) > 1 else (),
    )
