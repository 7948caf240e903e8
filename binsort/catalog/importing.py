"""Putting a whole catalogue in place of the one there is, as the demo does."""

from collections.abc import Iterable
from dataclasses import dataclass

from django.db import transaction

from binsort.core.catalogue import Catalogue, read_catalogue

from . import models
from .records import batched
from .storing import BATCH, store


@dataclass(frozen=True, slots=True)
class Imported:
    """What was put in place."""

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
    models.Attribute.objects.all().delete()
    for batch in batched(catalogue.products, BATCH):
        store(batch)
    variants = sum(len(product.articles) for product in catalogue.products)
    return Imported(len(catalogue.products), variants, models.Category.objects.count(), catalogue)
