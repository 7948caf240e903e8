"""Gathering: reading products into codes of what they say.

A *field* is one thing said (a brand, a tag, the colour of a variant). Whatever is said in it is kept once, in the
field's vocabulary; owners (products or variants) have the codes of what they say, in the order written.
"""

from array import array
from collections.abc import Callable, Hashable, Iterable
from dataclasses import dataclass
from typing import Any, NamedTuple, TypeAlias

import numpy as np
from numpy.typing import NDArray

from binsort.core.products.product import Offer, Product, Property, Sale
from binsort.core.values.numbers import Number
from binsort.core.values.text import identity, initial

from .collector import without_collecting
from .columns import PRODUCT, VARIANT
from .packed_texts import Texts, TextsBuilder

FieldKey: TypeAlias = tuple[str, ...]  # name and level, for attributes the identity of its name between them
BRAND, TAG, CATEGORIES = ("brand", PRODUCT), ("tag", PRODUCT), ("category", PRODUCT)
RATING, PUBLISHED, INITIAL = ("rating", PRODUCT), ("published", PRODUCT), ("initial", PRODUCT)
NAME, DESCRIPTION, SKU = ("name", PRODUCT), ("description", PRODUCT), ("sku", PRODUCT)
PRICING, STOCK, CURRENCY, LEVEL = ("pricing", VARIANT), ("stock", VARIANT), ("currency", VARIANT), ("level", VARIANT)
_REMEMBERED = 50_000  # offers and lists of properties


def attribute(name: str, level: str) -> FieldKey:
    """Return the field of an attribute, by the identity of its name, on products or on variants."""
    return ("attribute", name, level)


class Pricing(NamedTuple):
    """What an offer says of its price."""

    price: Number | None
    list_price: Number | None
    sales: tuple[Sale, ...]
    has_sale_entry: bool


class Vocabulary:
    """The distinct things said in a field. It only grows, so that all versions of the facts can share it."""

    def __init__(self, items: Iterable[Any] = ()) -> None:
        self.items: list[Any] = []
        self._codes: dict[Hashable, int] = {}
        for item in items:
            self.code(item)

    def code(self, item: Any) -> int:
        """Return the code of an item, a new one where nobody said it before."""
        key = _key(item)
        known = self._codes.get(key)
        if known is None:
            known = self._codes[key] = len(self.items)
            self.items.append(item)
        return known


def _key(item: Any) -> Hashable:
    """Return what tells items apart: True is not 1; fractions are taken apart, because their hash is slow."""
    kind = type(item)
    if kind is Property:
        return item, tuple(map(type, item.values))
    if kind is Pricing:
        price, listed, sales, has_entry = item
        return price and price.numerator, price and price.denominator, listed and (listed.numerator, listed.denominator), sales, has_entry
    return item  # type: ignore[no-any-return]


@dataclass(slots=True)
class Gathered:
    """Products read into codes, numbered from 0 in the order read."""

    keys: "array[int]"
    places: "array[int]"
    ids: Texts
    names: Texts
    visible: NDArray[np.bool_]
    variants: "array[int]"  # how many each has
    said: dict[FieldKey, tuple["array[int]", "array[int]"]]


Vocabularies: TypeAlias = dict[FieldKey, Vocabulary]
_Words: TypeAlias = tuple[Any, "array[int]", "array[int]", int]  # what is said, owners and codes of its field, its code


class _Gatherer:
    """Reads products one after the other. Offers and properties met before, as the same objects, are not looked up again."""

    def __init__(self, vocabularies: Vocabularies) -> None:
        self._keys, self._places, self._variants = array("q"), array("q"), array("I")
        self._ids, self._names, self._visible = TextsBuilder(), TextsBuilder(), bytearray()
        self._written: dict[FieldKey, tuple[array[int], array[int]]] = {}
        self._vocabularies = vocabularies
        self._codes: dict[FieldKey, Callable[[Any], int]] = {}
        self._next_variant = 0
        self._properties: dict[str, dict[int, _Words]] = {PRODUCT: {}, VARIANT: {}}  # by id(); what they hold cannot go meanwhile
        self._offers: dict[int, list[_Words]] = {}

    def add(self, key: int, place: int, product: Product) -> None:
        number, say, articles = len(self._keys), self._say, product.variants
        self._keys.append(key)
        self._places.append(place)
        self._ids.add(product.id)
        self._names.add(product.name)
        self._visible.append(product.visible)
        self._variants.append(len(articles) or 1)
        if product.brand:
            say(BRAND, number, product.brand)
        for tag in product.tags:
            say(TAG, number, tag)
        for path in product.categories:
            say(CATEGORIES, number, path)
        if product.rating_value is not None and (rating := product.rating) is not None:
            say(RATING, number, rating)
        if product.published is not None:
            say(PUBLISHED, number, product.published)
        say(INITIAL, number, initial(product.name))
        say(NAME, number, product.name)
        if product.description:
            say(DESCRIPTION, number, product.description)
        say(SKU, number, product.id)
        if product.sku:
            say(SKU, number, product.sku)
        self._describe(product.properties, PRODUCT, number)
        if not articles:
            self._offer(product.offer)
        for article in articles:
            if article.sku:
                say(SKU, number, article.sku)
            self._describe(article.properties, VARIANT, self._next_variant)
            self._offer(article.offer)

    def gathered(self) -> Gathered:
        """Return what was read."""
        visible = np.frombuffer(bytes(self._visible), dtype=bool)
        return Gathered(self._keys, self._places, self._ids.build(), self._names.build(), visible, self._variants, self._written)

    def _say(self, key: FieldKey, owner: int, item: Any) -> None:
        owners, codes = self._said(key)
        owners.append(owner)
        codes.append(self._codes[key](item))

    def _said(self, key: FieldKey) -> tuple["array[int]", "array[int]"]:
        written = self._written.get(key)
        if written is None:
            written = self._written[key] = (array("I"), array("I"))
            self._codes[key] = self._vocabularies.setdefault(key, Vocabulary()).code
        return written

    def _words(self, key: FieldKey, item: Any, source: Any) -> _Words:
        return (source, *self._said(key), self._codes[key](item))

    def _describe(self, properties: tuple[Property, ...], level: str, owner: int) -> None:
        known = self._properties[level]
        for prop in properties:
            words = known.get(id(prop))
            if words is None:
                if len(known) > _REMEMBERED:
                    known.clear()
                words = known[id(prop)] = self._words(attribute(identity(prop.name), level), prop, prop)
            _, owners, codes, code = words
            owners.append(owner)
            codes.append(code)

    def _offer(self, offer: Offer) -> None:
        owner = self._next_variant
        self._next_variant += 1
        words = self._offers.get(id(offer))
        if words is None:
            if len(self._offers) > _REMEMBERED:
                self._offers.clear()
            words = self._offers[id(offer)] = self._offered(offer)
        for _, owners, codes, code in words:
            owners.append(owner)
            codes.append(code)

    def _offered(self, offer: Offer) -> list[_Words]:
        pricing = Pricing(offer.price, offer.list_price, offer.sales, offer.has_sale_entry)
        words = [self._words(PRICING, pricing, offer), self._words(STOCK, offer.stock, offer)]
        words += [self._words(CURRENCY, offer.currency, offer)] if offer.currency else []
        return [*words, self._words(LEVEL, offer.level, offer)] if offer.level is not None else words


def gather(rows: Iterable[tuple[int, int, Product]], vocabularies: Vocabularies) -> Gathered:
    """Read products into codes.

    Args:
        rows: key (a whole number that stays with the product), place in the order of the catalogue, product.
        vocabularies: grow by what is new.
    """
    gatherer = _Gatherer(vocabularies)
    with without_collecting():
        for key, place, product in rows:
            gatherer.add(key, place, product)
    return gatherer.gathered()
