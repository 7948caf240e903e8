"""A week of a shop in a browser: two people, three racks, a rule, places, a schedule, a review, put live, something wrong, back."""

import json
import subprocess
import sys
import tempfile
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path
from unittest.mock import patch

from django.utils import timezone

from binsort.changes import racks as rack_changes
from binsort.changes.live import put_live
from binsort.core.facets.behaviour import Behaviour
from binsort.core.facets.places import Listing, plan
from binsort.core.values.strict_json import dumps
from binsort.demo.loader import CATALOGUE, PASSWORD
from binsort.racks.setup import rack_document, the_setup

from .pages import BrowserTestCase, wait_until

ROPE = "Rope and cordage"


def draft():
    """Return the draft."""
    return the_setup().draft.document


@contextmanager
def at(moment):
    """Let the shop's clock stand at a moment; the server is of this process."""
    with patch("django.utils.timezone.now", return_value=moment):
        yield


class WeekTests(BrowserTestCase):
    def expected(self, document, path, query, now):
        """Return what the command ``count`` says of the facets that a set-up has on a listing."""
        keys = plan(document, Listing.of(path)).keys
        whole = {**document, "racks": [{"key": "here", "label": "Here", "facets": list(keys)}]}
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder, "facets.json")
            file.write_text(dumps(whole), encoding="utf-8")
            command = [sys.executable, "-m", "binsort.core.count", CATALOGUE, file, query, "--now", now.isoformat(), "--rack", "here"]
            done = subprocess.run(
                [*command, *(["--category", " > ".join(path)] if path else [])], capture_output=True, text=True, check=True
            )
        return json.loads(done.stdout)

    def shoppers_see(self, shop, document, places, *, query="", path=(ROPE,)):
        """Assert that shoppers see these facets at these places, each bin with the count of the command."""
        address = "/shop/c/rope-and-cordage/" if path else "/shop/"
        shop.goto(f"{self.live_server_url}{address}?{query}")
        for selector, labels in places.items():
            self.assertEqual(shop.locator(f"{selector} .facet h3").all_inner_texts(), labels, selector)
        found = self.expected(document, path, query, timezone.now())
        listed = f"{found['total']:,} of {found['listing']:,} products" if query else f"{found['listing']:,} products"
        self.assertIn(listed, shop.inner_text(".title"))
        for facet in found["facets"]:
            for bin in facet["bins"]:
                count = shop.locator(f"#facet-{facet['key']} label:has([id='in-{facet['key']}-{bin['key']}']) .count")
                if facet["shown"] and count.count() == 1:
                    self.assertEqual(count.text_content().strip(), f"{bin['count']:,}", (facet["key"], bin["key"]))

    def choose(self, page, selector):
        """Click something that htmx answers, at human pace."""
        page.click(selector)
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(120)

    def test_a_week(self):
        """At each moment shoppers see exactly what was put live, counted by the command; who may not put live cannot."""
        mara, shop = self.sign_in(), self.open("/shop/")
        before = draft()
        side = ["Category", "Price", "Colour", "Material", "Diameter", "Rating", "Stock"]
        self.shoppers_see(shop, before, {".drawer-scroll": side}, query="colour=navy")

        # Monday: Mara lets Josie in, who makes two racks and fills them
        mara.goto(f"{self.live_server_url}/people/")
        mara.fill("#invite input[name=note]", "the new buyer")
        self.choose(mara, "text=Make the link")
        josie = self.open(mara.input_value(".invitation input[readonly]").removeprefix(self.live_server_url))
        for field, text in (("name", "Josie Pell"), ("username", "josie"), ("password", PASSWORD)):
            josie.fill(f"#{field}", text)
        josie.click("button:has-text('Come in')")
        josie.wait_for_url("**/racks/")
        for label in ("Quick row", "Rope rack"):
            josie.goto(f"{self.live_server_url}/racks/all/")
            josie.fill("form.in-a-row.mt-14 [name=label]", label)
            self.choose(josie, "text=Make it")
        for rack, facets in (("quick-row", ["Stock"]), ("rope-rack", ["Colour", "Diameter"])):
            for label in facets:
                josie.goto(f"{self.live_server_url}/racks/add/?rack={rack}")
                self.choose(josie, f".elsewhere-row:has(b:text-is('{label}')) button:has-text('Share it')")
        self.assertEqual(rack_document(draft(), "rope-rack")["facets"], ["colour", "diameter"])

        # a rule, in words
        josie.goto(f"{self.live_server_url}/racks/of/rope-rack/?show.when=diameter")
        self.choose(josie, "#add-line")
        self.assertIn("Show Diameter once", josie.inner_text("#rule-card"))
        self.assertIn("1 of 2", josie.inner_text(".counted-facets"))
        self.choose(josie, "#rule-done")

        # places: the row above every listing, the rope rack at the side of ropes
        for cell, rack in (("#cell-above-all", "quick-row"), ("#cell-side-rope-and-cordage", "rope-rack")):
            josie.goto(f"{self.live_server_url}/listings/")
            self.choose(josie, cell)
            self.choose(josie, "label:has(#choice-own)")
            josie.select_option("#place-rack", rack)
            josie.wait_for_load_state("networkidle")
            josie.wait_for_selector("#set-place")
            self.choose(josie, "#set-place")
        self.assertFalse(josie.is_visible("text=Put live"))
        self.assertEqual(josie.evaluate("tool.send('/racks/put-live/', {}).then((answer) => answer.status)"), 403)
        self.shoppers_see(shop, before, {".drawer-scroll": side}, query="colour=navy")

        # Tuesday: Mara looks at it and lets it go live on Wednesday at eight
        mara.goto(f"{self.live_server_url}/racks/review/?category=Rope+and+cordage")
        self.assertIn("Josie Pell", mara.inner_text(".changed-by"))
        self.assertEqual(mara.locator(".change").count(), 4)  # the rule, two racks, and where the first one shows
        goes = (timezone.localtime() + timedelta(days=2)).replace(hour=8, minute=0, second=0, microsecond=0)
        mara.fill("#note", "Racks for ropes")
        mara.fill("[name=at]", goes.strftime("%Y-%m-%dT%H:%M"))
        self.choose(mara, "button:has-text('Schedule')")
        self.assertIn("08:00", mara.inner_text(".waits-live"))
        ropes = draft()
        josie.goto(f"{self.live_server_url}/racks/facets/stock/")
        josie.fill("#id_label", "Availability")  # stays in the draft
        josie.press("#id_label", "Tab")
        josie.wait_for_selector("[data-undo] button[title*='Availability']")
        with at(goes - timedelta(seconds=1)):
            self.shoppers_see(shop, before, {".drawer-scroll": side}, query="colour=navy")
        with at(goes):
            self.shoppers_see(shop, ropes, {".facet-row.above": ["Stock"], ".drawer-scroll": ["Colour"]})
            self.shoppers_see(shop, ropes, {".drawer-scroll": ["Colour", "Diameter"]}, query="colour=navy&stock=in")
            rest = ["Category", "Price", "Colour", "Material", "Rating", "Stock"]
            shop.goto(f"{self.live_server_url}/shop/")
            self.assertEqual(shop.locator(".drawer-scroll .facet h3").all_inner_texts(), rest)

        with at(goes + timedelta(hours=1)):
            # Wednesday: something goes wrong, and is gone back from
            mara.goto(f"{self.live_server_url}/racks/facets/colour/")
            mara.focus("[data-value='Navy'] input")
            mara.keyboard.press("x")
            mara.wait_for_selector("[data-undo] button[title='Colour: Navy left out']")
            mara.goto(f"{self.live_server_url}/racks/review/?category=Rope+and+cordage")
            self.assertIn("left their bins for none", mara.inner_text("#change-facet-colour"))
            self.choose(mara, "#put-live")
            wrong = draft()
            self.shoppers_see(shop, wrong, {".facet-row.above": ["Availability"], ".drawer-scroll": ["Colour"]})
            self.assertEqual(shop.locator("#in-colour-navy").count(), 0)
            mara.goto(f"{self.live_server_url}/history/")
            row = mara.locator(".went-live:has-text('Racks for ropes') a")
            row.click()
            mara.wait_for_selector("#go-back")
            self.assertIn("Navy", mara.inner_text(".back-changes"))
            self.choose(mara, "#go-back")
            self.shoppers_see(shop, ropes, {".facet-row.above": ["Stock"], ".drawer-scroll": ["Colour", "Diameter"]}, query="colour=navy")
            self.assertEqual(draft(), wrong)


class HandTests(BrowserTestCase):
    def test_ties_by_keyboard_and_by_drag(self):
        """T ties the shelf in hand, Delete unties it, a dot dragged to a shelf does, too; a circle is drawn and refused."""
        page = self.sign_in()
        page.click("#show-when")
        page.wait_for_selector(".rack.ruling")
        page.focus("#grip-colour")
        page.keyboard.press("t")
        page.wait_for_selector("#rule-card")
        page.focus("#grip-colour")
        page.keyboard.press("t")
        page.wait_for_selector("#line-0-facet")
        page.select_option("#line-0-facet", "material")
        wait_until(page, "document.querySelector('#rule-colour').textContent.includes('Material')")
        page.click("#rule-done")
        wait_until(page, "!document.querySelector('#rule-card') && document.querySelectorAll('.tie').length === 1")
        dot, shelf = page.locator("[data-tie-from=colour]"), page.locator("#shelf-rating .board")
        start, end = dot.bounding_box(), shelf.bounding_box()
        page.mouse.move(start["x"] + 12, start["y"] + 12)
        page.mouse.down()
        page.mouse.move(end["x"] + 60, end["y"] + 20, steps=6)
        page.mouse.up()
        wait_until(page, "document.querySelectorAll('.tie').length === 2")
        page.click("#rule-material")
        page.wait_for_selector("#add-line")
        page.click("#add-line")
        page.wait_for_selector("#line-0-facet")
        page.select_option("#line-0-facet", "rating")
        page.wait_for_selector("text=That makes a circle")
        self.assertEqual(page.evaluate("document.querySelectorAll('.tie.refused').length"), 3)
        page.click("text=Leave this line out")
        wait_until(page, "!document.querySelector('.rule-line.refused')")
        page.click("#rule-done")
        page.wait_for_timeout(300)
        page.focus("#rule-colour")
        page.keyboard.press("Delete")
        wait_until(page, "document.querySelectorAll('.tie').length === 1")
        facets = {facet["key"]: facet.get("show_when") for facet in draft()["facets"]}
        self.assertEqual((facets["colour"], facets["rating"]), (None, {"any": [{"facet": "colour", "picked": True}]}))

    def test_a_facet_is_dropped_on_another_rack(self):
        """Drop places stand at the foot while it is dragged; it moves there, and undo brings it back."""
        rack_changes.make_rack("Quick row", actor=None)
        page = self.sign_in()
        start = page.locator("#grip-rating").bounding_box()
        page.mouse.move(start["x"] + 12, start["y"] + 12)
        page.mouse.down()
        page.mouse.move(start["x"] + 40, start["y"] - 60, steps=5)
        page.wait_for_selector(".drop-racks.shown")
        there = page.locator(".drop-rack").bounding_box()
        page.mouse.move(there["x"] + 50, there["y"] + 18, steps=10)
        page.wait_for_timeout(200)
        page.mouse.up()
        page.wait_for_selector("text=Rating moved to Quick row")
        self.assertEqual(rack_document(draft(), "quick-row")["facets"], ["rating"])

    def test_applied_by_a_button(self):
        """Picks wait for the button, on a wide page and on a phone each as set; then all of them apply, and the page scrolls to the products."""
        rack_changes.set_behaviour("side", Behaviour(applies="button", after="scroll"), actor=None)
        put_live()
        shop = self.open("/shop/c/rope-and-cordage/")
        shop.click("label:has(#in-colour-navy)")
        shop.click("label:has(#in-material-nylon)")
        shop.wait_for_timeout(400)
        self.assertNotIn("colour", shop.url)
        shop.click(".drawer-foot button")
        wait_until(shop, "location.search.includes('colour=navy') && location.search.includes('material=nylon')")
        wait_until(shop, "document.querySelector('#results').getBoundingClientRect().top < 40")
        phone = self.open("/shop/c/rope-and-cordage/", width=390, height=844, touch=True)
        phone.click(".drawer-opener")
        if phone.locator("#facet-colour").get_attribute("open") is None:
            phone.click("#facet-colour > summary")
        phone.click("label:has(#in-colour-navy)")
        wait_until(phone, "location.search.includes('colour=navy')")

    def test_on_a_phone_and_accessible(self):
        """Every page of racks fits a phone, can be read by all, and says who may change it to who may not."""
        rack_changes.make_rack("Quick row", actor=None)
        rack_changes.put_on_rack("stock", "quick-row", actor=None)
        page = self.sign_in()
        addresses = (
            "/racks/?show.when=colour", "/racks/all/", "/listings/?at=rope and cordage&where=side&choice=own&rack=quick-row",
            "/racks/of/side/behaves/", "/racks/review/", "/history/?live=1", "/people/", "/account/", "/racks/file/",
        )  # fmt: skip
        for address in addresses:
            page.goto(self.live_server_url + address)
            page.wait_for_timeout(150)
            self.assert_accessible(page, address)
        phone = self.sign_in(width=390, height=844, touch=True)
        for address in addresses:
            phone.goto(self.live_server_url + address)
            phone.wait_for_timeout(100)
            self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), 391, address)
