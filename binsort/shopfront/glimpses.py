"""Glimpses: products that come back when something else is asked, each with its picture and by what it differs."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.core.answers.answer import State
from binsort.core.facets.kinds import MONEY, kind_of
from binsort.core.products.product import Product
from binsort.racks.addresses import picked_pairs, query_string
from binsort.racks.number_words import bin_words, money

from .asked import Asked


@dataclass(frozen=True, slots=True)
class Glimpse:
    """A product that comes back: its picture, and what it has where something else was picked."""

    name: str
    image: str
    caption: str
    address: str


class Glimpses:
    """Makes glimpses; the products of all of them are read at once."""

    def __init__(self, asked: Asked) -> None:
        self._asked, self._rack = asked, asked.state.rack
        self._products: dict[str, Product] = {}

    def read(self, slots: Iterable[int]) -> None:
        """Read the products that are shown."""
        self._products = self._asked.held.products_of(self._asked.index.ids.many(list(dict.fromkeys(slots))))

    def of(self, state: State, key: str, slots: Sequence[int]) -> tuple[Glimpse, ...]:
        """Return products of what is asked otherwise; one that went since the counting is passed over.

        Args:
            state: what is asked.
            key: of the facet whose picks are other ones, or gone.
            slots: of products in its result, read before.
        """
        found = ((slot, self._products.get(self._asked.index.ids[slot])) for slot in slots)
        return tuple(self._glimpse(state, key, slot, product) for slot, product in found if product is not None)

    def _glimpse(self, state: State, key: str, slot: int, product: Product) -> Glimpse:
        article = self._article(state, slot, product)
        image = product.variants[article - self._first(slot)].image if product.variants else ""
        return Glimpse(product.name, image or product.image, self._caption(state, slot, key, article), self._page(state, product))

    def _first(self, slot: int) -> int:
        return int(self._asked.index.starts[slot])

    def _article(self, state: State, slot: int, product: Product) -> int:
        """Return the number of the first article with a picture that meets the picks of a state, else of the first one."""
        same, first = state.left.same_variant, self._first(slot)
        meeting = [first + place for place in range(max(1, len(product.variants))) if same is None or first + place in same]
        drawn = (number for number in meeting if product.variants and product.variants[number - first].image)
        return next(drawn, meeting[0] if meeting else first)

    def _page(self, state: State, product: Product) -> str:
        others = [pair for pair in self._asked.listing_pairs if pair not in self._asked.picks]
        query = query_string([*others, *picked_pairs(self._rack, state.query.picks)])
        return reverse("shop-product", kwargs={"identity": product.id}) + query

    def _caption(self, state: State, slot: int, key: str, article: int) -> str:
        """Say what a product has of a facet."""
        facet, words = self._rack.by_key[key], self._asked.words[key]
        if words.written == MONEY:
            prices = state.prices(slot)
            return money(prices[0], self._asked.held.currency) if prices else ""
        owner = article if facet.on_variants else slot
        bins = self._rack.on_listing(facet, self._asked.state.listing).bins
        said = [bin_words(bin, words) for bin in bins if owner in bin.members]
        return (said[-1] if kind_of(facet.spec.source.kind).is_tree else said[0]) if said else _("none")
