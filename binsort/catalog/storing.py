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
from .records import PRODUCT_FIELDS, VARIANT_FIELDS, product_values, variant_values

BATCH = 1000  # products written together
_DOCUMENTS = frozenset({"properties", "sales"})  # columns of JSON


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
    new = [product for product in wanted.values() if product.id not in known]
    old = [product for product in wanted.values() if product.id in known]
    keys = dict(zip((product.id for product in new), _numbers(len(new)), strict=True))
    rows = [[keys[product.id], product.id, start + place, *product_values(product)] for place, product in enumerate(new)]
    copy_rows(models.Product, ("id", "identity", "place", *PRODUCT_FIELDS), rows)
    keys |= _replace(old)
    variants = [[keys[product.id], *values] for product in wanted.values() for values in variant_values(product)]
    copy_rows(models.Variant, ("product_id", *VARIANT_FIELDS), variants)
    categories = _categories(dict.fromkeys(path for product in wanted.values() for path in product.categories))
    placements = [
        (keys[product.id], categories[key], place)
        for product in wanted.values()
        for place, key in enumerate(dict.fromkeys(map(path_identity, product.categories)))
    ]
    copy_rows(models.Placement, ("product_id", "category_id", "place"), placements)


def _replace(products: Sequence[Product]) -> dict[str, int]:
    """Write products over those that are there, variants and placements taken away; returns their numbers."""
    rows = [
        models.Product(identity=product.id, place=0, **dict(zip(PRODUCT_FIELDS, product_values(product), strict=True)))
        for product in products
    ]
    models.Product.objects.bulk_create(rows, update_conflicts=True, unique_fields=("identity",), update_fields=PRODUCT_FIELDS)
    models.Variant.objects.filter(product__in=rows).delete()
    models.Placement.objects.filter(product__in=rows).delete()
    return {row.identity: row.pk for row in rows}


def _numbers(count: int) -> list[int]:
    """Return numbers for new rows of products, as the database would give them."""
    if not count:
        return []
    with connection.cursor() as cursor:
        sequence = "pg_get_serial_sequence('catalog_product', 'id')"
        cursor.execute(f"SELECT nextval({sequence}) FROM generate_series(1, %s)", [count])
        return [number for (number,) in cursor.fetchall()]


def copy_rows(model: type[Model], columns: Sequence[str], rows: Sequence[Sequence[Any]]) -> None:
    """Write rows by the database's own way for many of them, which is several times faster than inserting them."""
    if not rows:
        return
    documents = {place for place, column in enumerate(columns) if column in _DOCUMENTS}
    connection.ensure_connection()
    named = ", ".join(f'"{column}"' for column in columns)
    with connection.connection.cursor() as cursor, cursor.copy(f'COPY "{model._meta.db_table}" ({named}) FROM STDIN') as copy:
        for row in rows:
            copy.write_row([
                json.dumps(value) if place in documents else written(value) if type(value) is Fraction else value
                for place, value in enumerate(row)
            ])  # fmt: skip


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
