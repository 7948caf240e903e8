"""The basket of the stand-in shop: which articles, how many, what they cost now. It stands in the session, with or without scripts."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any
from urllib.parse import urlencode

from django.utils.translation import gettext as _

from binsort.core.facets.query import pairs_of
from binsort.core.products.product import Offer, Product, Variant
from binsort.core.values.dates import now_in_seconds
from binsort.core.values.numbers import Number, whole
from binsort.racks.attribute_use import off_pages
from binsort.racks.number_words import money
from binsort.tally.current import Current

from .addresses import product_address
from .articles import NOT_SAID, article_of, option_names
from .face import face_now

MOST_OF_ONE, MOST_LINES = 99, 60
_KEPT = "basket"  # in the session: by article, how many


@dataclass(frozen=True, slots=True)
class Line:
    """An article in the basket."""

    key: str  # of the article, in forms
    name: str
    options: str
    image: str
    address: str
    quantity: int
    price: str  # of one
    sum: str
    trouble: str  # why it cannot be had, empty where it can


@dataclass(frozen=True, slots=True)
class Basket:
    """What is in it."""

    lines: tuple[Line, ...]
    count: int  # articles that can be had
    total: str
    missing: str  # to free delivery, empty where it is free
    nothing: str  # no money, as it is written
    free_from: str
    share: float  # of free delivery that is reached, in hundredths
    has_free: bool  # whether the shop says from what sum on delivery is free


def article_key(product: Product, sku: str) -> str:
    """Return how forms name an article.

    >>> article_key(Product("SC-1", "Cleat"), "SC-1-2")
    'product=SC-1&article=SC-1-2'
    """
    return urlencode([("product", product.id), ("article", sku)])


def is_sold(offer: Offer, now: Number) -> bool:
    """Tell whether an article can be had at a moment, for a price that is known."""
    return offer.stock != "out" and offer.price_now(now) is not None


def count_of(session: Mapping[str, Any]) -> int:
    """Return how many articles are in a basket, without looking at them."""
    return sum(_kept(session).values())


def basket_of(session: Mapping[str, Any], held: Current) -> Basket:
    """Return the basket as it is at this moment: articles that went or cannot be had are in it, say so, and cost nothing."""
    kept, now, currency, hidden = _kept(session), now_in_seconds(), held.currency, off_pages()
    wanted = {key: dict(pairs_of(key)) for key in kept}
    products = held.products_of({parts.get("product", "") for parts in wanted.values()})
    lines, total, count = [], Fraction(0), 0
    for key, quantity in kept.items():
        product = products.get(wanted[key].get("product", ""))
        article = _article(product, wanted[key].get("article", "")) if product else None
        if product is None or article is None:
            lines.append(Line(key, wanted[key].get("article", ""), "", "", "", quantity, "", "", _("No longer offered")))
            continue
        shown = article_of(article, option_names(product, hidden), now, currency, matches=False, chosen=False, address="")
        price = article.offer.price_now(now)
        trouble = _("Sold out") if article.offer.stock == "out" else _("Price on request") if price is None else ""
        cost: Number = 0 if trouble or price is None else price * quantity
        total, count = total + cost, count + (0 if trouble else quantity)
        options = ", ".join(option for option in shown.options if option != NOT_SAID)
        address = product_address(product.id) + (f"?{urlencode([('article', article.sku)])}" if product.variants else "")
        image, said = article.image or product.image, money(cost, currency) if not trouble else ""
        lines.append(Line(key, product.name, options, image, address, quantity, shown.price, said, trouble))
    free = Fraction(face_now().free_from or 0)
    return Basket(
        lines=tuple(lines),
        count=count,
        total=money(whole(total), currency),
        missing=money(whole(free - total), currency) if total < free else "",
        has_free=bool(free),
        nothing=money(0, currency, short=True),
        free_from=money(whole(free), currency, short=True),
        share=float(min(Fraction(100), 100 * total / free)) if free else 100.0,
    )


def put_in(session: Any, key: str, quantity: int, held: Current) -> bool:
    """Put some more of an article into the basket; tells whether there is such an article, and room for it."""
    parts = dict(pairs_of(key))
    product = held.products_of([parts.get("product", "")]).get(parts.get("product", ""))
    kept = _kept(session)
    if product is None or _article(product, parts.get("article", "")) is None or quantity < 1:
        return False
    name = article_key(product, parts.get("article", ""))
    if name not in kept and len(kept) >= MOST_LINES:
        return False
    session[_KEPT] = {**kept, name: min(kept.get(name, 0) + quantity, MOST_OF_ONE)}
    return True


def set_quantity(session: Any, key: str, quantity: int) -> None:
    """Have so many of an article in the basket; none takes it out."""
    kept = _kept(session)
    if key in kept:
        session[_KEPT] = {
            name: held if name != key else min(quantity, MOST_OF_ONE) for name, held in kept.items() if name != key or quantity > 0
        }


def _kept(session: Mapping[str, Any]) -> dict[str, int]:
    kept = session.get(_KEPT)
    return dict(kept) if isinstance(kept, dict) else {}


def _article(product: Product | None, sku: str) -> Variant | None:
    return next((one for one in product.articles if one.sku == sku or not product.variants), None) if product else None
