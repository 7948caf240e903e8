"""Shopping in a browser: fast hands, slow lines, scrolled pages, keyboards, phones; with scripts and without."""

import re
import time

from .pages import BrowserTestCase, wait_until

DELAYS = (0, 300, 1_500)  # of each answer, in milliseconds
TOTAL = re.compile(r"([\d,]+)")


class ShopTestCase(BrowserTestCase):
    def shop(self, path="/shop/", *, delay=0, **how):
        """Open the shop on a line that is so slow."""
        page = self.open(path, **how)
        if delay:
            page.route("**/shop/**", lambda route: (time.sleep(delay / 1000), route.continue_()))
        return page

    def settled(self, page, query):
        """Wait until the address has just these picks and the page is at rest."""
        wait_until(page, f"location.search === {query!r} && !document.querySelector('.htmx-request')")

    def total(self, page):
        """Read how many products are left."""
        return int(TOTAL.search(page.inner_text("#status"))[1].replace(",", ""))

    def expected(self, query):
        """Ask the server itself how many products that is."""
        page = self.open(f"/shop/{query}", scripts=False)
        return self.total(page)

    def checked(self, page):
        """Return what is ticked."""
        return page.evaluate("[...document.querySelectorAll('#narrow input:checked')].map(i => `${i.name}=${i.value}`).sort()")


class PlaceTests(ShopTestCase):
    def test_the_picked_row_stays_under_the_pointer(self):
        """Scrolled, at each speed, on a wide page and in the drawer of a phone, even where few products are left."""
        for delay in DELAYS:
            with self.subTest(delay=delay):
                page = self.shop(delay=delay)
                page.evaluate("window.scrollTo(0, 300)")
                for pick in ("colour-navy", "diameter-5-to-8", "stock-out"):
                    row = page.locator(f"label:has(#in-{pick})")
                    row.scroll_into_view_if_needed()
                    before = row.bounding_box()["y"]
                    row.click()
                    wait_until(page, f"location.search.includes({pick.split('-')[0]!r}) && !document.querySelector('.htmx-request')")
                    page.wait_for_timeout(120)
                    self.assertAlmostEqual(row.bounding_box()["y"], before, delta=2, msg=pick)
        phone = self.shop(width=390, height=844, touch=True, delay=300)
        phone.tap("#drawer-opener")
        phone.tap("#facet-stock > summary")
        row = phone.locator("label:has(#in-stock-in)")
        row.scroll_into_view_if_needed()
        before = row.bounding_box()["y"]
        row.tap()
        self.settled(phone, "?stock=in")
        self.assertAlmostEqual(row.bounding_box()["y"], before, delta=2)

    def test_back_from_a_product(self):
        """The same cards at the same place, after more were shown."""
        page = self.shop("/shop/c/rope-and-cordage/?sort=price")
        page.click("#show-more")
        wait_until(page, "document.querySelectorAll('.card').length === 48")
        self.settled(page, "?sort=price&shown=48")
        self.assertEqual(page.locator("#cards > .card").count(), 48)
        cards = page.evaluate("[...document.querySelectorAll('.card')].map(c => c.id)")
        link = page.locator(".card a").nth(40)
        link.scroll_into_view_if_needed()
        scrolled = page.evaluate("window.scrollY")
        link.click()
        page.wait_for_url("**/shop/p/**")
        page.go_back()
        wait_until(page, "document.querySelectorAll('.card').length === 48")
        self.assertEqual(page.evaluate("[...document.querySelectorAll('.card')].map(c => c.id)"), cards)
        wait_until(page, f"Math.abs(window.scrollY - {scrolled}) < 3")
        page.go_back()


class FastHandsTests(ShopTestCase):
    def test_every_click_counts(self):
        """Picks made while an answer is on its way all hold; ticks, address, products and counts agree in the end."""
        for delay in DELAYS:
            with self.subTest(delay=delay):
                page = self.shop(delay=delay)
                for pick in ("colour-navy", "colour-white", "stock-in", "material-polyester"):
                    page.locator(f"label:has(#in-{pick})").click()
                    page.wait_for_timeout(90)
                query = "?colour=navy&colour=white&material=polyester&stock=in"
                self.settled(page, query)
                self.assertEqual(self.checked(page), ["colour=navy", "colour=white", "material=polyester", "stock=in"])
                self.assertEqual(self.total(page), self.expected(query))
                self.assertIn("White, Navy, Polyester", page.title())
                # older links do not bring back what newer ones took away
                page.click("#bar-pick-colour-white")
                page.wait_for_timeout(90)
                page.click("#bar-pick-colour-navy")
                self.settled(page, "?material=polyester&stock=in")
                self.assertEqual(self.checked(page), ["material=polyester", "stock=in"])
                # a double click takes one away, not the one that slides below it
                page.dblclick("#bar-pick-material-polyester")
                page.wait_for_timeout(delay + 250)
                self.settled(page, "?stock=in")
                self.assertEqual(self.checked(page), ["stock=in"])

    def test_show_more_does_not_undo_a_pick(self):
        """Pressed while a pick is on its way, the pick holds; pressed before one, the pick holds, too."""
        for delay in DELAYS:
            with self.subTest(delay=delay):
                page = self.shop(delay=delay)
                page.locator("label:has(#in-stock-in)").hover()
                page.evaluate("document.querySelector('#in-stock-in').click(), document.querySelector('#show-more').click()")
                self.settled(page, "?stock=in")
                self.assertEqual(page.locator(".card").count(), 24)
                page.evaluate("document.querySelector('#show-more').click()")
                page.wait_for_timeout(60)
                page.locator("label:has(#in-colour-navy)").click()
                wait_until(page, "location.search.includes('colour=navy')")
                page.wait_for_timeout(delay + 200)
                self.assertEqual(self.total(page), self.expected("?colour=navy&stock=in"))
                ids = page.evaluate("[...document.querySelectorAll('.card')].map(c => c.id)")
                self.assertEqual(len(ids), len(set(ids)))

    def test_offline_and_once_more(self):
        """What went wrong is said in view, the box stays ticked, one press tries again."""
        page = self.shop()
        page.evaluate("window.scrollTo(0, 900)")
        page.context.set_offline(True)
        page.locator("label:has(#in-diameter-5-to-8)").click()
        page.wait_for_selector(".went-wrong")
        box = page.locator(".went-wrong").bounding_box()
        self.assertTrue(0 < box["y"] < 800)
        self.assertTrue(page.is_checked("#in-diameter-5-to-8"))
        page.context.set_offline(False)
        page.click(".went-wrong button")
        self.settled(page, "?diameter=5-to-8")
        self.assertEqual(page.locator(".went-wrong").count(), 0)
        self.errors = [error for error in self.errors if "sendError" not in error and "ERR_INTERNET" not in error]

    def test_the_basket_fills_while_narrowing(self):
        """Two quick presses on a slow line both count, picks and place hold; a press that fails says so; beside a product all of it is seen."""
        page = self.shop("/shop/c/deck-hardware/?stock=in", delay=300)
        page.locator("button.put").nth(0).click()
        page.wait_for_timeout(80)
        page.locator("button.put").nth(1).click()
        page.wait_for_timeout(80)
        page.locator("label:has(#in-colour-white)").click()
        self.settled(page, "?colour=white&stock=in")
        wait_until(page, "document.querySelector('#basket-link').innerText.includes('2')")
        page.context.set_offline(True)
        page.locator("button.put").nth(0).click()
        page.wait_for_selector("text=It was not put into the basket")
        page.context.set_offline(False)
        page.locator("button.put").nth(0).click()
        wait_until(page, "document.querySelector('#basket-link').innerText.includes('3')")
        self.assertEqual(page.locator(".went-wrong").count(), 0)
        self.assertEqual(page.evaluate("location.search"), "?colour=white&stock=in")
        page.goto(self.live_server_url + "/shop/p/SC-1004/?colour=orange")
        page.fill("[name=quantity]", "4")
        page.click("p.add button")
        wait_until(page, "document.querySelector('#basket-panel').innerText.includes('Orange · 4')")
        self.assert_accessible(page, "product with basket")
        page.click("text=Open the basket")
        page.wait_for_selector(".basket-page")
        self.assert_accessible(page, "basket")
        lines = page.locator(".basket-lines li").count()
        page.locator(".cross-button").first.click()
        wait_until(page, f"document.querySelectorAll('.basket-lines li').length === {lines - 1}")
        self.errors = [error for error in self.errors if "sendError" not in error and "ERR_INTERNET" not in error]

    def test_links_open_beside_as_everywhere(self):
        """With the control key a link opens another tab and nothing changes here."""
        page = self.shop("/shop/?colour=navy&colour=white")
        with page.context.expect_page() as opened:
            page.click("#bar-pick-colour-navy", modifiers=["Control"])
        opened.value.wait_for_url("**?colour=white")
        self.assertEqual(page.evaluate("location.search"), "?colour=navy&colour=white")
        with page.context.expect_page() as opened:
            page.click("#show-more", modifiers=["Control"])
        opened.value.wait_for_url("**page=2**")


class RangeTests(ShopTestCase):
    def test_typed_ends(self):
        """Understood as people write them; what cannot be read says so and blocks nothing."""
        page = self.shop(delay=300)
        page.fill("#in-price-from", "£20")
        page.press("#in-price-from", "Tab")
        self.settled(page, "?price=20..")
        self.assertEqual(page.input_value("#in-price-from"), "20")
        page.fill("#in-price-to", "10,50")
        page.press("#in-price-to", "Enter")
        self.settled(page, "?price=10.5..20")
        page.fill("#in-price-to", "cheap")
        page.press("#in-price-to", "Tab")
        page.locator("label:has(#in-stock-in)").click()
        wait_until(page, "location.search.includes('stock=in') && document.querySelector('.not-read')")
        self.assertIn("“cheap” is no number", page.inner_text(".not-read"))
        self.assertEqual(page.input_value("#in-price-to"), "cheap")
        self.assertEqual(self.total(page), self.expected("?price=10.5..&stock=in"))

    def test_both_handles_are_seen(self):
        """Of a range that is far narrower than a handle, and of one beyond all data, both handles stand side by side."""
        for query in ("?price=50..50.2", "?price=9000..9900"):
            page = self.shop(f"/shop/{query}")
            low, high = (page.locator(f"#slider-price .handle.{name}").bounding_box() for name in ("lower", "upper"))
            self.assertGreaterEqual(high["x"] - low["x"], 17, query)

    def test_the_slider_by_keys(self):
        """Arrows go from price to price of the catalogue, pages go ten times as far; the handle keeps the focus and is not redrawn."""
        page = self.shop(delay=300)
        handle = page.locator("#slider-price .handle.lower")
        handle.focus()
        handle.evaluate("handle => { handle.marked = true; }")
        stops = page.evaluate("JSON.parse(document.querySelector('[data-stops]').dataset.stops)")
        handle.press("ArrowRight")
        handle.press("ArrowRight")
        wait_until(page, "location.search !== '' && !document.querySelector('.htmx-request')")
        self.assertEqual(float(page.input_value("#in-price-from")), stops[2])
        handle.press("PageUp")
        page.wait_for_timeout(900)
        self.assertEqual(float(page.input_value("#in-price-from")), stops[2 + round(len(stops) / 10)])
        handle.press("Home")
        wait_until(page, "location.search === '' || location.search === '?price=..'")
        self.assertTrue(page.evaluate("document.activeElement.marked"))


class EachOneTests(ShopTestCase):
    def test_by_keyboard_alone(self):
        """Skip to the products, pick, take away, search, choose a suggestion, open a product, come back; the focus is never lost."""
        page = self.shop("/shop/c/rope-and-cordage/")
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        self.assertEqual(page.evaluate("document.activeElement.id"), "results")
        page.focus("#in-colour-navy")
        page.keyboard.press("Space")
        self.settled(page, "?colour=navy")
        self.assertEqual(page.evaluate("document.activeElement.id"), "in-colour-navy")
        page.focus("#bar-pick-colour-navy")
        page.keyboard.press("Enter")
        self.settled(page, "")
        self.assertNotEqual(page.evaluate("document.activeElement.tagName"), "BODY")
        page.focus("#in-q")
        page.keyboard.type("poly")
        page.wait_for_selector("#suggested-bin-1")
        page.keyboard.press("ArrowDown")
        self.assertEqual(page.get_attribute("#in-q", "aria-activedescendant"), "suggested-bin-1")
        page.keyboard.press("Enter")
        wait_until(page, "location.search.includes('material=polyester')")
        page.focus(".card a")
        page.keyboard.press("Enter")
        page.wait_for_url("**/shop/p/**")
        page.focus(".way-back")
        page.keyboard.press("Enter")
        page.wait_for_url("**material=polyester**")

    def test_search_forgives_and_is_taken_away(self):
        """Enter searches; a typing error is said; the pill takes the search away and keeps the picks."""
        page = self.shop("/shop/?stock=in", delay=300)
        page.fill("#in-q", "halyrad")
        page.press("#in-q", "Enter")
        self.settled(page, "?q=halyrad&stock=in")
        self.assertIn("Nothing here is called “halyrad”", page.inner_text("#notices"))
        page.click("#bar-pick-q")
        self.settled(page, "?stock=in")
        self.assertEqual(page.input_value("#in-q"), "")

    def test_nothing_left_is_no_dead_end(self):
        """Ways out and what comes close lead on in one click, in place; facets stay usable."""
        page = self.shop("/shop/c/rope-and-cordage/?price=20..40&colour=red&rating=4-to-4.5&material=polyester&stock=in")
        self.assert_accessible(page, "nothing left")
        wanted = page.inner_text("#way-1")
        page.click("#way-1")
        wait_until(page, "document.querySelectorAll('.card').length")
        self.assertEqual(f"Show the {self.total(page)}", wanted)
        page.go_back()
        page.wait_for_selector("#beyond-1")
        page.click("#beyond-1")
        wait_until(page, "document.querySelectorAll('.card').length")
        self.assertEqual(self.total(page), 1)

    def test_why_here(self):
        """One line on a card when asked."""
        page = self.shop("/shop/?colour=navy&stock=in")
        page.locator(".card-why a").first.click()
        page.wait_for_selector(".why-line .reason")
        self.assertIn("Colour Navy", page.inner_text(".card .why-line >> nth=0"))

    def test_screen_readers_hear_one_status(self):
        """The status is one and the same element from first to last; the title tells picks and total."""
        page = self.shop()
        page.evaluate("document.querySelector('#status').marked = document.querySelector('#narrow').marked = true")
        page.locator("label:has(#in-colour-navy)").click()
        self.settled(page, "?colour=navy")
        self.assertTrue(page.evaluate("document.querySelector('#status').marked && document.querySelector('#narrow').marked"))
        self.assertEqual(page.title(), f"All products: Navy ({self.total(page):,}) · Saltmarsh Chandlery")
        self.assertEqual(page.locator("[role=status]").count(), 1)

    def test_a_pick_shows_before_its_answer_and_in_forced_colours(self):
        """The box is ticked at once on a slow line; with colours forced the boxes themselves show."""
        page = self.shop(delay=1_500)
        page.emulate_media(forced_colors="active")
        row = page.locator("label:has(#in-colour-navy)")
        row.click()
        self.assertTrue(page.is_checked("#in-colour-navy"))
        self.assertEqual(row.locator("input").evaluate("box => getComputedStyle(box).opacity"), "1")
        self.assertEqual(row.evaluate("row => getComputedStyle(row).outlineStyle"), "solid")
        self.settled(page, "?colour=navy")

    def test_without_scripts(self):
        """The whole job: pick, search, order, ranges, ways out, pages, a product and back."""
        page = self.shop("/shop/c/rope-and-cordage/", scripts=False)
        page.locator("#in-colour-navy").check(force=True)
        page.fill("#in-price-from", "£20")
        page.fill("#in-q", "halyard")
        page.select_option("#sort", "price")
        page.locator(".drawer-foot button").click()
        self.assertGreater(self.total(page), 0)
        self.assertIn("£20", page.inner_text("#bar-pill-price"))
        page.click("#bar-pick-price-20\\.\\.")
        page.click(".card a >> nth=0")
        self.assertIn("what you were looking at", page.inner_text("#why"))
        page.click(".way-back")
        self.assertEqual(page.locator("#in-q").input_value(), "halyard")
        page.goto(f"{self.live_server_url}/shop/")
        page.click("#show-more")
        self.assertIn("48 of", page.inner_text("#more"))


class PhoneTests(ShopTestCase):
    def phone(self, path="/shop/", **how):
        """Open the shop on a phone."""
        return self.shop(path, width=how.pop("width", 390), height=how.pop("height", 844), touch=True, **how)

    def test_back_closes_the_drawer_and_keeps_the_picks(self):
        """The device's Back closes what is open first; the next one undoes the picks made in it."""
        page = self.phone(delay=300)
        page.tap("#drawer-opener")
        page.tap("#facet-colour > summary")
        page.tap("label:has(#in-colour-navy)")
        page.wait_for_selector("#drawer-pill-colour")
        self.assertRegex(page.inner_text(".sums-up"), r"Show \d+ products\s+[\d,]+ more without Colour")
        page.go_back()
        wait_until(page, "!document.querySelector('#drawer').checkVisibility()")
        self.settled(page, "?colour=navy")
        page.go_back()
        self.settled(page, "")
        wait_until(page, "!document.querySelector('#in-colour-navy').checked")

    def test_opener_and_picks_stay_in_view(self):
        """Scrolled far down, the bar at the foot and the picks are there; nothing is wider than the screen of 320 pixels."""
        page = self.phone("/shop/?colour=navy&stock=in", width=320, height=640)
        page.mouse.wheel(0, 3_000)
        page.wait_for_timeout(200)
        for part in ("#drawer-opener", "#bar-pick-colour-navy"):
            box = page.locator(part).bounding_box()
            self.assertTrue(0 <= box["y"] < 640, part)
        for path in (
            "/shop/?colour=navy",
            "/shop/?colour=clear&stock=in&diameter=5-to-8&price=20..40",
            "/shop/p/SC-1004/?colour=navy&stock=in",
        ):
            page.goto(f"{self.live_server_url}{path}")
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 320, path)

    def test_a_long_facet_takes_the_whole_height(self):
        """It opens full height with a search that sorts what begins with it before what has it inside; Back shuts it, then the drawer."""
        page = self.phone()
        page.evaluate("""() => {
          const list = document.querySelector('#facet-material [data-choices]');
          const one = list.querySelector('.choice');
          for (let n = 0; n < 30; n += 1) {
            const copy = one.cloneNode(true);
            copy.querySelector('.name').textContent = n % 2 ? `Marram ${n}` : `Gunmarsh ${n}`;
            copy.querySelector('input').id = `copy-${n}`;
            list.append(copy);
          }
        }""")
        page.tap("#drawer-opener")
        page.tap("#facet-material > summary")
        wait_until(page, "document.querySelector('#facet-material').classList.contains('full')")
        self.assertAlmostEqual(page.locator("#facet-material").bounding_box()["height"], 844, delta=2)
        page.go_back()
        wait_until(page, "!document.querySelector('#facet-material').classList.contains('full')")
        self.assertTrue(page.is_visible("#drawer"))
        page.go_back()
        wait_until(page, "!document.querySelector('#drawer').checkVisibility()")

    def test_zoomed_in_to_four_hundred_percent(self):
        """At 320 by 200 pixels the drawer's list can be reached and picked from."""
        page = self.shop(width=320, height=200)
        page.click("#drawer-opener")
        page.locator("#facet-stock > summary").scroll_into_view_if_needed()
        page.locator("#facet-stock > summary").click()
        page.locator("label:has(#in-stock-in)").click()
        wait_until(page, "location.search === '?stock=in'")
        self.assertGreater(page.locator("#drawer-scroll").bounding_box()["height"], 300)


class LookTests(ShopTestCase):
    def test_accessible(self):
        """The audit has nothing on any page and state of the shop."""
        for path in (
            "/shop/",
            "/shop/?colour=navy&q=halyrad&price.from=cheap&colour=teal",
            "/shop/p/SC-1004/?colour=navy&stock=in",
            "/shop/c/nowhere/",
        ):
            for width in (1280, 390):
                with self.subTest(path=path, width=width):
                    page = self.shop(path, width=width, height=844, touch=width < 800)
                    if width < 800 and page.locator("#drawer-opener").count():
                        page.tap("#drawer-opener")
                    self.assert_accessible(page, path)
        page = self.shop("/shop/c/rope-and-cordage/")
        page.fill("#in-q", "pol")
        page.wait_for_selector("#suggested-bin-1")
        self.assert_accessible(page, "suggestions")
        self.errors = [error for error in self.errors if "404" not in error]
