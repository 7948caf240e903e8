"""Taking out: what goes out in any form comes back in with no difference, formulas defused; schema.org's own documents come in."""

import json
from itertools import product
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.management import CommandError, call_command
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase
from openpyxl import load_workbook

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.files.export import FORMS, defused, take_out
from binsort.catalog.files.product_file import product_file_of
from binsort.catalog.files.trial import trial
from binsort.changes.catalogue import replace_catalogue
from binsort.changes.imports import bring_in
from binsort.core.values.numbers import exact
from tests.examples import examples

from ..core.worlds import PRODUCTS
from .test_revising import same, state

# As spreadsheets could calculate them (CWE-1236, "Improper Neutralization of Formula Elements in a CSV File").
FORMULAS = ["=1+1", "+1+1", "-1+1", "@SUM(A1)", "\t=1", "=cmd|' /C calc'!A0", "'=x", "''=x", "'quoted'"]
# After the examples of https://schema.org/Product and https://schema.org/ProductGroup, shortened; from memory, names invented.
GRAPH = {
    "@context": "https://schema.org/",
    "@graph": [
        {"@type": "Organization", "name": "Saltmarsh Chandlery"},
        {
            "@type": "Product", "sku": "0446310786", "name": "Anchor lamp", "image": "lamp.png", "brand": {"@type": "Brand", "name": "Orrin"},
            "aggregateRating": {"@type": "AggregateRating", "ratingValue": "4.4", "reviewCount": "89"},
            "offers": {"@type": "Offer", "availability": "https://schema.org/InStock", "price": "119.99", "priceCurrency": "USD"},
        },
        {
            "@type": "ProductGroup", "productGroupID": "44E01", "name": "Oilskin coat", "variesBy": ["https://schema.org/color"],
            "hasVariant": [
                {"@type": "Product", "sku": "44E01-M1", "name": "Small green", "offers": {"@type": "Offer", "price": 39.99, "priceCurrency": "USD"}},
                {"@type": "Product", "sku": "44E01-X1", "name": "Large blue", "offers": {"@type": "Offer", "price": 49.99}},
            ],
        },
    ],
}  # fmt: skip


class TakingOutTests(TestCase):
    def setUp(self):
        """Make a folder."""
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    @examples(25)
    @given(
        st.lists(PRODUCTS, max_size=7, unique_by=lambda document: document["sku"]),
        st.sampled_from(["csv", "csv", "xlsx", "jsonl", "jsonld"]),
    )
    def test_round_trips(self, documents, form):
        """Any catalogue, taken out, has no difference to the one there is; brought into an empty one, it is the same again."""
        replace_catalogue(json.dumps(document).encode() for document in documents)
        before, path = state(), self.folder / f"out.{form}"
        self.assertEqual(take_out(path, form), len(before))
        if before:
            found = trial(product_file_of(path))
            self.assertEqual((found.new, found.changed, found.missing, found.refusals), ([], [], [], []))
            replace_catalogue([])
            bring_in(product_file_of(path))
            self.assertTrue(same(state(), before))
            self.assertEqual(list(state()), list(before))

    @examples(15)
    @given(
        st.lists(
            st.sampled_from([*FORMULAS, "a|b", "a;b", '{"a": 1}', "5", "-5", "x\x07y", "=", "a,b", '"', "(text)"]), min_size=3, max_size=3
        )
    )
    def test_texts_that_tables_trip_over(self, texts):
        """Formulas, separators, numbers written as texts, control characters: all come back as they were."""
        name, value, tag = texts
        given = [{"name": "Note", "value": value}, {"name": "Size (x)", "value": [tag, name]}]
        replace_catalogue([json.dumps({"sku": "A", "name": name, "keywords": [tag], "brand": value, "additionalProperty": given}).encode()])
        before = state()
        for form in ("csv", "xlsx"):
            path = self.folder / f"out.{form}"
            take_out(path, form)
            found = trial(product_file_of(path))
            self.assertEqual((found.changed, found.unchanged), ([], 1), path.read_bytes() if form == "csv" else form)
        self.assertTrue(same(state(), before))

    def test_no_cell_is_a_formula(self):
        """Whatever begins as one has a mark before it, in the workbook too, and numbers stay numbers."""
        replace_catalogue([json.dumps({"sku": f"F{n}", "name": text.strip()}).encode() for n, text in enumerate(FORMULAS)])
        take_out(self.folder / "out.xlsx", "xlsx")
        cells = [cell for row in load_workbook(self.folder / "out.xlsx").active.iter_rows() for cell in row if cell.value is not None]
        self.assertFalse([cell.value for cell in cells if cell.data_type == "f" or str(cell.value)[:1] in "=+@"])
        self.assertEqual([defused(text) for text in ("-5", "-5.5", "Navy")], ["-5", "-5.5", "Navy"])

    def test_more_than_a_table_holds(self):
        """Cells beyond what a spreadsheet keeps, more columns than it has, 800 variants, a sign XML cannot have: nothing is cut."""
        many = [{"name": f"Trait {n}", "value": "x"} for n in range(620)]
        sizes = [
            {"@type": "Product", "sku": f"V{n}", "offers": {"@type": "Offer", "price": n}, "additionalProperty": many[n % 9 : n % 9 + 1]}
            for n in range(800)
        ]
        order = [{"name": name, "value": 1} for name in ("Width", "Height", "Angle")]
        documents = [
            {"sku": "LONG", "name": "Long", "description": "word " * 9000, "additionalProperty": order},
            {"sku": "ODD", "name": "Odd \ufffe sign", "additionalProperty": order[::-1]},
            {"sku": "WIDE", "name": "Wide", "additionalProperty": many},
            {"@type": "ProductGroup", "productGroupID": "MANY", "name": "Many", "hasVariant": sizes},
        ]
        for part, form in product((documents[:3], documents[3:]), ("csv", "xlsx")):
            replace_catalogue(json.dumps(document).encode() for document in part)
            before, path = state(), self.folder / f"out.{form}"
            take_out(path, form)
            found = trial(product_file_of(path))
            self.assertEqual((found.new, found.changed, found.unchanged, found.refusals), ([], [], len(part), []))
            replace_catalogue([])
            bring_in(product_file_of(path))
            self.assertTrue(same(state(), before), form)
            columns = [column.name for column in product_file_of(path).columns if column.kind == "attribute"]
            self.assertEqual(columns, [row.name for row in definitions().values() if row.name in columns], "the order of the dictionary")

    def test_what_no_table_says_is_named(self):
        """Products that a table does not give back are named, and no file is given: by the page, by the command."""
        replace_catalogue([b'{"sku": "A", "name": "a"}'])
        user = get_user_model().objects.create_user("mara", is_staff=True)
        self.client.force_login(user)
        with mock.patch("binsort.catalog.files.export._wrong", return_value={"A"}):
            with self.assertRaisesRegex(CommandError, "would not give back A"):
                call_command("export_products", str(self.folder / "out.csv"))
            page = self.client.post("/catalogue/take-out/csv/", {"query": "q=a"}, follow=True)
        self.assertContains(page, "The table would not give back A as they are. Take them out as JSON Lines.")
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_some_products_and_the_command(self):
        """A selection in its order; a form that is none, and a folder that is none, are told."""
        replace_catalogue([b'{"sku": "A", "name": "a"}', b'{"sku": "B", "name": "b"}'])
        self.assertEqual(take_out(self.folder / "some.jsonl", "jsonl", ["B", "gone"]), 1)
        self.assertEqual(json.loads((self.folder / "some.jsonl").read_text())["sku"], "B")
        for name, words in (("out.pdf", "no form that can be written"), ("none/out.csv", "cannot be written")):
            with self.assertRaisesRegex(CommandError, words):
                call_command("export_products", str(self.folder / name))
        self.assertEqual(sorted(path.name for path in self.folder.iterdir()), ["some.jsonl"])
        self.assertEqual(set(FORMS), {"csv", "xlsx", "jsonl", "jsonld"})

    def test_documents_of_schema_org(self):
        """A graph with a product and a group comes in, other things in it left out; an item list does as well."""
        path = self.folder / "graph.jsonld"
        path.write_text(json.dumps(GRAPH))
        bring_in(product_file_of(path))
        found = state()
        lamp, coat = found["0446310786"], found["44E01"]
        self.assertEqual((lamp.offer.price, lamp.rating, lamp.brand, lamp.offer.stock), (exact("119.99"), exact("4.4"), "Orrin", "in"))
        self.assertEqual([(a.sku, a.offer.price) for a in coat.variants], [("44E01-M1", exact("39.99")), ("44E01-X1", exact("49.99"))])
        listed = {"@type": "ItemList", "itemListElement": [{"@type": "ListItem", "item": item} for item in GRAPH["@graph"][1:]]}
        path.write_text(json.dumps(listed))
        again = trial(product_file_of(path))
        self.assertEqual((again.new, again.changed, again.unchanged), ([], [], 2))
