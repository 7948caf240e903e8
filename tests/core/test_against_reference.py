"""The fast index against the slow reference, over random catalogues, facet files and queries."""

import json
from random import Random
from unittest import TestCase, mock

from hypothesis import assume, given, note
from hypothesis import strategies as st

from binsort.core.answers import bin_counts
from binsort.core.answers.answer import RackIndex
from binsort.core.count import answer_document
from binsort.core.facets.facet_file import facet_file
from binsort.core.index.catalogue_index import build_index
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant
from binsort.core.values.strict_json import loads
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
