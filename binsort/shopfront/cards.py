"""Cards: products in a listing, each as the article that meets the picks."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from urllib.parse import quote

from django.urls import reverse
from pyroaring import BitMap

from binsort.core.facets.behaviour import FACTS
from binsort.core.facets.kinds import OFFERED
from binsort.core.products.availability import best_stock
from binsort.core.products.product import Product, Variant
from binsort.core.values.numbers import Number, written
from binsort.racks.addresses import query_string
from binsort.racks.number_words import money
from binsort.tally.current import NotReady

from .asked import Asked
from .basket import article_key, is_sold

_ANY = "any"  # stands for the identity of a product in an address


@dataclass(frozen=True, slots=True)
class Card:
    """A product in a listing, with the price and stock of what meets the picks. Two that only lead elsewhere are drawn alike, and equal."""

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
    review_count: int
    article: str  # in which options it meets the picks, where other articles of it do not
    address: str = field(compare=False)
    why: str = field(compare=False)  # address of the reason; empty where nothing is asked
    add: str  # the article that can be put into the basket, as forms name it; empty where there are several, or none
    asks_which: bool  # several can
    facts: tuple[str, ...] = FACTS  # that stand on it besides its name and price
    in_tab: bool = False  # it opens in a tab of its own


class Cards:
    """Makes the cards of a listing."""

    def __init__(self, asked: Asked) -> None:
        self._asked, self._state = asked, asked.state

    def of(self, slots: Sequence[int]) -> tuple[Card, ...]:
        """Return the cards of some products; one that went since the counting is passed over. Raises NotReady where all of them did."""
        ids = self._asked.index.ids.many(slots)
        products = self._asked.held.products_of(ids)
        if ids and not products:
            raise NotReady
        return tuple(self._card(slot, products[identity]) for slot, identity in zip(slots, ids, strict=True) if identity in products)

    @cached_property
    def _pages(self) -> tuple[str, str]:
        """The addresses of the page of a product and of why it is here, but for its identity at the end."""
        product, why = (reverse(name, kwargs={"identity": _ANY}) for name in ("shop-product", "shop-why"))
        return product.removesuffix(f"{_ANY}/"), why.removesuffix(f"{_ANY}/")

    @cached_property
    def _query(self) -> str:
        return query_string(self._asked.listing_pairs)

    def _card(self, slot: int, product: Product) -> Card:
        prices, matching = self._state.prices(slot), matching_articles(self._asked, slot, product)
        low = prices[0] if prices else None
        offers = [article.offer for article in (matching or product.articles)]
        stock, stock_words = best_stock(offers)
        sold = [article for article in matching or product.articles if is_sold(article.offer, self._asked.held.now)]
        currency, quoted = self._asked.held.currency, quote(product.id)
        is_asked, facts = bool(self._asked.picks or self._asked.found), self._asked.behaves.facts
        return Card(
            id=product.id,
            name=product.name,
            brand=product.brand,
            image=next((article.image for article in matching if article.image), product.image),
            price=money(low, currency) if low is not None else "",
            was=self._was(product, matching, low),
            price_varies=prices is not None and prices[0] != prices[1],
            stock=stock,
            stock_words=stock_words,
            rating=written(product.rating) if product.rating is not None else "",
            reviews=written(product.review_count) if product.review_count is not None else "",
            review_count=int(product.review_count or 0),
            article=self._article(slot, matching, product),
            address=f"{self._pages[0]}{quoted}/{self._query}",
            why=f"{self._pages[1]}{quoted}/{self._query}" if is_asked and "why" in facts else "",
            add=article_key(product, sold[0].sku) if len(sold) == 1 and "basket" in facts else "",
            asks_which=len(sold) > 1 and "basket" in facts,
            facts=facts,
            in_tab=self._asked.behaves.opens == "tab",
        )

    def _article(self, slot: int, matching: Sequence[Variant], product: Product) -> str:
        """Say in which bins of what was picked the articles are that meet the picks, where not all articles do."""
        if not matching or len(matching) == len(product.variants) or not self._wanted:
            return ""
        same, first = self._state.left.same_variant, int(self._asked.index.starts[slot])
        assert same is not None  # where all articles match there is nothing to say
        numbers = [number for number in range(first, first + len(product.variants)) if number in same]
        return ", ".join(said for said, members in self._wanted if any(number in members for number in numbers))

    @cached_property
    def _wanted(self) -> list[tuple[str, BitMap]]:
        """The picked bins that say what an article is, each in words and with its articles."""
        return [
            (self._asked.named(facet.spec.key, key), facet.by_key[key].members)
            for facet in self._state.rack.facets
            if facet.on_variants and facet.spec.source.kind not in OFFERED and facet.spec.key in self._state.picks
            for key in self._state.picks[facet.spec.key].bins
        ]

    def _was(self, product: Product, matching: Sequence[Variant], low: Number | None) -> str:
        """Return the regular price of the cheapest article, where it is reduced."""
        now = self._asked.held.now
        for article in matching or product.articles:
            offer = article.offer
            if offer.price_now(now) == low and offer.is_reduced(now) and offer.regular is not None:
                return money(offer.regular, self._asked.held.currency)
        return ""


def matching_articles(asked: Asked, slot: int, product: Product) -> tuple[Variant, ...]:
    """Return the variants of a product of the result that meet the picks; none where it has no variants."""
    same = asked.state.left.same_variant
    if same is None or not product.variants:
        return product.variants
    first = int(asked.index.starts[slot])
    return tuple(article for place, article in enumerate(product.variants, first) if place in same)
