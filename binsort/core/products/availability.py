"""Availability: the states that schema.org names, the words people use for them, and what they mean for stock."""

from collections.abc import Iterable
from dataclasses import dataclass

from binsort.core.values.numbers import written

from .product import Offer

IN, BACKORDER, OUT = "in", "backorder", "out"
STOCK_WORDS = {IN: "In stock", BACKORDER: "To order", OUT: "Sold out"}  # as shoppers read them
_FEW = 3  # articles left that are worth saying


@dataclass(frozen=True, slots=True)
class Availability:
    """One state of schema.org's ``ItemAvailability``."""

    name: str
    words: str
    spellings: tuple[str, ...] = ()  # further ones


AVAILABILITIES = (
    Availability("InStock", "in stock", ("instock", "available")),
    Availability("OutOfStock", "out of stock", ("outofstock",)),
    Availability("SoldOut", "sold out", ("soldout",)),
    Availability("BackOrder", "back order", ("backorder",)),
    Availability("PreOrder", "pre order", ("preorder",)),
    Availability("PreSale", "presale"),
    Availability("MadeToOrder", "made to order", ("madetoorder",)),
    Availability("Discontinued", "discontinued"),
    Availability("LimitedAvailability", "limited availability", ("limitedavailability",)),
    Availability("InStoreOnly", "in store only", ("instoreonly",)),
    Availability("OnlineOnly", "online only", ("onlineonly",)),
    Availability("Reserved", "reserved"),
)
SCHEMA_STATES = frozenset(state.name for state in AVAILABILITIES)
STATE_WORDS = {state.name: state.words for state in AVAILABILITIES}
STATE_OF = {spelling: state.name for state in AVAILABILITIES for spelling in (state.words, *state.spellings)}


def in_stock_words(offer: Offer) -> str:
    """Say how much there is of an article.

    >>> in_stock_words(Offer(level=4)), in_stock_words(Offer(availability="SoldOut")), in_stock_words(Offer())
    ('4 left', 'Sold out', 'In stock')
    """
    is_counted = offer.stock == IN and offer.level is not None
    return f"{written(offer.level or 0)} left" if is_counted else STOCK_WORDS[offer.stock]


def best_stock(offers: Iterable[Offer]) -> tuple[str, str]:
    """Return the best stock state of some articles, and how to say it; few that are left are counted.

    >>> best_stock([Offer(level=0), Offer(level=2)]), best_stock([Offer(availability="SoldOut")])
    (('in', '2 left'), ('out', 'Sold out'))
    """
    listed = list(offers)
    states = {offer.stock for offer in listed}
    best = next((state for state in (IN, BACKORDER) if state in states), OUT)
    levels = [offer.level for offer in listed if offer.stock == IN]
    left = sum(level for level in levels if level is not None)
    is_counted = best == IN and None not in levels and left <= _FEW
    return best, f"{written(left)} left" if is_counted else STOCK_WORDS[best]


def summed_up(offers: Iterable[Offer]) -> str:
    """Say in which states of stock some articles are, in a word or two."""
    states = {offer.stock for offer in offers}
    if len(states) == 1:
        return STOCK_WORDS[states.pop()]
    return "Some in stock" if IN in states else STOCK_WORDS[BACKORDER]
