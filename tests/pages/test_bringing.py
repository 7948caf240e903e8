"""Bringing files in: what is found in them, what would change, what is refused and why, and the way back."""

import subprocess
import tempfile
from fractions import Fraction
from io import StringIO
from pathlib import Path
from unittest import mock

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from openpyxl import Workbook

from binsort.catalog.files import read_ahead
from binsort.catalog.files.cautions import Cautions
from binsort.catalog.files.columns import guessed
from binsort.catalog.files.product_file import product_file_of
from binsort.catalog.files.table import open_table
from binsort.catalog.files.trial import refused_file, trial
from binsort.catalog.files.unreadable import UnreadableTable
from binsort.catalog.files.uploads import DELETE, HIDE
from binsort.catalog.models import Category, Product
from binsort.catalog.store.product_rows import all_products
from binsort.changes.catalogue import replace_catalogue
from binsort.changes.imports import bring_in
from binsort.changes.locks import Refused
from binsort.changes.undo import undo_last
from binsort.core.products.catalogue_writer import line_of
from binsort.demo.loader import CATALOGUE

SHEET = """SKU;Parent;Name;Brand;Category;Tags;Price;Stock;Colour;Diameter (mm);Breaking load;Use;Added
R-1;;Halyard;Orrin;Ropes > Running rigging;new|light;;;;;9,5 kN;racing;31.12.2025
R-1-N-8;R-1;;;;;24,50;4;Navy;8;;;
R-1-R-8;R-1;;;;;24,50;0;Red;8;;;
R-1-R-10;R-1;;;;;29,00;12;Red;10;;;
S-1;;Bow shackle;Hollin;Deck hardware;;1.234,50 €;3;;12;1,5 kN;;
"""


class FileCase(TestCase):
    """With a folder for files."""

    def setUp(self):
        """Make the folder."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, content, name="products.csv"):
        """Write a file; returns its path."""
        path = self.folder / name
        path.write_bytes(content if isinstance(content, bytes) else content.encode())
        return path


class TableTests(FileCase):
    def test_the_cases_of_rfc_4180(self):
        """Section 2: line ends, a missing last one, quotes, commas, line breaks and doubled quotes inside quotes."""
        text = 'aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n"aaa","b\r\nbb","ccc"\r\n"a,aa","b""bb",ccc'
        rows = list(open_table(self.file(text)).rows())
        self.assertEqual([row.cells for row in rows], [("zzz", "yyy", "xxx"), ("aaa", "b\r\nbb", "ccc"), ("a,aa", 'b"bb', "ccc")])
        self.assertEqual([row.line for row in rows], [2, 3, 5])

    def test_encodings_and_delimiters_are_found(self):
        """Whatever spreadsheets write, and it is said what was found."""
        for encoding, delimiter, form in (
            ("utf-8", ",", "CSV, comma, UTF-8"), ("utf-8-sig", ";", "CSV, semicolon, UTF-8"), ("utf-16", "\t", "CSV, tab, UTF-16"),
            ("cp1252", "|", "CSV, bar, CP1252"),
        ):  # fmt: skip
            text = "\n".join(delimiter.join(cells) for cells in (["Name", "Price"], ["Crème, 5", "1"], ["Öse", "2"]))
            text = text.replace("Crème, 5", '"Crème, 5"') if delimiter == "," else text
            table = open_table(self.file(text.encode(encoding)))
            self.assertEqual((table.form, [row.cells for row in table.rows()]), (form, [("Crème, 5", "1"), ("Öse", "2")]))

    def test_hostile_files_are_refused(self):
        """Too many columns, cells without an end, archives that are no workbook, nothing at all: each with what to do."""
        for content, words in (
            (",".join(f"c{n}" for n in range(10_000)), "10,000 columns"),
            ("", "is empty"),
            (b"\x7fELF\0\0\0", "no text and no workbook"),
        ):
            with self.assertRaisesRegex(UnreadableTable, words):
                list(open_table(self.file(content)).rows())

    def test_workbooks(self):
        """Numbers, dates and truths of a workbook are read as they would be written."""
        book = Workbook()
        book.active.append(["SKU", "Name", "Price", "Visible"])
        book.active.append([7, "Fid", 0.1, True])
        path = self.folder / "book.xlsx"
        book.save(path)
        table = open_table(path)
        self.assertEqual((table.form, [row.cells for row in table.rows()]), ("XLSX", [("7", "Fid", "0.1", "yes")]))


class BringingTests(FileCase):
    def products(self):
        """Return what the catalogue holds, by identity."""
        return {product.id: product for product in all_products()}

    def test_a_sheet_with_variants_units_and_commas(self):
        """Meanings are guessed, variants put together, numbers read exactly, attributes put where they differ."""
        source = product_file_of(self.file(SHEET.encode("cp1252")))
        kinds = {column.header: (column.kind, column.unit, column.is_number) for column in source.columns}
        self.assertEqual(kinds["Diameter (mm)"], ("attribute", "mm", True))
        self.assertEqual((kinds["Added"][0], kinds["SKU"][0], kinds["Tags"][0]), ("published", "sku", "tags"))
        record, found = bring_in(source)
        self.assertEqual((record.new, record.changed, found.refusals), (2, 0, []))
        rope, shackle = self.products()["R-1"], self.products()["S-1"]
        self.assertEqual([(v.sku, v.offer.price, v.offer.stock) for v in rope.variants],
                         [("R-1-N-8", Fraction(49, 2), "in"), ("R-1-R-8", Fraction(49, 2), "out"), ("R-1-R-10", 29, "in")])  # fmt: skip
        self.assertEqual(
            [(p.name, p.values, p.unit) for p in rope.variants[2].properties], [("Colour", ("Red",), None), ("Diameter", (10,), "mm")]
        )
        self.assertEqual(
            [(p.name, p.values, p.unit) for p in rope.properties], [("Breaking load", (Fraction(19, 2),), "kN"), ("Use", ("racing",), None)]
        )
        self.assertEqual(
            (rope.tags, rope.categories, rope.published.isoformat()), (("new", "light"), (("Ropes", "Running rigging"),), "2025-12-31")
        )
        self.assertEqual((shackle.offer.price, shackle.offer.currency, shackle.variants), (Fraction(2469, 2), "EUR", ()))

    def test_rows_that_cannot_be_taken(self):
        """Each says line, column, value, reason and mend; the corrected rows come in, and nothing else changes."""
        text = "SKU,Name,Price,Added,Availability\nA,Cleat,dear,2025-01-01,in stock\nB,Block,5,31/2/2025,\nC,,6,,\nD,Fid,7,,soon\n,Nobody,8,,\nE,Eye,9,,sold out\nF,Fork,1,,\nF,Fork,2,,\n"
        source = product_file_of(self.file(text))
        found = trial(source)
        self.assertEqual((found.new, Product.objects.count()), (["E"], 0))
        told = {refusal.line: (refusal.column, refusal.value, refusal.reason) for refusal in found.refusals}
        self.assertEqual(told, {
            2: ("Price", "dear", "is no number"), 3: ("Added", "31/2/2025", "is no date whose day comes first"), 4: ("", "C", "has no name, and no product of yours has this number"),
            5: ("Availability", "soon", "is not understood"), 6: ("", "", "has no number of a product"), 9: ("", "F", "stands on lines 8 and 9"),
        })  # fmt: skip
        self.assertIn("Write it in digits, as 12.50.", str(found.refusals[0]))
        bring_in(source)
        refused_file(source, found, self.folder / "refused.csv")
        corrected = (
            (self.folder / "refused.csv").read_text().replace("dear", "4").replace("31/2/2025", "2025-02-01").replace("soon", "preorder")
        )
        record, again = bring_in(product_file_of(self.file(corrected, "corrected.csv")))
        self.assertEqual((record.new, sorted(self.products()), len(again.refusals)), (3, ["A", "B", "D", "E"], 3))

    def test_a_process_reads_ahead(self):
        """A big file, read by a process of its own, does what it does without; one that ends too early is told, one that nobody waits for ends."""
        rows = "".join(f"S{n},Rope {n},{n},{'-' if n % 5 else n}\n" for n in range(1, 60))
        path = self.file(f"SKU,Name,Price,Note\n{rows}X,,5,a\nS1,Twice,1,b\nY,Amount,-3,c\n")
        here = trial(product_file_of(path))
        with mock.patch.object(read_ahead, "MANY", 0):
            apart = trial(product_file_of(path))
            self.assertEqual((apart.new, apart.refusals, apart.cautions.told()), (here.new, here.refusals, here.cautions.told()))
            self.assertTrue(here.refusals and here.cautions.told())
            begun = []
            popen = subprocess.Popen
            with mock.patch.object(read_ahead.subprocess, "Popen", lambda *given, **more: begun.append(popen(*given, **more)) or begun[-1]):
                groups = read_ahead.groups_ahead(product_file_of(path), Cautions(), 10)
                next(groups)
                groups.close()
                self.assertIsNotNone(begun[0].returncode)
                groups = read_ahead.groups_ahead(product_file_of(path), Cautions(), 1)
                next(groups)
                begun[1].kill()
                with self.assertRaisesRegex(UnreadableTable, "its reader ended before the file did"):
                    list(groups)
            broken = self.file(f"SKU,Name,Text\n{''.join(f'A{n},x,y{chr(10)}' for n in range(300))}" + 'A,"x" y,"z\n' * 300)
            with self.assertRaisesRegex(UnreadableTable, "more than 100 rows open"):
                trial(product_file_of(broken))
            book = self.folder / "book.xlsx"
            sheet = Workbook()
            for row in (("SKU", "Name", "Price"), ("A", "Cleat", 5), ("B", "Block", 6)):
                sheet.active.append(row)
            sheet.save(book)
            self.assertEqual(trial(product_file_of(book)).new, ["A", "B"])

    def test_the_database_knows_its_tables_after_a_large_file(self):
        """It finds a few products by index from the first question on."""
        self.assertEqual(
            bring_in(product_file_of(self.file("SKU,Name\n" + "".join(f"P{n},Cleat {n}\n" for n in range(1500)))))[0].new, 1500
        )
        with connection.cursor() as cursor:
            cursor.execute("SELECT relname, reltuples FROM pg_class WHERE relname IN ('catalog_product', 'catalog_variant')")
            self.assertEqual(dict(cursor.fetchall()), {"catalog_product": 1500, "catalog_variant": 1500})

    def test_a_ragged_row(self):
        """A row with more cells than names is refused, whole in the file of refused rows; the others are taken."""
        path = self.file("SKU,Name,Price\nA,Cleat,1\nB,Line, 8 mm,2\nC,Fender,3\n")
        found = trial(product_file_of(path))
        self.assertEqual((found.new, [str(refusal) for refusal in found.refusals]), (["A", "C"], [
            "line 3: has 4 cells, the header has 3. Put a cell with a delimiter in it in quotes."
        ]))  # fmt: skip
        refused_file(product_file_of(path), found, self.folder / "refused.csv")
        self.assertIn("B,Line,8 mm,2", (self.folder / "refused.csv").read_text("utf-8-sig"))

    def test_the_headings_of_the_trade(self):
        """Tables of tills and wholesalers are recognised without a word."""
        header = ["Item no.", "Dept", "Sell £", "Was", "Qty", "RRP", "Part number", "Bar"]
        kinds = [column.kind for column in guessed(header, [["1"]] * len(header))]
        self.assertEqual(kinds[:6], ["identity", "category", "price", "list_price", "level", "attribute"])
        self.assertEqual([guessed([title], [["1"]])[0].kind for title in ("RRP", "Part number", "Sell", "Stock qty", "Web shop")],
                         ["list_price", "identity", "price", "level", "visible"])  # fmt: skip

    def test_what_is_unchanged_is_left_alone(self):
        """A file brought in twice changes nothing the second time; a changed price changes one product and keeps its place."""
        replace_catalogue(CATALOGUE.read_bytes().splitlines()[:60])
        before = self.products()
        path = self.file(b"\n".join(map(line_of, before.values())), "all.jsonl")
        found = trial(product_file_of(path))
        self.assertEqual((found.new, found.changed, found.unchanged, found.missing), ([], [], 60, []))
        third = list(before.values())[2]
        changed = path.read_bytes().replace(line_of(third), line_of(third).replace(b'"name": "', b'"name": "New ', 1))
        record, _ = bring_in(product_file_of(self.file(changed, "changed.jsonl")))
        self.assertEqual((record.changed, list(self.products())), (1, list(before)))
        self.assertTrue(self.products()[third.id].name.startswith("New "))

    def test_what_the_file_does_not_name(self):
        """Kept, hidden or deleted, as was asked; and undone, all of it."""
        replace_catalogue(CATALOGUE.read_bytes().splitlines()[:20])
        before = self.products()
        one = self.file(line_of(next(iter(before.values()))).replace(b'"name": "', b'"name": "X', 1), "one.jsonl")
        for way, visible, left in (("keep", 20, 20), (HIDE, 1, 20), (DELETE, 1, 1)):
            with self.subTest(way):
                bring_in(product_file_of(one), missing=way)
                self.assertEqual((Product.objects.filter(visible=True).count(), Product.objects.count()), (visible, left))
                undo_last()
                self.assertEqual(self.products(), before)
        with self.assertRaisesRegex(Refused, "nothing that could be undone"):
            undo_last()

    def test_undoing_does_not_lose_later_changes(self):
        """It is refused where products were changed since, unless that is wanted."""
        bring_in(product_file_of(self.file(SHEET)))
        Product.objects.filter(identity="S-1").update(brand="Later")
        with self.assertRaisesRegex(Refused, "S-1 was changed since"):
            undo_last()
        self.assertEqual(len(self.products()), 2)
        undo_last(anyway=True)
        self.assertEqual(self.products(), {})

    def test_all_or_nothing(self):
        """Where it is stopped half way nothing of it is there; categories and the record included."""

        def stop(done, total):
            raise KeyboardInterrupt

        with self.assertRaises(KeyboardInterrupt):
            bring_in(product_file_of(self.file(SHEET)), progress=stop)
        self.assertEqual((Product.objects.count(), Category.objects.count()), (0, 0))
        with self.assertRaisesRegex(Refused, "no row of the file can be taken; the first: line 2"):
            bring_in(product_file_of(self.file("SKU,Name\nA,\n")))

    def test_the_category_tree(self):
        """Paths equal but for letter case are one category in its first spelling; equal slugs get a number; a product is in each once."""
        lines = [b'{"sku": "A", "name": "Cleat", "category": ["Deck > Cleats", "deck > cleats", "Sale"]}',
                 b'{"sku": "B", "name": "Rope", "category": "deck > Ropes"}', b'{"sku": "C", "name": "Rope", "category": "Deck > ropes!"}']  # fmt: skip
        bring_in(product_file_of(self.file(b"\n".join(lines), "tree.jsonl")))
        tree = {category.path_identity: (category.name, category.slug) for category in Category.objects.all()}
        self.assertEqual((tree["deck"], len(tree)), (("Deck", "deck"), 5))
        self.assertEqual((tree["deck > ropes"], tree["deck > ropes!"]), (("Ropes", "ropes"), ("ropes!", "ropes-2")))
        self.assertEqual(Product.objects.get(identity="A").placements.count(), 2)

    def test_queries_do_not_grow_with_categories(self):
        """A batch takes as many queries with forty new categories on two levels as with four."""
        counted = []
        bring_in(product_file_of(self.file('{"sku": "A", "name": "x", "category": "T"}', "one.jsonl")))
        for many in (2, 20):
            lines = "\n".join(f'{{"sku": "{many}-{n}", "name": "x", "category": "T{many}-{n} > U"}}' for n in range(many))
            with CaptureQueriesContext(connection) as queries:
                bring_in(product_file_of(self.file(lines, "many.jsonl")))
            counted.append(len(queries))
        self.assertEqual(counted[0], counted[1])
        self.assertEqual(Category.objects.count(), 45)

    def test_lines_that_cannot_be_stored(self):
        """A character of number 0 is refused with its line; JSON without a product is told what it should hold."""
        path = self.file('{"sku": "A", "name": "a\\u0000b"}\n{"sku": "B", "name": "a\\\\u0000b"}', "zero.jsonl")
        _, found = bring_in(product_file_of(path))
        self.assertEqual((found.new, [refusal.line for refusal in found.refusals]), (["B"], [1]))
        for text, words in (("[]", "no schema.org Product"), ("{", "no JSON"), (b"\xff", "not UTF-8")):
            with self.assertRaisesRegex(UnreadableTable, words):
                trial(product_file_of(self.file(text, "all.json")))

    def test_by_command(self):
        """The command says what was found and done, what is refused, and what to do about a file that is none."""
        out, err = StringIO(), StringIO()
        path = self.file(SHEET + "Z-1;;Zinc;;;;much;;;;;;\n")
        call_command("import_products", str(path), "--trial", stdout=out, stderr=err)
        self.assertIn("2 products would be new", out.getvalue())
        self.assertIn("Diameter (mm): attribute Diameter in mm", out.getvalue())
        self.assertIn("line 7, Price: 'much' is no number", err.getvalue())
        call_command("import_products", str(path), "--refused", str(self.folder / "no.csv"), stdout=out, stderr=err)
        self.assertEqual(len((self.folder / "no.csv").read_text().splitlines()), 2)
        call_command("import_products", "--undo", stdout=out)
        self.assertEqual(Product.objects.count(), 0)
        for arguments, words in ((["nothing.csv"], "cannot be read"), ([], "Name a file"), (["--undo"], "Nothing was changed")):
            with self.assertRaisesRegex(CommandError, words):
                call_command("import_products", *arguments, stdout=out)


class TakingOutTests(FileCase):
    def test_what_goes_out_comes_back_in(self):
        """The demo's catalogue, written and brought in again, has no difference; a folder that is none is told."""
        replace_catalogue(CATALOGUE.read_bytes().splitlines())
        path, out = self.folder / "out.jsonl", StringIO()
        call_command("export_products", str(path), stdout=out)
        self.assertIn("Wrote 1,177 products", out.getvalue())
        found = trial(product_file_of(path))
        self.assertEqual((found.new, found.changed, found.unchanged, found.missing, found.refusals), ([], [], 1177, [], []))
        with self.assertRaisesRegex(CommandError, "cannot be written"):
            call_command("export_products", str(self.folder / "none" / "out.jsonl"), stdout=out)


class GuessTests(TestCase):
    def test_a_number_alone_is_the_product_s(self):
        """SKU is the product's number where nothing else is; a second column of a meaning is an attribute."""
        found = guessed(
            ["Sku", "Product name", "RRP", "Price", "Stars", "Length [m]", "Title", ""],
            [["1"], ["x"], ["2"], ["1"], ["4"], ["1,5"], ["t"], []],
        )
        self.assertEqual([c.kind for c in found], ["identity", "name", "list_price", "price", "rating", "attribute", "attribute", "unused"])
        self.assertEqual((found[5].name, found[5].unit, found[5].is_number, found[6].is_number), ("Length", "m", True, False))
