"""The page *What if*: changes tried together, their worth, kept in the draft by one button, or dropped."""

import re
from urllib.parse import quote

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.changes import facets as facet_changes
from binsort.demo.loader import load_demo
from binsort.racks.setup import the_setup

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
        page = self.client.get(f"{HERE}?change=move:diameter:1&change=drop:rating&category=Rope+and+cordage").content.decode()
        self.assertIn("2 changes tried", page)
        numbers = [int(found.replace(",", "")) for found in re.findall(r'class="key-\w+"></i> <b class="n">([\d,]+)</b>', page)]
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
        page = self.client.get(HERE).content.decode()
        found = re.search(r'<b class="n">([\d.]+)</b>\s*<a class="btn sm" href="([^"]+)"', page)
        tried = self.client.get(found[2].replace("&amp;", "&")).content.decode()
        self.assertIn(f"<b>{found[1]}</b> clicks, not", " ".join(tried.split()))
        added = self.client.get(f"{HERE}?change={quote('add:brand:2')}")
        self.assertContains(added, "Brand added, place 2")
        self.client.post(HERE, {"change": "add:brand:2", "edition": the_setup().draft_id, "query": ""})
        self.assertEqual(self.facets()[1], "brand")

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
