"""The benches in a browser: by drag, by keys, on a slow line; each control by mouse, by keyboard and without scripts; what work costs."""

import re
from pathlib import Path

from django.contrib.auth import get_user_model

from binsort.changes import facets as facet_changes
from binsort.changes import live as live_changes
from binsort.racks.controls import CONTROLS, with_control
from binsort.racks.setup import facet_document, the_setup

from .pages import BrowserTestCase, wait_until

COSTS = dict(re.findall(r"^\| (.+?) \| (\d+) \|", Path("docs/interface-costs.md").read_text("utf-8"), re.MULTILINE))
READY = "document.querySelector('#range-bench')?.dataset.ready === 'true'"
CUTS = "[...document.querySelectorAll('[data-cut] input')].map(input => input.value)"
COUNTS = "[...document.querySelectorAll('.compartment:not([hidden]) .mass b')].map(b => b.textContent)"
NAMES = "[...document.querySelectorAll('.compartment:not(.un) .words b')].map(b => b.textContent)"
FOCUS = "document.activeElement.id"


class Hand:
    """A person at a page, whose actions are counted."""

    def __init__(self, page):
        self.page, self.actions = page, 0

    def click(self, selector):
        """Click something."""
        self.actions += 1
        self.page.click(selector)

    def press(self, key):
        """Press a key."""
        self.actions += 1
        self.page.keyboard.press(key)

    def type(self, text):
        """Type a figure, with Enter behind it."""
        self.actions += 1
        self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")

    def choose(self, selector, value):
        """Choose from a list."""
        self.actions += 1
        self.page.select_option(selector, value)

    def drag(self, start, end):
        """Drag from the middle of one thing to the middle of another, as a hand does."""
        self.actions += 1
        one, other = (self.page.locator(selector).first.bounding_box() for selector in (start, end))
        self.page.mouse.move(one["x"] + one["width"] / 2, one["y"] + one["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(one["x"] + one["width"] / 2 + 30, one["y"] + one["height"] / 2, steps=3)
        self.page.wait_for_timeout(60)
        self.page.mouse.move(other["x"] + other["width"] / 2, other["y"] + other["height"] / 2, steps=8)
        self.page.wait_for_timeout(80)
        self.page.mouse.up()


class BenchCase(BrowserTestCase):
    def bench(self, facet, query="", **how):
        """Sign in and open the bench of a facet."""
        page = self.sign_in(**how)
        page.goto(f"{self.live_server_url}/racks/facets/{facet}/{query}")
        return page

    def document(self, facet):
        """The facet as the draft has it."""
        return facet_document(the_setup().draft.document, facet)

    def set(self, facet, **parts):
        """Give a facet other parts, without a page."""
        changed = {name: value for name, value in {**self.document(facet), **parts}.items() if value is not None}
        facet_changes.change_facet(facet, changed, actor=get_user_model().objects.get())

    def add(self, key, source, **parts):
        """Put a facet on the rack, without a page."""
        owner = get_user_model().objects.get()
        facet_changes.add_facet({"key": key, "label": key.title(), "source": source, **parts}, rack="side", actor=owner)


class RangeBenchTests(BenchCase):
    def test_a_cut_is_dragged_nudged_and_taken_out(self):
        """Counts follow while it is dragged and are those that the server confirms; keys in a burst are sent once; nothing is lost on a slow line."""
        page = self.bench("price")
        page.route("**/act/**", lambda route: (page.wait_for_timeout(300), route.continue_()))
        wait_until(page, READY)
        box = page.locator("#cut-1").bounding_box()
        page.mouse.move(box["x"] + 12, box["y"] + 10)
        page.mouse.down()
        for step in range(1, 9):
            page.mouse.move(box["x"] + 12 + 6 * step, box["y"] + 12)
            page.wait_for_timeout(35)
        dragged, names, cuts = page.evaluate(COUNTS), page.evaluate(NAMES), page.evaluate(CUTS)
        self.assertNotEqual(cuts[1], "20")
        page.mouse.up()
        page.wait_for_selector("[data-undo] button[title^='Price: cut moved from £20 to']")
        self.assertEqual((page.evaluate(COUNTS), page.evaluate(NAMES), page.evaluate(CUTS)), (dragged, names, cuts))
        self.assertEqual(page.evaluate(FOCUS), "cut-1")
        for _ in range(3):
            page.keyboard.press("ArrowRight")
            page.wait_for_timeout(70)
        page.keyboard.press("Shift+ArrowLeft")
        nudged = page.evaluate(COUNTS)
        money = f"£{cuts[1]}" if "." not in cuts[1] else f"£{float(cuts[1]):.2f}"
        wait_until(page, f"document.querySelector('[data-undo] button').title.includes('from {money} to')")
        self.assertEqual(page.evaluate(COUNTS), nudged)
        before = the_setup().draft_id
        page.keyboard.press("Delete")
        wait_until(page, "document.querySelectorAll('[data-cut]').length === 3")
        page.wait_for_selector("[data-undo] button[title$='taken out']")
        self.assertEqual(len(self.document("price")["cuts"]), 3)
        self.assertNotEqual(the_setup().draft_id, before)
        page.keyboard.press("Control+z")
        page.wait_for_selector("[data-redo] button[title$='taken out']")
        wait_until(page, READY)
        page.wait_for_timeout(150)
        page.keyboard.press("Control+Shift+z")
        page.wait_for_selector("[data-undo] button[title$='taken out']")
        wait_until(page, READY)
        box, plot = page.locator("#cut-0").bounding_box(), page.locator("[data-plot]").bounding_box()
        page.mouse.move(box["x"] + 12, box["y"] + 10)
        page.mouse.down()
        page.mouse.move(box["x"] + 20, plot["y"] - 170, steps=6)
        page.wait_for_timeout(60)
        page.mouse.up()
        wait_until(page, "document.querySelectorAll('[data-cut]').length === 2")
        page.dblclick("[data-plot]", position={"x": plot["width"] - 30, "y": 60})
        wait_until(page, "document.querySelectorAll('[data-cut]').length === 3")
        self.assert_accessible(page, "range bench")

    def test_ranges_by_hand_overlap_and_a_product_is_dropped(self):
        """The end of a range is dragged into the next and nudged; all counts follow and are kept; a product dropped on the bench is explained."""
        self.set("price", cuts=None, ranges=[{"from": 10, "to": 20}, {"from": 20, "to": 50}])
        page = self.bench("price")
        wait_until(page, READY)
        box = page.locator("#lane-to-0").bounding_box()
        page.mouse.move(box["x"] + box["width"] - 4, box["y"] + 12)
        page.mouse.down()
        page.mouse.move(box["x"] + 60, box["y"] + 12, steps=6)
        page.wait_for_timeout(80)
        dragged = page.evaluate(COUNTS)
        page.mouse.up()
        page.wait_for_selector("[data-undo] button[title^='Price: ranges by hand']")
        self.assertEqual(page.evaluate(COUNTS), dragged)
        wide = self.document("price")["ranges"]
        self.assertGreater(wide[0]["to"], wide[1]["from"])
        wait_until(page, READY)
        page.focus("#lane-to-0")
        with page.expect_response("**/act/**"):  # keys in a burst are sent once
            for _ in range(2):
                page.keyboard.press("ArrowLeft")
                page.wait_for_timeout(70)
        wait_until(page, f"document.querySelectorAll('#bin-rows [name=to]')[0].value !== '{wide[0]['to']}'")
        wait_until(page, READY)
        self.assertEqual(page.evaluate(FOCUS), "lane-to-0")
        page.drag_and_drop("#around ol a >> nth=0", "#why")
        page.wait_for_selector("text=because of £")
        self.assert_accessible(page, "ranges by hand")

    def test_a_number_is_pointed_at(self):
        """A drag over one of two numbers reads that one; a text that was not read is written anew."""
        self.add("mine", {"kind": "number_from", "from": "tag"})
        page = self.bench("mine", "reading/?text=length-20")
        box = page.locator("[data-pointing] button").first.bounding_box()
        page.mouse.move(box["x"] + 3, box["y"] + 20)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] + 8, box["y"] + 24, steps=5)
        self.assertEqual(page.locator(".dragged").count(), 1)
        page.mouse.up()
        page.wait_for_selector("[data-pointing] [aria-pressed=true]")
        self.assert_accessible(page, "reading numbers")

    def test_numbers_of_articles_on_a_phone(self):
        """On a narrow screen the bench can be read and the cuts typed; a search for why is answered in place."""
        page = self.bench("price", width=390, height=844, touch=True)
        wait_until(page, READY)
        page.fill("#cut-text-0", "12.5")
        page.keyboard.press("Enter")
        page.wait_for_selector("[data-undo] button[title='Price: cut moved from £10 to £12.50']")
        self.assertTrue(page.evaluate("document.documentElement.scrollWidth <= innerWidth"))
        page.fill("#why", "halyard")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=because of £")
        self.assert_accessible(page, "range bench on a phone")

    def test_without_scripts(self):
        """Flags are typed, suggestions taken, ways chosen by plain forms."""
        page = self.bench("diameter", scripts=False)
        page.fill("#cut-text-0", "6")
        page.click("text=Keep the cuts")
        self.assertEqual(str(self.document("diameter")["cuts"][0]), "6")
        page.click("#suggest-counts")
        page.click("#use-cuts")
        page.click("#shape-at_least")
        self.assertIn("at_least", self.document("diameter"))
        page.click("text=How shoppers see it")
        page.click("#control-dropdown")
        self.assertEqual(self.document("diameter")["look"]["control"], "dropdown")
        page.goto(f"{self.live_server_url}/racks/facets/colour/")
        page.check("input[name=value][value='Navy blue']")
        page.select_option("select[name=into]", "Navy")
        page.click("button[value=merge]")
        self.assertEqual(self.document("colour")["bins"]["merge"][0]["label"], "Navy")


class ValueBenchTests(BenchCase):
    def test_merge_by_drag_and_by_keys(self):
        """Dragged onto a bin it merges, onto the ground it gets a bin of its own; several go together; names are typed in place."""
        page = self.bench("colour")
        hand = Hand(page)
        hand.drag("[data-value='Gray']", "[data-bin='Grey']")
        page.wait_for_selector("[data-undo] button[title='Colour: Gray merged into Grey']")
        self.assertEqual(hand.actions, int(COSTS["merge two values by drag"]))
        page.focus("[data-value='Navy blue'] input")
        hand.actions = 0
        hand.press("m")
        page.wait_for_selector("#merge-find:focus")
        hand.press("Enter")
        page.wait_for_selector("[data-undo] button[title='Colour: Navy blue merged into Navy']")
        self.assertEqual(hand.actions, int(COSTS["merge two values by keys"]))
        page.focus("[data-value='Default'] input")
        hand.actions = 0
        hand.press("x")
        page.wait_for_selector("[data-undo] button[title='Colour: Default left out']")
        self.assertEqual(hand.actions, int(COSTS["leave a value out"]))
        page.check("[data-value='Galvanised'] input")
        page.check("[data-value='Galvanized'] input")
        page.wait_for_selector("text=2 values, 162 products")
        page.click("[data-merge]")
        page.fill("#merge-find", "Zinc")
        page.keyboard.press("Enter")
        page.wait_for_selector("[data-undo] button[title='Colour: 2 values in a new bin Zinc']")
        hand.drag("[data-value='Gray']", ".values-head h2")
        page.wait_for_selector("[data-undo] button[title='Colour: a bin of its own for Gray']")
        page.fill("[data-rename='Zinc']", "Galvanised steel")
        page.keyboard.press("Enter")
        page.wait_for_selector("[data-undo] button[title='Colour: Zinc called Galvanised steel']")
        self.assertEqual([merge["label"] for merge in self.document("colour")["bins"]["merge"]], ["Grey", "Navy", "Galvanised steel"])
        page.fill("#find-value", "navy")
        wait_until(page, "document.querySelectorAll('[data-value]').length === 2")
        self.assertEqual(page.evaluate(FOCUS), "find-value")
        self.assert_accessible(page, "value bench")

    def test_swatches_and_order_by_keyboard(self):
        """A swatch is chosen in its box; by hand bins move by arrows."""
        page = self.bench("colour")
        page.focus("[data-swatch='Default']")
        page.keyboard.press("Enter")
        page.wait_for_selector("#swatch-box[open]")
        page.fill("#swatch-text", "n/a")
        page.click("[data-way=text]")
        page.wait_for_selector(".patch.text:has-text('n/a')")
        page.select_option("#id_order", "listed")
        page.wait_for_selector("#grip-White")
        page.focus("#grip-White")
        page.keyboard.press("ArrowUp")
        page.wait_for_selector("[data-undo] button[title='Colour: bins put into order by hand']")
        self.assertEqual(page.evaluate("document.querySelector('.target').dataset.bin"), "White")


class CostTests(BenchCase):
    def test_what_work_costs(self):
        """Each piece of work takes as many actions as the table says."""
        page = self.sign_in()
        hand = Hand(page)
        hand.click("#add-facet")
        hand.click("#source-breaking-load button:has-text('Add')")
        page.wait_for_selector("#shelf-breaking-load")
        self.assertEqual(hand.actions, int(COSTS["add a facet that works"]))

        self.set("price", cuts=None, free=True)
        page.goto(f"{self.live_server_url}/racks/facets/price/")
        wait_until(page, READY)
        hand.actions = 0
        for figure, count in (("10", 1), ("50", 2)):
            hand.press("c")
            wait_until(page, f"document.querySelectorAll('[data-cut]').length === {count} && document.activeElement.name === 'cut'")
            hand.type(figure)
            wait_until(page, f"{CUTS}.includes('{figure}') && document.activeElement.matches('.flag-mark')")
        self.assertEqual(page.evaluate(NAMES), ["under £10", "£10 to £50", "£50 and above"])
        self.assertEqual(hand.actions, int(COSTS["make “under £10, £10 to £50, £50 and above” from nothing"]))
        hand.actions = 0
        hand.press("Delete")
        wait_until(page, "document.querySelectorAll('[data-cut]').length === 1")
        self.assertEqual(hand.actions, int(COSTS["take out a cut"]))
        hand.actions = 0
        hand.click("#suggest-counts")
        hand.click("#use-cuts")
        page.wait_for_selector("[data-undo] button[title$='as suggested']")
        self.assertEqual(hand.actions, int(COSTS["take a suggestion"]))
        self.set("price", look=None, free=None)
        page.goto(f"{self.live_server_url}/racks/facets/price/")
        hand.actions = 0
        hand.click("text=How shoppers see it")
        hand.click("#control-slider")
        page.wait_for_selector("#control-slider[aria-pressed=true]")
        self.assertEqual(hand.actions, int(COSTS["turn a price facet into a slider"]))

        self.add("size", {"kind": "attribute", "attribute": "Size"})
        page.goto(f"{self.live_server_url}/racks/facets/size/")
        hand.actions = 0
        hand.choose("#id_order", "size")
        page.wait_for_selector("[data-undo] button[title*='order changed']")
        self.assertEqual(hand.actions, int(COSTS["order sizes from S to XXL"]))


# facet, source of one that is added, parts, what is operated by mouse, what by keys, what is sent
WAYS = {
    "checkboxes": ("material", None, {}, "label:has(#in-material-nylon)", ("#in-material-nylon", "Space"), "material=nylon"),
    "radio": ("material", None, {}, "label:has(#in-material-nylon)", ("#in-material-nylon", "Space"), "material=nylon"),
    "buttons": ("material", None, {}, "label:has(#in-material-nylon)", ("#in-material-nylon", "Space"), "material=nylon"),
    "swatches": ("colour", None, {}, "label:has(#in-colour-navy)", ("#in-colour-navy", "Space"), "colour=navy"),
    "pictures": ("material", None, {}, "label:has(#in-material-nylon)", ("#in-material-nylon", "Space"), "material=nylon"),
    "many": ("material", None, {}, "label:has(#in-material-nylon)", ("#in-material-nylon", "Space"), "material=nylon"),
    "search": ("material", None, {}, "label:has(#in-material-nylon)", ("#in-material-nylon", "Space"), "material=nylon"),
    "dropdown": ("material", None, {}, None, ("#in-material", "n"), "material=nylon"),
    "stars": ("rating", None, {}, "label:has(#in-rating-ge-4\\.5)", ("#in-rating-ge-4\\.5", "Space"), "rating=ge-4.5"),
    "slider": ("price", None, {}, None, ("#facet-price .handle.lower", "ArrowRight"), "price.from="),
    "boxes": ("price", None, {}, None, ("#in-price-from", "20"), "price.from=20"),
    "dates": ("added", {"kind": "published"}, {"free": True}, None, ("#in-added-from", "2026-01-01"), "added.from=2026-01-01"),
    "switch": ("reduced", {"kind": "reduced"}, {}, "label:has(#in-reduced-yes)", ("#in-reduced-yes", "Space"), "reduced=yes"),
    "strip": ("letter", {"kind": "initial"}, {}, "label:has(#in-letter-h)", ("#in-letter-h", "Space"), "letter=h"),
    "tree": ("group", None, {}, "label:has(#in-group-rope-and-cordage)", ("#in-group-rope-and-cordage", "Space"), "group=rope-and-cordage"),
    "drilled": ("group", None, {}, "label:has(#in-group-rope-and-cordage)", ("#in-group-rope-and-cordage", "Space"), "group=rope-and-cordage"),
}  # fmt: skip


# One of each template: the owner's preview is drawn by the same ones as the shop.
PREVIEWED = ("checkboxes", "dropdown", "many", "search", "slider", "dates", "switch", "strip", "tree", "drilled")
LISTING = "/shop/?per=1"  # one card is enough to see what narrows


class ControlTests(BenchCase):
    def put_live(self, control):
        """Let shoppers meet a facet by a control."""
        facet, source, parts, *_ = WAYS[control]
        if source and facet not in the_setup().draft.document["racks"][0]["facets"]:
            self.add(facet, source, **parts)
        changed = with_control({**self.document(facet), "look": {"limit": 40}}, control)
        facet_changes.change_facet(facet, changed, actor=get_user_model().objects.get())
        live_changes.put_live()
        return facet

    def operate(self, page, key, control, *, prefix=""):
        """Set a control by keys, as its kind is set."""
        field, text = WAYS[control][4]
        opened = page.locator(f"#many-{key}:not([open]) > summary")
        if control == "many" and opened.count():
            opened.click()
        if control == "search":
            page.fill(f"#within-{key}", "nyl")
            self.assertEqual(page.locator(f"#facet-{key} .choice:visible").count(), 1)
        if text[0].isdigit():
            page.fill(field, text)
            page.press(field, "Tab")
        else:
            page.focus(field)
            page.keyboard.press(text)

    def test_each_control_by_keys_in_the_shop_and_in_the_preview(self):
        """What is set is what is sent, in the shop and on the rack alike; the keyboard stays where it was."""
        self.assertEqual(set(WAYS), set(CONTROLS))
        owner, shop = self.sign_in(), self.open("/shop/")
        for control, (_f, _s, _p, _mouse, (field, _text), sent) in WAYS.items():
            with self.subTest(control):
                facet = self.put_live(control)
                for page, address in ((shop, LISTING), (owner, "/racks/"))[: 1 + (control in PREVIEWED)]:
                    page.goto(self.live_server_url + address)
                    page.wait_for_selector(f"#facet-{facet}[data-control={control}]")
                    self.operate(page, facet, control)
                    wait_until(page, f"location.search.includes('{sent.replace('.from', '') if page is shop else sent}')")
                    wait_until(page, f"document.querySelector('#facet-{facet} .sub')?.textContent.includes('1 picked')")
                    if not field.startswith("#facet"):
                        self.assertTrue(page.evaluate(f"document.activeElement.id.includes('{facet}')"), page.evaluate(FOCUS))

    def test_each_control_by_mouse_and_without_scripts(self):
        """A click does it; without scripts the form is sent by its button, with the same result. On a phone nothing is too small to hit."""
        shop, plain = self.open("/shop/"), self.open("/shop/", scripts=False)
        phone = self.open("/shop/", width=390, height=844, touch=True)
        for control, (_f, _s, _p, mouse, (field, text), sent) in WAYS.items():
            with self.subTest(control):
                facet = self.put_live(control)
                shop.goto(self.live_server_url + LISTING)
                plain.goto(self.live_server_url + LISTING)
                if mouse:
                    if control == "many":
                        shop.click(f"#many-{facet} > summary")
                        plain.click(f"#many-{facet} > summary")
                    if control == "search":
                        shop.fill(f"#within-{facet}", "nylon")
                    shop.click(mouse)
                    wait_until(shop, f"location.search.includes('{sent}')")
                    plain.click(mouse)
                elif control == "dropdown":
                    plain.select_option(field, "nylon")
                else:
                    plain.fill(f"#in-{facet}-from", text if text[0].isdigit() else "20")
                plain.click("button:has-text('Show products')")
                self.assertIn(sent.replace(".from=", "="), plain.url)  # a form leads to the listing's one address
                self.assertRegex(plain.inner_text(".title p"), r"\d+ of 1,170 products")
                if mouse:
                    self.assertEqual(shop.inner_text(".title p"), plain.inner_text(".title p"))
                phone.goto(self.live_server_url + LISTING)
                phone.click(".drawer-opener")
                part = phone.locator(f"#facet-{facet}")
                if part.get_attribute("open") is None:
                    phone.click(f"#facet-{facet} > summary")
                small = part.evaluate("""part => [...part.querySelectorAll('label, select, summary, .handle')].filter(one => one.checkVisibility())
                    .map(one => one.getBoundingClientRect()).filter(box => box.height < 24 || box.width < 24).length""")
                self.assertEqual(small, 0)
        self.assert_accessible(shop, "the shop with a drilled tree")

    def test_the_working_drawing(self):
        """The level line and the upright line are nudged and dragged, settings are kept, every control's page is accessible."""
        page = self.sign_in()
        page.goto(f"{self.live_server_url}/racks/facets/material/shoppers/")
        page.wait_for_selector("#level-line")
        page.focus("#level-line")
        for _ in range(3):
            page.keyboard.press("ArrowUp")
            page.wait_for_timeout(60)
        wait_until(page, "document.querySelector('#id_limit').value === '5'")
        page.wait_for_selector("[data-undo] button[title='Material: look changed']")
        self.assertEqual(self.document("material")["look"]["limit"], 5)
        page.click("label[for=id_columns_2]")
        page.wait_for_selector("#drawing .columns-of-2")
        page.fill("#id_help", "Of the cover")
        page.press("#id_help", "Tab")
        page.wait_for_selector("#drawing .facet-help:has-text('Of the cover')")
        page.click("text=Two picked")
        page.wait_for_selector(".handset .choice.on")
        self.assert_accessible(page, "how shoppers see it")
        for path in ("rating/shoppers/", "group/shoppers/", "price/shoppers/"):
            page.goto(f"{self.live_server_url}/racks/facets/{path}")
            self.assert_accessible(page, path)
