"""What the shop's pages say is what ``count`` answers from the demo's files, at random addresses."""

import io
import json
import os
import re
from contextlib import redirect_stdout
from html import unescape
from itertools import groupby
from random import Random
from tempfile import NamedTemporaryFile
from urllib.parse import unquote, urlencode

from django.test import TestCase

from binsort.core import count
from binsort.demo.loader import CATALOGUE, FACETS, load_demo

ADDRESSES = 1_000 if os.environ.get("BINSORT_LONG") else 100
CATEGORIES = ("", "Rope and cordage", "Deck hardware", "Safety", "Paint and varnish", "Rope and cordage > Mooring")
SORTS = ("price", "-price", "name", "-name", "newest", "-rating")
CHOICE = re.compile(r'<label\s+class="choice.*?</label>', re.DOTALL)


class ShopCountsTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop."""
        load_demo()

    def test_counts_of_random_addresses(self):
        """The total, the count of every choice drawn and the products of the first page, in their order."""
        compared = nothing = 0
        for category, queries in groupby(sorted(self.random_queries()), key=lambda pair: pair[0]):
            queries = [query for _, query in queries]
            slugs = "".join(f"{part.replace(' ', '-').lower()}/" for part in category.split(" > ")) if category else ""
            for query, answer in zip(queries, self.counted(category, queries), strict=True):
                with self.subTest(category=category, query=query):
                    response = self.client.get(f"/shop/{f'c/{slugs}' if slugs else ''}?{query}", follow=True)
                    self.assertEqual(response.status_code, 200)
                    html = response.content.decode()
                    page = re.search(r'<ul class="cards[^"]*".*?</ul>', html, re.DOTALL)
                    products = re.findall(r'data-product="([^"]+)"', page[0]) if page else []
                    self.assertEqual([unescape(product) for product in products], answer["products"])
                    bins = {(facet["key"], bin["key"]): bin["count"] for facet in answer["facets"] for bin in facet["bins"]}
                    for key, value, number in self.choices(html):
                        self.assertEqual(number, bins[key, value], (key, value))
                        compared += 1
                    self.compare_api(category, query, answer)
                    nothing += not answer["total"]
        self.assertGreater(compared, 15 * ADDRESSES)
        self.assertGreater(nothing, ADDRESSES / 20)

    def compare_api(self, category, query, answer):
        """Hold what the API answers to shops of others against the same."""
        asked = f"{query}{'&' if query else ''}{urlencode({'category': category}) if category else ''}"
        listing = self.client.get(f"/api/shop/v1/listing?{asked}").json()
        self.assertEqual(listing["total"], answer["total"])
        self.assertEqual(listing["whole"], answer["listing"])
        self.assertEqual([product["id"] for product in listing["products"]], answer["products"])
        bins = {(facet["key"], bin["key"]): bin for facet in answer["facets"] if facet["shown"] for bin in facet["bins"] if bin["shown"]}
        told = {(facet["key"], choice["key"]): choice for facet in listing["facets"] for choice in facet["choices"]}
        below = {key for key in bins if key[0] == "group" and key not in told}  # of a tree not all levels are drawn
        self.assertEqual(bins.keys() - below, told.keys())
        for key, choice in told.items():
            self.assertEqual((choice["count"], choice["picked"]), (bins[key]["count"], bins[key]["picked"]), key)
        if not answer["total"]:
            way = self.client.get(f"/api/shop/v1/listing?{listing['ways_out'][0]['query']}").json()
            self.assertEqual(way["total"], listing["ways_out"][0]["total"])
            self.assertGreater(way["total"], 0)

    def random_queries(self):
        """Yield categories with queries of up to four picks, some of them ranges, in any order."""
        chance = Random(2026)
        facets = json.loads(FACETS.read_text())
        [answer] = self.counted("", [""])
        bins = [(facet["key"], bin["key"]) for facet in answer["facets"] for bin in facet["bins"]]
        self.assertGreater(len(facets["facets"]), 5)
        for _ in range(ADDRESSES):
            pairs = chance.sample(bins, chance.randint(0, 4))
            if chance.random() < 0.3:
                low = chance.randint(0, 60)
                pairs.append(("price", f"{low}..{low + chance.randint(0, 80)}"))
            yield chance.choice(CATEGORIES), urlencode([*pairs, ("sort", chance.choice(SORTS))])

    def counted(self, category, queries):
        """Return what ``count`` answers."""
        with NamedTemporaryFile("w") as file, redirect_stdout(io.StringIO()) as out:
            file.write("\n".join(queries) + "\n")
            file.flush()
            options = ["--category", category] if category else []
            status = count.main([str(CATALOGUE), str(FACETS), "--queries", file.name, *options])
        self.assertFalse(status)
        return [json.loads(line) for line in out.getvalue().splitlines()]

    def choices(self, html):
        """Yield facet, bin and count of each choice drawn."""
        for label in CHOICE.findall(html):
            name = re.search(r'name="([^"]+)"', label)
            value = re.search(r'value="([^"]*)"', label)
            number = re.search(r'class="count">([\d,]+)<', label)
            if name and value and value[1] and number:
                yield name[1], unquote(unescape(value[1])), int(number[1].replace(",", ""))
