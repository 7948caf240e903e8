"""Storing: writing products into the database, new ones behind the others, those that are there in their place."""

import json
from collections.abc import Collection, Mapping, Sequence
from fractions import Fraction
from itertools import count
from typing import Any

from django.db import connection
from django.db.models import Max, Model

from binsort.catalog import models
from binsort.core.products.product import Product
from binsort.core.values.numbers import written
from binsort.core.values.text import path_identity

from .product_rows import PRODUCT_FIELDS, VARIANT_FIELDS, product_values, variant_values

_MANY = 1000  # products
BATCH = 1000  # products written together
_DOCUMENTS = frozenset({"properties", "sales"})  # columns of JSON


def store(
    products: Sequence[Product], *, known: Collection[str], categories: Mapping[str, int], places: Mapping[str, int] | None = None
) -> None:
    """Write products, within a transaction, a thousand at a time; of several with one identity the last counts.

    Args:
        products: what is to be there.
        known: the identities of those that are there already.
        categories: the primary key of every category that they are in, by the identity of its path.
        places: where new ones stand in the order of the catalogue; the others come last.
    """
    wanted = {product.id: product for product in products}
    last = models.Product.objects.aggregate(last=Max("place"))["last"]
    coming = count(0 if last is None else last + 1)
    new = [product for product in wanted.values() if product.id not in known]
    old = [product for product in wanted.values() if product.id in known]
    keys = dict(zip((product.id for product in new), _numbers(len(new)), strict=True))
    old_places = places or {}
    rows = [
        [keys[product.id], product.id, old_places[product.id] if product.id in old_places else next(coming), *product_values(product)]
        for product in new
    ]
    copy_rows(models.Product, ("id", "identity", "place", *PRODUCT_FIELDS), rows)
    keys |= _replace(old)
    variants = [[keys[product.id], *values] for product in wanted.values() for values in variant_values(product)]
    copy_rows(models.Variant, ("product_id", *VARIANT_FIELDS), variants)
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
    as_json = json.JSONEncoder().encode
    connection.ensure_connection()
    named = ", ".join(f'"{column}"' for column in columns)
    with connection.connection.cursor() as cursor, cursor.copy(f'COPY "{model._meta.db_table}" ({named}) FROM STDIN') as copy:
        for row in rows:
            copy.write_row([
                (as_json(value) if value else "[]") if place in documents else written(value) if type(value) is Fraction else value
                for place, value in enumerate(row)
            ])  # fmt: skip


def look_anew(written: int) -> None:
    """Have the database look at its tables anew where very many products were written.

    It else takes a minute until it does so by itself, and reads whole tables meanwhile to find a few products.
    """
    if written >= _MANY:
        tables = (model._meta.db_table for model in (models.Product, models.Variant, models.Placement, models.RevisedProduct))
        with connection.cursor() as cursor:
            cursor.execute(f"ANALYZE {', '.join(tables)}")
