"""What if: changes on a copy, and their clicks, held against walking each shopper down the rack that comes of them."""

from copy import deepcopy
from fractions import Fraction
from unittest import TestCase

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.facet_file import check_document, facet_file
from binsort.core.facets.query import Query
from binsort.core.insight.what_if import BEST, OURS, TOP, Change, Compared, classes, reach_of, tried

from .test_clicks import walked
from .test_starter import index_of


def facet(name, **more):
    """A facet of an attribute."""
    return {"key": name.lower(), "label": name, "source": {"kind": "attribute", "attribute": name}, **more}


DOCUMENT = {
    "binsort": 1,
    "facets": [facet("Colour"), facet("Material"), facet("Diameter", show_when={"all": [{"facet": "colour", "picked": True}]})],
    "racks": [{"key": "side", "label": "Side", "facets": ["colour", "material", "diameter"]}],
}
BRAND = {"label": "Brand", "source": {"kind": "brand"}}


class WhatIfTests(TestCase):
    @classmethod
    def setUpClass(cls):
        """A hundred made-up products."""
        super().setUpClass()
        cls.index = index_of(100)

    def keys(self, document):
        """Return the facets of the rack."""
        self.assertEqual(check_document(document), [])
        return document["racks"][0]["facets"]

    def state(self, document):
        """Return the rack over all products."""
        specs = {spec.key: spec for spec in facet_file(document).facets}
        return State(RackIndex(self.index, [specs[key] for key in self.keys(document)]), Query())

    def test_changes_on_a_copy(self):
        """Moved, taken off, added; in their order; what cannot be done is passed over, and the draft stays as it is."""
        before = deepcopy(DOCUMENT)
        for texts, keys in (
            (["move:diameter:1"], ["diameter", "colour", "material"]),
            (["drop:colour"], ["material", "diameter"]),
            (["add:brand:2", "move:brand:1"], ["brand", "colour", "material", "diameter"]),
            (["move:nothing:1", "drop:nothing", "add:nothing:1", "move:colour:999"], ["material", "diameter", "colour"]),
            (["drop:colour", "drop:material", "drop:diameter"], ["diameter"]),
        ):
            with self.subTest(texts=texts):
                self.assertEqual(self.keys(tried(DOCUMENT, "side", [Change.of(text) for text in texts], {"brand": BRAND})), keys)
        self.assertNotIn("show_when", tried(DOCUMENT, "side", [Change.of("drop:colour")], {})["facets"][-1])
        self.assertEqual(DOCUMENT, before)
        cut = {**DOCUMENT, "facets": [facet("Colour"), facet("Material"), facet("Diameter", cuts=[8, 12])]}
        for text, cuts in (("cut:diameter:10.5", [8, Fraction(21, 2), 12]), ("cut:diameter:8", [8, 12]), ("cut:colour:8", None)):
            changed = tried(cut, "side", [Change.of(text)], {})
            self.keys(changed)
            self.assertEqual(changed["facets"][0 if cuts is None else 2].get("cuts"), cuts)
        for broken in ("cut:a", "cut:a:b", "cut:a:1e9", "", "move", "move:a", "move:a:0", "add:a:b", "drop:a:1", "swap:a:1", "move::1"):
            self.assertIsNone(Change.of(broken), broken)
        self.assertEqual([Change.of(text).text for text in ("move:a:3", "drop:a")], ["move:a:3", "drop:a"])

    def test_clicks_of_three_shoppers(self):
        """From the top, as ours do, at best: each product as one shopper after another finds it; gains and losses add up."""
        use = {"diameter": 3, "material": 9}
        document = tried(DOCUMENT, "side", [Change.of("add:brand:1"), Change.of("drop:diameter")], {"brand": BRAND})
        for shopper in (TOP, OURS, BEST):
            reaches = []
            for one in (DOCUMENT, document):
                state = self.state(one)
                reach = reach_of(state, shopper, use)
                order = state
                if shopper == OURS:
                    specs = sorted(state.rack.specs, key=lambda spec: -use.get(spec.key, 0))
                    order = State(RackIndex(self.index, specs), Query())
                sizes = [walked(order, product, 12, best=shopper == BEST) for product in state.products]
                self.assertEqual(reach.picks.tolist(), [len(size) - 1 for size in sizes], shopper)
                self.assertEqual(reach.left.tolist(), [size[-1] for size in sizes], shopper)
                reaches.append(reach)
            both = Compared(*reaches)
            self.assertEqual(both.fewer + both.same + both.more, 100)
            self.assertEqual(both.table.sum(), 100)
            self.assertEqual(both.table.sum(axis=0).tolist(), [int((classes(reaches[1]) == number).sum()) for number in range(6)])
            self.assertEqual(len(both.harder(100)), both.more)
