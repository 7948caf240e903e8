"""Ways out of empty results and what comes close, against trying everything in the slow reference."""

import json
from itertools import combinations
from random import Random
from unittest import TestCase

from hypothesis import assume, given
from hypothesis import strategies as st

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import FreeRange, pairs_of
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.near_misses import beyond, on_scale, other_articles
from binsort.core.insight.ways_out import coming_back, ways_out
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant
from binsort.core.values.strict_json import loads
from binsort.demo.loader import CATALOGUE as DEMO
from binsort.demo.loader import FACETS
from tests.examples import examples

from .reference import Reference
from .worlds import CATALOGUES, facet_files, random_query

NOW = instant("2024-06-15T11:30:00Z")


def pairs(rack, picked):
    """Write picks as a query."""
    found = []
    for key, picks in picked.items():
        kind = rack.by_key[key].spec.source.kind
        found += [(key, name) for name in picks.bins]
        found += [(key, "..".join(end or "" for end in item.texts(kind))) for item in picks.ranges]
    return found


class AgainstReferenceTests(TestCase):
    @examples(60)
    @given(CATALOGUES, facet_files(), st.randoms(use_true_random=False))
    def test_every_way_out_gives_what_it_says(self, lines, document, random):
        """Ways out are those of the smallest size that give anything, each with just the products that the reference finds."""
        products = read_catalogue(lines).products
        specs = facet_file(loads(json.dumps(document))).facets
        rack, reference = RackIndex(build_index(products, NOW), specs), Reference(products, specs, NOW)
        keys = {facet.spec.key: [made.key for made in facet.bins] for facet in rack.facets}
        assume(any(keys.values()) or any(spec.free for spec in specs))
        chance = Random(random.getrandbits(32))
        for _ in range(12):
            state = State(rack, rack.read(random_query(chance, keys)))

            def found(picked, listing=state.listing):
                return reference.answer(pairs(rack, picked), listing, per=99)["products"]

            for key in state.picks:
                rest = {name: picks for name, picks in state.picks.items() if name != key}
                self.assertEqual(coming_back(state, key), len(found(rest)) - len(found(state.picks)))
            if state.result or not state.picks:
                continue
            ways = ways_out(state)
            for way in ways:
                self.assertEqual(rack.index.ids.many(sorted(way.products)), sorted_by_slot(rack, found(way.state.query.picks)))
                self.assertGreater(way.total, 0)
            self.assertEqual([way.total for way in ways], sorted((way.total for way in ways), reverse=True))
            whole = {way.keys for way in ways if way.pick is None}
            if whole or not ways:  # else single picks of an all-of facet are enough
                self.assertEqual(whole, self.smallest(state, found))

    def smallest(self, state, found):
        """Return the sets of facets that are enough, of the smallest size that has one, by trying all."""
        picked = [spec.key for spec in state.rack.specs if spec.key in state.picks]
        for size in range(1, len(picked) + 1):
            enough = {keys for keys in combinations(picked, size) if found({key: p for key, p in state.picks.items() if key not in keys})}
            if enough:
                return enough
        return set()

    @examples(60)
    @given(CATALOGUES, facet_files(), st.randoms(use_true_random=False))
    def test_what_comes_close(self, lines, document, random):
        """Bins beside a pick and numbers beyond a range give what the reference counts, and nothing nearer gives anything."""
        products = read_catalogue(lines).products
        specs = facet_file(loads(json.dumps(document))).facets
        rack, reference = RackIndex(build_index(products, NOW), specs), Reference(products, specs, NOW)
        keys = {facet.spec.key: [made.key for made in facet.bins] for facet in rack.facets}
        assume(any(keys.values()) or any(spec.free for spec in specs))
        chance = Random(random.getrandbits(32))
        for _ in range(12):
            state = State(rack, rack.read(random_query(chance, keys)))
            for facet in rack.facets:
                near = on_scale(state, facet)
                if near:
                    answer = reference.answer(pairs(rack, state.picks), state.listing, per=3)
                    counts = {b["key"]: b["count"] for f in answer["facets"] if f["key"] == near.key for b in f["bins"]}
                    self.assertEqual({made.key: count for made, count, _ in near.bins}, counts)
                    self.assertTrue(all(counts[key] for key in near.nearest))
                for one in beyond(state, facet):
                    picked = {**state.picks, one.key: type(state.picks[one.key])(ranges=(one.wider,))}
                    self.assertEqual(len(one.products), reference.answer(pairs(rack, picked), state.listing, per=3)["total"])
                    self.assertFalse(inside(one.picked, one.number))


def sorted_by_slot(rack, identities):
    """Return identities as their slots rise."""
    order = {identity: slot for slot, identity in enumerate(rack.index.ids)}
    return sorted(identities, key=order.__getitem__)


def inside(picked, number):
    """Tell whether a number is in a range."""
    assert isinstance(picked, FreeRange)
    return (picked.low is None or number >= picked.low) and (picked.high is None or number <= picked.high)


class DemoTests(TestCase):
    @classmethod
    def setUpClass(cls):
        """Read the demo."""
        super().setUpClass()
        with DEMO.open("rb") as lines:
            products = read_catalogue(lines).products
        cls.rack = RackIndex(build_index(products, NOW), facet_file(loads(FACETS.read_text())).facets)

    def test_a_way_out_of_every_empty_result(self):
        """Of a thousand random picks that leave nothing, in random departments, all have a way out."""
        chance, empty = Random(7), 0
        keys = {facet.spec.key: [made.key for made in facet.bins] for facet in self.rack.facets}
        listings = [None, ("rope and cordage",), ("deck hardware",), ("safety",), ("paint and varnish",)]
        while empty < (1_000):
            chosen = chance.sample(sorted(keys), chance.randint(2, 6))
            query = [(key, chance.choice(keys[key])) for key in chosen if keys[key]]
            state = State(
                self.rack,
                self.rack.read([*query, ("price", f"{chance.randint(1, 60)}..{chance.randint(61, 90)}")], chance.choice(listings)),
            )
            if state.result or not state.products:
                continue
            empty += 1
            self.assertTrue(ways_out(state), state.picks)

    def test_sold_out_but_another_colour_is_there(self):
        """A product is named only if the wanted article exists, is sold out, and another one can be had as picked otherwise."""
        met = 0
        for colour in ("red", "orange", "green", "navy"):
            for price in range(10, 150, 2):
                state = State(self.rack, self.rack.read(pairs_of(f"colour={colour}&stock=in&price={price}..{price + 1}")))
                if state.result:
                    continue
                for other in other_articles(state):
                    met += 1
                    self.assertNotIn(colour, [made.key for made in other.bins])
                    for made in other.bins:
                        query = pairs_of(f"colour={made.key}&stock=in&price={price}..{price + 1}")
                        self.assertIn(other.slot, State(self.rack, self.rack.read(query)).result)
                    wanted = pairs_of(f"colour={colour}&price={price}..{price + 1}")
                    self.assertIn(other.slot, State(self.rack, self.rack.read(wanted)).result)
        self.assertGreater(met, 3)
