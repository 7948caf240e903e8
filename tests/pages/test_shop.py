"""The shop's pages: the counts of the core, and no address that breaks them."""

import contextlib
import io
import json
import re
from dataclasses import replace
from urllib.parse import quote

from django.contrib.auth import get_user_model
from django.test import TestCase
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase

from binsort.catalog.models import Product
from binsort.catalog.store.product_rows import all_products
from binsort.core.count import main
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.products.product import Offer
from binsort.demo.loader import CATALOGUE, FACETS, load_demo
from tests.examples import examples


class ShopTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop."""
        load_demo()

    def test_import_loses_nothing(self):
        """What the database gives back is what the file says, product by product."""
        with CATALOGUE.open("rb") as lines:
            read = read_catalogue(lines).products
        # A group's own offer is kept with the variants that have none of their own.
        self.assertEqual(all_products(), [replace(product, offer=Offer()) if product.variants else product for product in read])

    def test_pages_show_what_count_prints(self):
        """Totals and the count of every choice, for several listings and picks."""
        cases = [
            ("", ""),
            ("", "colour=navy&colour=white&stock=in"),
            ("Rope and cordage", "colour=red&price=20..50&rating=ge-4.5"),
            ("Safety > Lifejackets", "stock=out"),
        ]
        for category, query in cases:
            with self.subTest(category=category, query=query):
                out = io.StringIO()
                with contextlib.redirect_stdout(out), contextlib.redirect_stderr(io.StringIO()):
                    main([str(CATALOGUE), str(FACETS), query, *(["--category", category] if category else [])])
                expected = json.loads(out.getvalue())
                page = self.client.get(f"/shop/?category={quote(category)}&{query}", follow=True)
                listing = page.context["listing"]
                self.assertEqual((listing.total, listing.listing), (expected["total"], expected["listing"]))
                self.assertEqual([card.id for card in listing.cards], expected["products"])
                shown = {facet.key: {c.key: c.count for c in facet.choices} for facet in listing.facets}
                group = {c["key"]: c["count"] for f in expected["facets"] if f["key"] == "group" for c in f["bins"]}
                self.assertLessEqual(shown.pop("group").items(), group.items())  # of categories one level is drawn
                counted = {
                    f["key"]: {b["key"]: b["count"] for b in f["bins"] if b["shown"]}
                    for f in expected["facets"]
                    if f["shown"] and f["key"] != "group"
                }
                self.assertEqual(shown, counted)
                for key, bins in counted.items():
                    for made, count in bins.items():
                        if key != "price":  # drawn as a slider
                            found = re.search(
                                rf'(?s)id="in-{key}-{re.escape(made)}".{{0,2000}}?class="count">([0-9,]+)<', page.content.decode()
                            )
                            self.assertEqual(found and found[1], f"{count:,}", f"{key} {made}")

    def test_category_addresses(self):
        """A category's own address lists it, and goes before one in the query."""
        page = self.client.get("/shop/c/rope-and-cordage/mooring/?category=Safety", follow=True)
        self.assertContains(page, "<h1>Mooring</h1>", html=True)
        self.assertEqual(
            page.context["listing"].listing,
            Product.objects.filter(placements__category__path_identity__startswith="rope and cordage > mooring").distinct().count(),
        )

    def test_nothing_left_says_what_to_drop(self):
        """Each way out leads to as many products as it says."""
        page = self.client.get("/shop/?colour=clear&stock=out&group=lighting&price=500..", follow=True)
        self.assertContains(page, "No product has all of this at once")
        ways = page.context["listing"].ways_out
        self.assertEqual(page.context["listing"].total, 0)
        for way in ways:
            self.assertEqual(self.client.get(way.address).context["listing"].total, way.total)
        near = self.client.get("/shop/?colour=clear&group=lighting", follow=True).context["listing"]
        self.assertEqual({way.labels[0][0] for way in near.ways_out}, {"Clear", "Lighting"})

    def test_pages_follow_each_other(self):
        """All pages together are the whole result, each product once; beyond the last there is a way back."""
        seen, address = [], "/shop/c/paint-and-varnish/?sort=-price"
        while address:
            listing = self.client.get(address).context["listing"]
            seen += [card.id for card in listing.cards]
            address = listing.next
        self.assertEqual((len(seen), len(set(seen))), (listing.total, listing.total))
        self.assertContains(self.client.get("/shop/?page=999", follow=True), "There are no more pages")

    def test_addresses_that_ask_for_too_much(self):
        """A page has 100 products at most, whatever the address says, and far pages and characters that no text may hold lead nowhere."""
        most = self.client.get("/shop/?per=99999999", follow=True).context["listing"]
        self.assertEqual((len(most.cards), most.pages), (100, -(-most.total // 100)))
        self.assertContains(self.client.get(f"/shop/?page={'9' * 30}", follow=True), "There are no more pages")
        self.assertEqual([self.client.get(path).status_code for path in ("/shop/c/rope%00/", "/shop/p/%00/")], [404, 404])
        self.assertEqual(self.client.get("/shop/?category=Rope%00", follow=True).context["listing"].listing, 0)

    def test_fragments(self):
        """A pick swaps the listing only; show more gives the next products only."""
        part = self.client.get("/shop/?stock=in", headers={"HX-Request": "true", "HX-Target": "narrow"})
        self.assertNotContains(part, "<html")
        self.assertContains(part, 'id="narrow"')
        self.assertContains(part, "<title>All products: In stock (1,071)")
        seen = self.client.get("/shop/").context["listing"].seen_keys
        more = self.client.get(f"/shop/?shown=48&seen={seen}", headers={"HX-Request": "true", "HX-Target": "more"})
        self.assertNotContains(more, 'id="narrow"')
        self.assertEqual(more.content.decode().count('<li class="card"'), 24)
        self.assertEqual(more["HX-Replace-Url"], "/shop/?shown=48")

    def test_queries_of_a_listing_are_few(self):
        """Two for what changed, set-up, two of the dictionary, visits or not, departments, the name, and cards (four), which are read once."""
        self.client.get("/shop/")
        with self.assertNumQueries(12):
            self.client.get("/shop/?colour=navy&stock=in")
        with self.assertNumQueries(8):
            self.client.get("/shop/?colour=navy&stock=in")

    def test_awkward_texts_are_shown_as_they_are(self):
        """Right-to-left text, emoji, mark-up and long names do no harm."""
        row = Product.objects.first()
        row.name, row.brand = "<b>חבל</b> 🚤 " + "Donaudampfschifffahrt" * 20, "&amp"
        row.save()
        page = self.client.get(f"/shop/p/{row.identity}/")
        self.assertContains(page, "&lt;b&gt;חבל&lt;/b&gt; 🚤")
        self.assertContains(self.client.get("/shop/"), "&amp;amp")


_PAGES = (
    "/racks/", "/racks/add/", "/racks/facets/price/", "/racks/facets/price/unbinned/", "/racks/jump/", "/catalogue/", "/catalogue/head/",
    "/catalogue/suggest/",
)  # fmt: skip


class AnyAddressTests(HypothesisTestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop."""
        load_demo()

    @examples(5)
    @given(st.lists(st.tuples(st.text(max_size=40), st.text(max_size=20)), min_size=4, max_size=4))
    def test_no_address_breaks_the_shop(self, typed):
        """Whatever is typed behind the question mark gives a page; unknown paths say so."""
        for query, path in typed:
            self.assertEqual(self.client.get(f"/shop/?{query.replace('#', '')}", follow=True).status_code, 200)
            self.assertEqual(self.client.get(f"/shop/?{quote(query)}={quote(path)}&price={quote(path)}", follow=True).status_code, 200)
            self.assertIn(self.client.get(f"/shop/p/x{quote(path, safe='')}/").status_code, (301, 404))

    @examples(3)
    @given(st.lists(st.text(max_size=30), min_size=2, max_size=2))
    def test_no_address_breaks_the_tool(self, texts):
        """Whatever stands behind the question mark, the owner gets a page."""
        self.client.force_login(get_user_model().objects.get())
        for text in map(quote, texts):
            asked = f"category={text}&find={text}&group={text}&source={text}&colour={text}&q={text}&missing={text}&open={text}&page={text}&sort={text}"
            for path in _PAGES:
                self.assertEqual(self.client.get(f"{path}?{text}").status_code, 200)
                self.assertEqual(self.client.get(f"{path}?{asked}").status_code, 200)


class EmptyShopTests(TestCase):
    def test_without_a_catalogue(self):
        """No product, no rack: the pages say so."""
        self.assertContains(self.client.get("/shop/?colour=navy", follow=True), "Nothing is listed here yet")
