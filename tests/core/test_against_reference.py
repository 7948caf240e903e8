"""The fast index against the slow reference, over random catalogues, facet files and queries."""

import json
from collections import Counter
from dataclasses import replace
from random import Random
from unittest import TestCase, mock

from hypothesis import assume, given, note
from hypothesis import strategies as st
from pyroaring import BitMap

from binsort.core.answers import bin_counts
from binsort.core.answers.answer import RackIndex, State
from binsort.core.count import answer_document
from binsort.core.facets.facet_file import facet_file
from binsort.core.index.catalogue_index import build_index
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant
from binsort.core.values.strict_json import loads
from binsort.core.values.text import identity
from tests.examples import examples

from .reference import Reference
from .worlds import CATALOGUES, facet_files, random_query

NOW = instant("2024-06-15T11:30:00Z")


class AgainstReferenceTests(TestCase):
    @examples(100)
    @given(CATALOGUES, facet_files(), st.randoms(use_true_random=False))
    def test_every_answer_is_that_of_the_reference(self, lines, document, random):
        """Totals, counts, orders, bounds, keys, labels, products and ignored pairs are all the same."""
        products = read_catalogue(lines).products
        specs = facet_file(loads(json.dumps(document))).facets
        rack, reference = RackIndex(build_index(products, NOW), specs), Reference(products, specs, NOW)
        keys = {facet.spec.key: [made.key for made in facet.bins] for facet in rack.facets}
        assume(any(keys.values()) or any(spec.free for spec in specs))
        chance = Random(random.getrandbits(32))
        for _ in range(6):
            pairs = random_query(chance, keys)
            category = chance.choice([None, None, ("ropes",), ("ropes", "mooring")])
            note(f"{pairs} on {category}")
            # counted bin by bin, or all at once by the numbers of the bins
            with mock.patch.object(bin_counts, "_SPARSE", chance.choice([0, 3, 99])), mock.patch.object(bin_counts, "_FEW_BINS", 0):
                fast = json.loads(json.dumps(answer_document(rack.answer(rack.read(pairs, category), per=3))))
            self.assertEqual(fast, json.loads(json.dumps(reference.answer(pairs, category, per=3))))

    @examples(60)
    @given(CATALOGUES, facet_files(), st.randoms(use_true_random=False))
    def test_within_some_products(self, lines, document, random):
        """Counted within some products, all is as if the others were hidden: totals, products, bounds, what shows, each bin that has something."""
        products = read_catalogue(lines).products
        specs = facet_file(loads(json.dumps(document))).facets
        chance = Random(random.getrandbits(32))
        kept = {product.id for product in products if chance.random() < 0.6}
        whole = RackIndex(build_index(products, NOW), specs)
        fewer = RackIndex(build_index([one if one.id in kept else replace(one, visible=False) for one in products], NOW), specs)
        within = BitMap(slot for slot, name in enumerate(whole.index.ids) if name in kept)
        keys = {
            facet.spec.key: [made.key for made in facet.bins if made.key in fewer.by_key[facet.spec.key].by_key] for facet in whole.facets
        }
        for _ in range(4):
            pairs, category = random_query(chance, keys), chance.choice([None, ("ropes",)])
            queries = [rack.read(pairs, category) for rack in (whole, fewer)]
            if queries[0].picks.keys() != queries[1].picks.keys():
                continue
            one, other = State(whole, queries[0], within=within), State(fewer, queries[1])
            self.assertEqual({whole.index.ids[slot] for slot in one.result}, {fewer.index.ids[slot] for slot in other.result})
            for mine, theirs in zip(one.facets, other.facets, strict=True):
                self.assertEqual((mine.shown, mine.unbinned, mine.bounds), (theirs.shown, theirs.unbinned, theirs.bounds), mine.key)
                counts = [Counter() for _ in range(2)]
                for counted, answer in zip(counts, (mine, theirs), strict=True):
                    for bin in answer.bins:
                        counted[identity(bin.label)] += bin.count
                self.assertEqual(+counts[0], +counts[1], mine.key)
