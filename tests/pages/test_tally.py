"""Always current: whoever writes, in whatever way, the next answer has it."""

from datetime import timedelta
from unittest import mock

from django.db import connection, transaction
from django.test import TestCase

from binsort.catalog.models import Product, Variant
from binsort.changes import facets as facet_changes
from binsort.changes.catalogue import replace_catalogue
from binsort.core.facets.query import Query
from binsort.core.values.dates import now_in_seconds
from binsort.racks.setup import the_setup
from binsort.tally import current as tally

LINES = [
    f'{{"sku": "P{n}", "name": "P{n}", "brand": "B{n % 2}", "category": "A > B{n % 2}", "offers": {{"price": {n}}}}}'.encode()
    for n in range(1, 9)
]
BRAND = {"key": "brand", "label": "Brand", "source": {"kind": "brand"}}


def counts():
    """Return the count of each brand."""
    held = tally.current()
    rack = held.rack(the_setup().draft.facet_file.facets)
    return {made.key: made.count for made in rack.answer(Query()).facets[0].bins}


class CurrentTests(TestCase):
    def setUp(self):
        """Load eight products of two brands."""
        replace_catalogue(LINES)
        facet_changes.add_facet(BRAND, rack="side", actor=None)

    def test_every_way_of_writing(self):
        """Saves, queryset updates, bulk writes, raw SQL, deletes."""
        self.assertEqual(counts(), {"b0": 4, "b1": 4})
        Product.objects.filter(identity="P1").update(brand="B2")
        self.assertEqual(counts(), {"b0": 4, "b1": 3, "b2": 1})
        row = Product.objects.get(identity="P2")
        row.visible = False
        row.save()
        self.assertEqual(counts(), {"b0": 3, "b1": 3, "b2": 1})
        Product.objects.bulk_update([Product(pk=row.pk, brand="B1", visible=True)], ["brand", "visible"])
        self.assertEqual(counts(), {"b0": 3, "b1": 4, "b2": 1})
        with connection.cursor() as cursor:
            cursor.execute("UPDATE catalog_product SET brand = 'B9' WHERE identity = 'P3'")
        self.assertEqual(counts(), {"b0": 3, "b1": 3, "b2": 1, "b9": 1})
        Product.objects.filter(brand="B1").delete()
        self.assertEqual(counts(), {"b0": 3, "b2": 1, "b9": 1})

    def test_what_is_rolled_back_was_never_there(self):
        """A failed change leaves the counts as they were."""
        with self.assertRaises(RuntimeError), transaction.atomic():
            Product.objects.update(brand="Gone")
            self.assertEqual(counts(), {"gone": 8})
            raise RuntimeError
        self.assertEqual(counts(), {"b0": 4, "b1": 4})

    def test_half_an_import_never_lands(self):
        """An import that fails leaves the catalogue that was there."""
        with mock.patch("binsort.catalog.store.product_writer.variant_values", side_effect=RuntimeError), self.assertRaises(RuntimeError):
            replace_catalogue(LINES[:2])
        self.assertEqual(Product.objects.count(), 8)

    def test_time_itself_changes_prices(self):
        """A reduction that ends is over at that moment, with nothing written."""
        now = now_in_seconds()
        Variant.objects.filter(product__identity="P8").update(sales=[["1", None, str(now + 60)]])
        price = tally.current().index.column(tally_source("price"))
        self.assertEqual([int(n) for n in price.numbers], [1, 2, 3, 4, 5, 6, 7])
        with mock.patch.object(tally, "now_in_seconds", return_value=now + timedelta(minutes=2).seconds):
            price = tally.current().index.column(tally_source("price"))
            self.assertEqual([int(n) for n in price.numbers], [1, 2, 3, 4, 5, 6, 7, 8])

    def test_nothing_is_built_when_nothing_changed(self):
        """The same index answers until something is written; then another."""
        first = tally.current()
        self.assertIs(tally.current(), first)
        Product.objects.filter(identity="P1").update(brand="B2")
        self.assertIsNot(tally.current(), first)


def tally_source(kind):
    """Return a source of a kind."""
    from binsort.core.facets.spec import Source

    return Source(kind)
