"""The page *Why*: in words and as a thread, for products that are here, and such that are not."""

import html
import re

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.demo.loader import load_demo

ROPE = "/racks/of/side/why/?category=Rope+and+cordage"


class WhyTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """The demo shop."""
        load_demo()
        cls.owner = get_user_model().objects.get(username="mara")

    def ask(self, query):
        """Ask as the owner."""
        self.client.force_login(self.owner)
        return self.client.get(ROPE + query)

    def test_not_here(self):
        """Which pick keeps it out, which articles fail by what, and the way in: tried, it is here."""
        page = self.ask("&colour=navy-blue&diameter=12-to-16&stock=in&product=SC-1180")
        self.assertContains(page, "not here?")
        self.assertContains(page, "Diameter keeps it out. And no one article meets the other picks at once.")
        self.assertContains(page, "fails by Diameter and")
        alone = self.ask("&diameter=12-to-16&product=SC-1180")
        self.assertContains(alone, "Let go of Diameter")
        split = self.ask("&colour=navy-blue&stock=in&product=SC-1180")
        self.assertContains(split, "Give that article another value.")
        self.assertNotContains(self.ask("&rating=ge-4.5&product=SC-1180"), "Give that article another value.")  # no article has a rating
        self.assertContains(self.ask("&product=SC-1180"), "Nothing is picked: the listing has it.")

    def test_here_and_elsewhere(self):
        """One that meets every pick, one of another department, one that nobody knows, and no picks at all."""
        self.assertContains(self.ask("&diameter=5-to-8&product=SC-1180"), "It meets every pick.")
        self.assertContains(self.ask("&colour=red&product=lifejacket"), "it stands in other categories")
        self.assertContains(self.ask("&colour=red&product=zzz%00"), "No product that shoppers can meet")
        self.assertContains(self.ask("&price=20..50&price=..10&colour=nothing"), "Name a product")
        self.assertContains(self.ask("&price=20..50&product=%F0%9F%9B%A5"), "No product")

    def test_who_else(self):
        """As many fail by one pick as come back when it is let go, each with a way to its own reason."""
        page = self.ask("&colour=navy&stock=in")
        self.assertContains(page, "fail by one pick")
        self.assertContains(page, "Colour: ")
        self.assertGreater(page.content.decode().count("/racks/of/side/why/?category="), 5)
        near = self.ask("&price=20..30&stock=in&by=price").content.decode()
        gaps = [float(found) for found in re.findall(r"£([\d.]+) (?:over|short)", near)]
        self.assertGreater(len(gaps), 3)
        self.assertEqual(gaps, sorted(gaps))
        self.assertNotIn("Stock: ", near.partition("Nearest first")[2])

    def test_asked_from_elsewhere(self):
        """From the sheet, a product and the shop: on the product's own listing, or with the shopper's picks; only for the shop's own people."""
        self.client.force_login(self.owner)
        self.assertContains(self.client.get("/catalogue/?q=SC-1180"), "/racks/why/?product=SC-1180")
        self.assertContains(self.client.get("/catalogue/products/SC-1180/"), "/racks/why/?product=SC-1180")
        own = self.client.get("/racks/why/?product=SC-1180")
        self.assertIn("category=Rope", own.url)
        self.assertContains(self.client.get(own.url), "Nothing is picked: the listing has it.")
        line = "/shop/why/SC-1180/?category=rope+and+cordage&diameter=5-to-8&sort=name"
        shop = self.client.get(line, headers={"hx-request": "true"}).content.decode()
        address = html.unescape(re.search(r'href="(/racks/why/[^"]+)"', shop)[1])
        self.assertContains(self.client.get(address, follow=True), "It meets every pick.")
        self.client.logout()
        self.assertNotContains(self.client.get(line, headers={"hx-request": "true"}), "/racks/why/")
