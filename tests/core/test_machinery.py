"""What the index is made of: bitmaps from arrays, pages out of orders, many threads at once, broken snapshots."""

import json
from concurrent.futures import ThreadPoolExecutor
from unittest import TestCase

import numpy as np
from pyroaring import BitMap

from binsort.core.answers.answer import RackIndex
from binsort.core.answers.ordering import part_in_order, smallest
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import pairs_of
from binsort.core.index.bitmaps import bitmap, bitmap_of_mask, bitmap_of_rising, numbers, spliced
from binsort.core.index.catalogue_index import Index, build_index
from binsort.core.index.facts import Facts, build_facts
from binsort.core.index.orders import Order
from binsort.core.index.packed_texts import Texts
from binsort.core.index.snapshot_format import UnreadableSnapshot, freeze, thaw
from binsort.core.products.catalogue_reader import read_catalogue


class BitmapTests(TestCase):
    def test_every_way_makes_the_same_bitmap(self):
        """Sparse, dense, empty and full containers, whatever the way; and back to an array."""
        random = np.random.default_rng(3)
        for share in (0, 0.0001, 0.01, 0.06, 0.07, 0.5, 1):
            for size in (1, 65_536, 65_537, 300_000):
                mask = random.random(size) < share
                mask[: size // 3] = False  # leaves containers out
                found = np.flatnonzero(mask).astype(np.uint32)
                expected = BitMap(found.tolist())
                shuffled = random.permutation(np.concatenate((found, found[:9])))
                self.assertEqual(bitmap_of_mask(mask), expected)
                self.assertEqual(bitmap_of_rising(found), expected)
                self.assertEqual(bitmap(shuffled), expected)
                self.assertEqual(numbers(expected).tolist(), found.tolist())

    def test_splicing_few_and_many(self):
        """The quick way for a few places gives what the other gives."""
        random = np.random.default_rng(5)
        for few, many in ((3, 2), (50, 40), (500, 700)):
            array = np.arange(5000)
            gone, at = np.sort(random.choice(5000, few, replace=False)), np.sort(random.integers(0, 5001, many))
            new = np.arange(many) + 10_000
            expected = [x for place in range(5001) for x in [*new[at == place], *([place] if place < 5000 and place not in gone else [])]]
            self.assertEqual(spliced(array, gone, at, new).tolist(), expected)


class OrderTests(TestCase):
    def test_pages_are_slices_of_the_sorted_result(self):
        """For results from nothing to everything, first pages, late ones, and those beyond the end."""
        random = np.random.default_rng(11)
        order = Order(random.permutation(20_000).astype(np.int32))
        for share in (0, 0.0005, 0.05, 0.07, 0.9, 1):
            found = bitmap_of_mask(random.random(20_000) < share)
            whole = sorted(found, key=lambda slot: order.rank[slot])
            for start, stop in ((0, 24), (24, 48), (2376, 2400), (len(whole) - 5, len(whole) + 19), (0, 10**9), (50_000, 50_024)):
                self.assertEqual(part_in_order(order, found, max(start, 0), stop), whole[max(start, 0) : stop])
        keys = random.permutation(1000)
        self.assertEqual(smallest(keys, 100, 124).tolist(), list(range(100, 124)))


class ThreadTests(TestCase):
    def test_several_threads_answer_at_once(self):
        """Forty first questions to a rack that nobody has asked yet get what one thread alone gets."""
        lines = [
            json.dumps({"sku": f"P{n}", "name": f"P{n % 91}", "brand": f"B{n % 7}", "category": f"A > C{n % 5}", "keywords": [f"t{n % 13}"],
                        "hasVariant": [{"offers": {"price": n % 17 + v}, "additionalProperty": {"name": "Size", "value": f"s{(n + v) % 6}"}}
                                       for v in range(n % 3)]}).encode()
            for n in range(2000)
        ]  # fmt: skip
        kinds = [{"kind": "brand"}, {"kind": "category"}, {"kind": "tag"}, {"kind": "attribute", "attribute": "Size"}, {"kind": "price"}]
        facets = [{"key": f"f{n}", "label": "F", "source": source} for n, source in enumerate(kinds)]
        facets[4] |= {"cuts": [5, 9], "free": True}
        specs = facet_file({"binsort": 1, "facets": facets}).facets
        products = read_catalogue(lines).products
        queries = [
            f"f0=b{n % 7}&f3=s{n % 6}&f4={n % 5}..12&sort={sort}" for n, sort in enumerate(["name", "-price", "listed", "price"] * 10)
        ]

        def asked(rack, query):
            return rack.answer(rack.read(pairs_of(query), ("a",) if len(query) % 2 else None))

        alone = RackIndex(build_index(products, 0), specs)
        together = RackIndex(build_index(products, 0), specs)
        with ThreadPoolExecutor(8) as threads:
            found = list(threads.map(lambda query: asked(together, query), queries))
        self.assertEqual(found, [asked(alone, query) for query in queries])
        self.assertTrue(any(answer.total for answer in found))


class FreezingTests(TestCase):
    def test_broken_bytes_are_refused(self):
        """Cut off, altered, of another format, or nothing at all: told, not misread."""
        products = read_catalogue([b'{"sku": "A", "name": "Cleat", "brand": "Orrin", "offers": {"price": 2.5}}']).products
        frozen = freeze(build_facts((1, 1, product) for product in products).renumbered(), {})
        self.assertIsInstance(thaw(frozen)[0], Facts)
        other = frozen.replace(b'"format": 2', b'"format": 9')
        for broken in (b"", b"nothing", frozen[: len(frozen) // 2], other):
            with self.assertRaises(UnreadableSnapshot):
                thaw(broken)

    def test_texts_beyond_the_end(self):
        """Texts behave as a list does, with changed ones and new ones."""
        texts = Texts.of(["a", "", "ü"]).replaced({1: "b", 3: "c"})
        self.assertEqual((texts[-1:], list(texts), len(texts)), (["c"], ["a", "b", "ü", "c"], 4))
        self.assertIs(texts.replaced({0: "a"}), texts)
        for beyond in (4, -1):
            with self.assertRaises(IndexError):
                texts[beyond]

    def test_many_changes_ask_for_new_numbers(self):
        """Where most slots are empty the facts say so, and new numbers close the gaps."""
        rows = [
            (n, n, product)
            for n, product in enumerate(read_catalogue([json.dumps({"sku": f"P{n}", "name": "x"}).encode() for n in range(3000)]).products)
        ]
        facts, _ = build_facts(rows).changed(_nothing(), list(range(2500)))
        self.assertTrue(facts.wasteful)
        closed = facts.renumbered()
        self.assertFalse(closed.wasteful)
        self.assertEqual((closed.size, len(Index(closed, 0).every_product), closed.ids[0]), (500, 500, "P2500"))


def _nothing():
    from binsort.core.index.codes import gather

    return gather([], {})
