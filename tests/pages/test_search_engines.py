"""Addresses that people and search engines keep: one form of each, and what search engines are told."""

import json
import re
from pathlib import Path
from random import Random
from urllib.parse import urlencode, urlsplit
from urllib.robotparser import RobotFileParser
from xml.etree import ElementTree

import xmlschema
from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.catalog.models import Product
from binsort.changes import facets as facet_changes
from binsort.changes import live
from binsort.core.products.availability import SCHEMA_STATES
from binsort.demo.loader import load_demo
from binsort.racks.setup import facet_document, the_setup

DATA = Path(__file__).parent.parent / "data"
HOST = {"host": "127.0.0.1"}


class SearchEnginesTestCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop."""
        load_demo()

    def page(self, address):
        """Return what an address answers itself."""
        return self.client.get(address, headers=HOST)

    def open_material(self):
        """Open the bins of a facet to search engines, live."""
        owner = get_user_model().objects.first()
        document = facet_document(the_setup().draft.document, "material")
        facet_changes.change_facet("material", {**document, "look": {**document.get("look", {}), "search_engines": True}}, actor=owner)
        live.put_live(actor=owner, based_on=the_setup().draft_id)


class OneAddressTests(SearchEnginesTestCase):
    def test_a_combination_has_one_address(self):
        """However picks are ordered, written or sent by a form, they lead to one address, which leads nowhere else."""
        listing = self.page("/shop/c/rope-and-cordage/").context["listing"]
        bins = [(facet.key, choice.key) for facet in listing.facets for choice in facet.choices]
        chance = Random(9)
        for _ in range(40):
            pairs = chance.sample(bins, chance.randint(0, 4)) + chance.choice(
                [[], [("price.from", "5"), ("price.to", "£20")], [("q", "line")]]
            )
            more = chance.choice([[], [("sort", "price")], [("per", "12"), ("page", "2")], [("price.from", ""), ("q", ""), ("sort", "")]])
            reached = set()
            for _turn in range(3):
                chance.shuffle(pairs)
                reached.add(
                    self.client.get(f"/shop/c/rope-and-cordage/?{urlencode([*pairs, *more])}", headers=HOST, follow=True).request[
                        "PATH_INFO"
                    ]
                )
                asked = self.client.get(f"/shop/?{urlencode([('category', 'Rope and cordage'), *more, *pairs])}", headers=HOST, follow=True)
                self.assertLessEqual(len(asked.redirect_chain), 1)
                reached.add(asked.context["listing"].address)
            self.assertEqual(len(reached - {"/shop/c/rope-and-cordage/"}) or 1, 1, (pairs, more, reached))

    def test_what_is_not_understood_is_said_where_it_was_asked(self):
        """An address that cannot be followed wholly stays, so that the page can say why."""
        self.assertContains(self.page("/shop/?price.from=cheap&price.to=20"), "“cheap” is no number")
        self.assertContains(self.page("/shop/?colour=teal-of-old"), "no longer offered")


class ToldTests(SearchEnginesTestCase):
    def told(self, address):
        """Return the canonical address and whether search engines are kept out."""
        html = self.client.get(address, headers=HOST, follow=True).content.decode()
        return re.search(r'rel="canonical" href="([^"]+)"', html)[1].replace("&amp;", "&"), 'content="noindex' in html

    def test_canonical_and_noindex(self):
        """Listings and products are listed, combinations are not, single bins where the owner opened their facet."""
        site = "http://127.0.0.1"
        self.assertEqual(self.told("/shop/"), (f"{site}/shop/", False))
        self.assertEqual(self.told("/shop/?colour=navy"), (f"{site}/shop/?colour=navy", True))
        self.assertEqual(self.told("/shop/?sort=price"), (f"{site}/shop/", True))
        self.assertEqual(self.told("/shop/?page=2"), (f"{site}/shop/?page=2", False))
        self.assertEqual(self.told("/shop/?material=nylon"), (f"{site}/shop/?material=nylon", True))
        self.open_material()
        self.assertEqual(self.told("/shop/?material=nylon"), (f"{site}/shop/?material=nylon", False))
        self.assertEqual(self.told("/shop/?colour=navy&material=nylon")[1], True)
        self.assertEqual(self.told("/shop/?material=nylon&material=hemp&sort=price")[1], True)
        product = Product.objects.filter(visible=True).first().identity
        self.assertEqual(self.told(f"/shop/p/{product}/?colour=navy"), (f"{site}/shop/p/{product}/", False))

    def test_sitemaps(self):
        """They are valid by the protocol's schema; all that they name answers itself and is open; robots.txt shuts none of it."""
        self.open_material()
        index = ElementTree.fromstring(self.page("/sitemap.xml").content)
        parts = [urlsplit(node.text).path for node in index.findall(".//{*}loc")]
        self.assertEqual(parts, ["/sitemap-listings.xml", "/sitemap-products.xml"])
        named = []
        for part in parts:
            answer = self.page(part)
            xmlschema.XMLSchema(str(DATA / "sitemap_0_9.xsd")).validate(answer.content.decode())
            named.append([node.text for node in ElementTree.fromstring(answer.content).findall(".//{*}loc")])
        listings, products = named
        self.assertEqual(len(products), Product.objects.filter(visible=True).count())
        self.assertGreater(sum("material=" in address for address in listings), 20)
        rules = RobotFileParser()
        rules.parse(self.page("/robots.txt").content.decode().splitlines())
        self.assertEqual(rules.site_maps(), ["http://127.0.0.1/sitemap.xml"])
        self.assertFalse(rules.can_fetch("any", "http://127.0.0.1/shop/suggest/?q=rope"))
        for address in [*Random(3).sample(listings, 25), *Random(3).sample(products, 10)]:
            with self.subTest(address=address):
                self.assertTrue(rules.can_fetch("any", address))
                parts = urlsplit(address)
                path = parts._replace(scheme="", netloc="").geturl()
                self.assertEqual(self.page(path).status_code, 200)
                self.assertEqual(self.told(path), (address, False))

    def test_linked_data(self):
        """What pages say in JSON-LD holds to the types and properties of schema.org's vocabulary, release 12.0."""
        vocabulary = json.loads((DATA / "schema_org_12.json").read_text())
        self.assertEqual(SCHEMA_STATES, {name for name, kinds in vocabulary["types"].items() if "ItemAvailability" in kinds})
        for product in Product.objects.filter(visible=True).order_by("pk")[::40]:
            with self.subTest(product=product.identity):
                nodes = self.nodes(f"/shop/p/{product.identity}/")
                self.check(nodes, vocabulary)
                self.assertEqual(nodes[0]["name"], product.name)
        listing = self.page("/shop/c/rope-and-cordage/?page=2")
        nodes = self.nodes("/shop/c/rope-and-cordage/?page=2")
        self.check(nodes, vocabulary)
        cards = listing.context["listing"].cards
        self.assertEqual([item["name"] for item in nodes[0]["itemListElement"]], [card.name for card in cards])
        self.assertEqual(nodes[0]["itemListElement"][0]["position"], 25)
        self.assertEqual(nodes[0]["numberOfItems"], listing.context["listing"].total)
        self.assertEqual(nodes[1]["itemListElement"][-1]["item"], "http://127.0.0.1/shop/c/rope-and-cordage/")

    def test_names_do_not_end_the_script(self):
        """A name with mark-up stays inside the data."""
        row = Product.objects.filter(visible=True).first()
        row.name = "</script><script>alert(1)</script> & more"
        row.save()
        self.assertEqual(self.nodes(f"/shop/p/{row.identity}/")[0]["name"], row.name)

    def nodes(self, address):
        """Return the nodes of a page's linked data."""
        [script] = re.findall(r'<script type="application/ld\+json">(.*?)</script>', self.page(address).content.decode(), re.DOTALL)
        document = json.loads(script)
        self.assertEqual(document["@context"], "https://schema.org")
        return document["@graph"]

    def check(self, value, vocabulary):
        """Hold each node to the vocabulary: its type, where its properties may stand, and what may stand in them."""
        for node in value if isinstance(value, list) else [value]:
            kinds = self.kinds(node["@type"], vocabulary)
            for name, held in node.items():
                if name.startswith("@"):
                    continue
                given = vocabulary["properties"][name]
                self.assertTrue(kinds & set(given["on"]), (node["@type"], name))
                for one in held if isinstance(held, list) else [held]:
                    if isinstance(one, dict):
                        self.assertTrue(self.kinds(one["@type"], vocabulary) & set(given["of"]), (name, one["@type"]))
                        self.check(one, vocabulary)
                    elif isinstance(one, str) and one.startswith("https://schema.org/"):
                        self.assertTrue(self.kinds(one.removeprefix("https://schema.org/"), vocabulary) & set(given["of"]), one)
                    else:
                        wanted = {"Text", "URL"} if isinstance(one, str) else {"Number", "Integer"}
                        self.assertTrue(wanted & set(given["of"]) or (isinstance(one, str) and "Thing" in given["of"]), (name, one))

    def kinds(self, name, vocabulary):
        """Return a type with all that it is a kind of."""
        found, waiting = set(), [name]
        self.assertIn(name, vocabulary["types"])
        while waiting:
            one = waiting.pop()
            found.add(one)
            waiting += [other for other in vocabulary["types"].get(one, ()) if other not in found]
        return found
