"""The page *What if*: changes tried together, their worth, kept in the draft by one button, or dropped."""

import re
from unittest import mock
from urllib.parse import quote

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.changes import facets as facet_changes
from binsort.demo.loader import load_demo
from binsort.racks.setup import the_setup
from binsort.workbench.what_if import page

HERE = "/racks/of/side/what-if/"


class WhatIfTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """The demo shop."""
        load_demo()
        cls.owner = get_user_model().objects.get(username="mara")

    def setUp(self):
        """Sign in."""
        self.client.force_login(self.owner)

    def facets(self):
        """Return the rack of the draft."""
        return the_setup().draft.document["racks"][0]["facets"]

    def test_tried_and_kept(self):
        """Chips for what is tried, gains and losses that add up, other shoppers; the draft stays until it is kept; undone in one step."""
        before = list(self.facets())
        told = self.client.get(f"{HERE}?change=move:diameter:1&change=drop:rating&category=Rope+and+cordage").content.decode()
        self.assertIn("2 changes tried", told)
        numbers = [int(found.replace(",", "")) for found in re.findall(r'class="key-\w+"></i> <b class="n">([\d,]+)</b>', told)]
        self.assertEqual(sum(numbers), 305)
        self.assertEqual(self.facets(), before)
        self.assertContains(self.client.get(f"{HERE}?shopper=ours"), "picks were counted yet")
        self.assertNotContains(self.client.get(f"{HERE}?shopper=top"), "picks were counted yet")
        for shopper in ("ours", "best"):
            self.assertContains(self.client.get(f"{HERE}?change=move:diameter:1&shopper={shopper}"), "1 change tried")
        fields = {"change": ["move:diameter:1", "drop:rating"], "edition": the_setup().draft_id, "query": ""}
        self.assertContains(self.client.post(HERE, fields, follow=True), "Kept in the draft.")
        self.assertEqual(self.facets(), ["diameter", *(key for key in before if key not in ("diameter", "rating"))])
        facet_changes.undo(actor=self.owner)
        self.assertEqual(self.facets(), before)

    def test_what_would_help(self):
        """A further change is proposed with the average it gives; tried, the page has that average."""
        told = self.client.get(HERE).content.decode()
        found = re.search(r'<b class="n">([\d.]+)</b>\s*<a class="btn sm" href="([^"]+)"', told)
        tried = self.client.get(found[2].replace("&amp;", "&")).content.decode()
        self.assertIn(f"<b>{found[1]}</b> clicks, not", " ".join(tried.split()))
        added = self.client.get(f"{HERE}?change={quote('add:brand:2')}")
        self.assertContains(added, "Add Brand, place 2")
        self.client.post(HERE, {"change": "add:brand:2", "edition": the_setup().draft_id, "query": ""})
        self.assertEqual(self.facets()[1], "brand")

    def test_against_live(self):
        """What the draft changed already counts against what shoppers see; against the draft only what is tried does; a cut is told in words."""
        facet_changes.order_facets("side", ["diameter", *(key for key in self.facets() if key != "diameter")], actor=self.owner)
        self.assertContains(self.client.get(HERE), "clicks, not")
        self.assertNotContains(self.client.get(f"{HERE}?against=draft"), "clicks, not")
        cut = self.client.get(f"{HERE}?new=cut&facet=diameter&place=10&against=draft")
        self.assertContains(cut, "Diameter cut at 10 mm")
        self.assertContains(cut, "clicks, not")
        self.client.post(HERE, {"change": "cut:diameter:10", "edition": the_setup().draft_id, "query": ""})
        diameter = next(facet for facet in the_setup().draft.document["facets"] if facet["key"] == "diameter")
        self.assertEqual(diameter["cuts"], [5, 8, 10, 12, 16])
        self.assertContains(self.client.get(f"{HERE}?change=cut:diameter:10"), "0 changes tried")

    def test_so_many_that_it_takes_its_time(self):
        """At best is counted beside the page, with a way to stop; what would help is looked for when asked, and says the same numbers."""
        every = re.findall(r'<b class="n">([\d.]+)</b>\s*<a class="btn sm"', self.client.get(HERE).content.decode())
        with mock.patch.multiple(page, _LONG=100, _MANY=100, _GUESSED=300):
            waits = self.client.get(f"{HERE}?change=drop:stock&shopper=best").content.decode()
            self.assertIn("data-waits", waits)
            self.assertNotIn("on average", waits)
            self.assertContains(self.client.get(f"{HERE}?change=drop:stock&shopper=best&look=1"), "on average")
            self.assertContains(self.client.get(HERE), "Look for it")
            asked = re.findall(r'<b class="n">([\d.]+)</b>\s*<a class="btn sm"', self.client.get(f"{HERE}?look=1").content.decode())
        self.assertEqual(asked[0], every[0])  # the best of all is among those that a first guess lets through

    def test_broken_and_late(self):
        """What is no change is passed over; of two people the second is told, and nothing of the first one's is lost."""
        seen = the_setup().draft_id
        for query in ("change=%00&change=move&change=drop:nothing", "new=move&facet=colour&place=x", "category=Nowhere&shopper=nobody"):
            self.assertContains(self.client.get(f"{HERE}?{query}"), "0 changes tried")
        self.assertContains(self.client.get(f"{HERE}?new=move&facet=stock&place=1"), "Stock to place 1")
        facet_changes.order_facets("side", ["stock", *(key for key in self.facets() if key != "stock")], actor=self.owner)
        late = self.client.post(HERE, {"change": "drop:colour", "edition": seen, "query": "change=drop%3Acolour"}, follow=True)
        self.assertContains(late, "Not done: meanwhile")
        self.assertIn("colour", self.facets())
