"""Why a product is in a result, or is not: true in both directions, against the slow reference."""

import json
import os
from random import Random
from unittest import TestCase

from hypothesis import assume, given
from hypothesis import strategies as st

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.facet_file import facet_file
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.nearest import nearest
from binsort.core.insight.why import failing_by_one, why
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant
from binsort.core.values.strict_json import loads
from tests.examples import examples

from .reference import Reference
from .test_ways_out import pairs
from .worlds import CATALOGUES, facet_files, random_query

NOW = instant("2024-06-15T11:30:00Z")
CASES = 10_000 if os.environ.get("BINSORT_LONG") else 1_000


class WhyTests(TestCase):
    cases = 0

    @examples(150)
    @given(CATALOGUES, facet_files(), st.randoms(use_true_random=False))
    def test_against_the_reference(self, lines, document, random):
        """Every product is said to be in or out as the reference has it; what alone keeps it out is what, left out, lets it in."""
        products = read_catalogue(lines).products
        specs = facet_file(loads(json.dumps(document))).facets
        rack, reference = RackIndex(build_index(products, NOW), specs), Reference(products, specs, NOW)
        keys = {facet.spec.key: [made.key for made in facet.bins] for facet in rack.facets}
        assume(any(keys.values()))
        chance = Random(random.getrandbits(32))
        for _ in range(6):
            state = State(rack, rack.read(random_query(chance, keys)))

            def found(picked, listing=state.listing):
                return set(reference.answer(pairs(rack, picked), listing, per=99)["products"])

            inside, listed = found(state.picks), found({})
            without = {key: found({name: picks for name, picks in state.picks.items() if name != key}) for key in state.picks}
            by_one = {key: set(rack.index.ids.many(sorted(slots))) for key, slots in failing_by_one(state).items()}
            self.assertEqual(by_one, {key: without[key] - inside for key in by_one})
            for slot in rack.index.every_product:
                [name] = rack.index.ids.many([slot])
                thread = why(state, slot)
                self.assertEqual((thread.is_listed, thread.is_in), (name in listed, name in inside))
                self.assertEqual(
                    set(thread.alone), {key for key in state.picks if name in without[key]} if name in listed - inside else set()
                )
                if thread.is_in and thread.passed:
                    self.assertTrue(all(one.is_met for one in thread.passed))
                if thread.is_split:
                    self.assertTrue(any(one.on_variants for one in thread.passed))
                type(self).cases += 1

    @classmethod
    def tearDownClass(cls):
        """So many products on so many queries were looked at."""
        assert cls.cases >= CASES, cls.cases
        super().tearDownClass()


class NearestTests(TestCase):
    def test_nearest_first(self):
        """By the article that meets the other picks and comes nearest to what is picked; those without a number last; as counted by hand."""
        chance, lines = Random(5), []
        for number in range(60):
            articles = [
                {"sku": f"{number}-{at}", "offers": {"price": chance.randrange(5, 60)},
                 "additionalProperty": [{"name": "Colour", "value": chance.choice(["Red", "Blue"])}]}
                for at in range(3)
            ]  # fmt: skip
            product = {"sku": f"P{number}", "name": f"Rope {number}", "hasVariant": articles}
            if number % 7:
                product["additionalProperty"] = [{"name": "Width", "value": chance.randrange(4, 20)}]
            lines.append(product)
        products = read_catalogue([json.dumps(line).encode() for line in lines]).products
        document = {"binsort": 1, "racks": [], "facets": [
            {"key": "price", "label": "Price", "source": {"kind": "price"}, "free": True},
            {"key": "colour", "label": "Colour", "source": {"kind": "attribute", "attribute": "Colour"}},
            {"key": "width", "label": "Width", "source": {"kind": "attribute", "attribute": "Width"}, "cuts": [8, 12]},
        ]}  # fmt: skip
        rack = RackIndex(build_index(products, NOW), facet_file(document).facets)
        state = State(rack, rack.read([("price", "30..35"), ("colour", "red"), ("width", "8-to-12")]))
        near = nearest(state, failing_by_one(state), 60)

        def gap(number, low, high):
            return max(low - number, number - high, 0)

        told = {}
        for slot, line in enumerate(lines):
            width = line.get("additionalProperty", [{}])[0].get("value")
            red = [article["offers"]["price"] for article in line["hasVariant"] if article["additionalProperty"][0]["value"] == "Red"]
            fits, cheap = width is not None and 8 <= width < 12, [price for price in red if 30 <= price <= 35]
            if fits and red and not cheap:
                told[slot] = "price", min(gap(price, 30, 35) for price in red)
            elif cheap and not fits:
                told[slot] = "width", None if width is None else gap(width, 8, 12)
            elif fits and not cheap and any(30 <= article["offers"]["price"] <= 35 for article in line["hasVariant"]):
                told[slot] = "colour", None
        self.assertEqual({one.slot: one.key for one in near}, {slot: key for slot, (key, _gap) in told.items()})
        self.assertGreater(len(told), 12)
        spans = {key: numbers[-1] - numbers[0] for key in ("price", "width") if (numbers := rack.by_key[key].column.numbers)}
        for one in near:
            key, far = told[one.slot]
            self.assertAlmostEqual(one.distance, far / spans[key]) if far is not None else self.assertIsNone(one.distance)
        distances = [one.distance for one in near]
        self.assertEqual(distances, sorted(distances, key=lambda one: (one is None, one)))
        self.assertEqual(nearest(state, failing_by_one(state), 3), near[:3])
