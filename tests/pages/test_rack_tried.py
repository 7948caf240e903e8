"""Trying picks on the rack: every bin and any range can be tried, widths tell the truth, an empty result names the way out."""

import re

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.catalog.models import Product
from binsort.changes.facets import add_facet
from binsort.core.facets.kinds import kinds
from binsort.demo.loader import load_demo
from binsort.racks.setup import the_setup


class TriedTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop and its owner."""
        load_demo()
        cls.owner = get_user_model().objects.get()

    def setUp(self):
        """Sign in."""
        self.client.force_login(self.owner)

    def rack(self, query=""):
        """Return the rack as it is drawn under a query."""
        return self.client.get(f"/racks/{query}").context["rack"]

    def shelf(self, key, query=""):
        """Return one of its shelves."""
        rack = self.rack(query)
        return next(shelf for shelf in (*rack.shelves, *rack.silent) if shelf.key == key)

    def test_more_opens_in_place(self):
        """What is summed up stands on the shelf after a click, picks kept, each bin to be tried; a second click sums it up again."""
        shelf = self.shelf("colour", "?stock=in")
        self.assertTrue(shelf.rest)
        opened = self.shelf("colour", shelf.turn_address.removeprefix("/racks/"))
        self.assertEqual((opened.rest, len(opened.vessels)), (0, len(shelf.vessels) + shelf.rest))
        small = min(opened.vessels, key=lambda vessel: vessel.total)
        tried = self.rack(small.address.removeprefix("/racks/"))
        self.assertEqual([pick.text for pick in tried.picks], [f"Colour: {small.name}", "Stock: In stock"])
        self.assertTrue(next(shelf for shelf in tried.shelves if shelf.key == "colour").is_open)
        self.assertEqual(opened.turn_address, "/racks/?stock=in")
        tree = self.shelf("group", "?category=Rope and cordage&shelf.open=group")
        below = {vessel.key for group in tree.groups for vessel in group.vessels}
        everything = {choice.key for choice in self.client.get("/shop/").context["listing"].facets[0].choices}
        self.assertTrue(below)
        self.assertFalse(below & everything)
        self.assertEqual(sum(group.rest for group in tree.groups), 0)

    def test_the_preview_is_tried(self):
        """The shopper's view is a form of the very controls that the shop has: what it sends is what is tried, with the listing."""
        page = self.client.get("/racks/?material=nylon&category=Rope and cordage")
        form = re.search(r'<form\s+class="phone-scroll.*?</form>', page.content.decode(), re.DOTALL)[0]
        self.assertEqual(dict(re.findall(r'type="hidden" name="([^"]+)" value="([^"]+)"', form)), {"category": "Rope and cordage"})
        checked = re.findall(r'name="([^"]+)"\s+value="([^"]+)"\s+checked', form)
        self.assertEqual(checked, [("material", "nylon")])
        shop = self.client.get("/shop/c/rope-and-cordage/?material=nylon", follow=True).content.decode()
        for control in ("in-colour-navy", "in-price-from", "in-rating-"):
            self.assertEqual(form.count(f'id="{control}'), shop.count(f'id="{control}'))
        free = self.rack("?material=nylon&price.from=15&price.to=70")
        shop = self.client.get("/shop/?material=nylon&price=15..70", follow=True).context["listing"]
        self.assertEqual((free.result, free.picks[0].text), (shop.total, "Price: £15 to £70"))
        self.assertEqual(len(next(shelf for shelf in free.shelves if shelf.key == "price").spans), 1)

    def test_widths_and_names(self):
        """The unbinned are drawn at their share beside the binned; no range of an axis stands without its name and its figure."""
        shelf = self.shelf("diameter")
        self.assertAlmostEqual(shelf.binned_width + shelf.unbinned_share, 100)
        self.assertLessEqual(sum(vessel.least_width for vessel in shelf.vessels), 626 * shelf.binned_width / 100)
        for query in ("", "?category=Rope and cordage", "?colour=navy"):
            for key in ("price", "diameter"):
                drawn = self.shelf(key, query)
                if drawn.cuts:
                    self.assertTrue(all(vessel.short for vessel in drawn.vessels), (query, key))
        self.assertTrue(self.shelf("price").cuts)
        reduced = next(source for source in self.client.get("/racks/add/").context["page"].sources if source.key == "reduced")
        self.assertEqual([vessel.name for vessel in reduced.shelf.vessels], ["Reduced"])
        widened = min(self.shelf("diameter").vessels, key=lambda vessel: vessel.total)
        self.assertIn("wider than its share", widened.told)
        self.assertNotIn("wider than its share", self.shelf("stock").vessels[0].told)

    def test_without_a_value(self):
        """The flag leads to the sheet with that hatch picked, or, where values are in no bin, to the products; Reduced has none."""
        shelf = self.shelf("material", "?category=Rope and cordage")
        self.assertEqual(shelf.unbinned_address, "/catalogue/?category=Rope+and+cordage&missing=attribute%3Amaterial#fill")
        sheet = self.client.get(shelf.unbinned_address).context["sheet"]
        self.assertEqual(sheet.total, shelf.unbinned)
        self.assertIn("attribute:material", sheet.shown_keys)
        self.assertEqual(self.shelf("material").finding, "260 have none")
        document = {
            "key": "reach", "label": "Reach", "source": {"kind": "attribute", "attribute": "Diameter", "unit": "mm"},
            "ranges": [{"label": "Small", "to": 5}],
        }  # fmt: skip
        add_facet(document, rack="side", actor=None, based_on=the_setup().draft_id)
        reduced = {"key": "reduced", "label": "Reduced", "source": {"kind": "reduced"}}
        add_facet(reduced, rack="side", actor=None, based_on=the_setup().draft_id)
        reach = self.shelf("reach")
        self.assertEqual(reach.unbinned_address, "/racks/facets/reach/unbinned/")
        self.assertEqual(reach.finding, f"{reach.unbinned:,} in no bin")
        reduced = self.shelf("reduced")
        self.assertLess(reduced.binned_share, 90)
        self.assertEqual(reduced.finding, "")
        self.assertEqual({kind.name for kind in kinds() if kind.may_be_absent}, {"reduced", "tag"})

    def test_what_says_nothing_is_folded(self):
        """Facets without a product in a bin of the listing stand in one line; with a pick they stand on the rack."""
        page = self.client.get("/racks/?category=Lighting")
        silent = {shelf.key for shelf in page.context["rack"].silent}
        self.assertIn("diameter", silent)
        self.assertNotIn("price", silent)
        self.assertContains(page, "says nothing here" if len(silent) == 1 else "say nothing here")
        self.assertEqual(self.rack("").silent, ())

    def test_no_product_left(self):
        """Where no product is left, the picks to drop are named with what that gives, best first."""
        keys = [vessel.key for vessel in self.shelf("material", "?shelf.open=material").vessels]
        rack = next(rack for key in keys if not (rack := self.rack(f"?colour=oxblood&stock=in&material={key}")).result)
        for way in rack.ways:
            self.assertEqual(self.rack(way.address.removeprefix("/racks/")).result, way.count)
        self.assertTrue(rack.ways)
        self.assertEqual([way.count for way in rack.ways], sorted((way.count for way in rack.ways), reverse=True))
        self.assertEqual(self.rack("?colour=navy").ways, ())

    def test_percentages_agree(self):
        """Rack, facet page, dictionary and sheet say the same share of the same products."""
        total = Product.objects.filter(visible=True).count()
        shelf = self.shelf("material")
        column = next(column for column in self.client.get("/catalogue/").context["sheet"].columns if column.key == "attribute:material")
        self.assertEqual(column.covered, shelf.binned_share)
        self.assertContains(self.client.get("/racks/facets/material/"), f"{shelf.binned_share}%")
        self.assertContains(self.client.get("/catalogue/attributes/"), f"{shelf.binned_share}%")
        self.assertEqual(shelf.binned_share, round(100 * (total - shelf.unbinned) / total))
