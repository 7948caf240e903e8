"""Help with the data: look-alikes, coverage, suggestions, and why a product is in a bin."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from binsort.core.answers.matching import Facet
from binsort.core.facets.spec import Source, facet_spec
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.coverage import having, lacking
from binsort.core.insight.explanation import explained
from binsort.core.insight.look_alikes import look_alikes, plain_form
from binsort.core.insight.suggestions import suggestions
from binsort.core.products.edits import Field
from binsort.core.products.product import Product, Property
from binsort.core.values.numbers import exact
from binsort.core.values.units import KNOWN
from tests.examples import examples

from .test_edits import read
from .worlds import PRODUCTS

SPECS = [
    {"key": "c", "label": "Colour", "source": {"kind": "attribute", "attribute": "Colour"}},
    {"key": "m", "label": "M", "source": {"kind": "attribute", "attribute": "Colour"}, "bins": {"merge": [{"label": "x", "values": ["Navy", "Red"]}]}},
    {"key": "d", "label": "D", "source": {"kind": "attribute", "attribute": "Diameter"}, "cuts": [5, 12]},
    {"key": "k", "label": "K", "source": {"kind": "category"}},
    {"key": "p", "label": "P", "source": {"kind": "price"}, "cuts": [10, 20], "ends": "closed"},
    {"key": "s", "label": "S", "source": {"kind": "stock"}},
]  # fmt: skip


class LookAlikeTests(TestCase):
    def test_spellings_of_one_value(self):
        """British and American, case, accents, hyphens, blanks and names of units are put aside; what means something is not."""
        same = [("Grey", "gray"), ("10mm", "10 mm"), ("10 mm", "10 millimetres"), ("Navy-Blue", "navy blue"), ("Été", "ete"), ("1,5 m", "1.5m"),
                ("Anodized aluminum", "anodised aluminium"), ("Rope & line", "rope line")]  # fmt: skip
        for one, other in same:
            self.assertEqual(plain_form(one), plain_form(other), (one, other))
        for one, other in (("M8", "M10"), ("Red", "Rad"), ("10 mm", "10 cm"), ("1.5 m", "15 m"), ("White", "Off-white")):
            self.assertFalse(any(group.sure for group in look_alikes({one: 1, other: 1})), (one, other))

    def test_what_is_kept_and_in_which_order(self):
        """The value of most products is kept; sure ones come first; words alike but for numbers are never offered."""
        found = look_alikes(
            {"Polyester": 30, "Polyestre": 2, "Gray": 1, "Grey": 9, "Navy": 8, "Navy blue": 3, "3-strand": 5, "8-strand": 5}
        )
        self.assertEqual([(g.keep, g.others, g.sure) for g in found], [
            ("Grey", ("Gray",), True), ("Navy", ("Navy blue",), False), ("Polyester", ("Polyestre",), False),
        ])  # fmt: skip

    @examples(60)
    @given(st.sampled_from(sorted(KNOWN)), st.integers(1, 99))
    def test_every_spelling_of_a_unit(self, unit, number):
        """A number with a unit is one value however the unit is spelled and spaced, as far as it is letters or inch and foot marks."""
        symbol = KNOWN[unit].symbol
        if unit.replace("-", "").isalpha() and "-" not in unit:
            self.assertEqual(plain_form(f"{number}{unit}"), plain_form(f"{number} {symbol}"))


class CoverageTests(TestCase):
    @examples(80)
    @given(st.lists(PRODUCTS, min_size=1, max_size=6, unique_by=lambda document: document.get("productGroupID") or document["sku"]))
    def test_against_looking_at_each_product(self, documents):
        """Those with a brand, a tag, a category, a price have one; those that lack it are the rest of what is visible."""
        products = [read(document) for document in documents]
        index = build_index(products, 0)
        visible = {product.id for product in products if product.visible}
        for source, has in (
            (Source("brand"), lambda p: bool(p.brand)), (Source("tag"), lambda p: bool(p.tags)), (Source("category"), lambda p: bool(p.categories)),
            (Source("price"), lambda p: any(a.offer.price_now(0) is not None for a in p.articles)),
        ):  # fmt: skip
            found = {index.ids[slot] for slot in having(index, source)}
            self.assertEqual(found, {product.id for product in products if product.visible and has(product)})
            self.assertEqual({index.ids[slot] for slot in lacking(index, source, index.every_product)}, visible - found)


class ExplainingTests(TestCase):
    @examples(80)
    @given(st.lists(PRODUCTS, min_size=1, max_size=5, unique_by=lambda document: document.get("productGroupID") or document["sku"]))
    def test_bins_and_reasons(self, documents):
        """The bins named are those that hold the product, each with a value that puts it there; in none means none."""
        index = build_index([read(document) for document in documents], 0)
        for facet in (Facet.cut(facet_spec(spec), index) for spec in SPECS):
            for slot in index.every_product:
                found = explained(facet, slot, range(int(index.starts[slot]), int(index.starts[slot + 1])))
                self.assertEqual([p.bin.key for p in found.places], [b.key for b in facet.bins if slot in facet.products(b)])
                self.assertTrue(all(place.values for place in found.places))
                for place in found.places:
                    if facet.spec.source.kind != "category":
                        self.assertLessEqual(set(place.values), set(found.values))


class SuggestingTests(TestCase):
    def test_reasons(self):
        """A like product first, then what its own words say, converted; then what the catalogue has; letters typed narrow it."""
        field = Field("attribute", "Breaking load", "kN")
        like = [Product("B", "Anchor warp, 12 mm × 50 m", properties=(Property("Breaking load", (28,), "kN"),))]
        product = Product("A", "Anchor warp, 12 mm × 30 m", description="Breaks at 2900 daN.")
        found = suggestions(product, field, like, [("40", 3), ("28", 1)])
        self.assertEqual([(item.text, item.of or item.why) for item in found], [
            ("28", "Anchor warp, 12 mm × 50 m"), ("29", "from 2900 daN, in its own text"), ("40", "3 products have it"),
        ])  # fmt: skip
        shackle = Product("A", "Shackle", description="Holds 4.27 tonnes-force, 1 in wide.")
        converted = suggestions(shackle, Field("attribute", "Breaking load", "kN"), [], [])
        self.assertEqual([(item.text, item.why) for item in converted], [("41.9", "from 4.27 tonnes-force, in its own text")])
        self.assertEqual(suggestions(shackle, Field("attribute", "Width", "mm"), [], [])[0].text, "25.4")
        other = Product("B", "Bow shackle", properties=(Property("Breaking load", (exact("4.27"),), "tonnes-force"),))
        likest = suggestions(Product("C", "Shackle"), Field("attribute", "Breaking load", "kN"), [other], [])[0]
        self.assertEqual((likest.text, likest.why, likest.of), ("41.9", "has 4.27 tonnes-force", "Bow shackle"))
        colours = suggestions(Product("A", "Navy fender"), Field("attribute", "Colour"), [], [("Red", 4), ("Navy", 2), ("Grey", 0)])
        self.assertEqual([item.text for item in colours], ["Navy", "Red", "Grey"])
        self.assertEqual(suggestions(Product("A", "A"), Field("attribute", "Colour"), [], [("Red", 1), ("Navy", 2)], "na")[0].text, "Navy")
