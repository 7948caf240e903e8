"""The first minute: an empty shop asks for a file, then proposes a rack; what is ticked is reckoned, taken and put live."""

import tempfile
from dataclasses import replace
from pathlib import Path

from django.contrib.auth import get_user_model
from django.core.management import call_command

from binsort.catalog.models import Category
from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.query import Query
from binsort.core.values.strict_json import loads
from binsort.demo.loader import OWNER, PASSWORD
from binsort.racks.setup import the_setup
from binsort.shopfront.addresses import category_address
from binsort.tally import current
from tests.core.test_starter import product

from .pages import BrowserTestCase, wait_until
from .test_benches import COSTS, Hand


def table(count):
    """Return made-up products as a table."""
    rows = ["SKU;Name;Category;Brand;Price;Colour;Material;Diameter (mm)"]
    for number in range(count):
        one = loads(product(number).decode())
        facts = {fact["name"]: fact["value"] for fact in one["additionalProperty"]}
        cells = [one["sku"], one["name"], one["category"], one["brand"], one["offers"]["price"]]
        rows.append(";".join(map(str, [*cells, *(facts.get(name, "") for name in ("Colour", "Material", "Diameter"))])))
    return "\n".join(rows)


class StartTests(BrowserTestCase):
    def setUp(self):
        """An empty shop, and its owner."""
        super().setUp()
        call_command("flush", verbosity=0, interactive=False)
        get_user_model().objects.create_superuser(OWNER, password=PASSWORD)
        current.forget()

    def test_from_a_file_to_a_live_rack(self):
        """Nothing but a file is asked for; the rack is proposed with its worth, follows each tick by keyboard, and shoppers have it."""
        page = self.sign_in()
        self.assertEqual(page.locator("main form").count(), 1)
        self.assert_accessible(page, "an empty shop")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "stock.csv"
            path.write_text(table(300), encoding="utf-8")
            page.set_input_files("#file", path)
            page.click("text=Look at it")
        page.wait_for_selector(".trial")
        page.click("button[name=bring]")
        page.click("text=Go on: a rack to start with")
        page.wait_for_selector(".begin-rack")
        self.assert_accessible(page, "a rack to start with")
        names = page.locator(".begin-rack .begin-name b").all_inner_texts()
        self.assertEqual(names[0], "Category")
        self.assertLess({"Brand", "Price", "Diameter"}, set(names))
        worth, button = page.inner_text(".begin-worth"), page.locator(".begin-take .solid")
        self.assertIn(f"Start with these {len(names)}", button.inner_text())
        self.assertIn("Shows on Rope and below", page.inner_text(".begin-rack"))
        self.assertRegex(page.inner_text(".begin-rack"), r"−\d\.\d there")
        page.focus("#on-brand")
        page.keyboard.press("Space")
        wait_until(page, f"document.querySelector('.begin-take .solid').textContent.includes('these {len(names) - 1}')")
        wait_until(page, "document.activeElement.id === 'on-brand'")
        self.assertNotEqual(page.inner_text(".begin-worth"), worth)
        page.wait_for_timeout(200)
        page.keyboard.press("Space")
        wait_until(page, f"document.querySelector('.begin-take .solid').textContent.includes('these {len(names)}')")
        self.assertEqual(page.inner_text(".begin-worth"), worth)
        button.click()
        page.wait_for_url("**/racks/")
        page.click("text=Put live")
        page.wait_for_load_state("networkidle")
        facets = [facet["label"] for facet in the_setup().live.document["facets"]]
        self.assertEqual(facets, names)
        shopper = self.open("/shop/", scripts=False)
        self.assertTrue(shopper.locator("details.facet").count() >= 4)
        self.assertEqual(shopper.locator("h3", has_text="Diameter").count(), 0)
        shopper.goto(f"{self.live_server_url}/shop/?by-category=rope")
        self.assertEqual(shopper.locator("h3", has_text="Diameter").count(), 1)

    def test_small_shops_from_file_to_shop(self):
        """With 35 and with 171 products: as many actions as the table says, and each facet shows on every listing it belongs to."""
        for count in (35, 171):
            with self.subTest(count=count):
                call_command("flush", verbosity=0, interactive=False)
                get_user_model().objects.create_superuser(OWNER, password=PASSWORD)
                current.forget()
                page = self.sign_in()
                hand = Hand(page)
                with tempfile.TemporaryDirectory() as folder:
                    path = Path(folder) / "stock.csv"
                    path.write_text(table(count), encoding="utf-8")
                    hand.actions += 1
                    page.set_input_files("#file", path)
                    hand.click("text=Look at it")
                page.wait_for_selector(".trial")
                hand.click("button[name=bring]")
                hand.click("text=Go on: a rack to start with")
                hand.click(".begin-take .solid")
                page.wait_for_url("**/racks/")
                hand.click("text=Put live")
                page.wait_for_load_state("networkidle")
                self.assertEqual(hand.actions, int(COSTS["from a file to a rack that is live"]))
                self.shows_where_it_belongs()
                page.context.close()

    def shows_where_it_belongs(self):
        """Walk all listings: a facet shows wherever it parts the products; one that waits for a department on all of that department."""
        facets = {facet["key"]: facet for facet in the_setup().live.document["facets"]}
        self.assertGreater(len(facets), 2)
        specs, index = {spec.key: spec for spec in the_setup().live.facet_file.facets}, current.current().index
        seen = set()
        for category in [None, *Category.objects.all()]:
            listing = self.client.get(category_address(category) if category else "/shop/").context["listing"]
            path = tuple(category.path_identity.split(" > ")) if category else None
            shown = {facet.key for facet in listing.facets}
            seen |= shown
            for key, spec in specs.items():
                alone = State(RackIndex(index, [replace(spec, show_when=None)]), Query(category=path)).facets[0]
                parts = sum(1 for bin in alone.bins if 0 < bin.count < listing.total)
                if parts > 1 and not facets[key].get("show_when"):
                    self.assertIn(key, shown, (key, path))
        self.assertEqual(seen, set(facets))  # what waits shows somewhere, too

    def test_without_scripts(self):
        """Ticks are reckoned by a button."""
        page = self.sign_in(scripts=False)
        page.goto(f"{self.live_server_url}/racks/start/")
        self.assertIn("There are no products yet", page.inner_text("main"))
