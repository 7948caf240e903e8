"""Listings of the shop on a club's own site: another origin, a strict policy, its own type and colours."""

import re
import time
from threading import Thread

from django.contrib.auth import get_user_model
from django.test import override_settings

from binsort.changes import sites
from binsort.core.values.colours import contrast
from binsort.core.values.strict_json import dumps
from binsort.demo.abroad import load_embeds, with_racks
from binsort.demo.club.server import serve
from binsort.demo.loader import OWNER
from binsort.racks.models import Edition, Setup
from binsort.racks.setup import the_setup

from .pages import BrowserTestCase, wait_until

_PARTS = "document.querySelectorAll('bin-sort')[{0}].shadowRoot"
LINES, PRODUCTS = _PARTS.format(0), _PARTS.format(1)
REFUSED = ("blocked by CORS", "Failed to load resource")  # what a browser says of a site that is not let in


class EmbedTestCase(BrowserTestCase):
    def setUp(self):
        """The demo with what the club shows, and the club on a port of its own, let in."""
        super().setUp()
        edition = Edition.objects.create(text=dumps(with_racks(the_setup().draft.document)))
        Setup.objects.update(draft=edition, live=edition)
        load_embeds(OWNER)
        server = serve(0, self.live_server_url)
        Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        self.club = f"http://127.0.0.1:{server.server_port}"

    def let_in(self):
        """Let the club show listings."""
        sites.let_in(self.club, actor=get_user_model().objects.get(username=OWNER))

    def visit(self, path="/", *, delay=0, shown=True, **how):
        """Open a page of the club, on a line of some milliseconds."""
        page = self.open("/robots.txt", **how)
        if delay:
            page.route(re.compile(f"{self.live_server_url}/api/"), lambda route: (time.sleep(delay / 1000), route.continue_()))
        page.goto(self.club + path)
        if shown:
            wait_until(page, "[...document.querySelectorAll('bin-sort')].every(one => one.shadowRoot?.querySelector('.frame'))")
        return page

    def told(self, page, listing):
        """Return how many products the elements of a listing say there are."""
        return page.evaluate("name => Number([...document.querySelectorAll(`bin-sort[listing=${name}]`)]"
                             ".map(one => one.shadowRoot.querySelector('.part-count b')).find(Boolean).textContent)", listing)  # fmt: skip


class TwoListingsTests(EmbedTestCase):
    def test_each_narrows_by_itself(self):
        """A pick in one place narrows the products in another, keeps the address and the focus, and leaves the other listing alone."""
        self.let_in()
        for delay in (0, 300):
            with self.subTest(delay=delay):
                page = self.visit("/?berth=12#lines", delay=delay)
                self.assertEqual((self.told(page, "marram-19"), self.told(page, "safety-afloat")), (54, 124))
                box = page.locator("input[value$=halyards]")
                count = int(box.locator("xpath=..").locator(".count").inner_text())
                box.focus()
                page.keyboard.press("Space")
                wait_until(page, f"{PRODUCTS}.querySelector('.part-count b').textContent === '{count}'")
                wait_until(page, f"{LINES}.activeElement?.value === 'rope-and-cordage-running-rigging-halyards'")
                self.assertTrue(box.is_checked())
                self.assertEqual(self.told(page, "safety-afloat"), 124)
                self.assertIn("/?berth=12&marram-19.use=rope-and-cordage-running-rigging-halyards#lines", page.url)
                self.assertEqual(page.evaluate(f"{LINES}.querySelector('[role=status]').textContent.trim()"), f"{count} of 54 products")
                page.get_by_role("link", name="Use: Halyards, take away").focus()
                page.keyboard.press("Enter")
                wait_until(page, f"{PRODUCTS}.querySelector('.part-count b').textContent === '54'")
                self.assertFalse(box.is_checked())
                page.go_back()
                wait_until(page, f"{PRODUCTS}.querySelector('.part-count b').textContent === '{count}'")
                self.assertTrue(box.is_checked())

    def test_fast_hands(self):
        """Two picks before the first answer are both there in the end, and the newest answer wins."""
        self.let_in()
        page = self.visit(delay=700)
        page.get_by_label("8 mm").check(force=True)
        page.wait_for_timeout(120)
        page.get_by_label("10 mm").check(force=True)
        wait_until(page, "location.search.includes('thickness=10') && location.search.includes('thickness=8')")
        wait_until(page, f"{PRODUCTS}.querySelectorAll('.pick').length === 2")
        total = self.told(page, "marram-19")
        fresh = self.visit(page.url.removeprefix(self.club))
        self.assertEqual((self.told(fresh, "marram-19"), total), (total, 19))

    def test_slider_and_more(self):
        """A slider moves by keys and by hand; the next products come behind those there are, and the focus goes to them."""
        self.let_in()
        page = self.visit()
        price = page.locator("summary", has_text="Price")
        price.click()
        handle = page.get_by_role("slider", name="Price, from")
        handle.focus()
        for _ in range(3):
            page.keyboard.press("ArrowRight")
            page.wait_for_timeout(60)
        wait_until(page, "location.search.includes('safety-afloat.price=')")
        left = self.told(page, "safety-afloat")
        self.assertLess(left, 124)
        wait_until(page, f"{_PARTS.format(2)}.activeElement?.matches('.handle.lower')")
        place = page.get_by_role("slider", name="Price, to").bounding_box()
        page.mouse.move(place["x"] + 9, place["y"] + 9)
        page.mouse.down()
        page.mouse.move(place["x"] - 60, place["y"] + 9, steps=4)
        page.mouse.up()
        wait_until(page, f"Number({_PARTS.format(2)}.querySelector('.part-count b').textContent) < {left}")
        page.get_by_role("link", name="Show 8 more").first.click()
        wait_until(page, f"{PRODUCTS}.querySelectorAll('.card').length === 16")
        wait_until(page, f"{PRODUCTS}.activeElement === {PRODUCTS}.querySelectorAll('.card a')[8]")

    def test_nothing_left(self):
        """Picks that leave nothing say which to drop; that is never what the listing always has."""
        self.let_in()
        page = self.visit("/?marram-19.colour=green&marram-19.thickness=14&marram-19.use=rope-and-cordage-running-rigging-halyards")
        ways = page.locator(".nothing .let-go").all_inner_texts()
        self.assertTrue(ways)
        self.assertNotIn("Polyester", ways)
        page.locator("#way-1").click()
        wait_until(page, f"{PRODUCTS}.querySelectorAll('.card').length > 0")


FOUND = "search picks count products more"
PLACED = """parts => {
  const main = document.querySelector("main");
  main.replaceChildren();
  for (const [id, named] of parts) {
    const part = document.createElement("bin-sort");
    part.id = id;
    Object.entries({ listing: "safety-afloat", ...named }).forEach(([name, value]) => part.setAttribute(name, value));
    main.append(part);
  }
}"""


class OwnPlacesTests(EmbedTestCase):
    def own_page(self, facet="colour", **how):
        """Open a page of the club that places one facet, a rack, a search and the products by itself."""
        self.let_in()
        page = self.visit(**how)
        places = {"first": {"part": f"facet:{facet}"}, "rest": {"rack": "side", "part": "rack"}, "found": {"part": FOUND}}
        page.evaluate(PLACED, list(places.items()))
        wait_until(page, "[...document.querySelectorAll('bin-sort')].every(one => one.shadowRoot?.querySelector('.frame'))")
        return page

    def test_a_facet_and_a_search_where_the_page_wants_them(self):
        """A facet stands by itself and not in its rack; both narrow the products, and so does a search by Enter, which can be taken away."""
        page = self.own_page()
        page.locator("#first .facet").wait_for()
        self.assertEqual(page.locator("#rest #facet-colour").count(), 0)
        self.assertGreater(page.locator("#rest .facet").count(), 2)
        page.locator("#first input[name=colour]").first.check(force=True)
        wait_until(page, f"{_PARTS.format(2)}.querySelectorAll('.pick').length === 1")
        picked = self.told(page, "safety-afloat")
        self.assertLess(picked, 124)
        box = page.get_by_role("searchbox")
        box.fill("torch")
        box.press("Enter")
        wait_until(page, "location.search.includes('safety-afloat.q=torch')")
        wait_until(page, f"{_PARTS.format(2)}.querySelectorAll('.pick').length === 2")
        self.assertLess(self.told(page, "safety-afloat"), picked)
        page.get_by_role("link", name="Searched for torch, take away").click()
        wait_until(page, f"{_PARTS.format(2)}.querySelectorAll('.pick').length === 1")
        self.assertEqual(self.told(page, "safety-afloat"), picked)
        self.assertEqual(box.input_value(), "")

    def test_nothing_set(self):
        """On a page that sets no colour, in black on white, white on black and on colours, buttons and what is picked on them can be read."""
        page = self.own_page(facet="kind")
        page.evaluate("document.querySelectorAll('link[rel=stylesheet]').forEach(link => link.remove())")
        for ink, ground in (("", ""), ("rgb(255, 255, 255)", "rgb(0, 0, 0)"), ("rgb(20, 40, 90)", "rgb(250, 220, 120)")):
            page.evaluate("([ink, ground]) => { document.body.style.color = ink; document.body.style.background = ground; }", [ink, ground])
            page.evaluate("document.querySelectorAll('bin-sort').forEach(one => one.draw(one.listing.answer))")
            drawn = page.evaluate(f"""(() => {{ const style = getComputedStyle({_PARTS.format(2)}.querySelector('.solid-button'));
                return [style.color, style.backgroundColor]; }})()""")
            colours = ["#" + "".join(f"{int(part):02x}" for part in re.findall(r"\d+", one)[:3]) for one in drawn]
            self.assertGreaterEqual(contrast(*colours), 4.5, (ink, ground, drawn))

    def test_on_a_button(self):
        """Picks wait for the button, which says what it would show and how many wait; wide and on a phone; fast hands lose nothing."""
        document = the_setup().draft.document
        rack = next(one for one in document["racks"] if one["key"] == "side")
        rack["place"]["behaviour"] = {"applies": "button", "applies_on_phones": "button"}
        Setup.objects.update(live=Edition.objects.create(text=dumps(document)))
        for how in ({}, {"width": 390, "height": 844, "touch": True}):
            with self.subTest(how=how):
                page = self.own_page(**how)
                whole = self.told(page, "safety-afloat")
                words = []
                page.on("response", lambda answer, words=words: words.append(answer) if "_only" in answer.url else None)
                for place in (0, 1):
                    page.locator("#first input[name=colour]").nth(place).check(force=True)
                button = page.locator("#rest [data-apply]")
                button.get_by_text("2 changes wait").wait_for()
                self.assertTrue(page.locator("#first [data-apply]").is_visible())
                page.wait_for_load_state("networkidle")
                last = words[-1].json()["words"]
                wait_until(page, f"{_PARTS.format(1)}.querySelector('[data-words]').textContent === '{last}'")
                foretold = int(button.locator("[data-words]").inner_text().split()[1])
                self.assertEqual((self.told(page, "safety-afloat"), page.url), (whole, self.club + "/"))
                self.assertLess(button.bounding_box()["y"], page.viewport_size["height"] if not how else 10_000)
                button.click()
                wait_until(page, f"{_PARTS.format(2)}.querySelectorAll('.pick').length === 2")
                self.assertEqual(self.told(page, "safety-afloat"), foretold)
                self.assertEqual(button.locator("[data-waiting]").inner_text(), "")
                page.context.close()


class HouseTests(EmbedTestCase):
    def test_looks_and_widths(self):
        """Type and colours are the page's, in the dark and in a column of 300 px, on a phone and in forced colours; axe finds nothing."""
        self.let_in()
        page = self.visit("/night.html")
        self.assertEqual(page.evaluate(f"getComputedStyle({LINES}.querySelector('.card-name')).fontFamily").split(",")[0], "Alegreya")
        self.assertEqual(page.evaluate(f"getComputedStyle({LINES}.querySelector('.card-name')).color"), "rgb(233, 228, 216)")
        self.assert_accessible(self.visit("/night.html", bypass_csp=True), "night")  # the policy of the page keeps the audit out
        column = self.visit("/notices.html", width=1000)
        rack = column.locator(".narrow-by > summary")
        self.assertEqual(column.evaluate(f"{LINES}.querySelector('.narrow-by').open"), False)
        rack.click()
        column.get_by_label("Halyards").check()
        wait_until(column, f"{LINES}.querySelector('.narrow-by summary b')?.textContent.includes('1')")
        self.assertTrue(column.evaluate(f"{LINES}.querySelector('.narrow-by').open"))
        self.assertEqual(column.evaluate(f"{LINES}.querySelector('.frame').scrollWidth <= 300"), True)
        self.assert_accessible(self.visit("/notices.html", width=1000, bypass_csp=True), "column")
        phone = self.visit("/", width=390, height=844, touch=True)
        self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), 390)
        self.assertEqual(phone.evaluate(f"""[...{LINES}.querySelectorAll('.choice, .more summary')]
            .filter(one => one.checkVisibility() && one.getBoundingClientRect().height < 44).length"""), 0)  # fmt: skip
        self.assert_accessible(self.visit("/", bypass_csp=True), "bosun")
        forced = self.visit("/")
        forced.emulate_media(forced_colors="active")
        self.assertEqual(forced.evaluate(f"getComputedStyle({LINES}.querySelector('.choice input')).appearance"), "auto")

    def test_who_is_not_let_in(self):
        """Sites that are not let in, and browsers without scripts, show the host's own link; that they asked is counted."""
        page = self.visit(shown=False)
        for _ in range(100):  # the browser says when it was refused, and how long that takes is its own affair
            page.wait_for_timeout(200)
            if any(REFUSED[0] in error for error in self.errors):
                break
        self.assertTrue(any(REFUSED[0] in error for error in self.errors), self.errors)
        self.assertTrue(page.get_by_role("link", name="All our lines at the chandler").is_visible())
        self.errors = [error for error in self.errors if not any(known in error for known in REFUSED)]
        self.let_in()
        bare = self.visit(scripts=False, shown=False)
        link = bare.get_by_role("link", name="Safety at the chandler")
        self.assertEqual(link.get_attribute("href"), f"{self.live_server_url}/shop/c/safety/")

    def test_trouble(self):
        """Where the shop is away what is shown stays, it is said, and tried once more by a button; too many calls wait by themselves."""
        self.let_in()
        page = self.visit()
        pattern = re.compile(f"{self.live_server_url}/api/")
        page.route(pattern, lambda route: route.abort())
        page.get_by_label("8 mm").check(force=True)
        page.get_by_role("alert").get_by_text("cannot be reached").wait_for()
        self.assertEqual(page.locator("#lines .card").count(), 8)
        page.unroute(pattern)
        page.get_by_role("button", name="Try again").click()
        wait_until(page, f"{PRODUCTS}.querySelectorAll('.pick').length === 1")
        self.assertFalse(page.get_by_role("alert").count())
        with override_settings(CALLS_A_MINUTE=60):
            for _ in range(12):
                page.request.get(f"{self.live_server_url}/api/shop/v1/categories")
            page.get_by_label("10 mm").check(force=True)
            wait_until(page, f"{PRODUCTS}.querySelectorAll('.pick').length === 2")
        self.errors = [error for error in self.errors if REFUSED[1] not in error]


class OwnersPageTests(EmbedTestCase):
    def test_made_shown_and_copied(self):
        """The owner makes a listing, narrows it, gives it a rack, sees the real thing, and what is copied is what shows it."""
        self.let_in()
        page = self.sign_in()
        page.goto(f"{self.live_server_url}/listings/sites/")
        page.locator("summary", has_text="Add").click()
        page.fill("#new-label", "Für Éowyn 🛥")
        page.click("text=Make it")
        page.wait_for_url("**/of/fur-eowyn/")
        page.select_option("#embed-category", label="Safety")
        wait_until(page, "document.querySelector('.embed-mass').textContent.includes('124')")
        page.select_option("#embed-narrow", "colour=red")
        wait_until(page, "document.querySelectorAll('.embed-narrowed .chip').length === 1")
        wait_until(page, f"{PRODUCTS}.querySelector('.part-count b').textContent === document.querySelector('.embed-mass b').textContent")
        page.get_by_role("radio", name="Short rack").check(force=True)
        page.get_by_role("radio", name="Each apart").check(force=True)
        wait_until(page, "document.querySelector('#snippet').textContent.includes('rack=\"short\" part=\"rack\"')")
        wait_until(page, "document.activeElement?.id === 'parts-each'")
        self.assert_accessible(page, "on other sites")
        lines = page.inner_text("#snippet")
        self.assertIn(f'<script type="module" src="{self.live_server_url}/bins.js"></script>', lines)
        self.assertIn(f"{self.live_server_url}/shop/c/safety/?colour=red", lines)
        total = page.inner_text(".embed-mass b")
        shop = self.open("/shop/c/safety/?colour=red", scripts=False)
        self.assertEqual(shop.inner_text("#status").split()[0], total)
