"""Storing: writing products into the database, new ones behind the others, those that are there in their place."""

from collections.abc import Iterable, Sequence
from itertools import count

from django.db.models import Max

from binsort.core.products import Product
from binsort.core.text import path_identity, slug

from . import models
from .defining import register
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
    register(wanted)
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
    for depth in range(1, max(map(len, spelled.values()), default=0) + 1):
        level = {key: path for key, path in spelled.items() if len(path) == depth and key not in known}
        if level:
            known |= _make_level(level, known)
    return known


def _make_level(level: dict[str, tuple[str, ...]], known: dict[str, int]) -> dict[str, int]:
    """Make the categories of one level, those above being known; two queries."""
    above = {key: known[path_identity(path[:-1])] if len(path) > 1 else None for key, path in level.items()}
    there = (
        models.Category.objects.filter(parent_id__in=filter(None, above.values()))
        if any(above.values())
        else models.Category.objects.filter(parent=None)
    )
    taken: dict[int | None, set[str]] = {}
    for parent, name in there.values_list("parent_id", "slug"):
        taken.setdefault(parent, set()).add(name)
    rows = []
    for key, path in level.items():
        slugs = taken.setdefault(above[key], set())
        row = models.Category(
            parent_id=above[key], name=path[-1], slug=free_slug(slug(path[-1]), slugs), path_identity=key, place=len(slugs)
        )
        slugs.add(row.slug)
        rows.append(row)
    return {row.path_identity: row.pk for row in models.Category.objects.bulk_create(rows)}


def free_slug(wanted: str, taken: set[str]) -> str:
    """Return a slug, with the first number that is free behind it where it is taken."""
    return next(name for number in count(1) if (name := wanted if number == 1 else f"{wanted}-{number}") not in taken)
