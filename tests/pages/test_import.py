"""Loading a catalogue file by command."""

import io
import tempfile
from pathlib import Path

from django.core.management import CommandError, call_command
from django.test import TestCase

from binsort.catalog.models import Category, Product

LINES = b"""{"sku": "A", "name": "Cleat", "category": ["Deck > Cleats", "deck > cleats", "Sale"], "offers": {"price": 0.1}}
{"sku": "B", "name": "Rope", "category": "deck > Ropes", "hasVariant": [{"sku": "B-1"}, {"sku": "B-2"}]}
{"sku": "C", "name": "Rope", "category": "Deck > ropes!"}
broken
"""


class ImportTests(TestCase):
    def setUp(self):
        """Write a catalogue file."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.file = Path(folder.name) / "catalogue.jsonl"
        self.file.write_bytes(LINES)

    def load(self, *options):
        """Run the command; returns what it said."""
        out, err = io.StringIO(), io.StringIO()
        call_command("import_catalogue", self.file, *options, stdout=out, stderr=err)
        return out.getvalue().strip(), err.getvalue().strip()

    def test_what_came_in_and_what_did_not(self):
        """Figures of what was loaded, the number and reason of each line that was not."""
        out, err = self.load()
        self.assertEqual(out, "Loaded 3 products, 4 variants, 5 categories.")
        self.assertEqual(err, "line 4 skipped: not JSON: Expecting value")
        tree = {category.path_identity: (category.name, category.slug) for category in Category.objects.all()}
        self.assertEqual(tree["deck"], ("Deck", "deck"))
        self.assertEqual((tree["deck > ropes"], tree["deck > ropes!"]), (("Ropes", "ropes"), ("ropes!", "ropes-2")))
        self.assertEqual(Product.objects.get(identity="A").placements.count(), 2)

    def test_products_are_not_overwritten_unasked(self):
        """A second load needs --replace, and then takes the place of all."""
        self.load()
        with self.assertRaisesMessage(CommandError, "There are 3 products already. With --replace the file takes their place."):
            self.load()
        self.file.write_bytes(LINES.splitlines()[0])
        self.assertEqual(self.load("--replace")[0], "Loaded 1 products, 1 variants, 3 categories.")
        self.assertEqual(Category.objects.count(), 3)

    def test_a_file_that_is_not_there(self):
        """The reason and what to check."""
        self.file.unlink()
        with self.assertRaisesMessage(CommandError, "cannot be read: No such file or directory. Check its name and rights."):
            self.load()
