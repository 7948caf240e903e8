"""The core against facts from outside: an open data set, published standards, reference libraries."""

import json
from fractions import Fraction
from importlib.util import find_spec
from itertools import pairwise
from pathlib import Path
from unittest import TestCase

import natsort
import pandas
import pint
import webcolors

from binsort.core.answers.answer import RackIndex
from binsort.core.facets import bin_edits
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import pairs_of
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.axis import axis_of
from binsort.core.insight.number_line import bars_of, number_line
from binsort.core.insight.suggested_cuts import counts_of, suggested
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.colours import PAINT_NAMES, colour, swatch
from binsort.core.values.numbers import half_up, written
from binsort.core.values.text import identity, initial, natural_key, normalise
from binsort.core.values.units import KNOWN, convert

FACETS = facet_file({
    "binsort": 1,
    "facets": [
        {"key": "cut", "label": "Cut", "source": {"kind": "attribute", "attribute": "cut"}},
        {"key": "color", "label": "Colour", "source": {"kind": "attribute", "attribute": "color"}},
        {"key": "clarity", "label": "Clarity", "source": {"kind": "attribute", "attribute": "clarity"}},
        {"key": "price", "label": "Price", "source": {"kind": "price"}, "cuts": [1000, 5000, 10000], "free": True},
        {"key": "carat", "label": "Carat", "source": {"kind": "attribute", "attribute": "carat"}, "cuts": [Fraction(1, 2), 1, Fraction(3, 2), 2]},
        {"key": "both", "label": "Cut and clarity", "source": {"kind": "tag"}, "match": "all"},
    ],
})  # fmt: skip


class DiamondTests(TestCase):
    """The data set of 53,940 diamonds that ships with the package plotnine (from ggplot2), against pandas.

    The totals by cut are published in the documentation of ggplot2 and in Wickham and Grolemund, "R for Data
    Science" (2017), section 7.3.1.
    """

    @classmethod
    def setUpClass(cls):
        """Read the data set twice: as a table, and as a catalogue."""
        path = Path(find_spec("plotnine").submodule_search_locations[0]) / "data" / "diamonds.csv"  # the package itself is not imported
        cls.table = pandas.read_csv(path, dtype={"carat": str})
        cls.table["number"] = cls.table["carat"].map(Fraction)
        products = read_catalogue(cls.line(place, row) for place, row in enumerate(cls.table.itertuples())).products
        cls.rack = RackIndex(build_index(products, 0), FACETS.facets)

    @staticmethod
    def line(place, row):
        """Write a diamond as a product."""
        carat = {"name": "carat", "value": row.carat, "unitText": "ct"}
        facts = [carat, *({"name": name, "value": getattr(row, name)} for name in ("cut", "color", "clarity"))]
        tags = [row.cut, row.clarity]
        return json.dumps(
            {"sku": place, "name": f"d{place}", "keywords": tags, "additionalProperty": facts, "offers": {"price": row.price}}
        ).encode()

    def counts(self, facet, query=""):
        """Return the counts of a facet's bins by label."""
        answer = self.rack.answer(self.rack.read(pairs_of(query)))
        found = next(item for item in answer.facets if item.key == facet)
        return {made.label: made.count for made in found.bins}, answer

    def test_published_totals_by_cut(self):
        """As published: 1,610 Fair, 4,906 Good, 12,082 Very Good, 13,791 Premium, 21,551 Ideal."""
        counts, answer = self.counts("cut")
        self.assertEqual(counts, {"Fair": 1610, "Good": 4906, "Very Good": 12082, "Premium": 13791, "Ideal": 21551})
        self.assertEqual(answer.total, 53940)

    def test_any_of_within_and_all_of_between_facets(self):
        """Picks in one facet widen, picks in several narrow (common practice of the trade); a facet's own picks do not count."""
        table = self.table
        ideal, top = table["cut"].isin(["Ideal", "Premium"]), table["clarity"].isin(["IF", "VVS1"])
        dear = (table["price"] >= 5000) & (table["price"] < 10000)
        query = "cut=ideal&cut=premium&clarity=if&clarity=vvs1&price=5000-to-10000"
        for facet, column, kept in (
            ("color", "color", ideal & top & dear),
            ("cut", "cut", top & dear),
            ("clarity", "clarity", ideal & dear),
        ):
            counts, answer = self.counts(facet, query)
            expected = table[kept].groupby(column).size().reindex(sorted(table[column].unique()), fill_value=0)
            self.assertEqual(counts, expected.to_dict() | {}, facet)
        self.assertEqual(answer.total, int((ideal & top & dear).sum()))

    def test_ranges_and_bounds(self):
        """Half-open ranges of exact decimals, a free range with both ends, and the ends of the slider."""
        table = self.table
        edges = [Fraction(0), Fraction(1, 2), Fraction(1), Fraction(3, 2), Fraction(2), Fraction(100)]
        kept = table[(table["price"] >= 326) & (table["price"] <= 2757) & (table["color"] == "E")]
        expected = [int(((kept["number"] >= low) & (kept["number"] < high)).sum()) for low, high in pairwise(edges)]
        counts, answer = self.counts("carat", "price=326..2757&color=e")
        self.assertEqual(list(counts.values()), expected)
        price = next(item for item in answer.facets if item.key == "price")
        only_e = table[table["color"] == "E"]["price"]
        self.assertEqual(price.bounds, (str(only_e.min()), str(only_e.max())))
        self.assertEqual(price.free, (("326", "2757", len(kept)),))

    def test_suggested_cuts_hold_what_pandas_finds(self):
        """Whatever way cuts are suggested over price and carat, each range holds what pandas counts; even counts are its quantiles."""
        for key, column in (("price", "price"), ("carat", "number")):
            facet = self.rack.by_key[key]
            line = number_line(self.rack.index, facet, self.rack.index.every_product)
            self.assertEqual(line.entries, len(self.table))
            values = self.table[column].astype(float)
            for way in ("widths", "counts", "groups", "round"):
                cuts = suggested(line, way, 5)
                wanted = pandas.cut(values, [float("-inf"), *map(float, cuts), float("inf")], right=False).value_counts(sort=False)
                self.assertEqual(counts_of(line, cuts), wanted.tolist(), (key, way))
            quintiles = values.quantile([0.2, 0.4, 0.6, 0.8]).tolist()
            for cut, quintile in zip(suggested(line, "counts", 5), quintiles, strict=True):
                self.assertLess(abs((values < float(cut)).mean() - (values < quintile).mean()), 0.03)
        bars = bars_of(line, axis_of(line.floats), [Fraction(1)], 40)
        self.assertEqual(sum(bar.count for bar in bars), len(self.table))

    def test_merged_left_out_and_ordered(self):
        """Clarity merged to three grades and cut without its poorest hold what pandas counts."""
        clarity = {"key": "clarity", "label": "Clarity", "source": {"kind": "attribute", "attribute": "clarity"}}
        merged = bin_edits.merged(clarity, ["VVS1", "VVS2"], "IF", ["IF"])
        merged = bin_edits.merged(merged, ["VS2"], "VS1", ["VS1"])
        cut = bin_edits.left_out({"key": "cut", "label": "Cut", "source": {"kind": "attribute", "attribute": "cut"}}, ["Fair"])
        rack = RackIndex(self.rack.index, facet_file({"binsort": 1, "facets": [merged, cut]}).facets)
        grades, cuts = rack.answer(rack.read([])).facets
        table = self.table["clarity"].replace({"VVS1": "IF", "VVS2": "IF", "VS2": "VS1"}).value_counts().to_dict()
        self.assertEqual({made.label: made.count for made in grades.bins}, table)
        self.assertEqual((cuts.unbinned, "Fair" in {made.label for made in cuts.bins}), (1610, False))

    def test_all_of_within_a_facet(self):
        """Under all-of every pick must be met by the product."""
        counts, answer = self.counts("both", "both=ideal&both=if")
        both = self.table[(self.table["cut"] == "Ideal") & (self.table["clarity"] == "IF")]
        self.assertEqual((answer.total, counts["Ideal"], counts["SI1"]), (len(both), len(both), 0))


class StandardTests(TestCase):
    def test_unit_factors_of_nist(self):
        """NIST SP 811 (2008), appendix B.8: factors that are exact by definition."""
        factors = [
            ("in", "mm", "25.4"),
            ("ft", "m", "0.3048"),
            ("lb", "kg", "0.45359237"),
            ("oz", "g", "28.349523125"),
            ("kgf", "N", "9.80665"),
        ]
        for source, target, factor in factors:
            self.assertEqual(convert(1, source, target), Fraction(factor), source)
        self.assertEqual(convert(convert(7, "ft", "in"), "in", "ft"), 7)

    def test_every_known_unit_against_pint(self):
        """Each unit has the size that the reference library gives it."""
        registry = pint.UnitRegistry()
        names = {"l": "liter", "t": "metric_ton", "in": "inch", "N": "newton", "tf": "metric_ton * standard_gravity", "daN": "decanewton"}
        names |= {
            "kgf": "kilogram_force",
            "lbf": "pound_force",
            "cl": "centiliter",
            "ml": "milliliter",
            "kN": "kilonewton",
            "µm": "micrometer",
        }
        bases = {"length": "m", "mass": "kg", "force": "newton", "volume": "liter", "power": "watt", "voltage": "volt"}
        for unit in set(KNOWN.values()):
            size = registry.Quantity(1, names.get(unit.symbol, unit.symbol)).to(bases[unit.dimension]).magnitude
            self.assertAlmostEqual(float(unit.size), size, delta=size * 1e-12, msg=unit.symbol)

    def test_units_that_do_not_convert(self):
        """Across dimensions and for unknown units there is no conversion; equal spellings are the same unit."""
        self.assertIsNone(convert(1, "kg", "m"))
        self.assertIsNone(convert(1, "parsec", "m"))
        self.assertEqual(convert(3, "parsec", "parsec"), 3)
        self.assertEqual(convert(3, "millimetres", "mm"), 3)

    def test_named_colours_of_css(self):
        """All 148 names of CSS Color Module Level 4, but for those that paint makers mean otherwise."""
        names = webcolors.names("css3")
        self.assertGreaterEqual(len(names), 147)
        for name in names:
            self.assertEqual(colour(name), PAINT_NAMES.get(name) or webcolors.name_to_hex(name), name)
        self.assertEqual(swatch("Crimson and white"), ("#dc143c", "#ffffff"))
        self.assertEqual(swatch("Polyester"), ())

    def test_unicode_identities(self):
        """Examples of UAX #15 (canonical equivalence) and of SpecialCasing.txt (default lower-casing)."""
        same = [
            ("A\u030a", "\u00c5"),
            ("\u212b", "\u00c5"),
            ("o\u0302\u0323", "\u1ed9"),
            ("ΌΣΟΣ", "όσος"),
            ("\u2003Navy\u3000 blue", "navy BLUE"),
        ]
        for one, other in same:
            self.assertEqual(identity(one), identity(other), one)
        self.assertNotEqual(identity("\ufb01"), identity("fi"))  # compatibility, not canonical
        self.assertNotEqual(identity("Straße"), identity("STRASSE"))  # lower case, not case folding
        self.assertEqual(normalise("a\x1cb"), "a\x1cb")  # no Unicode white space

    def test_natural_order_against_natsort(self):
        """Digit runs as whole numbers, letter case ignored, as the reference library has it."""
        labels = ["M10", "m9", "M8", "a1b10", "a1b9", "Rope 100 m", "rope 20 m", "Rope 3 m", "x", "10", "9", "1000"]
        self.assertEqual(sorted(labels, key=natural_key), natsort.natsorted(labels, alg=natsort.ns.IGNORECASE))
        self.assertEqual(sorted(["Ete", "Été", "eta", "été"], key=natural_key), ["eta", "Ete", "Été", "été"])

    def test_rounding_and_writing(self):
        """Half up is towards +∞; numbers are written plainly."""
        self.assertEqual([half_up(Fraction(x), 0) for x in ("0.5", "1.5", "-0.5", "-1.5")], [1, 2, 0, -1])
        self.assertEqual([written(Fraction(x)) for x in ("1/8", "-2/3", "1/3000000000000")], ["0.125", "-0.666666666667", "0"])

    def test_initials(self):
        """The first character's letter without its marks."""
        cases = {"émerillon": "E", "ßling": "S", "5 m": "0-9", "٣": "0-9", "Ærø": "Æ", "(x)": "#", "🚤": "#", "שלום": "ש"}
        self.assertEqual({name: initial(name) for name in cases}, cases)
