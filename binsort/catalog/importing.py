"""Bringing a catalogue file into the database: all of it or nothing."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from django.db import transaction

from binsort.core.catalogue import Catalogue, read_catalogue
from binsort.core.products import Product
from binsort.core.text import path_identity, slug

from . import models
from .records import product_row, variant_rows

_BATCH = 2000


@dataclass(frozen=True, slots=True)
class Imported:
    """What an import did."""

    products: int
    variants: int
    categories: int
    catalogue: Catalogue


@transaction.atomic
def replace_catalogue(lines: Iterable[bytes]) -> Imported:
    """Put the products of a catalogue file (JSON Lines of schema.org products) in place of all there are.

    Broken lines are skipped and named in the result. A failure leaves the catalogue as it was.
    """
    catalogue = read_catalogue(lines)
    models.Product.objects.all().delete()
    models.Category.objects.all().delete()
    categories = _create_categories(catalogue.products)
    rows = [product_row(product, place) for place, product in enumerate(catalogue.products)]
    models.Product.objects.bulk_create(rows, batch_size=_BATCH)
    variants = [variant for product, row in zip(catalogue.products, rows, strict=True) for variant in variant_rows(product, row)]
    models.Variant.objects.bulk_create(variants, batch_size=_BATCH)
    placements = [
        models.Placement(product=row, category=categories[key], place=place)
        for product, row in zip(catalogue.products, rows, strict=True)
        for place, key in enumerate(dict.fromkeys(map(path_identity, product.categories)))
    ]
    models.Placement.objects.bulk_create(placements, batch_size=_BATCH)
    return Imported(len(rows), len(variants), len(categories), catalogue)


def _create_categories(products: Sequence[Product]) -> dict[str, models.Category]:
    """Create every category that a path names, level by level, in the spelling written most often."""
    spellings: dict[tuple[str, ...], Counter[str]] = {}
    for product in products:
        for path in product.categories:
            keys = path_identity(path).split(" > ")
            for depth, label in enumerate(path, 1):
                spellings.setdefault(tuple(keys[:depth]), Counter())[label] += 1
    created: dict[str, models.Category] = {}
    taken: set[tuple[str, str]] = set()
    for depth in range(1, max(map(len, spellings), default=0) + 1):
        level = []
        for place, nodes in enumerate(nodes for nodes in spellings if len(nodes) == depth):
            name = min(spellings[nodes].items(), key=lambda item: (-item[1], item[0]))[0]
            above = " > ".join(nodes[:-1])
            row = models.Category(parent=created.get(above), name=name, path_identity=" > ".join(nodes), place=place)
            row.slug = _free_slug(slug(name), above, taken)
            level.append(row)
        models.Category.objects.bulk_create(level)
        created |= {row.path_identity: row for row in level}
    return created


def _free_slug(wanted: str, above: str, taken: set[tuple[str, str]]) -> str:
    name, number = wanted, 1
    while (above, name) in taken:
        number += 1
        name = f"{wanted}-{number}"
    taken.add((above, name))
    return name
