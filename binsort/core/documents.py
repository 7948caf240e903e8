"""Documents: products written as the schema.org objects that :mod:`.catalogue` reads, nothing lost or rounded."""

from datetime import date
from typing import Any

from .jsontext import one_line
from .numbers import Number, written
from .products import Offer, Product, Property, Sale, Unusable, Variant

_DAY = 86_400
_FIRST, _LAST = date.min.toordinal(), date.max.toordinal()
_AWAY = 86_340  # seconds of the widest offset from UTC


def line_of(product: Product) -> bytes:
    """Return a product as a line of a catalogue file, without the end of the line.

    >>> line_of(Product("C-1", "Horn cleat", offer=Offer(price=12)))
    b'{"@type": "Product", "sku": "C-1", "name": "Horn cleat", "offers": {"@type": "Offer", "price": 12}}'
    """
    return one_line(document_of(product)).encode("utf-8")


def document_of(product: Product) -> dict[str, Any]:
    """Return a product as a schema.org object. Numbers too long to be a value are left out."""
    has_variants = bool(product.variants)
    found: dict[str, Any] = {
        "@type": "ProductGroup" if has_variants else "Product",
        "productGroupID" if has_variants else "sku": product.id,
        "name": product.name,
        "description": product.description,
        "image": product.image,
        "url": product.url,
        "brand": {"@type": "Brand", "name": product.brand} if product.brand else None,
        "category": [" > ".join(path) for path in product.categories],
        "keywords": list(product.tags),
        "datePublished": product.published.isoformat() if product.published else None,
        "aggregateRating": _rating(product),
        "additionalProperty": list(map(_property, product.properties)),
        "offers": _offer(product.offer),
        "hasVariant": [_variant(article, product.offer) for article in product.variants],
    }
    return {**_given(found), **({} if product.visible else {"isVisible": False})}


def _given(found: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in found.items() if value not in (None, "", [], {}) or value == 0}


def _rating(product: Product) -> dict[str, Any]:
    found = _given({"ratingValue": product.rating_value, "reviewCount": product.review_count})
    return {"@type": "AggregateRating", **found} if found else {}


def _variant(article: Variant, of_product: Offer) -> dict[str, Any]:
    found = {"sku": article.sku, "image": article.image, "additionalProperty": list(map(_property, article.properties))}
    offer = _offer(article.offer)
    needed = offer or of_product != Offer()  # without offers a variant has those of its product
    return {"@type": "Product", **_given(found), **({"offers": offer} if needed else {})}


def _property(prop: Property) -> dict[str, Any]:
    values = [value for value in prop.values if not isinstance(value, Unusable)]
    unit = {"unitText": prop.unit} if prop.unit else {}
    return {"@type": "PropertyValue", "name": prop.name, "value": values[0] if len(values) == 1 else values, **unit}


def _offer(offer: Offer) -> dict[str, Any]:
    entries = [] if offer.list_price is None else [{"priceType": "https://schema.org/ListPrice", "price": offer.list_price}]
    entries += map(_sale, offer.sales)
    if offer.has_sale_entry and not offer.sales:
        entries.append({"priceType": "https://schema.org/SalePrice"})
    found = _given({
        "price": offer.price,
        "priceCurrency": offer.currency,
        "availability": f"https://schema.org/{offer.availability}" if offer.availability else "",
        "inventoryLevel": offer.level,
        "priceSpecification": entries,
    })  # fmt: skip
    return {"@type": "Offer", **found} if found else {}


def _sale(sale: Sale) -> dict[str, Any]:
    found = {"priceType": "https://schema.org/SalePrice", "price": sale.price}
    if sale.start is not None:
        found["validFrom"] = moment_text(sale.start)
    if sale.end is not None:
        found["validThrough"] = moment_text(sale.end, end=True)
    return found


def moment_text(moment: Number, *, end: bool = False) -> str:
    """Write a moment (seconds since the start of year 1, UTC) as :func:`.numbers.instant` reads it.

    >>> moment_text(63_854_006_400), moment_text(63_854_006_400, end=True), moment_text(63_854_006_400 + 43_200)
    ('2024-06-14', '2024-06-13', '2024-06-14T12:00:00Z')
    """
    days, seconds = divmod(moment, _DAY)
    if not seconds and _FIRST <= days - end <= _LAST:
        return date.fromordinal(int(days) - end).isoformat()
    if not _FIRST <= days <= _LAST:  # only by its offset from UTC can it have been within these years
        away, offset = (_AWAY, "-23:59") if days > _LAST else (-_AWAY, "+23:59")
        return date.fromordinal(int((moment - away) // _DAY)).isoformat() + _clock(moment - away) + offset
    return date.fromordinal(int(days)).isoformat() + _clock(moment) + "Z"


def _clock(moment: Number) -> str:
    seconds = moment % _DAY
    whole = int(seconds)
    rest = written(seconds - whole).removeprefix("0") if seconds != whole else ""
    return f"T{whole // 3600:02}:{whole // 60 % 60:02}:{whole % 60:02}{rest}"
