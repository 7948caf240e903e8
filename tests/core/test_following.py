"""Following changes: an index brought up to date step by step is the one built anew, whatever happened on the way."""

import json
from dataclasses import replace
from random import Random
from unittest import TestCase, mock

import numpy as np
from hypothesis import given, note
from hypothesis import strategies as st

from binsort.core.answers import bin_counts
from binsort.core.answers.answer import RackIndex, State
from binsort.core.count import answer_document
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import Query
from binsort.core.index import facts as facts_module
from binsort.core.index.catalogue_index import Index, build_index
from binsort.core.index.codes import PRICING, gather
from binsort.core.index.facts import build_facts
from binsort.core.index.snapshot_format import freeze, thaw
from binsort.core.insight import histograms
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.products.product import Offer
from binsort.core.values.dates import instant
from binsort.core.values.numbers import approximate
from binsort.core.values.strict_json import loads
from tests.examples import examples

from .reference import Reference
from .worlds import CATALOGUES, facet_files, random_query

MOMENTS = [instant(text) for text in ("2024-06-13", "2024-06-15T11:30:00Z", "2024-06-15T12:00:00Z", "2024-06-20", "2024-08-01")]
SORTS = ["listed", "price", "-price", "name", "-name", "newest", "-rating"]


class World:
    """A catalogue that changes, and the rack that follows it."""

    def __init__(self, products, specs):
        self.rows = {key: (key % 4 if key > 2 else key, product) for key, product in enumerate(products)}  # key: place, product
        self.moment = 0
        self.rack = RackIndex(Index(build_facts(self.in_order()), MOMENTS[0]), specs)

    def in_order(self):
        """Return key, place and product in the order of the catalogue."""
        return sorted(((key, place, product) for key, (place, product) in self.rows.items()), key=lambda row: (row[1], row[0]))

    def change(self, chance, products):
        """Change some products, take some away, bring some back or in; let time go on."""
        gone = [key for key in self.rows if chance.random() < 0.2]
        for key in gone:
            del self.rows[key]
        taken = {product.id for _, product in self.rows.values()}
        put = {}
        for product in products:
            if product.id in taken or chance.random() < 0.3:
                continue
            key = next(
                (key for key, (_, held) in self.rows.items() if held.id == product.id), chance.choice([*gone, chance.randrange(1000, 9000)])
            )
            if key in self.rows or key in put:
                continue
            taken.add(product.id)
            put[key] = (chance.randrange(6), product)
        for key, (place, product) in self.rows.items():
            same = next((other for other in products if other.id == product.id), product)
            if chance.random() < 0.5:
                put[key] = (place, same)
        self.rows |= put
        facts = self.rack.index.facts
        with mock.patch.object(facts_module, "_OLD_WORDS", chance.choice([0, 0, 1000])):  # vocabularies made anew, or not
            new, touched = facts.changed(
                gather([(key, *row) for key, row in put.items()], facts.vocabularies), [key for key in gone if key not in put]
            )
        if chance.random() < 0.15:
            thawed, extra = thaw(freeze(new.renumbered(), {"name": np.arange(3)}))
            assert extra["name"].tolist() == [0, 1, 2]
            self.rack = RackIndex(Index(thawed, MOMENTS[self.moment]), self.rack.specs)
            return
        self.moment = min(self.moment + chance.choice([0, 0, 1]), len(MOMENTS) - 1)
        self.rack = self.rack.later(*self.rack.index.later(new, touched, MOMENTS[self.moment]))


class FollowingTests(TestCase):
    @examples(80)
    @given(st.lists(CATALOGUES, min_size=2, max_size=4), facet_files(), st.randoms(use_true_random=False))
    def test_every_step_ends_where_building_anew_does(self, catalogues, document, random):
        """Columns, bins and every answer are those of an index built anew, and of the slow reference."""
        chance = Random(random.getrandbits(32))
        first, *others = [read_catalogue(lines).products for lines in catalogues]
        world = World(first, facet_file(loads(json.dumps(document))).facets)
        self.compare(world, chance)
        for products in others:
            world.change(chance, products)
            note(str(world.rows))
            self.compare(world, chance)

    def compare(self, world, chance):
        """Hold the rack that followed against one built anew and against the reference."""
        products, moment = [product for _, _, product in world.in_order()], MOMENTS[world.moment]
        fresh = RackIndex(build_index(products, moment), world.rack.specs)
        reference = Reference(products, world.rack.specs, moment)
        for followed, built in zip(world.rack.facets, fresh.facets, strict=True):
            self.assertEqual(followed.column.values, built.column.values)
            self.assertTrue(np.array_equal(followed.column.offsets, built.column.offsets))
            self.assertEqual([made.key for made in followed.bins], [made.key for made in built.bins])
        facts = world.rack.index.facts
        asked = sorted({*chance.sample(sorted(world.rows), len(world.rows) // 2), *chance.sample(range(12), 5), 1500})
        there = [slot for slot in facts.slots(asked) if slot is not None]
        self.assertEqual(len(there), len(world.rows.keys() & asked))
        self.assertEqual(facts.slots_there(np.array(asked, dtype=np.int64)).tolist(), sorted(there))
        keys = {facet.spec.key: [made.key for made in facet.bins] for facet in world.rack.facets}
        for _ in range(3):
            pairs = [*random_query(chance, keys), ("sort", chance.choice(SORTS))]
            category = chance.choice([None, None, ("ropes",), ("ropes", "mooring")])
            note(f"{pairs} on {category}")
            with mock.patch.object(bin_counts, "_SPARSE", chance.choice([0, 3])), mock.patch.object(bin_counts, "_FEW_BINS", 0):
                answers = [answer_document(rack.answer(rack.read(pairs, category), per=3)) for rack in (world.rack, fresh)]
            answers.append(reference.answer(pairs, category, per=3))
            state = State(world.rack, world.rack.read(pairs, category))
            for facet in world.rack.facets:
                for products in (state.products, state.result):
                    with mock.patch.object(histograms, "_FEW", chance.choice([0, 1, 1000])):  # looked up, or looked for
                        self.compare_bars(state, facet, products)
            followed, built, slow = (json.loads(json.dumps(found)) for found in answers)
            self.assertEqual(followed, slow)
            self.assertEqual(built, slow)

    def compare_bars(self, state, facet, shown):
        """Hold a histogram against looking at each product and each of its numbers."""
        index, column, found = state.rack.index, facet.column, histograms.histogram(state, facet, shown, bars=5)
        steps = {}  # of each product
        for code, number in enumerate(column.numbers if found else ()):
            step = min(int(found.axis.shares(np.array([approximate(number)]))[0] * 5), 4)
            for product in shown & (index.project(column.members(code)) if facet.on_variants else column.members(code)):
                steps.setdefault(product, set()).add(step)
        sets = (shown, state.result, state.left.without(facet.spec.key).products)
        counted = [[sum(step in steps.get(product, ()) for product in products) for step in range(5)] for products in sets]
        drawn = {bar.step: (bar.total, bar.inside, bar.inside + bar.adds) for bar in (found.bars if found else ())}
        self.assertEqual([drawn.get(step, (0, 0, 0)) for step in range(5)], list(zip(*counted, strict=True)))

    def test_sales_begin_and_end_while_products_change(self):
        """At each moment the prices are those of an index built then, though nothing was written for the sale itself."""
        lines = [
            json.dumps({"sku": f"P{n}", "name": f"P{n}", "offers": {"price": 10 + n, "priceSpecification": [
                {"priceType": "SalePrice", "price": n + 1, "validFrom": "2024-06-15T12:00:00Z", "validThrough": "2024-06-30"}] if n % 3 else []}}).encode()
            for n in range(12)
        ]  # fmt: skip
        products = read_catalogue(lines).products
        specs = facet_file({"binsort": 1, "facets": [
            {"key": "price", "label": "Price", "source": {"kind": "price"}, "cuts": [5, 12], "free": True},
            {"key": "reduced", "label": "Reduced", "source": {"kind": "reduced"}},
            {"key": "each", "label": "Each", "source": {"kind": "price"}}]}).facets  # fmt: skip
        rows = list(enumerate(products))
        rack = RackIndex(Index(build_facts((key, key, product) for key, product in rows), MOMENTS[0]), specs)
        untils = [rack.index.until]
        for step, moment in enumerate(MOMENTS[1:], 1):
            changed = [(step, step, products[-step])]
            rows[step] = (step, products[-step])
            new, touched = rack.index.facts.changed(gather(changed, rack.index.facts.vocabularies), [])
            rack = rack.later(*rack.index.later(new, touched, moment))
            fresh = RackIndex(build_index([product for _, product in rows], moment), specs)
            self.assertEqual(rack.answer(Query()), fresh.answer(Query()))
            self.assertEqual(rack.index.until, fresh.index.until)
            untils.append(rack.index.until)
        self.assertEqual(untils, [MOMENTS[2], MOMENTS[2], instant("2024-07-01"), instant("2024-07-01"), None])

    def test_days_since_added_go_on_at_midnight(self):
        """At midnight, UTC, each product is a day older, though nothing was written; groups of words follow a name that changed."""
        lines = [json.dumps({"sku": f"P{n}", "name": f"Rope {n}", "datePublished": f"2024-06-{10 + n}"}).encode() for n in range(9)]
        products = read_catalogue(lines).products
        words = {"kind": "words", "in": ["name"], "groups": [{"label": "Rope", "texts": ["rope"]}, {"label": "Line", "texts": ["line"]}]}
        specs = facet_file({"binsort": 1, "facets": [
            {"key": "age", "label": "Age", "source": {"kind": "age"}, "at_most": [1, 3]}, {"key": "words", "label": "Words", "source": words}]}).facets  # fmt: skip
        noon, next_day = instant("2024-06-15T12:00:00Z"), instant("2024-06-16")
        rack = RackIndex(Index(build_facts((key, key, product) for key, product in enumerate(products)), noon), specs)
        self.assertEqual(rack.index.until, next_day)
        ages = [[made.count for made in rack.answer(Query()).facets[0].bins]]
        renamed = read_catalogue([json.dumps({"sku": "P0", "name": "A line", "datePublished": "2024-06-10"}).encode()]).products[0]
        new, touched = rack.index.facts.changed(gather([(0, 0, renamed)], rack.index.facts.vocabularies), [])
        rack = rack.later(*rack.index.later(new, touched, next_day))
        ages.append([made.count for made in rack.answer(Query()).facets[0].bins])
        self.assertEqual((ages, rack.index.until), ([[2, 4], [2, 4]], next_day + 86_400))
        fresh = RackIndex(build_index([renamed, *products[1:]], next_day), specs)
        self.assertEqual(rack.answer(Query()), fresh.answer(Query()))
        self.assertEqual([made.count for made in rack.answer(Query()).facets[1].bins], [8, 1])

    def test_what_nobody_says_any_more_is_let_go(self):
        """After thousands of changes of prices the vocabulary has about as many as are said, and every count is right."""
        lines = [json.dumps({"sku": f"P{n}", "name": f"P{n}", "offers": {"price": n}}).encode() for n in range(40)]
        rows = dict(enumerate(read_catalogue(lines).products))
        specs = facet_file(
            {"binsort": 1, "facets": [{"key": "price", "label": "Price", "source": {"kind": "price"}, "cuts": [100, 4000]}]}
        ).facets
        rack = RackIndex(Index(build_facts((key, key, product) for key, product in rows.items()), 0), specs)
        for step in range(5000):
            key = step % 40
            rows[key] = replace(rows[key], offer=Offer(price=1000 + step))
            new, touched = rack.index.facts.changed(gather([(key, key, rows[key])], rack.index.facts.vocabularies), [])
            rack = rack.later(*rack.index.later(new, touched, 0))
        reading, column = rack.index._columns[specs[0].source.column_key]
        self.assertLess(len(rack.index.facts.items(PRICING)), 2 * 40 + 1000 + 2)
        self.assertLess(len(reading.values.listed), 2 * 40 + 1000 + 2)
        self.assertEqual(len(column.values), 40)
        fresh = RackIndex(build_index(list(rows.values()), 0), specs)
        self.assertEqual(rack.answer(Query()), fresh.answer(Query()))

    def test_names_and_places_change(self):
        """The order of names and of the catalogue are followed, equal names and new places included."""
        chance = Random(9)

        def made(number, name):
            return read_catalogue([json.dumps({"sku": f"P{number}", "name": name}).encode()]).products[0]

        rows = {key: (key, made(key, f"Rope {chance.randrange(40)}")) for key in range(80)}
        rack = RackIndex(Index(build_facts((key, *row) for key, row in rows.items()), 0), ())
        for step in range(40):
            for sort in SORTS:
                ordered = [product for _, _, product in sorted((place, key, product) for key, (place, product) in rows.items())]
                fresh = RackIndex(build_index(ordered, 0), ())
                query = Query(sort=sort, page=1 + step % 3)
                self.assertEqual(rack.answer(query).products, fresh.answer(query).products, (step, sort))
            keys = chance.sample(sorted(rows), 2)
            new = {keys[0]: (rows[keys[0]][0] if step < 20 else chance.randrange(80), made(keys[0], f"Rope {chance.randrange(40)}"))}
            if step % 4 == 0:
                new[100 + step] = (100 + step, made(100 + step, "rope 7"))
            gone = keys[1:] if step % 5 == 0 else []
            rows = {key: row for key, row in {**rows, **new}.items() if key not in gone}
            facts, touched = rack.index.facts.changed(
                gather([(key, *row) for key, row in new.items()], rack.index.facts.vocabularies), gone
            )
            rack = rack.later(*rack.index.later(facts, touched, 0))
