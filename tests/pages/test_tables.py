"""Tables of any kind, against what other readers and writers of the trade make of them."""

import csv
import tempfile
from decimal import Decimal
from fractions import Fraction
from io import StringIO
from pathlib import Path
from unittest import TestCase

import pandas
from babel.numbers import format_decimal
from hypothesis import example, given
from hypothesis import strategies as st

from binsort.catalog.files.product_file import product_file_of
from binsort.catalog.files.table import open_table
from binsort.core.values.amounts import decimal_sign, read_amount
from binsort.core.values.nothing import is_nothing
from binsort.core.values.numbers import written as written_plain
from binsort.core.values.text import normalise
from tests.examples import examples

LETTERS = st.text(st.characters(blacklist_categories=("Cs", "Cc", "Cn"), blacklist_characters="\x85\u2028\u2029"), max_size=12)
WORDS = LETTERS.filter(lambda text: not is_nothing(text))  # N/A, none and others are no brand
CELLS = st.one_of(LETTERS, st.sampled_from(['say "hi"', "a,b;c\td|e", "line\nbreak", "=1+1", "חבל", "🚤", " padded ", "'", '"']))


class AgainstOthersTests(TestCase):
    """With a folder for files."""

    def setUp(self):
        """Make the folder."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "table.csv"

    @example([["line\nbreak", "", "line\nbreak"]], ",", "utf-8")  # a line of it looks like a row
    @examples(80)
    @given(
        st.lists(st.lists(CELLS, min_size=3, max_size=3), min_size=3, max_size=6),
        st.sampled_from(",;\t|"),
        st.sampled_from(["utf-8", "utf-8-sig", "utf-16"]),
    )
    def test_what_a_csv_writer_writes_is_read(self, rows, delimiter, encoding):
        """Any cells, in any form, are those that were written, and those that pandas reads when it is told the form."""
        rows = [["Name", "Brand", "Note"], *(row for row in rows if any(cell.strip() for cell in row))]
        out = StringIO()
        csv.writer(out, delimiter=delimiter, quoting=csv.QUOTE_ALL).writerows(rows)
        self.path.write_bytes(out.getvalue().encode(encoding))
        table = open_table(self.path)
        self.assertEqual((table.delimiter, table.header), (delimiter, ("Name", "Brand", "Note")))
        self.assertEqual([row.cells for row in table.rows()], [tuple(cell.strip() for cell in row) for row in rows[1:]])
        frame = pandas.read_csv(self.path, sep=delimiter, encoding=encoding, dtype=str, keep_default_na=False, skip_blank_lines=False)
        self.assertEqual(len(frame), len(rows) - 1)

    def test_amounts_as_locales_write_them(self):
        """Numbers as Babel formats them for ten locales are read exactly, grouped or not, with the currency on either side."""
        amounts = [Decimal(text) for text in ("0", "0.5", "12.25", "999.99", "1234.5", "12345.67", "1234567.891", "-7.5")]
        for locale in ("en", "en_GB", "de", "de_CH", "fr", "es", "it", "sv", "pl", "nb"):
            for amount in amounts:
                for grouping in (True, False):
                    text = format_decimal(amount, locale=locale, group_separator=grouping)
                    for written in (text, f"€{text}" if amount >= 0 else text, f"{text} EUR", f"{text} mm"):
                        read = read_amount(written)
                        self.assertIsNotNone(read, (locale, written))
                        self.assertEqual(read[0], Fraction(amount), (locale, written))

    def test_decimals_are_decided_once_a_column(self):
        """What parts the decimals is told by the numbers that tell it; a number with other signs is refused, and all of it shown."""
        for cells, read in (
            (["0,750", "12,500"], ["0.75", "12.5"]), (["12,50", "1.299", "2.499,00"], ["12.5", "1299", "2499"]),
            (["3.450,00"], ["3450"]), (["12,500", "1,250"], ["12500", "1250"]), (["1.299", "2.499"], ["1.299", "2.499"]),
            (["1,234.5", "12,500"], ["1234.5", "12500"]), (["0,5 kg", "1.250 kg"], ["0.5", "1250"]),
        ):  # fmt: skip
            decimal = decimal_sign(cells)
            self.assertEqual([written_plain(read_amount(cell, decimal)[0]) for cell in cells], read, cells)
        self.path.write_text("SKU;Price;Load\nA;12,50;0,750\nB;1.299,00;12,500\nC;9.5;1,5\nD;8,25;2.5\n")
        source = product_file_of(self.path)
        self.assertEqual([column.read_as for column in source.columns[1:]], ["1.299,00 is 1,299", "0,750 is 0.75"])
        groups = {group.key: group for group in source.groups()}
        self.assertEqual([written_plain(groups[key].product.offer.price) for key in "AB"], ["12.5", "1299"])
        self.assertEqual([groups[key].product.properties[0].values for key in "AB"], [(Fraction("0.75"),), (Fraction("12.5"),)])
        for key, header in (("C", "Price"), ("D", "Load")):
            refusal = groups[key].refusals[0]
            self.assertEqual((groups[key].product, refusal.column), (None, header))
            self.assertEqual(str(refusal).partition(": ")[2].partition(" has")[2],
                             " other signs than the rest of the column, where a comma parts decimals. Write it with a decimal comma.")  # fmt: skip

    def test_what_is_no_amount(self):
        """Sizes, codes and ranges are texts."""
        for text in ("M8", "8-10", "3/8", "12 x 4", "1.2.3", "ten", "", "5 parsecs", "1,2,3"):
            self.assertIsNone(read_amount(text), text)

    @examples(60)
    @given(st.lists(st.tuples(WORDS, WORDS, st.decimals(0, 10**6, places=2)), min_size=1, max_size=8))
    def test_products_of_a_table(self, rows):
        """Names, brands and prices of any table are those of its products."""
        wanted = [
            (f"P{n}", normalise(name), normalise(brand), Fraction(price)) for n, (name, brand, price) in enumerate(rows) if normalise(name)
        ]
        out = StringIO()
        writer = csv.writer(out, quoting=csv.QUOTE_ALL)
        writer.writerow(["SKU", "Name", "Brand", "Price"])
        writer.writerows((f"P{n}", name, brand, f"{price:f}") for n, (name, brand, price) in enumerate(rows))
        self.path.write_text(out.getvalue(), encoding="utf-8")
        groups = list(product_file_of(self.path).groups())
        found = [(g.product.id, g.product.name, g.product.brand, g.product.offer.price) for g in groups if g.is_named]
        self.assertEqual(found, wanted)
        self.assertEqual(len(groups), len(rows))
