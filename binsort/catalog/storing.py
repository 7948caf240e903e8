"""Storing: writing products into the database, new ones behind the others, those that are there in their place."""

import json
from collections.abc import Collection, Iterable, Sequence
from fractions import Fraction
from itertools import count
from typing import Any

from django.db import connection
from django.db.models import Max, Model

from binsort.core.numbers import written
from binsort.core.products import Product
from binsort.core.text import path_identity, slug

from . import models
from .defining import register
from .records import product_row, variant_rows

BATCH = 1000  # products written together
_OF_VARIANTS = (
    "place", "sku", "image", "is_implicit", "price", "list_price", "has_sale_entry", "sales", "availability", "level", "currency",
    "properties",
)  # fmt: skip
_JSON = frozenset({"properties", "sales"})
_FIELDS = ("name", "description", "image", "url", "brand", "tags", "published", "rating_value", "review_count", "properties", "visible")


def store(products: Sequence[Product], *, known: Collection[str] | None = None) -> None:
    """Write products; of several with one identity the last counts. To be called within a transaction, a thousand at a time.

    Args:
        products: what is to be there.
        known: the identities of those that are there already; None where that is to be found out.
    """
    wanted = {product.id: product for product in products}
    if known is None:
        known = set(models.Product.objects.filter(identity__in=list(wanted)).values_list("identity", flat=True))
    register(list(wanted.values()))
    last = models.Product.objects.aggregate(last=Max("place"))["last"]
    start = 0 if last is None else last + 1
    new = [product_row(product, start + place) for place, product in enumerate(p for p in wanted.values() if p.id not in known)]
    old = [product_row(product, 0) for product in wanted.values() if product.id in known]
    _number(new)
    copy_rows(models.Product, ("id", "identity", "place", *_FIELDS), [_values(row, ("pk", "identity", "place", *_FIELDS)) for row in new])
    models.Product.objects.bulk_create(old, update_conflicts=True, unique_fields=("identity",), update_fields=_FIELDS)
    models.Variant.objects.filter(product__in=old).delete()
    models.Placement.objects.filter(product__in=old).delete()
    rows = [*old, *new]
    variants = [variant for row in rows for variant in variant_rows(wanted[row.identity], row)]
    copy_rows(models.Variant, ("product_id", *_OF_VARIANTS), [_values(row, ("product_id", *_OF_VARIANTS)) for row in variants])
    categories = _categories(dict.fromkeys(path for product in wanted.values() for path in product.categories))
    placements = [
        (row.pk, categories[key], place)
        for row in rows
        for place, key in enumerate(dict.fromkeys(map(path_identity, wanted[row.identity].categories)))
    ]
    copy_rows(models.Placement, ("product_id", "category_id", "place"), placements)


def _number(rows: Sequence[models.Product]) -> None:
    """Give rows that are new the numbers that the database would."""
    if rows:
        with connection.cursor() as cursor:
            sequence = "pg_get_serial_sequence('catalog_product', 'id')"
            cursor.execute(f"SELECT nextval({sequence}) FROM generate_series(1, %s)", [len(rows)])
            for row, (number,) in zip(rows, cursor.fetchall(), strict=True):
                row.pk = number


def _values(row: models.Product | models.Variant, names: Sequence[str]) -> list[Any]:
    """Return the values of a row as the database takes them."""
    found = [getattr(row, name) for name in names]
    for place, name in enumerate(names):
        value = found[place]
        if name in _JSON:
            found[place] = json.dumps(value)
        elif isinstance(value, Fraction):
            found[place] = written(value)
    return found


def copy_rows(model: type[Model], columns: Sequence[str], rows: Sequence[Sequence[Any]]) -> None:
    """Write rows by the database's own way for many of them, which is several times faster than inserting them."""
    if not rows:
        return
    connection.ensure_connection()
    named = ", ".join(f'"{column}"' for column in columns)
    with connection.connection.cursor() as cursor, cursor.copy(f'COPY "{model._meta.db_table}" ({named}) FROM STDIN') as copy:
        for row in rows:
            copy.write_row(row)


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
