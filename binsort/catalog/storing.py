"""Storing: writing products into the database, new ones behind the others, those that are there in their place."""

from collections.abc import Iterable, Sequence

from django.db.models import Max

from binsort.core.products import Product
from binsort.core.text import path_identity, slug

from . import models
from .records import product_row, variant_rows

BATCH = 1000  # products written together
_FIELDS = ("name", "description", "image", "url", "brand", "tags", "published", "rating_value", "review_count", "properties", "visible")


def store(products: Sequence[Product]) -> None:
    """Write products; of several with one identity the last counts. To be called within a transaction, a thousand at a time."""
    wanted = list({product.id: product for product in products}.values())
    last = models.Product.objects.aggregate(last=Max("place"))["last"]
    start = 0 if last is None else last + 1
    rows = [product_row(product, start + place) for place, product in enumerate(wanted)]
    models.Product.objects.bulk_create(rows, update_conflicts=True, unique_fields=("identity",), update_fields=_FIELDS)
    models.Variant.objects.filter(product__in=rows).delete()
    models.Placement.objects.filter(product__in=rows).delete()
    pairs = list(zip(wanted, rows, strict=True))
    models.Variant.objects.bulk_create(variant for product, row in pairs for variant in variant_rows(product, row))
    categories = _categories(dict.fromkeys(path for product in wanted for path in product.categories))
    models.Placement.objects.bulk_create(
        models.Placement(product=row, category_id=categories[key], place=place)
        for product, row in pairs
        for place, key in enumerate(dict.fromkeys(map(path_identity, product.categories)))
    )


def _categories(paths: Iterable[tuple[str, ...]]) -> dict[str, int]:
    """Return the primary key of every category that paths name, by its identity; missing ones are made, from the top down."""
    spelled: dict[str, tuple[str, ...]] = {}
    for path in paths:
        for depth in range(1, len(path) + 1):
            spelled.setdefault(path_identity(path[:depth]), path[:depth])
    known = dict(models.Category.objects.filter(path_identity__in=spelled).values_list("path_identity", "pk"))
    for key in sorted((key for key in spelled if key not in known), key=lambda key: len(spelled[key])):
        path = spelled[key]
        parent = known[path_identity(path[:-1])] if len(path) > 1 else None
        known[key] = _make(path[-1], key, parent)
    return known


def _make(name: str, key: str, parent: int | None) -> int:
    siblings = models.Category.objects.filter(parent_id=parent)
    taken = set(siblings.values_list("slug", flat=True))
    wanted, number = slug(name), 1
    found = wanted
    while found in taken:
        number += 1
        found = f"{wanted}-{number}"
    return models.Category.objects.create(parent_id=parent, name=name, slug=found, path_identity=key, place=len(taken)).pk
