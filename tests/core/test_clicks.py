"""Clicks to a few products: everybody at once against one shopper after another, who asks the counting core at each step."""

import json
from math import ceil
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import Picks, Query
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.clicks import Walk, at_best, in_order
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant
from binsort.core.values.strict_json import loads
from tests.examples import examples

from .worlds import CATALOGUES, facet_files

NOW = instant("2024-06-15T11:30:00Z")


def one_article(document):
    """Return a facet file as the definition takes it: each facet is picked once, and a shelf that was there stays there."""
    for facet in document["facets"]:
        facet.update(match="any", pick="many")
        for rules in facet.get("show_when", {}).values():
            for rule in rules:
                rule.update({"picked": True} if "picked" in rule else {})
    return document


def walked(state, product, few, *, best):
    """Lead one shopper to one product, one pick after another; returns the products left before the first pick and after each."""
    picks, sizes, waiting = {}, [len(state.result)], list(state.rack.specs)
    while sizes[-1] > few and waiting:
        offers = [(spec, offer(state, picks, spec, product, sizes[-1])) for spec in waiting]
        offers = [(spec, one) for spec, one in (offers if best else offers[:1]) if one]
        if not offers and best:
            break
        if not offers:
            waiting.pop(0)
            continue
        spec, (left, _place, key) = min(offers, key=lambda pair: pair[1][0])
        waiting.remove(spec)
        picks = {**picks, spec.key: Picks((key,))}
        sizes.append(left)
    return sizes


def offer(state, picks, spec, product, left):
    """Return what a shelf offers who looks for a product: how many are left, the place and the key of the bin; None for nothing."""
    answer = next(one for one in State(state.rack, Query(picks, state.listing)).facets if one.key == spec.key)
    if not answer.shown:
        return None
    found = []
    for place, one in enumerate(answer.bins):
        result = State(state.rack, Query({**picks, spec.key: Picks((one.key,))}, state.listing)).result
        if product in result and len(result) < left:
            found.append((len(result), place, one.key))
    return min(found, default=None)


class ClicksTests(TestCase):
    @examples(60)
    @given(CATALOGUES, facet_files(), st.sampled_from([1, 2]), st.sampled_from([None, ("ropes",)]))
    def test_against_one_after_another(self, lines, document, few, listing):
        """Top first and at best: picks, what is left after each, pages, the average."""
        products = read_catalogue(lines).products
        specs = facet_file(loads(json.dumps(one_article(document)))).facets
        rack = RackIndex(build_index(products, NOW), specs)
        state = State(rack, Query(category=listing))
        walk = Walk(state, few)
        shelves = [walk.shelf(facet) for facet in rack.facets]
        for best, reach in ((False, in_order(walk, shelves)), (True, at_best(walk, shelves))):
            clicks = []
            for place, product in enumerate(state.products):
                sizes = walked(state, product, few, best=best)
                self.assertEqual((reach.picks[place], reach.left[place]), (len(sizes) - 1, sizes[-1]), (best, product))
                self.assertEqual([int(step[place]) for step in reach.after][: len(sizes)], sizes)
                clicks.append(len(sizes) - 1 + max(0, ceil((sizes[-1] - few) / few)))
            self.assertEqual(reach.clicks.tolist(), clicks)
            self.assertAlmostEqual(reach.average, sum(clicks) / len(clicks) if clicks else 0)
            if clicks:
                self.assertEqual(len(reach.drain), max(clicks) + 1)
                self.assertLessEqual(reach.drain[-1], few)
