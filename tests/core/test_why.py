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
