"""A rack to start with: what is proposed and why, and that its figures are those of shoppers walked one by one."""

import json
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import chi2_contingency, entropy

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.query import Picks, Query
from binsort.core.index.catalogue_index import CATEGORY, build_index
from binsort.core.insight import starter
from binsort.core.insight.likeness import Likeness
from binsort.core.insight.starter import start
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant
from binsort.demo.loader import CATALOGUE
from tests.examples import examples

from .test_clicks import walked

NOW = instant("2026-06-15T11:30:00Z")
COLOURS = ("Navy", "White", "Red", "Grey", "Gray", "Black")
FIBRES = {"Polyester": "PES", "Nylon": "PA", "Hemp": "CA"}


def product(number, **more):
    """Make up a product: every third is a rope, which has a diameter; every tenth a lamp, which has volts; and more facts that are some."""
    rope, lamp = number % 3 == 0, number % 10 == 1
    department = "Rope" if rope else "Lighting" if lamp else "Paint"
    material = list(FIBRES)[number % 7 % 3]
    facts = {
        "Colour": COLOURS[number * 5 % 11 % 6],
        "Material": material,
        "Fibre": FIBRES[material] if number % 25 else "PES",
        "Serial": f"S{number}",
    }
    facts |= {"Diameter": 6 + 2 * (number % 5)} if rope else {}
    facts |= {"Volts": 12 * (1 + number % 2)} if lamp else {}
    return json.dumps({
        "sku": f"P{number}", "name": f"Thing {number}", "category": f"{department} > {department} {number % 4}", "brand": f"B{number % 9}",
        "offers": {"price": 5 + number * 7 % 90, "availability": "InStock" if number % 8 else "OutOfStock"},
        "additionalProperty": [{"name": name, "value": value} for name, value in {**facts, **more}.items() if value is not None],
    }).encode()  # fmt: skip


def index_of(count):
    """Return the index of so many products."""
    return build_index(read_catalogue([product(number) for number in range(count)]).products, NOW)


class StarterTests(TestCase):
    @classmethod
    def setUpClass(cls):
        """Propose a rack for 400 products."""
        super().setUpClass()
        cls.start = start(index_of(400))
        cls.on = {shelf.candidate.spec.label: shelf for shelf in cls.start.figures(cls.start.proposed).shelves}
        cls.off = {one.candidate.spec.label: one for one in cls.start.left_off}

    def test_what_is_proposed(self):
        """Departments first, what narrows next, a department's own facets wait for it, stock as a switch at the end."""
        self.assertEqual(next(iter(self.on.values())).why, starter.FIRST)
        self.assertEqual(list(self.on)[-1], "Stock")
        self.assertEqual(self.on["Stock"].candidate.document["look"], {"control": "switch"})
        self.assertLess({"Category", "Brand", "Colour", "Price", "Stock"}, set(self.on))
        waiting = self.on["Diameter"].candidate
        self.assertEqual((waiting.homes, waiting.at_home), (("Rope",), 1.0))
        rules = waiting.document["show_when"]["any"]
        self.assertEqual(rules, [{"facet": "by-category", "bins": ["rope"]}, {"listing": "Rope"}])

    def test_what_is_left_off(self):
        """What another facet tells, what few have, what nobody reads or goes by."""
        same = self.off["Fibre"] if "Fibre" in self.off else self.off["Material"]
        self.assertEqual((same.why, same.other.spec.label), (starter.SAME, "Material" if "Fibre" in self.off else "Fibre"))
        self.assertGreater(same.likeness.guessed, 0.9)
        self.assertEqual(self.off["Serial"].why, starter.MANY)
        self.assertEqual(self.off["First letter"].why if "First letter" in self.off else starter.SELDOM, starter.SELDOM)

    def test_a_department_has_its_own(self):
        """What one department has is proposed for it, however few of all products that are; the exact is left to product pages."""
        lines = [
            product(number, Style=("Pea", "Duffle", "Trench")[number // 10 % 4 % 3] if number % 10 == 1 and number % 3 else None)
            for number in range(400)
        ]
        found = start(build_index(read_catalogue(lines).products, NOW))
        self.assertEqual({one.key: one.homes for one in found.candidates if one.key in found.proposed}["style"], ("Lighting",))
        lines = [product(number, Exact=f"{COLOURS[number * 5 % 11 % 6]} no. {number % 8}") for number in range(400)]
        off = {one.candidate.spec.label: one for one in start(build_index(read_catalogue(lines).products, NOW)).left_off}
        self.assertEqual((off["Exact"].why, off["Exact"].other.spec.label), (starter.EXACT, "Colour"))

    def test_a_small_shop(self):
        """Of 35 products some facets are proposed though clicks can hardly be saved; reasons are true to their figures; no useless switch."""
        lines = [json.loads(product(number)) for number in range(35)]
        for one in lines:
            one["offers"]["availability"] = "InStock"
        found = start(build_index(read_catalogue(json.dumps(one).encode() for one in lines).products, NOW))
        labels = {one.key: one.spec.label for one in found.candidates}
        self.assertLessEqual({"Category", "Brand", "Price", "Colour"}, {labels[key] for key in found.proposed})
        why = {one.candidate.spec.label: one for one in found.left_off}
        self.assertEqual(why["Stock"].why, starter.ONE_BIN)
        for one in found.left_off:
            if one.why == starter.ONE_BIN:
                self.assertTrue(len(one.candidate.counts) < 2 or max(one.candidate.counts) > 0.95 * 35)

    def test_spellings_are_merged(self):
        """Two spellings of a colour are one bin; a plain name of it is kept."""
        colour = self.on["Colour"].candidate
        self.assertEqual((colour.spellings, len(colour.counts)), (6, 5))
        self.assertEqual(sorted(colour.document["bins"]["merge"][0]["values"]), ["Gray", "Grey"])

    def test_figures_are_those_of_shoppers(self):
        """With every shelf and with some left out: clicks of each product, what one pick leaves, what a shelf saves."""
        index = index_of(90)
        proposal = start(index)
        for keys in (proposal.proposed, proposal.proposed[:3], proposal.proposed[1:], ()):
            with self.subTest(keys=keys):
                figures = proposal.figures(keys)
                specs = [shelf.candidate.spec for shelf in figures.shelves if shelf.candidate.key in keys]
                state = State(RackIndex(index, specs), Query())
                sizes = [walked(state, one, 12, best=False) for one in state.products]
                self.assertEqual(figures.reach.left.tolist(), [one[-1] for one in sizes])
                self.assertEqual(figures.reach.picks.tolist(), [len(one) - 1 for one in sizes])
                tree = proposal.figures([proposal.tree]).reach.average
                for shelf in figures.shelves:
                    alone = proposal.figures({proposal.tree, shelf.candidate.key}).reach.average
                    self.assertAlmostEqual(
                        shelf.saves, proposal.without.average - tree if shelf.candidate.key == proposal.tree else tree - alone
                    )
                for shelf in figures.shelves:
                    if not shelf.candidate.homes:
                        [facet] = RackIndex(index, [shelf.candidate.spec]).facets
                        top = min((len(bin.nodes) for bin in facet.bins), default=0)
                        bins = [facet.products(bin) for bin in facet.bins if len(bin.nodes) == top]
                        least = [min((len(members) for members in bins if one in members), default=90) for one in state.products]
                        kept = [size for size in least if size < 90]
                        self.assertAlmostEqual(shelf.leaves, sum(kept) / len(kept))

    def test_the_demo(self):
        """On the chandlery: fewer clicks than by the menu, an answer at any choice of shelves, and nothing proposed twice."""
        with CATALOGUE.open("rb") as lines:
            proposal = start(build_index(read_catalogue(lines).products, NOW))
        figures = proposal.figures(proposal.proposed)
        self.assertLess(figures.reach.average, proposal.without.average - 1)
        self.assertEqual(len(set(proposal.proposed)), len(proposal.proposed))
        self.assertEqual({one.key for one in proposal.candidates}, {*proposal.proposed, *(one.candidate.key for one in proposal.left_off)})
        self.assertEqual(proposal.figures(()).reach.average, -(-(proposal.total - 12) // 12))


class ReachedTests(TestCase):
    @examples(15)
    @given(st.randoms(use_true_random=False))
    def test_every_listing_has_the_facets_that_belong_to_it(self, random):
        """On every listing that holds products with a value a proposed facet shows, or does after a pick of a category made there."""
        tree = [f"{top} > {low}" for top in ("Ropes", "Coats", "Paint") for low in ("A", "B")] + [
            "Ropes",
            "Coats",
            "Paint > A > Deep",
            "Sale",
        ]
        has = {name: {path: random.choice([0, 0, 0.1, 0.5, 0.9, 1]) for path in tree} for name in ("Style", "Weave", "Gloss")}
        lines = []
        for number in range(random.choice([35, 120, 240])):
            paths = random.sample(tree, random.choice([1, 1, 1, 2]))
            given_values = {
                name: f"{name} {number * 7 % 5}" for name, share in has.items() if random.random() < max(share[path] for path in paths)
            }
            lines.append(json.dumps({
                "sku": f"P{number}", "name": f"Thing {number}", "category": paths, "offers": {"price": 1 + number * 13 % 97},
                "additionalProperty": [{"name": name, "value": value} for name, value in given_values.items()],
            }).encode())  # fmt: skip
        index = build_index(read_catalogue(lines).products, NOW)
        proposal = start(index)
        known = {one.key: one for one in proposal.candidates}
        rack = RackIndex(index, [known[key].spec for key in proposal.proposed])
        listings = [None, *(value.nodes for value in index.column(CATEGORY).values)]
        for listing in listings:
            query = Query(category=listing)
            for facet in rack.facets:
                if facet.spec.key == proposal.tree:
                    continue  # a listing without categories below it has none to offer
                has_some = any(facet.products(made) & index.listing(listing) for made in facet.bins)
                if has_some and not State(rack, query).facet(facet).shown:
                    picks = [made.key for made in State(rack, query).facet(rack.by_key[proposal.tree]).bins if made.count]
                    tried = (State(rack, Query({proposal.tree: Picks((key,))}, listing)) for key in picks)
                    self.assertTrue(any(state.facet(facet).shown for state in tried), (facet.spec.key, listing))


class LikenessTests(TestCase):
    @examples(80)
    @given(st.lists(st.lists(st.integers(0, 30), min_size=3, max_size=3), min_size=2, max_size=5))
    def test_against_scipy(self, rows):
        """Mutual information over entropy as scipy.stats has them: a G test is 2 N times the mutual information in nats."""
        table = np.array(rows)
        if (table.sum(axis=0) == 0).any() or (table.sum(axis=1) == 0).any():
            return
        mutual = chi2_contingency(table, correction=False, lambda_="log-likelihood").statistic / (2 * table.sum())
        own = entropy(table.sum(axis=0))
        self.assertAlmostEqual(Likeness(table, 1.0).told, mutual / own if own else 0, places=9)
