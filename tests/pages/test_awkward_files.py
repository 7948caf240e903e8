"""Files as they come: with what stands above the table, broken rows, words for nothing, other countries' dates and signs, hostile workbooks."""

import json
from datetime import date
from io import BytesIO

from django.test import override_settings
from openpyxl import Workbook

from binsort.catalog.files.cautions import said
from binsort.catalog.files.product_file import product_file_of
from binsort.catalog.files.table import open_table
from binsort.catalog.files.trial import refused_file, trial
from binsort.catalog.files.unreadable import UnreadableTable
from binsort.catalog.models import Attribute, Upload
from binsort.catalog.store.product_rows import products_of
from binsort.changes.imports import bring_in
from binsort.core.products.limits import beyond_limits
from binsort.core.products.product import Product
from binsort.core.values.amounts import read_amount
from binsort.core.values.numbers import exact
from binsort.core.values.written_dates import read_date

from .test_bringing import FileCase
from .test_uploads import UploadCase
from .workbooks import SHEET, write_workbook


class LineTests(FileCase):
    def rows(self, content):
        """Return line, cells and problem of the rows of a file."""
        table = open_table(self.file(content))
        return [(row.line, row.cells, row.problem[0] if row.problem else "") for row in table.rows()]

    def test_a_quotation_mark_that_is_not_closed(self):
        """Swallows no row: its own is told, those below it are read, whether another mark ends it or the file does."""
        for rest in ("", 'E,"Eye, small",5\n'):
            rows = self.rows(f'SKU,Name,Price\nA,"Open,1\nB,Block,2\nC,Cleat,3\n{rest}')
            self.assertEqual([(line, cells[0], bool(problem)) for line, cells, problem in rows],
                             [(2, "A", True), (3, "B", False), (4, "C", False), *([(5, "E", False)] if rest else [])])  # fmt: skip
            self.assertEqual(rows[0][2], "opens a quotation mark that is not closed")
        self.assertEqual(self.rows('SKU,Name,Text\nA,Cleat,"two, three\nof, them"\n'), [(2, ("A", "Cleat", "two, three\nof, them"), "")])
        with self.assertRaisesRegex(UnreadableTable, "more than 100 rows open"):
            self.rows("SKU,Name,Text\n" + 'A,"x" y,"z\n' * 300)

    def test_a_row_that_is_too_long(self):
        """Is refused alone; a cell of a megabyte is neither taken for a sign of another delimiter nor for the end of the file."""
        rows = self.rows(f"SKU;Name;Text\nA;Cleat;{'x, ' * 350_000}\nB;Block;y\n")
        self.assertEqual([(line, cells[0], problem[:10]) for line, cells, problem in rows], [(2, "A", "has a cell"), (3, "B", "")])
        self.assertIn("1,049,999 characters, more than 100,000", rows[0][2])
        self.assertEqual([row[1][0] for row in self.rows(f"SKU,Name\nA,{'x' * 1_300_000}\nB,y\n") if not row[2]], ["B"])

    def test_what_stands_above_the_table(self):
        """Blank lines, titles and the line that names the delimiter are passed over, and it is said."""
        for above, first in (("\n\n", 3), ("Stock of May;;;\n;;;\n", 3), ("sep=;\n", 2), ('"sep=;"\r\n', 2)):
            table = open_table(self.file(f"{above}SKU;Name;Price;Was\nA;Cleat, large;1,50;\n"))
            self.assertEqual((table.header, table.first), (("SKU", "Name", "Price", "Was"), first), above)
            self.assertEqual([(row.line, row.cells[1]) for row in table.rows()], [(first + 1, "Cleat, large")])
            self.assertEqual(table.notes(), [f"What stands above the names of the columns, on line {first}, was passed over."])

    def test_a_stray_byte(self):
        """Does not turn a file of UTF-8 into another encoding; it is told, and where."""
        content = "SKU,Name\nA,Crème\nB,Öse\n".encode() + b"C,Caf\xe9\n"
        self.assertEqual([row[1][1] for row in self.rows(content)], ["Crème", "Öse", "Caf\ufffd"])
        result = trial(product_file_of(self.file(content)))
        self.assertEqual(list(map(said, result.cautions.told())), ["1 cell has a character that could not be read (line 4)."])

    def test_refused_rows_come_out_defused(self):
        """A spreadsheet calculates none of them, reads their letters, and gets back what stood in the file."""
        source = product_file_of(self.file("SKU,Name,Price\nA,=1+1,dear\nÖ,Öse,-\nN/A,Nobody,\n"))
        out = self.folder / "refused.csv"
        refused_file(source, trial(source), out)
        self.assertEqual(out.read_bytes()[:3], b"\xef\xbb\xbf")
        self.assertEqual(out.read_text("utf-8-sig").splitlines(), ["SKU,Name,Price", "A,'=1+1,dear", "N/A,Nobody,"])


class ColumnTests(FileCase):
    def product(self, header, *rows, key="A"):
        """Bring rows in; returns one product."""
        bring_in(product_file_of(self.file("\n".join((header, *rows)))))
        return products_of([key])[key]

    def test_dates_by_column(self):
        """British dates where the shop is in Britain; one date that tells settles its column; names of months are read."""
        texts = {"31/03/2021": "2021-03-31", "31.3.21": "2021-03-31", "30 June 2024": "2024-06-30", "30-Jun-2024": "2024-06-30",
                 "Jun 30, 2024": "2024-06-30", "Mon 3 March 2025": "2025-03-03", "2024/06/30": "2024-06-30", "2024-06-30": "2024-06-30",
                 "20240630": "2024-06-30", "1st May 2020": "2020-05-01"}  # fmt: skip
        for text, wanted in texts.items():
            self.assertEqual(read_date(text), date.fromisoformat(wanted), text)
        for text in ("31/31/2021", "5", "June", "12.5", "30 Juno 2024", "2024", "1/2", "32/1/2024"):
            self.assertIsNone(read_date(text), text)
        for locale, rows, wanted in (
            ("en_GB", ["A,x,3/4/2024"], "2024-04-03"), ("en_US", ["A,x,3/4/2024"], "2024-03-04"),
            ("en_GB", ["A,x,3/4/2024", "B,y,6/30/2024"], "2024-03-04"), ("en_US", ["A,x,3/4/2024", "B,y,31/12/2024"], "2024-04-03"),
        ):  # fmt: skip
            with override_settings(LOCALE=locale):
                self.assertEqual(self.product("SKU,Name,Added", *rows).published.isoformat(), wanted)
        held = self.product("SKU,Name,Made,Sale price,Sale from", "A,x,31/03/2021,5,1/12/2026 08:00")
        self.assertEqual(held.properties[0].values, ("2021-03-31",))
        self.assertEqual(Attribute.objects.get(name="Made").kind, "date")
        self.assertEqual(len(held.offer.sales), 1)

    def test_signs_beside_amounts(self):
        """Codes and signs of currencies stand on either side, the sign of what is below 0 before them; they are warned of."""
        for text, wanted in (
            ("USD 12", (12, "USD")),
            ("CHF 12", (12, "CHF")),
            ("12 kr", (12, "kr")),
            ("-£5", (-5, "£")),
            ("£-5", (-5, "£")),
        ):
            self.assertEqual(read_amount(text), wanted)
        for text in ("USB 12", "£5 EUR", "--5", "5 parsecs"):
            self.assertIsNone(read_amount(text), text)
        self.product("SKU,Name,Price", "A,x,£5", "B,y,£6")
        result = trial(product_file_of(self.file("SKU,Name,Price\nA,x,-£5\nB,y,USD 12\nC,z,12 kr\nD,w,£7\n")))
        self.assertEqual(list(map(said, result.cautions.told())), [
            "Price: 1 amount is below 0 (line 2).", "1 price is in USD, which is not the currency of your catalogue (line 3).",
            "1 price is in “kr”, which several countries have: give the currency a column of its own (line 4).",
        ])  # fmt: skip

    def test_words_for_nothing(self):
        """Are nothing in every column but names and texts, and turn no column of numbers into one of texts."""
        held = self.product("SKU,Name,Reach,Finish,Tags,Was", "A,None,12,NA,-,n/a", "B,x,N/A,Matt,new|none,?", "C,y,?,Gloss,,1", "D,z,7,,,")
        self.assertEqual((held.name, held.tags, held.offer.list_price), ("None", (), None))
        self.assertEqual([(prop.name, prop.values) for prop in held.properties], [("Reach", (12,))])
        self.assertEqual((Attribute.objects.get(name="Reach").kind, products_of(["B"])["B"].tags), ("number", ("new",)))

    def test_yes_and_no(self):
        """TRUE, yes and 1 are one value of an attribute."""
        self.product("SKU,Name,Folding", "A,x,TRUE", "B,y,yes", "C,z,1", "D,w,No")
        values = [product.properties[0].values for product in products_of("ABCD").values()]
        self.assertEqual((values, Attribute.objects.get().kind), ([("yes",)] * 3 + [("no",)], "yes_no"))

    def test_categories_by_another_sign(self):
        """What parts categories is the sign that their column has."""
        for sign in ("›", "/", "\\"):
            held = self.product("SKU,Name,Dept", f"A,x,Ropes {sign} Mooring", f"B,y,Ropes{sign}Warps")
            self.assertEqual(held.categories, (("Ropes", "Mooring"),), sign)
        self.assertEqual(self.product("SKU,Name,Dept", "A,x,Rope/Wire > Mooring").categories, (("Rope/Wire", "Mooring"),))

    def test_one_number_of_several_and_circles(self):
        """A variant's number twice, under two parents, and rows that are each other's parents are warned of with their lines."""
        text = "SKU,Parent,Name\nP,,x\nP-1,P,\nP-1,P,\nQ,,y\nP-1,Q,\nK,L,k\nL,K,l\n"
        told = list(map(said, trial(product_file_of(self.file(text))).cautions.told()))
        self.assertEqual(told, ["2 numbers stand on several variants (P-1) (lines 4, 6).",
                                "2 rows are variants of what is a variant itself (K of L, L of K) (lines 7, 8)."])  # fmt: skip

    def test_limits(self):
        """What could not be kept is refused in the trial, with line and limit."""
        for header, cell, words in (
            ("Name", "x" * 3000, "Name: 'xxxx"), ("Dept", "x" * 3000, "Category: 'xxx"), ("Dept", " > ".join("abcdefg" * 22), "levels, more than 30"),
            ("Rating", "4." + "3" * 300, "digits, more than 40"), ("Price", "9" * 300, "digits, more than 40"), ("z" * 3000, "x", "Name of an attribute"),
            ("Product as JSON", '"{""sku"": ""B"", ""name"": ""x""}"', "is the product B, its row is of A"),
        ):  # fmt: skip
            result = trial(
                product_file_of(self.file(f"SKU,Name,{header}\nA,Cleat,{cell}\n" if header != "Name" else f"SKU,Name\nA,{cell}\n"))
            )
            self.assertEqual((result.new, [refusal.line for refusal in result.refusals]), ([], [2]), header[:20])
            self.assertIn(words, str(result.refusals[0]))
        self.assertIn(
            "has 3,000 characters, more than 500", str(trial(product_file_of(self.file(f"SKU,Name\n{'s' * 3000},x\n"))).refusals[0])
        )
        self.assertEqual(beyond_limits(Product("A", "Cleat", rating_value=exact("4.333333333333"))), [])


class PublishedTests(FileCase):
    def test_what_shops_publish(self):
        """AggregateOffer, ImageObject, color and QuantitativeValue as schema.org defines them; what has no place is told."""
        item = {
            "@type": "Product", "sku": "A", "name": "Fender", "color": ["Navy", "White"], "gtin13": "4006381333931", "image": [{"@type": "ImageObject",
            "contentUrl": "https://x.example/1.jpg"}, "https://x.example/2.jpg"], "weight": {"@type": "QuantitativeValue", "value": 1.5, "unitCode": "KGM"},
            "offers": {"@type": "AggregateOffer", "lowPrice": "12.50", "highPrice": 19, "priceCurrency": "EUR"}, "brand": [{"@type": "Brand", "name": "Orrin"}],
        }  # fmt: skip
        _, result = bring_in(product_file_of(self.file(json.dumps({"@graph": [item]}), "all.jsonld")))
        held = products_of(["A"])["A"]
        self.assertEqual(
            (held.image, held.brand, held.offer.price, held.offer.currency), ("https://x.example/1.jpg", "Orrin", exact("12.5"), "EUR")
        )
        self.assertEqual([(prop.name, prop.values, prop.unit) for prop in held.properties],
                         [("Colour", ("Navy",), None), ("Colour", ("White",), None), ("Weight", (exact("1.5"),), "kg")])  # fmt: skip
        self.assertEqual(list(map(said, result.cautions.told())),
                         ["1 product has prices from … to …: the lowest is taken (line 1).", "gtin13 of 1 product is not taken (line 1)."])  # fmt: skip


class WorkbookTests(FileCase):
    def test_broken_and_hostile_workbooks(self):
        """Each is refused in words by a process of its own, which ends with it."""
        ranged = SHEET.replace('r="2"', 'r="900000000"').replace('2"', '900000000"')
        for sheet, texts, words in (
            (SHEET[:-60], "", "cannot be read"), (SHEET.replace("<v>3</v>", "<v>999</v>"), "", "cannot be read"),
            (SHEET.replace("<v>7</v>", "<v>abc</v>"), "", "cannot be read"), (SHEET.replace('r="A3"', 'r="!!"'), "", "cannot be read"),
            (SHEET.replace('<c r="A3">', '<c r="A3" t="d">'), "", "cannot be read"), (ranged, "", "row 900,000,000, beyond the 1,048,576"),
            ("", f"<si><t>{'x' * 100}</t></si>" * 600_000, "MB of texts, more than 50"),
        ):  # fmt: skip
            path = self.folder / "book.xlsx"
            write_workbook(path, sheet, texts)
            with self.assertRaisesRegex(UnreadableTable, words):
                open_table(path)
        write_workbook(path)
        self.assertEqual([row.cells[2] for row in open_table(path).rows()], ["12345678901234567890", "0.00000015"])
        content = bytearray(path.read_bytes())
        content[content.find(b"xl/worksheets/sheet1.xml") + 60] ^= 0xFF
        path.write_bytes(content)
        with self.assertRaisesRegex(UnreadableTable, "cannot be read"):
            open_table(path)


class PageTests(UploadCase):
    def test_sheets_of_a_workbook(self):
        """The first that holds something is read; another is chosen; formulas without a value are named; what is broken is said."""
        book = Workbook()
        book.active.title = "Notes"
        for title, rows in (
            ("Stock", [["SKU", "Name", "Price"], ["W-1", "Winch", "=1+1"]]),
            ("Old", [["SKU", "Name"], ["O-1", "Oar"], ["O-2", "Oar"]]),
        ):
            sheet = book.create_sheet(title)
            for row in rows:
                sheet.append(row)
        out = BytesIO()
        book.save(out)
        page = self.upload(out.getvalue(), "book.xlsx")
        self.assertEqual((self.report()[0], Upload.objects.get().sheet), (1, "Stock"))
        self.assertContains(page, "1 formulas have no value in the file (C2)")
        self.post(sheet="Old")
        self.assertEqual((self.report()[0], Upload.objects.get().form), (2, "XLSX, Old"))
        self.assertContains(self.post(bring="1"), "2 new and 0 changed")
        path = BytesIO()
        write_workbook(path, SHEET.replace("<v>7</v>", "<v>abc</v>"))
        page = self.upload(path.getvalue(), "broken.xlsx")
        self.assertContains(page, "The workbook cannot be read")
        self.assertContains(page, "Leave the file")

    def test_questions_are_asked_and_remembered(self):
        """How a column is read stands under its values; where it does not tell, somebody does, for this file and the next."""
        text = 'SKU,Name,Price,Added,Finish,Dept\nA,Cleat,"1,299",3/4/2024,NA,Deck/Cleats\nN,Nut,"2,100",5/6/2024,Matt,Deck\nM,Mug,,,None,Galley\n'
        page = self.upload(text).context["page"]
        asked = {question.name: (question.chosen, question.settled) for column in page.columns for question in column.questions}
        self.assertEqual(
            asked, {"c:2:decimal": (".", False), "c:3:dates": ("day", False), "c:4:nothing": ("", False), "c:5:steps": (">", False)}
        )
        self.assertEqual(
            [column.samples[0] for column in page.columns[2:5]], [("1,299", ""), ("3/4/2024", "3 Apr 2024"), ("NA", "nothing")]
        )
        for answer in ({"c:2:decimal": ","}, {"c:3:dates": "month"}, {"c:4:nothing": "value"}, {"c:5:steps": "/"}):
            page = self.post(**answer).context["page"]
        self.assertTrue(all(question.settled for column in page.columns for question in column.questions))
        self.assertEqual([column.samples[0][1] for column in page.columns[2:]], ["1.299", "4 Mar 2024", "", "Deck > Cleats"])
        self.post(bring="1", remember="1")
        held = products_of(["A"])["A"]
        self.assertEqual(
            (held.offer.price, held.published.isoformat(), held.categories), (exact("1.299"), "2024-03-04", (("Deck", "Cleats"),))
        )
        self.assertIn(("Finish", ("NA",)), [(prop.name, prop.values) for prop in held.properties])
        self.assertEqual([column.asks for column in self.upload(text).context["page"].columns], [False] * 6)

    def test_refused_rows_are_mended_in_place(self):
        """Read as proposed, written anew, or left out: the trial is run again with them, and they come in."""
        page = self.upload("SKU,Name,Price\nK,Kite,12 each\nL,Lamp,POA\n,Mop,3\nO,Oar,4\nO,Oars,5\nP,Pin,1.50\n").context["page"]
        told = [(view.line, view.field, view.cell, view.proposal, view.leaves) for view in page.refusals]
        self.assertEqual(
            told, [(2, "m:2:2", "12 each", "12", ()), (3, "m:3:2", "POA", "", ()), (4, "m:4:0", "", "", ()), (6, "", "", "", (6,))]
        )
        self.post(mend="m:2:2=12")
        self.post(**{"m:3:2": "7.25", "was:3:2": "POA", "m:4:0": "MOP", "was:4:0": ""})
        page = self.post(leave="6").context["page"]
        self.assertEqual((self.report(), page.refusals, page.mended), ([5, 0, 0, 3, 0], (), 4))
        self.post(bring="1")
        prices = {name: product.offer.price for name, product in products_of(["K", "L", "MOP", "O"]).items()}
        self.assertEqual(prices, {"K": 12, "L": exact("7.25"), "MOP": 3, "O": 4})
