"""Checkup, footfall, why and what if in the browser: by keyboard, on a slow line, on a phone, for everybody."""

from urllib.parse import quote

from django.utils import timezone

from binsort.footfall.models import DaySum
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
)


class InsightTests(BrowserTestCase):
    def setUp(self):
        """A few visits, counted today."""
        super().setUp()
        sums = {
            ("visit", ""): 900, ("first", "colour"): 400, ("used", "colour"): 500, ("used", "diameter"): 6, ("pick", "colour=navy"): 300,
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
        self.assertEqual(page.get_attribute(".foot-findings a", "href"), "/shop/?colour=navy&stock=out&rating=lt-3")
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
