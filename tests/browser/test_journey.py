"""The whole job in a browser: the owner adds a facet, tries a pick, puts it live; a shopper narrows by it."""

import re

from binsort.racks.setup import the_setup
from binsort.workbench.rack.page import rack_page

from .pages import BrowserTestCase, wait_until

TOTAL = re.compile(r"(\d+) of (\d+) product")


def total(page, selector):
    """Read how many products a page says are left, of how many."""
    return tuple(map(int, TOTAL.search(page.inner_text(selector)).groups()))


class JourneyTests(BrowserTestCase):
    def test_from_the_catalogue_to_a_narrowed_listing(self):
        """One click adds a facet; the rack, the shop with scripts and the shop without agree on every count."""
        owner = self.sign_in()
        owner.select_option("#listing-select", label="Rope and cordage")
        owner.wait_for_url("**/racks/?category=Rope*and*cordage")
        owner.click("#add-facet")
        owner.click("#source-breaking-load button:has-text('Add')")
        owner.wait_for_selector("#shelf-breaking-load")
        self.assertIn("Added Breaking load.", owner.inner_text(".notice"))
        self.assertIn("Draft: 1 change", owner.inner_text(".draft"))

        owner.click("#v-breaking-load-5-to-15")
        owner.wait_for_selector(".chip")
        self.assertEqual(owner.evaluate("document.activeElement.id"), "v-breaking-load-5-to-15")
        owner.click("#v-colour-white")
        owner.wait_for_selector("text=Colour: White")
        left, listed = total(owner, ".result")
        owner.click("text=Put live")
        owner.wait_for_selector("text=Live as it is here")

        shopper = self.open("/shop/c/rope-and-cordage/")
        shopper.check("#in-breaking-load-5-to-15")
        shopper.wait_for_url("**breaking-load=5-to-15")
        shopper.locator("label:has(#in-colour-white)").click()
        shopper.wait_for_url("**colour=white**")
        self.assertEqual(total(shopper, ".title"), (left, listed))
        self.assertEqual(shopper.evaluate("document.activeElement.id"), "in-colour-white")
        shopper.go_back()
        wait_until(shopper, "!document.querySelector('#in-colour-white').checked")
        self.assertTrue(shopper.is_checked("#in-breaking-load-5-to-15"))

        plain = self.open("/shop/c/rope-and-cordage/", scripts=False)
        plain.check("#in-breaking-load-5-to-15")
        plain.locator("#in-colour-white").check(force=True)
        plain.click(".drawer-foot button")
        self.assertEqual(total(plain, ".title"), (left, listed))
        counts = [
            page.locator(".facet .count").all_inner_texts() for page in (plain, self.open(plain.url.removeprefix(self.live_server_url)))
        ]
        self.assertEqual(counts[0], counts[1])
        plain.click("#bar-pick-breaking-load-5-to-15")
        plain.click("#bar-pick-colour-white")
        self.assertIn("305 products", plain.inner_text(".title"))


class ShopBehaviourTests(BrowserTestCase):
    def test_slider_show_more_and_open_facets(self):
        """The slider writes its ends; more products come behind; what was opened stays open over a pick."""
        page = self.open("/shop/")
        handle = page.locator(".handle.upper").first
        handle.focus()
        for _ in range(8):
            handle.press("ArrowLeft")
        page.wait_for_url("**price=..**")
        wait_until(page, "document.querySelector('.handle.upper') === document.activeElement")
        page.click("#more-colour > summary")
        page.click("#facet-rating > summary")
        page.check("#in-stock-in")
        page.wait_for_url("**stock=in**")
        self.assertEqual(
            page.evaluate("[document.querySelector('#more-colour').open, document.querySelector('#facet-rating').open]"), [True, False]
        )
        self.assertEqual(page.locator(".card").count(), 24)
        page.click("#show-more")
        wait_until(page, "document.querySelectorAll('.card').length === 48")
        self.assertIn("48 of", page.inner_text("#more"))
        names = page.locator(".card > a").evaluate_all("links => links.map(link => link.href)")
        self.assertEqual(len(set(names)), 48)

    def test_without_a_connection(self):
        """What went wrong is said, in the shop and in the tool, and nothing is lost."""
        for page, pick, words in (
            (self.open("/shop/"), "#in-stock-in", "The shop cannot be reached"),
            (self.sign_in(), "#v-stock-in", "The server cannot be reached"),
        ):
            page.context.set_offline(True)
            page.click(pick)
            page.wait_for_selector(".went-wrong")
            self.assertIn(words, page.inner_text(".went-wrong"))
            page.context.set_offline(False)
            page.click(pick)
            page.wait_for_url("**stock=in**" if pick.startswith("#v") else "**")
        self.errors = [error for error in self.errors if "sendError" not in error and "afterRequest" not in error]

    def test_drawer_on_a_phone(self):
        """Opens, keeps the keyboard inside, says how many, closes on Escape; works by links without scripts."""
        page = self.open("/shop/c/safety/", width=390, height=844, touch=True)
        self.assertFalse(page.is_visible("#drawer"))
        page.click(".drawer-opener")
        self.assertEqual(page.get_attribute("#drawer", "role"), "dialog")
        page.locator("#facet-colour > summary").click()
        page.locator("label:has(#in-colour-red)").click()
        page.wait_for_selector(".drawer-picks .pick")
        self.assertTrue(page.is_visible("#drawer"))
        self.assertRegex(page.inner_text(".drawer-foot a"), r"Show \d+ products?\s+\d+ more without Colour")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        small = page.evaluate("""[...document.querySelectorAll('#drawer a, #drawer button, #drawer label, #drawer summary')]
            .filter(part => part.offsetParent && part.getBoundingClientRect().height < 43.5).map(part => part.outerHTML.slice(0, 80))""")
        self.assertEqual(small, [])
        page.keyboard.press("Escape")
        self.assertFalse(page.is_visible("#drawer"))
        plain = self.open("/shop/c/safety/", scripts=False, width=390, height=844, touch=True)
        plain.click(".drawer-opener")
        self.assertTrue(plain.is_visible(".drawer-foot button"))


class WorkbenchBehaviourTests(BrowserTestCase):
    def test_by_keyboard(self):
        """Shelves move by arrows, undo is Ctrl+Z, slash jumps, settings are kept as they are changed."""
        page = self.sign_in()
        order = "[...document.querySelectorAll('[data-sorts] > [data-key]')].map(shelf => shelf.dataset.key)"
        before = page.evaluate(order)
        page.focus("#grip-colour")
        page.keyboard.press("ArrowUp")
        page.wait_for_selector("text=Draft: 1 change")
        self.assertEqual(page.evaluate(order)[:3], ["group", "colour", "price"])
        self.assertEqual(page.evaluate("document.activeElement.id"), "grip-colour")
        page.keyboard.press("Control+z")
        page.wait_for_selector("text=Undone: Changed the order of the facets.")
        self.assertEqual(page.evaluate(order), before)
        page.keyboard.press("/")
        page.keyboard.type("materi")
        page.wait_for_selector("#jump-targets a")
        page.keyboard.press("Enter")
        page.wait_for_url("**/racks/facets/material/")
        page.locator("label:has-text('all of')").click()
        page.wait_for_selector("text=Draft: 1 change")
        page.fill("#id_label", "Made of")
        page.press("#id_label", "Tab")
        page.wait_for_selector("h1:has-text('Made of')")
        page.fill("#id_key", "price")
        page.press("#id_key", "Tab")
        page.wait_for_selector(".error")
        self.assertIn("Is used twice", page.inner_text(".error"))

    def test_presses_at_human_pace_on_a_slow_line(self):
        """Five presses of an arrow move five places, though answers come later than the next press."""
        page = self.sign_in()
        slow = {"offline": False, "latency": 700, "downloadThroughput": -1, "uploadThroughput": -1}
        page.context.new_cdp_session(page).send("Network.emulateNetworkConditions", slow)
        order = "[...document.querySelectorAll('[data-sorts] > [data-key]')].map(shelf => shelf.dataset.key)"
        before = page.evaluate(order)
        page.focus(f"#grip-{before[6]}")
        for _ in range(5):
            page.keyboard.press("ArrowUp")
            page.wait_for_timeout(450)
        wanted = [before[0], before[6], *before[1:6]]
        page.wait_for_selector("text=Draft:")
        page.wait_for_timeout(1800)
        self.assertEqual((page.evaluate(order), the_setup().draft.document["racks"][0]["facets"]), (wanted, wanted))
        self.assertEqual(page.evaluate("document.activeElement.id"), f"grip-{before[6]}")

    def test_tried_in_place(self):
        """More bins open and close where they are, the shopper's view narrows, a range is typed as people write it; the keyboard stays."""
        page = self.sign_in()
        page.goto(f"{self.live_server_url}/racks/")
        focused = "document.activeElement.id"
        page.focus("#more-colour")
        page.keyboard.press("Enter")
        page.wait_for_selector("#more-colour[aria-expanded=true]")
        self.assertEqual(page.evaluate(focused), "more-colour")
        page.click("#v-colour-oxblood")
        page.wait_for_selector(".chip:has-text('Colour: Oxblood')")
        page.focus("#more-colour")
        page.keyboard.press("Enter")
        page.wait_for_selector("#more-colour[aria-expanded=false]")
        self.assertTrue(page.is_visible("#v-colour-oxblood"), "what is picked is always drawn")
        page.click("#preview-clear")
        page.wait_for_selector("text=Click a bin to try it")
        page.click("label:has(#in-material-nylon)")
        page.wait_for_selector(".chip:has-text('Material: Nylon')")
        page.fill("#in-price-from", "£15")
        page.keyboard.press("Tab")
        page.wait_for_selector(".chip:has-text('Price: £15 and above')")
        self.assertEqual(page.evaluate(focused), "in-price-to")
        page.wait_for_selector("#shelf-price .hbin.picked")
        self.assert_accessible(page, "the rack with a free range")

    def test_widths_on_the_screen(self):
        """No name or figure is cut, and the hatch is as wide as its share, or 72 pixels."""
        page = self.sign_in()
        for query in ("", "?category=Rope+and+cordage", "?colour=navy&price.from=15", "?category=Safety&shelf.open=colour"):
            page.goto(f"{self.live_server_url}/racks/{query}")
            cut = page.evaluate("""[...document.querySelectorAll('.board .tag b, .board .tag span, .board .ride')]
                .filter(part => part.scrollWidth > part.clientWidth + 1 && part.scrollWidth < 135).map(part => part.textContent.trim())""")
            self.assertEqual(cut, [], query)
        page.goto(f"{self.live_server_url}/racks/")
        shares = page.evaluate("""['colour', 'material', 'diameter', 'rating'].map(key => {
            const board = document.querySelector(`#shelf-${key} .bins`).getBoundingClientRect().width;
            return [key, document.querySelector(`#shelf-${key} .bin.un`).getBoundingClientRect().width, board]; })""")
        shelves = {shelf.key: shelf for shelf in rack_page(the_setup(), [], "/racks/").shelves}
        for key, width, board in shares:
            self.assertAlmostEqual(width, max(72, board * shelves[key].unbinned_share / 100), delta=12, msg=key)

    def test_from_a_flag_to_a_filled_cell(self):
        """The flag of a shelf opens the first gap of the sheet at once; undo there leaves the keyboard where it was."""
        page = self.sign_in()
        page.goto(f"{self.live_server_url}/racks/")
        page.click("#shelf-material .flag")
        page.wait_for_selector(".editor input:focus")
        page.wait_for_selector(".picked-words:has-text('260 missing')")
        self.assertNotIn("#", page.url)
        page.wait_for_selector(".hanging li")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        wait_until(page, "document.querySelector('.cover-words .picked-words').textContent.trim().startsWith('259')")
        page.keyboard.press("Escape")
        cell = "[document.activeElement.parentElement.dataset.product, document.activeElement.dataset.field].join()"
        here = page.evaluate(cell)
        page.keyboard.press("Control+z")
        page.wait_for_selector(".notice:has-text('Undone: Set Material')")
        self.assertEqual(page.evaluate(cell), here)

    def test_shelves_by_drag_and_take_off(self):
        """Dragging keeps the order; taking off is undone in place."""
        page = self.sign_in()
        grip, target = page.locator("#grip-stock").bounding_box(), page.locator("#shelf-group").bounding_box()
        page.mouse.move(grip["x"] + 10, grip["y"] + 10)
        page.mouse.down()
        page.mouse.move(grip["x"] + 10, grip["y"] - 40, steps=5)
        first = "document.querySelector('[data-sorts] > [data-key]').dataset.key"
        for nudge in range(30):  # shelves glide out of the way; a hand follows them
            page.mouse.move(target["x"] + 30 + nudge, target["y"] + 8, steps=5)
            page.wait_for_timeout(60)
            if page.evaluate(first) == "stock":
                break
        page.mouse.up()
        page.wait_for_selector("text=Draft: 1 change")
        self.assertEqual(page.evaluate(first), "stock")
        page.hover("#shelf-price")
        page.click("#take-off-price")
        page.wait_for_selector("text=Removed Price.")
        page.click(".notice button:has-text('Undo')")
        page.wait_for_selector("#shelf-price")

    def test_without_scripts(self):
        """The tool can be read, tried and changed by plain links and forms."""
        page = self.sign_in(scripts=False)
        page.click("#v-stock-in")
        self.assertIn("Stock: In stock", page.inner_text(".result"))
        page.click("#shelf-colour h2 a")
        page.fill("#id_label", "Shade")
        page.click("button:has-text('Save')")
        self.assertEqual(page.inner_text("h1"), "Shade")


class AccessibilityTests(BrowserTestCase):
    def test_main_pages(self):
        """axe-core finds nothing on the main pages of the shop and the tool."""
        shop = {
            "listing": "/shop/c/rope-and-cordage/?colour=navy&price=20..50",
            "nothing": "/shop/?colour=clear&group=lighting",
            "product": "/shop/p/SC-1004/",
        }
        for name, path in shop.items():
            self.assert_accessible(self.open(path), name)
        phone = self.open("/shop/?colour=navy", width=390, height=844, touch=True)
        phone.click(".drawer-opener")
        self.assert_accessible(phone, "drawer")
        self.assert_accessible(self.open("/sign-in/"), "sign-in")
        owner = self.sign_in()
        for path in (
            "/racks/",
            "/racks/?category=Rope+and+cordage&colour=navy&price=20-to-50",
            "/racks/add/",
            "/racks/components/",
            "/racks/facets/rating/unbinned/",
            "/activity/",
        ):
            owner.goto(self.live_server_url + path)
            self.assert_accessible(owner, path)
