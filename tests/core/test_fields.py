"""The declarations of fields: complete, and each by itself enough."""

from dataclasses import fields
from unittest import TestCase

from binsort.core.products.fields import BY_KEY, FIELDS
from binsort.core.products.product import Offer, Product


class DeclarationTests(TestCase):
    def test_everything_a_product_has_is_declared(self):
        """A field of a product or an offer without a declaration would be left out of tables, forms and undo without a word."""
        own = {item.name for item in fields(Product)} - {"id", "properties", "offer", "variants"}
        self.assertEqual({field.key for field in FIELDS if not field.of_offer}, own)
        self.assertEqual(
            {key for field in FIELDS if field.of_offer for key in (field.key, *field.further_parts)}, {item.name for item in fields(Offer)}
        )

    def test_a_heading_means_one_thing(self):
        """No two columns are recognised by the same heading, and none is named like another."""
        columns = [column for field in FIELDS for column in field.columns]
        headings = [heading for column in columns for heading in (column.label.lower(), *filter(None, column.headers.split("; ")))]
        self.assertEqual((len(set(headings)), len({column.kind for column in columns})), (len(headings), len(columns)))

    def test_cells_of_a_field(self):
        """A field writes the cells that its columns read."""
        self.assertEqual(
            BY_KEY["categories"].columns[0].write(Product("A", "Cleat", categories=(("Ropes", "Mooring"), ("New",)))), "Ropes > Mooring|New"
        )
        self.assertEqual(
            [column.write(Offer(level=3)) for column in (*BY_KEY["level"].columns, *BY_KEY["sales"].columns)], ["3", "", "", ""]
        )
