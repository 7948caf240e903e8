"""Checkup, footfall, why and what if in the browser: by keyboard, on a slow line, on a phone, for everybody."""

from datetime import timedelta
from random import Random
from urllib.parse import quote

from django.db.models import F
from django.test import Client
from django.utils import timezone

from binsort.catalog.models import Product, Variant
from binsort.changes.upserts import set_offers
from binsort.demo.crowd import visit
from binsort.footfall.counting import counter
from binsort.footfall.models import DaySum
from binsort.racks.models import PutLive
from binsort.racks.setup import the_setup

from .pages import BrowserTestCase, wait_until

ROPE = "category=Rope+and+cordage"
PAGES = (
    "/checkup/",
    "/checkup/?by=rack",
    f"/racks/of/side/footfall/?{ROPE}",
    f"/racks/of/side/why/?{ROPE}&colour=navy-blue&diameter=12-to-16&stock=in&product=SC-1180",
    f"/racks/of/side/what-if/?change=move:diameter:1&{ROPE}",
    "/catalogue/products/SC-1180/",
    "/racks/start/",
)


class InsightTests(BrowserTestCase):
    def setUp(self):
        """A few visits, counted today."""
        super().setUp()
        sums = {
            ("visit", ""): 900, ("looked at", ""): 900, ("first", "colour"): 400, ("used", "colour"): 500, ("used", "diameter"): 6, ("pick", "colour=navy"): 300,
            ("together", "colour diameter"): 90, ("together", "colour rating"): 4, ("dead end", "colour=navy&stock=out&rating=lt-3"): 40,
            ("in vain", "a very long search for something that no chandler of the whole east coast has ever had"): 12,
            ("few", ""): 200, ("opened", ""): 150, ("reached", "SC-1180"): 80, ("reached", "SC-1004"): 70,
        }  # fmt: skip
        today, now = timezone.localdate(), timezone.now()
        DaySum.objects.bulk_create(DaySum(day=today, kind=kind, what=what, times=times, last=now) for (kind, what), times in sums.items())

    def test_on_a_phone_and_accessible(self):
        """Every page fits a phone and can be read by all."""
        page = self.sign_in()
        for address in PAGES:
            self.assertTrue(page.goto(self.live_server_url + address).ok, address)
            page.wait_for_timeout(150)
            self.assert_accessible(page, address)
        phone = self.sign_in(width=390, height=844, touch=True)
        for address in PAGES:
            phone.goto(self.live_server_url + address)
            phone.wait_for_timeout(150)
            self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), 391, address)

    def test_why_by_keyboard(self):
        """From a product's page to its way through picks; asked for another by its number; let go of what keeps it out, and it is here."""
        page = self.sign_in()
        page.goto(self.live_server_url + "/catalogue/products/SC-1180/")
        page.focus("a:has-text('Follow it through picks')")
        page.keyboard.press("Enter")
        page.wait_for_url("**/why/**")
        self.assertIn("Nothing is picked: the listing has it.", page.inner_text(".why-sentence"))
        page.goto(f"{self.live_server_url}/racks/of/side/why/?{ROPE}&diameter=12-to-16")
        page.route("**/why/**", lambda route: (page.wait_for_timeout(300), route.continue_()))
        page.fill("#why-product", "SC-1180")
        page.keyboard.press("Enter")
        wait_until(page, "document.querySelector('.why-sentence').textContent.includes('Diameter keeps it out')")
        self.assertIn("product=SC-1180", page.url)
        page.click("a:has-text('Try it')")
        wait_until(page, "document.querySelector('.why-sentence').textContent.includes('Nothing is picked')")

    def test_footfall(self):
        """What is picked together is told, of fewer than five visits nothing; a dead end leads to its picks; counting is switched off."""
        page = self.sign_in()
        page.goto(f"{self.live_server_url}/racks/of/side/footfall/?{ROPE}")
        side = page.inner_text(".foot-side")
        self.assertIn("Colour with Diameter", side)
        self.assertNotIn("Colour with Rating", side)
        self.assertIn("2 products were opened from a listing", side)
        dead = page.locator(".foot-findings li", has_text="leads nowhere")
        self.assertIn("40 visits met it", dead.inner_text())
        self.assertTrue(dead.locator("a").get_attribute("href").startswith("/shop/?"))
        self.assertGreaterEqual(page.locator(".foot-row.tied").count(), 2)
        page.click("button:has-text('Switch off')")
        page.wait_for_selector("button:has-text('Switch on')")

    def test_what_if(self):
        """What is tried stands in the address and is kept by one button; the draft has it then, and not before."""
        page = self.sign_in()
        page.goto(f"{self.live_server_url}/racks/of/side/what-if/?change={quote('move:diameter:1')}&{ROPE}")
        before = list(the_setup().draft.document["racks"][0]["facets"])
        self.assertNotEqual(before[0], "diameter")
        page.click("main button:has-text('Keep'), aside button:has-text('Keep')")
        page.wait_for_url("**/racks/**")
        wait_until(page, "!location.search.includes('change=')")
        self.assertEqual(the_setup().draft.document["racks"][0]["facets"][0], "diameter")


class WeekTests(BrowserTestCase):
    """A week of checkups on the demo with its crowd: each day shoppers come, and the owner looks once."""

    def setUp(self):
        """Live for six weeks already."""
        super().setUp()
        PutLive.objects.update(at=timezone.now() - timedelta(days=42))
        self.days = 0

    def a_day(self, visits=0):
        """Let a day pass, the crowd and a shopper after bungee among it; what was counted is of yesterday then."""
        self.days += 1
        shopper, chance = Client(headers={"host": "127.0.0.1"}), Random(self.days)

        def ask(address, before=""):
            shopper.get(address, headers={"referer": f"http://127.0.0.1{before}"} if before else {}, follow=True)

        for _ in range(visits):
            visit(chance, ask)
        for _ in range(3):
            ask("/shop/")
            ask("/shop/?q=bungee", "/shop/")
        counter.write()
        for days in (-2_000, 1_999):  # by way of long ago, so that no two days meet
            DaySum.objects.update(day=F("day") + timedelta(days=days))

    def rows(self, page):
        """Return what stands in the list."""
        return page.locator("[data-finding] h3").all_inner_texts()

    def row(self, page, text):
        """Return a finding."""
        return page.locator("[data-finding]", has_text=text)

    def look(self, page):
        """Look at the checkup, which has as many findings as the bar says."""
        page.goto(self.live_server_url + "/checkup/")
        page.wait_for_selector(".section-link .n")
        self.assertEqual(int(page.inner_text(".section-link .n")), page.locator("[data-finding]").count())
        return self.rows(page)

    def press(self, page, text, key):
        """Press a key on a finding, as somebody who goes there by arrows would."""
        page.locator("[data-finding]").first.focus()
        while text not in page.evaluate("document.activeElement.textContent"):
            page.keyboard.press("ArrowDown")
            page.wait_for_timeout(20)
        page.keyboard.press(key)

    def test_a_week(self):
        """Mended and undone by keyboard, what shoppers call things, left with a reason, a slip of the pen marked as new, then live."""
        page = self.sign_in()
        monday = self.look(page)
        self.assertFalse([text for text in monday if "bungee" in text])
        self.press(page, "look alike", "Enter")
        page.wait_for_selector(".notice:has-text('Undo')")
        self.assertEqual(len(self.rows(page)), len(monday) - 1)
        self.assertTrue(page.evaluate("document.activeElement.matches('[data-finding]')"))
        page.keyboard.press("Control+z")
        page.wait_for_selector(".notice:has-text('Do it again')")
        self.assertEqual(self.look(page), monday)

        self.a_day(visits=120)  # enough to tell how many meet what
        self.look(page)
        self.assertIn("visits a month", page.inner_text("main"))
        page.click(".tray a:has-text('By kind')")
        page.wait_for_url("**by=kind**")
        self.assertIn("Look alikes", page.inner_text("main"))

        self.a_day()
        self.look(page)
        bungee = self.row(page, "“bungee” is searched for in vain")
        bungee.locator("summary", has_text="Choose a bin").click()
        bungee.locator("select").select_option(label="Shock cord")
        page.wait_for_timeout(150)
        bungee.locator("button", has_text="Let it find that").click()
        page.wait_for_selector(".notice:has-text('finds Shock cord')")
        self.assertEqual(self.row(page, "“bungee”").count(), 0)

        self.a_day()
        before = self.look(page)
        self.press(page, "no rating", "l")
        page.keyboard.type("new ones come in June")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=“new ones come in June”")
        self.assertEqual(len(self.rows(page)), len(before) - 1)

        self.a_day()
        cleat = Variant.objects.filter(product__visible=True, price__gt=5, is_implicit=True).order_by("pk").first()
        set_offers([{"sku": cleat.product.identity, "price": str(cleat.price * 1000)}])
        self.look(page)
        marked = page.locator("[data-finding]:has(.is-new)")
        self.assertIn("is about 1,000 times what others have", marked.all_inner_texts()[0])
        Product.objects.filter(visible=True, review_count=None).first().delete()  # the facts of what was left have changed
        self.assertTrue([text for text in self.look(page) if "no rating" in text])

        self.a_day()
        self.look(page)
        page.click("text=Put live")
        page.wait_for_load_state("networkidle")
        shopper = self.open("/shop/?q=bungee")
        self.assertGreater(shopper.locator(".card").count(), 5)
        self.a_day()
        self.look(page)
        self.assertEqual(page.locator("[data-finding]:has(.is-new)").count(), 0)
        self.assert_accessible(page, "the checkup after a week")
