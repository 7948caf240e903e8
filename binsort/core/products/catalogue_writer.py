"""Documents: products written as the schema.org objects that :mod:`.catalogue` reads, nothing lost or rounded."""

from typing import Any

from binsort.core.values.dates import moment_text
from binsort.core.values.numbers import Unusable
from binsort.core.values.strict_json import one_line

from .product import Offer, Product, Property, Sale, Variant

_DAY = 86_400


def line_of(product: Product) -> bytes:
    """Return a product as a line of a catalogue file, without the end of the line.

    >>> line_of(Product("C-1", "Horn cleat", offer=Offer(price=12)))
    b'{"@type": "Product", "sku": "C-1", "name": "Horn cleat", "offers": {"@type": "Offer", "price": 12}}'
    """
    return one_line(document_of(product)).encode("utf-8")


def document_of(product: Product) -> dict[str, Any]:
    """Return a product as a schema.org object. Numbers too long to be a value are left out."""
    has_variants = bool(product.variants)
    document: dict[str, Any] = {"@type": "ProductGroup" if has_variants else "Product", **_numbers(product)}
    for name, text in (("name", product.name), ("description", product.description), ("image", product.image), ("url", product.url)):
        if text:
            document[name] = text
    if product.brand:
        document["brand"] = {"@type": "Brand", "name": product.brand}
    if product.categories:
        document["category"] = [" > ".join(path) for path in product.categories]
    if product.tags:
        document["keywords"] = list(product.tags)
    if product.published:
        document["datePublished"] = product.published.isoformat()
    if rating := _given({"ratingValue": product.rating_value, "reviewCount": product.review_count}):
        document["aggregateRating"] = {"@type": "AggregateRating", **rating}
    if product.properties:
        document["additionalProperty"] = list(map(_property, product.properties))
    if offer := _offer(product.offer):
        document["offers"] = offer
    if has_variants:
        document["hasVariant"] = [_variant(article, product.offer) for article in product.variants]
    if not product.visible:
        document["isVisible"] = False
    return document


def _numbers(product: Product) -> dict[str, str]:
    if product.variants:
        return {"productGroupID": product.id}
    return {"productGroupID": product.id, "sku": product.sku} if product.sku else {"sku": product.id}


def _given(document: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in document.items() if value or value == 0}


def _variant(article: Variant, of_product: Offer) -> dict[str, Any]:
    document = {"sku": article.sku, "image": article.image, "additionalProperty": list(map(_property, article.properties))}
    offer = _offer(article.offer)
    needed = offer or of_product != Offer()  # without offers a variant has those of its product
    return {"@type": "Product", **_given(document), **({"offers": offer} if needed else {})}


def _property(prop: Property) -> dict[str, Any]:
    values = [value for value in prop.values if type(value) is not Unusable]
    document = {"@type": "PropertyValue", "name": prop.name, "value": values[0] if len(values) == 1 else values}
    if prop.unit:
        document["unitText"] = prop.unit
    return document


def _offer(offer: Offer) -> dict[str, Any]:
    entries = [] if offer.list_price is None else [{"priceType": "https://schema.org/ListPrice", "price": offer.list_price}]
    entries += map(_sale, offer.sales)
    if offer.has_sale_entry and not offer.sales:
        entries.append({"priceType": "https://schema.org/SalePrice"})
    document = _given({
        "price": offer.price,
        "priceCurrency": offer.currency,
        "availability": f"https://schema.org/{offer.availability}" if offer.availability else "",
        "inventoryLevel": offer.level,
        "priceSpecification": entries,
    })  # fmt: skip
    return {"@type": "Offer", **document} if document else {}


def _sale(sale: Sale) -> dict[str, Any]:
    document = {"priceType": "https://schema.org/SalePrice", "price": sale.price}
    if sale.start is not None:
        document["validFrom"] = moment_text(sale.start)
    if sale.end is not None:
        document["validThrough"] = moment_text(sale.end, end=True)
    return document
