"""Linked data: what a page shows, in the words of schema.org, as search engines read it (JSON-LD 1.1)."""

from collections.abc import Callable, Collection, Iterable, Sequence
from typing import Any

from django.utils.safestring import SafeString, mark_safe

from binsort.catalog.models import Category
from binsort.core.products.availability import SCHEMA_STATES
from binsort.core.products.product import Offer, Product, Property, Variant
from binsort.core.values.numbers import Number, Unusable
from binsort.core.values.strict_json import dumps
from binsort.core.values.text import identity

from .addresses import address_of, product_address
from .cards import Card

Node = dict[str, Any]
Absolute = Callable[[str], str]  # makes an address one with scheme and host
_BY_STOCK = {"in": "InStock", "out": "OutOfStock", "backorder": "BackOrder"}
_SAFE = {ord(sign): f"\\u{ord(sign):04x}" for sign in "<>&\u2028\u2029"}  # inside a script element


def as_script(nodes: Sequence[Node]) -> SafeString:
    """Write nodes as the content of a script element."""
    return mark_safe(dumps({"@context": "https://schema.org", "@graph": list(nodes)}).translate(_SAFE))


def listing_data(title: str, address: str, total: int, first: int, cards: Sequence[Card], absolute: Absolute) -> Node:
    """Return a listing as an ``ItemList`` of the products on its page.

    Args:
        title: of the listing.
        address: that stands for the page.
        total: products of the listing.
        first: how many stand before this page.
        cards: the products on it.
        absolute: makes addresses absolute.
    """
    return {
        "@type": "ItemList",
        "name": title,
        "url": absolute(address),
        "numberOfItems": total,
        "itemListElement": [
            {"@type": "ListItem", "position": place, "name": card.name, "url": absolute(product_address(card.id))}
            for place, card in enumerate(cards, first + 1)
        ],
    }


def way_data(trail: Sequence[Category], absolute: Absolute) -> list[Node]:
    """Return the way through the categories as a ``BreadcrumbList``; none at the top."""
    if not trail:
        return []
    places = enumerate(trail, 1)
    items = [
        {"@type": "ListItem", "position": place, "name": category.name, "item": absolute(address_of(tuple(trail[:place])))}
        for place, category in places
    ]
    return [{"@type": "BreadcrumbList", "itemListElement": items}]


def product_data(product: Product, now: Number, currency: str, hidden: Collection[str], absolute: Absolute) -> Node:
    """Return a product as shoppers get it at a moment: a ``Product``, or a ``ProductGroup`` with its articles.

    Args:
        product: a visible one.
        now: the moment whose prices count.
        currency: of the shop, for offers that name none.
        hidden: identities of the attributes that are on no page.
        absolute: makes addresses absolute.
    """
    page = absolute(product_address(product.id))
    node: Node = {
        "@type": "ProductGroup" if product.variants else "Product",
        "@id": page,
        "url": page,
        "name": product.name,
        "productGroupID" if product.variants else "sku": product.id if product.variants else product.sku or product.id,
        **_given(description=product.description, category=[" > ".join(path) for path in product.categories]),
    }
    if product.image:
        node["image"] = absolute(product.image)
    if product.brand:
        node["brand"] = {"@type": "Brand", "name": product.brand}
    if product.rating is not None and product.review_count:
        node["aggregateRating"] = {"@type": "AggregateRating", "ratingValue": product.rating, "reviewCount": product.review_count}
    if facts := _properties(product.properties, hidden):
        node["additionalProperty"] = facts
    if product.variants:
        node["hasVariant"] = [_article(product, article, now, currency, hidden, absolute) for article in product.variants]
    else:
        node.update(_offered(product.offer, now, currency, page))
    return node


def _given(**parts: Any) -> Node:
    return {name: value for name, value in parts.items() if value}


def _article(product: Product, article: Variant, now: Number, currency: str, hidden: Collection[str], absolute: Absolute) -> Node:
    options = _properties(article.properties, hidden)
    said = ", ".join(str(value) for option in options for value in [option["value"]] if isinstance(value, str))
    image = article.image or product.image
    page = absolute(product_address(product.id))
    return {
        "@type": "Product",
        "name": f"{product.name}, {said}" if said else product.name,
        **_given(sku=article.sku, image=absolute(image) if image else "", additionalProperty=options),
        **_offered(article.offer, now, currency, page),
    }


def _offered(offer: Offer, now: Number, currency: str, page: str) -> Node:
    price = offer.price_now(now)
    if price is None:
        return {}
    known = offer.availability if offer.availability in SCHEMA_STATES else ""
    is_meant = known and (Offer(availability=known).stock == offer.stock)
    availability = known if is_meant else _BY_STOCK[offer.stock]
    return {
        "offers": {
            "@type": "Offer",
            "url": page,
            "price": price,
            "priceCurrency": offer.currency or currency,
            "availability": f"https://schema.org/{availability}",
        }
    }


def _properties(given: Iterable[Property], hidden: Collection[str]) -> list[Node]:
    return [_property(one) for one in given if one.values and identity(one.name) not in hidden]


def _property(given: Property) -> Node:
    values = [value for value in given.values if not isinstance(value, Unusable)]
    node: Node = {"@type": "PropertyValue", "name": given.name, "value": values[0] if len(values) == 1 else ", ".join(map(str, values))}
    return {**node, "unitText": given.unit} if given.unit else node
