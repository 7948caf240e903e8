"""Putting a whole catalogue in place of the one there is, as the demo does."""

from collections.abc import Iterable
from dataclasses import dataclass

from binsort.catalog import models
from binsort.catalog.store.batches import batched
from binsort.catalog.store.product_writer import BATCH, look_anew
from binsort.core.products.catalogue_reader import Catalogue, read_catalogue

from .locks import change, hold
from .product_writes import put_products


@dataclass(frozen=True, slots=True)
class Imported:
    """What was put in place."""

    products: int
    variants: int
    categories: int
    catalogue: Catalogue


@change
def replace_catalogue(lines: Iterable[bytes]) -> Imported:
    """Put the products of a catalogue file (JSON Lines of schema.org products) in place of all there are.

    Broken lines are skipped and named in the result. A failure leaves the catalogue as it was.
    """
    catalogue = read_catalogue(lines)
    hold(alone=True)
    models.Product.objects.all().delete()
    models.Category.objects.all().delete()
    models.Attribute.objects.all().delete()
    for batch in batched(catalogue.products, BATCH):
        put_products({product.id: product for product in batch}, ())
    look_anew(len(catalogue.products))
    variants = sum(len(product.articles) for product in catalogue.products)
    return Imported(len(catalogue.products), variants, models.Category.objects.count(), catalogue)
