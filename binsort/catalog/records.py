"""Between the database and the core: rows to frozen products and back, losing nothing.

Numbers inside JSON are kept as ``{"n": "12.5"}``, because JSON readers round.
"""

from collections.abc import Iterable, Iterator
from typing import Any

from django.db.models import Prefetch

from binsort.core.numbers import Number, exact, written
from binsort.core.products import Offer, Product, Property, Sale, Unusable, Variant, Written

from . import models


def all_products() -> list[Product]:
    """Return every product in the order of the catalogue; a fixed number of queries."""
    paths = category_paths()
    rows = models.Product.objects.prefetch_related(
        Prefetch("variants", models.Variant.objects.order_by("place", "id")),
        Prefetch("placements", models.Placement.objects.order_by("place", "id")),
    )
    return [product_of(row, paths) for row in rows]


def category_paths() -> dict[int, tuple[str, ...]]:
    """Return the path of names of every category by its primary key; one query."""
    rows = {row.pk: row for row in models.Category.objects.all()}

    def path(row: models.Category) -> tuple[str, ...]:
        above = path(rows[row.parent_id]) if row.parent_id else ()
        return (*above, row.name)

    return {pk: path(row) for pk, row in rows.items()}


def product_of(row: models.Product, paths: dict[int, tuple[str, ...]]) -> Product:
    """Build the core's product of a row whose variants and placements are prefetched."""
    variants = list(row.variants.all())
    implicit = next((variant for variant in variants if variant.is_implicit), None)
    return Product(
        id=row.identity,
        name=row.name,
        description=row.description,
        image=row.image,
        url=row.url,
        brand=row.brand,
        categories=tuple(paths[placement.category_id] for placement in row.placements.all()),
        tags=tuple(row.tags),
        published=row.published,
        rating_value=row.rating_value,
        review_count=row.review_count,
        properties=tuple(_properties(row.properties)),
        offer=_offer(implicit) if implicit else Offer(),
        variants=tuple(Variant(v.sku, _offer(v), tuple(_properties(v.properties)), v.image) for v in variants if not v.is_implicit),
        visible=row.visible,
    )


def _offer(row: models.Variant) -> Offer:
    return Offer(
        price=row.price,
        list_price=row.list_price,
        sales=tuple(Sale(*(None if part is None else exact(part) for part in sale)) for sale in row.sales),  # type: ignore[arg-type]
        has_sale_entry=row.has_sale_entry,
        availability=row.availability,
        level=row.level,
        currency=row.currency,
    )


def _properties(found: list[dict[str, Any]]) -> Iterator[Property]:
    for item in found:
        yield Property(item["name"], tuple(map(_value, item["values"])), item.get("unit"))


def _value(found: Any) -> Written:
    if isinstance(found, dict):
        return exact(found["n"]) if "n" in found else Unusable(found["unusable"])
    return found  # type: ignore[no-any-return]


def product_row(product: Product, place: int) -> models.Product:
    """Return an unsaved row of a product."""
    return models.Product(
        identity=product.id,
        place=place,
        name=product.name,
        description=product.description,
        image=product.image,
        url=product.url,
        brand=product.brand,
        tags=list(product.tags),
        published=product.published,
        rating_value=product.rating_value,
        review_count=product.review_count,
        properties=_stored_properties(product.properties),
        visible=product.visible,
    )


def variant_rows(product: Product, row: models.Product) -> list[models.Variant]:
    """Return the unsaved rows of a product's variants; the implicit one where it has none."""
    return [
        models.Variant(
            product=row,
            place=place,
            sku=article.sku,
            image=article.image,
            is_implicit=not product.variants,
            price=article.offer.price,
            list_price=article.offer.list_price,
            has_sale_entry=article.offer.has_sale_entry,
            sales=[[_stored(sale.price), _stored(sale.start), _stored(sale.end)] for sale in article.offer.sales],
            availability=article.offer.availability,
            level=article.offer.level,
            currency=article.offer.currency,
            properties=_stored_properties(article.properties),
        )
        for place, article in enumerate(product.articles)
    ]


def _stored(number: Number | None) -> str | None:
    return None if number is None else written(number)


def _stored_properties(properties: Iterable[Property]) -> list[dict[str, Any]]:
    return [
        {"name": prop.name, "values": list(map(_stored_value, prop.values)), **({"unit": prop.unit} if prop.unit else {})}
        for prop in properties
    ]


def _stored_value(value: Written) -> Any:
    if isinstance(value, Unusable):
        return {"unusable": value.reason}
    return value if isinstance(value, str | bool) else {"n": written(value)}
