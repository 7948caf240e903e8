"""Set is got, in a browser: journeys of owners counted in actions, each seen in the shop after *Put live*, wide and on a phone."""

from binsort.changes.facets import add_facet
from binsort.racks.setup import facet_document, the_setup

from .pages import BrowserTestCase, wait_until
from .test_benches import COSTS, Hand

ROPE = "/shop/c/rope-and-cordage/"


class JourneyTests(BrowserTestCase):
    def setUp(self):
        """Sign in."""
        super().setUp()
        self.page = self.sign_in()
        self.hand = Hand(self.page)

    def kept(self, act):
        """Do something that the page keeps, and wait until it has answered."""
        with self.page.expect_response(lambda response: response.request.method == "POST" and response.status < 400):
            act()
        self.page.wait_for_load_state("networkidle")

    def choose(self, name, value):
        """Choose in a tray; one action."""
        self.hand.actions += 1
        self.kept(lambda: self.page.locator(f"input[name='{name}'][value='{value}']").check(force=True))

    def write(self, name, text):
        """Write into a field, Enter behind it; one action."""
        self.hand.actions += 1

        def typed():
            self.page.fill(f"input[name='{name}']", text)
            self.page.press(f"input[name='{name}']", "Tab")

        self.kept(typed)

    def go(self, path):
        """Open a page of the tool."""
        self.page.goto(self.live_server_url + path)
        self.page.wait_for_load_state("networkidle")
        self.hand.actions = 0

    def spent(self, what):
        """Hold the actions against the table."""
        self.assertEqual(self.hand.actions, int(COSTS[what]), what)

    def live(self):
        """Put it live."""
        self.page.goto(f"{self.live_server_url}/racks/")
        self.page.click("text=Put live")
        self.page.wait_for_load_state("networkidle")

    def test_price_as_slider_with_ranges(self):
        """From 0 to 150 in steps of 10 with its ranges below: handles, keys and chips obey; what lies beyond is met at the open end."""
        self.go("/racks/facets/price/shoppers/")
        self.choose("ranges", "on")
        self.spent("show the ranges of a slider below it")
        self.hand.actions = 0
        for name, text in (("least", "0"), ("most", "150"), ("step", "10")):
            self.write(name, text)
        self.spent("a slider from 0 to 150 in steps of 10")
        self.live()
        shop = self.open("/shop/")
        slider = "#facet-price .handle"
        wait_until(shop, f"document.querySelectorAll('{slider}').length === 2")
        lower, upper = shop.locator(slider).first, shop.locator(slider).last
        self.assertEqual([upper.get_attribute("aria-valuemax"), lower.get_attribute("aria-valuemin")], ["150", "0"])
        lower.focus()
        for _ in range(2):
            shop.keyboard.press("ArrowRight")
        wait_until(shop, "location.search.includes('price.from=20') || location.search.includes('price=20..')")
        self.assertEqual(shop.input_value("[name='price.from']"), "20")
        self.assertEqual(lower.get_attribute("aria-valuetext"), "£20")
        self.assertIn("£20 and above", shop.inner_text(".bar .pick"))
        self.assertEqual(shop.locator("#facet-price .choice").count(), 5)

    def test_facets_behind_a_button(self):
        """On a wide screen the rack opens from the left, by mouse and keys, narrows in place, and gives the focus back."""
        self.go("/racks/of/side/behaves/")
        self.choose("wide", "left")
        self.spent("facets behind a button on wide screens")
        self.live()
        shop = self.open(ROPE)
        self.assertFalse(shop.is_visible("#drawer"))
        shop.focus("#wide-opener")
        shop.keyboard.press("Enter")
        shop.wait_for_selector("#drawer input[name=colour]")
        shop.locator("#drawer label:has(#in-colour-navy)").click()
        wait_until(shop, "location.search === '?colour=navy'")
        self.assertTrue(shop.is_visible("#drawer"))
        self.assert_accessible(shop, "facets from the left")
        shop.keyboard.press("Escape")
        wait_until(shop, "document.activeElement.id === 'wide-opener'")
        self.assertFalse(shop.is_visible("#drawer"))
        bare = self.open(f"{ROPE}#drawer", scripts=False)
        self.assertTrue(bare.is_visible("#drawer input[name=colour] >> nth=0"))

    def test_a_bar_above_without_a_column(self):
        """All facets above in three columns: no empty column beside the products, no forecast that does not come."""
        self.go("/racks/of/side/behaves/")
        self.choose("above", "three")
        for where, choice in (("above", "own"), ("side", "nothing")):
            self.page.goto(f"{self.live_server_url}/listings/?at=all&where={where}&choice={choice}&rack=side")
            self.hand.click("#set-place")
            self.page.wait_for_load_state("networkidle")
            self.assertNotIn("csrfmiddlewaretoken", self.page.url)
        self.live()
        shop = self.open(ROPE)
        self.assertFalse(shop.is_visible("#drawer"))
        self.assertTrue(shop.is_visible(".facet-row.blocks #in-colour-navy >> xpath=.."))
        boxes = [shop.locator(f"#facet-{key}").bounding_box() for key in ("group", "price", "colour")]
        self.assertEqual(len({box["y"] for box in boxes}), 1)
        self.assertLess(shop.locator("#results").bounding_box()["x"], 40)
        shop.locator("label:has(#in-colour-navy)").click()
        wait_until(shop, "location.search === '?colour=navy'")

    def test_apply_on_a_button(self):
        """The button stays in view, says what it would show and how many changes wait; on a phone, too."""
        self.go("/racks/of/side/behaves/")
        self.choose("applies", "button")
        self.choose("applies_on_phones", "button")
        self.live()
        shop = self.open(ROPE)
        for key in ("in-colour-navy", "in-material-nylon"):
            shop.locator(f"#{key}").check(force=True)
        wait_until(shop, "document.querySelector('[data-waiting]').textContent === '2 changes wait'")
        wait_until(shop, "document.querySelector('.drawer-foot [data-applies-words]').textContent.match(/^Show [0-9]+ product/) !== null")
        box = shop.locator(".drawer-foot .applies").bounding_box()
        self.assertLess(box["y"] + box["height"], 801)
        words = shop.inner_text(".drawer-foot [data-applies-words]")
        shop.click(".drawer-foot .applies")
        wait_until(shop, "location.search.includes('colour=navy') && location.search.includes('material=nylon')")
        self.assertIn(words.split()[1], shop.inner_text("#status"))
        phone = self.open(ROPE, width=390, height=844, touch=True)
        phone.click("#drawer-opener")
        phone.click("#facet-colour > summary")
        phone.locator("#drawer label:has(#in-colour-navy)").click()
        wait_until(phone, "document.querySelector('[data-waiting]').textContent === '1 change waits'")

    def test_categories_by_tree_drill_buttons_and_pictures(self):
        """Three levels of categories in each control, a pick two levels down, counted by the shop alike."""
        totals = set()
        for control in ("tree", "drilled", "buttons", "pictures"):
            self.go("/racks/facets/group/shoppers/")
            self.hand.actions += 1
            self.kept(lambda control=control: self.page.click(f"#control-{control}"))
            if control == "buttons":
                self.choose("levels", "0")
            self.live()
            shop = self.open("/shop/")
            if control == "tree":
                for key in ("deck-hardware", "deck-hardware-shackles"):
                    shop.click(f"#branch-group-{key} > summary")
            elif control == "drilled":
                for key in ("deck-hardware", "deck-hardware-shackles"):
                    shop.locator(f"label:has([id='in-group-{key}'])").click()
                    wait_until(shop, f"location.search === '?group={key}'")
            else:
                shop.click("#more-group > summary")
            shop.locator("label:has([id='in-group-deck-hardware-shackles-d-shackles'])").click()
            wait_until(shop, "location.search === '?group=deck-hardware-shackles-d-shackles'")
            wait_until(shop, "document.querySelector('#status').textContent.includes(' of ')")
            totals.add(shop.inner_text("#status"))
        self.assertEqual(len(totals), 1)
        self.go("/racks/facets/group/")
        self.kept(lambda: self.hand.choose("#id_scope", "under"))
        self.page.wait_for_selector("#id_under")
        self.kept(lambda: self.hand.choose("#id_under", "Deck hardware > Shackles"))
        wait_until(self.page, "document.querySelector('#id_under').value === 'Deck hardware > Shackles'")
        self.spent("the children of one category")
        self.assertEqual(facet_document(the_setup().draft.document, "group")["under"], "Deck hardware > Shackles")

    def test_a_child_facet_after_its_parent(self):
        """Sub-categories after their category: shown once one is picked, and on its own listing."""
        self.page.click("#show-when")
        self.page.wait_for_load_state("networkidle")
        self.hand.actions = 1
        self.hand.click("#rule-group")
        self.page.wait_for_selector("#split")
        self.hand.actions += 1
        self.kept(lambda: self.page.click("#split"))
        self.spent("sub-categories after their category")
        self.live()
        shop = self.open("/shop/")
        self.assertEqual(shop.locator("#facet-kind").count(), 0)
        shop.locator("label:has(#in-group-rope-and-cordage)").click()
        shop.wait_for_selector("#facet-kind")
        shop.goto(self.live_server_url + ROPE)
        self.assertIn("Mooring", shop.inner_text("#facet-kind"))

    def test_rules_on_days_and_listings(self):
        """A line for the listing, one for days, by mouse; the words stand on the shelf without pushing what is beside them."""
        self.page.goto(f"{self.live_server_url}/racks/?show.when=material&category=Lighting")
        self.kept(lambda: self.page.click("#add-listing"))
        self.assertEqual(self.page.input_value("#line-0-listing"), "Lighting")
        self.kept(lambda: self.page.click("#add-days"))
        self.page.wait_for_selector("#line-1-from")
        self.kept(lambda: (self.page.fill("#line-1-to", "2099-12-24"), self.page.press("#line-1-to", "Tab")))
        self.assertIn("on Lighting and below", self.page.inner_text("#rule-material"))
        self.page.hover("#take-off-material", force=True)
        self.assert_accessible(self.page, "a rule on days")

    def test_a_facet_above_the_products(self):
        """One facet of the side rack stands above the products, wide and on a phone, and nowhere else."""
        self.go("/racks/facets/colour/")
        self.hand.actions += 1
        self.kept(lambda: self.page.select_option("#facet-where", "above"))
        self.spent("a facet of a rack above the products")
        self.assertEqual(self.page.input_value("#facet-where"), "above")
        self.live()
        for how in ({}, {"width": 390, "height": 844, "touch": True}):
            shop = self.open("/shop/", **how)
            self.assertEqual(shop.locator("[id=facet-colour]").count(), 1)
            self.assertEqual(shop.locator(".facet-row.above #facet-colour").count(), 1)
            shop.click("#facet-colour > summary")
            shop.locator("#facet-colour .choice").first.click()
            wait_until(shop, "location.search.includes('colour=')")

    def test_the_look_of_all_facets(self):
        """A colour tried on real facets, kept, is in the shop; what could not be read is not drawn; it is taken back by one button."""
        self.go("/shop-theme/")
        self.assert_accessible(self.page, "the look of the facets")
        with self.page.expect_response(lambda response: "accent" in response.url):
            self.page.fill("[name=accent]", "#7a1d3a")
            self.page.press("[name=accent]", "Tab")
        self.hand.actions += 1
        self.page.wait_for_load_state("networkidle")
        self.assertNotIn("csrf", self.page.url)
        self.hand.click("text=Keep it for the shop")
        self.spent("the look of all facets in the shop's colour")
        self.page.locator("text=Kept. Shoppers see it").wait_for()
        shop = self.open("/shop/?colour=navy")
        drawn = "getComputedStyle(document.querySelector('#facet-price .spread path.in')).fill"
        self.assertEqual(shop.evaluate(drawn), "rgb(122, 29, 58)")
        self.page.click("#theme-back")
        self.page.locator("text=Kept. Shoppers see it").wait_for()
        shop.reload()
        self.assertEqual(shop.evaluate(drawn), "rgb(29, 49, 86)")

    def test_a_group_of_tags(self):
        """Tags that are ticked become a facet of their own beside the rest."""
        document = the_setup().draft.document
        add_facet({"key": "tags", "label": "Tags", "source": {"kind": "tag"}, "order": "count"}, rack="side", actor=None)
        self.go("/racks/facets/tags/")
        rows = self.page.locator("#values [data-value] input")
        for place in (0, 1):
            self.hand.actions += 1
            rows.nth(place).check()
        self.hand.click("button:has-text('own facet')")
        self.page.locator("text=is a facet of its own").wait_for()
        self.spent("a group of tags as a facet of its own")
        self.assertNotIn("/tags/", self.page.url)
        self.assertEqual(len(the_setup().draft.document["facets"]), len(document["facets"]) + 2)

    def test_a_quick_look(self):
        """A product opens over its listing, wide and on a phone, by mouse and by keys; shut, the focus is where it was."""
        self.go("/racks/of/side/behaves/")
        self.choose("opens", "quick")
        self.live()
        for how in ({}, {"width": 390, "height": 844, "touch": True}):
            shop = self.open(ROPE + "?colour=navy", **how)
            link = shop.locator(".card > a").first
            name = link.locator(".card-name").inner_text()
            link.focus()
            shop.keyboard.press("Enter")
            box = shop.locator("dialog.quick")
            box.locator("h1", has_text=name).wait_for()
            self.assert_accessible(shop, "a quick look")
            self.assertIn("colour=navy", shop.url)
            shop.keyboard.press("Escape")
            wait_until(shop, "document.activeElement.matches('.card > a')")
            link.click()
            box.get_by_role("link", name="Open its page").click()
            shop.locator("article.product h1", has_text=name).wait_for()
