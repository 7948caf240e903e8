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
    picks, sizes = {}, [len(state.result)]
    waiting = [(facet.spec, depth) for facet in state.rack.facets for depth in depths(state, facet)]
    while sizes[-1] > few and waiting:
        offers = [(level, offer(state, picks, *level, product, sizes[-1])) for level in waiting]
        if best:  # the levels of a tree from the top down, those passed over that have nothing
            offers = [
                (level, one)
                for level, one in offers
                if one and not any(above[0] is level[0] and above[1] < level[1] for above, _ in [pair for pair in offers if pair[1]])
            ]
        offers = [(level, one) for level, one in (offers if best else offers[:1]) if one]
        if not offers and best:
            break
        if not offers:
            waiting.pop(0)
            continue
        level, (left, _place, key) = min(offers, key=lambda pair: pair[1][0])
        waiting.remove(level)
        spec = level[0]
        picks = {**picks, spec.key: Picks((key,))}
        sizes.append(left)
    return sizes


def depths(state, facet):
    """Return the depths of a tree's bins; one for any other facet."""
    return sorted({len(bin.nodes) for bin in state.rack.on_listing(facet, state.listing).bins}) or [0]


def offer(state, picks, spec, depth, product, left):
    """Return what a shelf offers who looks for a product: how many are left, the place and the key of the bin; None for nothing."""
    answer = next(one for one in State(state.rack, Query(picks, state.listing)).facets if one.key == spec.key)
    if not answer.shown:
        return None
    found = []
    for place, one in enumerate(answer.bins):
        if len(state.rack.by_key[spec.key].by_key[one.key].nodes) != depth:
            continue
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
        shelves = [shelf for facet in rack.facets for shelf in walk.shelves(facet)]
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
                self.assertEqual(len(reach.drain()), max(clicks) + 1)
                self.assertLessEqual(reach.drain()[-1], few)
