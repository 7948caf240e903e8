"""Products as the core knows them: frozen records, whatever file or database they come from."""

from dataclasses import dataclass, field
from datetime import date
from fractions import Fraction
from typing import TypeAlias

from binsort.core.values.numbers import Number, Unusable, half_up

Written: TypeAlias = str | bool | int | Fraction | Unusable


@dataclass(frozen=True, slots=True)
class Property:
    """One attribute as given on a product or a variant."""

    name: str  # normalised text
    values: tuple[Written, ...]  # normalised text (never empty), exact numbers, booleans
    unit: str | None = None


@dataclass(frozen=True, slots=True)
class Sale:
    """A sale price, valid from ``start`` until just before ``end`` (seconds of year 1, None is open)."""

    price: Number
    start: Number | None = None
    end: Number | None = None

    def is_valid(self, now: Number) -> bool:
        """Tell whether the sale price is the price at this moment."""
        return (self.start is None or self.start <= now) and (self.end is None or now < self.end)


@dataclass(frozen=True, slots=True)
class Offer:
    """Price and stock of a variant."""

    price: Number | None = None
    list_price: Number | None = None
    sales: tuple[Sale, ...] = ()
    has_sale_entry: bool = False  # also one that can never be valid
    availability: str = ""  # last part of the schema.org address
    level: Number | None = None
    currency: str = ""

    @property
    def regular(self) -> Number | None:
        """The list price, else the price."""
        return self.price if self.list_price is None else self.list_price

    def price_now(self, now: Number) -> Number | None:
        """Return what the article costs at this moment, None where no price is known."""
        for sale in self.sales:
            if sale.is_valid(now):
                return sale.price
        if self.has_sale_entry or self.price is None:
            return self.regular
        return self.price

    def is_reduced(self, now: Number) -> bool:
        """Tell whether the price now is below the regular price."""
        price, regular = self.price_now(now), self.regular
        return price is not None and regular is not None and price < regular

    @property
    def stock(self) -> str:
        """``backorder``, ``out`` or ``in``, the first that fits."""
        if self.availability in {"BackOrder", "PreOrder", "PreSale", "MadeToOrder"}:
            return "backorder"
        if self.availability in {"OutOfStock", "SoldOut", "Discontinued"}:
            return "out"
        return "out" if self.level is not None and self.level <= 0 else "in"


@dataclass(frozen=True, slots=True)
class Variant:
    """An article that can be bought; its properties are its options."""

    sku: str = ""
    offer: Offer = field(default_factory=Offer)
    properties: tuple[Property, ...] = ()
    image: str = ""


@dataclass(frozen=True, slots=True)
class Product:
    """A product with its variants. ``variants`` is empty where the product is its own only variant."""

    id: str
    name: str
    description: str = ""
    image: str = ""
    url: str = ""
    brand: str = ""
    categories: tuple[tuple[str, ...], ...] = ()
    tags: tuple[str, ...] = ()
    published: date | None = None
    rating_value: Number | None = None
    review_count: Number | None = None
    properties: tuple[Property, ...] = ()
    offer: Offer = field(default_factory=Offer)
    variants: tuple[Variant, ...] = ()
    visible: bool = True
    sku: str = ""  # of the product as its own only variant, where it is another number than its identity

    @property
    def articles(self) -> tuple[Variant, ...]:
        """The variants, or the product itself as the one implicit variant."""
        return self.variants or (Variant(self.sku, self.offer),)

    @property
    def rating(self) -> Number | None:
        """The rating as shown: half up to one decimal; None without one or without reviews."""
        if self.rating_value is None or self.review_count == 0:
            return None
        return half_up(self.rating_value, 1)
