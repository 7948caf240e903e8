"""The owner's pages: every change lands in the draft, is undone, and does not overwrite another's."""

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.catalog.models import Attribute, Revision
from binsort.changes.attributes import describe_value, order_values
from binsort.demo.loader import load_demo
from binsort.racks.models import Edition
from binsort.racks.setup import facet_document, the_setup


def keys():
    """Return the order of the draft's facets."""
    return the_setup().draft.document["racks"][0]["facets"]


def undo_newest(case):
    """Take the newest change of the catalogue back."""
    case.client.post(f"/catalogue/changes/{Revision.objects.first().pk}/undo/")


class WorkbenchTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop and its owner."""
        load_demo()
        cls.owner = get_user_model().objects.get()

    def setUp(self):
        """Sign in."""
        self.client.force_login(self.owner)

    def edition(self):
        """Return the edition a form made now would name."""
        return {"edition": the_setup().draft_id}

    def form(self, facet, **changed):
        """Return what the settings form of a facet sends, with changes."""
        page = self.client.get(f"/racks/facets/{facet}/")
        return {**page.context["form"].initial, **self.edition(), **changed}

    def look(self, facet, **changed):
        """Send the form of how a facet looks, with changes."""
        address = f"/racks/facets/{facet}/shoppers/"
        initial = {name: value for name, value in self.client.get(address).context["form"].initial.items() if value is not None}
        return self.client.post(address, {**initial, "look": "1", **self.edition(), **changed})

    def act(self, facet, name, **data):
        """Do something on the bench of a facet; the page that shows it."""
        return self.client.post(f"/racks/facets/{facet}/act/", {"act": name, **self.edition(), **data}, follow=True)

    def test_rack_view_counts_like_the_shop(self):
        """A bin's figure while picks are tried is the shop's count, and what a sibling adds is what the shop then gains."""
        rack = self.client.get("/racks/?category=Rope and cordage&colour=navy&stock=in").context["rack"]
        shop = self.client.get("/shop/c/rope-and-cordage/?colour=navy&stock=in", follow=True).context["listing"]
        self.assertEqual((rack.result, rack.total), (shop.total, shop.listing))
        choices = {facet.key: {c.key: c.count for c in facet.choices} for facet in shop.facets}
        material = next(shelf for shelf in rack.shelves if shelf.key == "material")
        self.assertEqual({v.key: v.inside for v in material.vessels if v.inside}, {k: n for k, n in choices["material"].items() if n})
        colour = next(shelf for shelf in rack.shelves if shelf.key == "colour")
        for vessel in colour.vessels:
            if not vessel.picked:
                wider = (
                    self.client.get(f"/shop/c/rope-and-cordage/?colour=navy&stock=in&colour={vessel.key}", follow=True)
                    .context["listing"]
                    .total
                )
                self.assertEqual(vessel.adds, wider - shop.total, vessel.key)

    def test_categories_stand_under_ledges(self):
        """Two levels on the shelf, one in the shop; a pick of the lower one is drawn there too, below its parent."""
        shelf = self.client.get("/racks/?category=Rope and cordage").context["rack"].shelves[0]
        groups = {group.ledge.name: [vessel.name for vessel in group.vessels] for group in shelf.groups}
        self.assertEqual(groups["Mooring"], ["Mooring lines", "Warps"])
        self.assertEqual(set(groups), {"Running rigging", "Mooring", "Small cordage"})
        for group in shelf.groups:
            self.assertEqual(group.ledge.total, self.client.get(f"/shop/?group={group.ledge.key}", follow=True).context["listing"].total)
        facet = self.client.get("/shop/?group=rope-and-cordage-mooring", follow=True).context["listing"].facets[0]
        drawn = [(choice.label, choice.indent) for choice in facet.choices]
        self.assertEqual(drawn[drawn.index(("Mooring", 1)) - 1], ("Rope and cordage", 0))
        self.assertEqual(sum(indent for _, indent in drawn), 1)

    def test_add_one_click_and_undo(self):
        """The proposal becomes a facet of the draft; shoppers see it once it is put live; undo takes it away again."""
        before = keys()
        page = self.client.post("/racks/add/", {"source": "breaking-load", "category": "Rope and cordage", **self.edition()}, follow=True)
        self.assertContains(page, "Added Breaking load.")
        self.assertEqual(keys(), [*before, "breaking-load"])
        self.assertNotContains(self.client.get("/shop/"), "Breaking load")
        self.client.post("/racks/put-live/", self.edition())
        self.assertContains(self.client.get("/shop/c/rope-and-cordage/"), "under 5 kN")
        self.client.post("/racks/undo/", self.edition())
        self.assertEqual(keys(), before)
        self.assertContains(self.client.get("/shop/"), "Breaking load")
        self.client.post("/racks/redo/", self.edition())
        self.assertEqual(keys(), [*before, "breaking-load"])
        again = self.client.post("/racks/add/", {"source": "breaking-load", **self.edition()}, follow=True)
        self.assertContains(again, "on the rack already")

    def test_order_move_and_remove(self):
        """By drag all at once, by buttons one step, and off the rack with a way back."""
        before = keys()
        self.client.post("/racks/order/", {"facet": ["stock", "nothing", "price", "stock"], **self.edition()})
        self.assertEqual(keys(), ["stock", "price", "group", "colour", "material", "diameter", "rating"])
        self.client.post("/racks/facets/price/move/", {"way": "up", **self.edition()})
        self.assertEqual(keys()[:2], ["price", "stock"])
        self.assertContains(self.client.post("/racks/facets/price/remove/", self.edition(), follow=True), "Removed Price.")
        self.assertNotIn("price", keys())
        for _ in range(3):
            self.client.post("/racks/undo/", self.edition())
        self.assertEqual(keys(), before)
        self.assertContains(self.client.post("/racks/undo/", self.edition(), follow=True), "There is nothing to undo.")

    def test_second_of_two_people_is_told(self):
        """A change made from an old page is not done where the same was changed meanwhile, and says what came between."""
        old = self.edition()
        self.client.post("/racks/facets/stock/", self.form("stock", label="In the shed"))
        page = self.client.post("/racks/facets/stock/remove/", old, follow=True)
        self.assertContains(page, "meanwhile Mara made a change, “Stock: called In the shed”")
        self.assertIn("stock", keys())
        self.client.post("/racks/order/", {**old, "facet": keys()[::-1]})  # the rack is as it was seen: another person's facet is no clash
        self.assertEqual(keys()[0], "stock")
        page = self.client.post("/racks/order/", {**old, "facet": keys()[::-1]}, follow=True)
        self.assertContains(page, "meanwhile Mara made a change, “Changed the order of the facets”")
        mine = self.client.post("/racks/facets/stock/", {**self.form("stock", label="On the shelf"), **old})
        self.assertContains(mine, "What you typed is still here", status_code=422)
        self.assertContains(mine, 'value="On the shelf"', status_code=422)

    def test_undo_stays_on_the_page(self):
        """Undo on the page of a facet stays there, unless the facet is gone by it."""
        self.client.post("/racks/facets/stock/", self.form("stock", label="In the shed"))
        page = self.client.post("/racks/undo/", {**self.edition(), "next": "/racks/facets/stock/?category=Safety"})
        self.assertRedirects(page, "/racks/facets/stock/?category=Safety")
        self.client.post("/racks/add/", {"source": "breaking-load", "category": "Rope and cordage", **self.edition()})
        page = self.client.post("/racks/undo/", {**self.edition(), "next": "/racks/facets/breaking-load/"})
        self.assertRedirects(page, "/racks/")

    def test_two_tabs_on_different_facets(self):
        """Neither is refused, both changes are there; undo takes the later one back alone."""
        material, stock = self.form("material", label="Made of"), self.form("stock", label="On the shelf")
        self.client.post("/racks/facets/material/", material)
        self.assertRedirects(self.client.post("/racks/facets/stock/", stock), "/racks/facets/stock/")
        labels = {facet["key"]: facet["label"] for facet in the_setup().draft.document["facets"]}
        self.assertEqual((labels["material"], labels["stock"]), ("Made of", "On the shelf"))
        self.client.post("/racks/undo/", self.edition())
        labels = {facet["key"]: facet["label"] for facet in the_setup().draft.document["facets"]}
        self.assertEqual((labels["material"], labels["stock"]), ("Made of", "Stock"))

    def test_without_the_edition_the_second_would_overwrite(self):
        """The twin of the test above: it is the edition named in the form that protects, nothing else."""
        self.client.post("/racks/facets/stock/", self.form("stock", label="In the shed"))
        self.client.post("/racks/facets/stock/remove/")
        self.assertNotIn("stock", keys())

    def test_settings_are_kept(self):
        """Every setting of the panel reaches the shop."""
        changed = self.form("material", label="Made of", key="made-of", match="all", order="-label", empty="keep", counts="off", open="off")
        self.assertRedirects(self.client.post("/racks/facets/material/", changed), "/racks/facets/made-of/")
        self.look("made-of", limit=3, columns=2, help="Of the cover", search="on", more="more")
        self.client.post("/racks/put-live/", self.edition())
        facet = next(f for f in self.client.get("/shop/c/rope-and-cordage/").context["listing"].facets if f.key == "made-of")
        self.assertEqual((facet.label, facet.counts, facet.open, facet.limit, len(facet.first)), ("Made of", False, False, 3, 3))
        self.assertEqual((facet.style.columns, facet.style.help, facet.has_search), (2, "Of the cover", True))
        labels = [choice.label for choice in facet.choices]
        self.assertEqual(labels, sorted(labels, key=str.lower, reverse=True))
        self.assertIn("Leather", labels)
        self.assertEqual(keys()[3], "made-of")

    def test_saving_without_a_change_makes_no_edition(self):
        """History holds changes only."""
        self.client.post("/racks/facets/price/", self.form("price"))
        self.assertEqual(Edition.objects.count(), 1)

    def test_the_usual_order_is_named(self):
        """A form says in which order the bins stand while none is chosen, and choosing that again takes the choice away."""
        shown = dict(self.client.get("/racks/facets/diameter/").context["form"].fields["order"].choices)
        self.assertEqual((self.form("diameter")["order"], str(shown[""])), ("", "As usual: Low first"))
        self.client.post("/racks/facets/diameter/", self.form("diameter", order="count"))
        self.assertEqual(facet_document(the_setup().draft.document, "diameter")["order"], "count")
        self.client.post("/racks/facets/diameter/", self.form("diameter", order=""))
        self.assertNotIn("order", facet_document(the_setup().draft.document, "diameter"))

    def test_orders_by_hand_and_by_the_dictionary(self):
        """By hand begins as they stand and is changed one by one; as in the dictionary follows the dictionary, and back again."""

        def shown():
            values = self.client.get("/racks/facets/material/").context["page"].values
            return [row.label for row in values.bins]

        before = shown()
        self.client.post("/racks/facets/material/", self.form("material", order="listed"))
        self.assertEqual(shown(), before)
        page = self.client.get("/racks/facets/material/")
        self.assertTrue(page.context["page"].by_hand)
        self.client.post("/racks/facets/material/order/", {"bin": before, "moved": before[2], "way": "up", **self.edition()})
        self.assertEqual(shown()[:3], [before[0], before[2], before[1]])
        self.client.post("/racks/facets/material/order/", {"bin": ["PVC", "Nylon"], **self.edition()})
        self.assertEqual(shown()[:2], ["PVC", "Nylon"])
        self.assertEqual(sorted(shown()), sorted(before))
        row = Attribute.objects.get(identity="material")
        order_values(row, ["Nylon", "HMPE", "PVC"])
        self.assertEqual(shown()[:2], ["PVC", "Nylon"])
        self.client.post("/racks/facets/material/", self.form("material", order="dictionary"))
        self.assertEqual(shown()[:3], ["Nylon", "HMPE", "PVC"])
        self.assertEqual(self.form("material")["order"], "dictionary")
        order_values(row, ["PVC", "HMPE", "Nylon"])
        self.assertEqual(shown()[:3], ["PVC", "HMPE", "Nylon"])
        undo_newest(self)
        self.assertEqual(shown()[:3], ["Nylon", "HMPE", "PVC"])
        self.client.post("/racks/facets/material/", self.form("material", order="label"))
        self.assertEqual(shown(), sorted(before, key=str.lower))

    def test_a_slider_needs_numbers(self):
        """It is not offered for words, nor are orders by size."""

        def fitting(key):
            return {mini.key for mini in self.client.get(f"/racks/facets/{key}/shoppers/").context["page"].minis}

        self.assertNotIn("slider", fitting("material"))
        self.assertNotIn("value", dict(self.client.get("/racks/facets/material/").context["form"].fields["order"].choices))
        self.assertIn("slider", fitting("diameter"))
        self.client.post("/racks/facets/material/shoppers/", {"control": "slider", **self.edition()})
        self.assertNotIn("look", facet_document(the_setup().draft.document, "material"))

    def test_one_palette(self):
        """A value has one colour everywhere: that of the dictionary, else that of its words; a facet's own is for bins that are no values."""
        row = Attribute.objects.get(identity="colour")

        def seen():
            sheet = self.client.get("/catalogue/?category=Rope and cordage&q=SC-1007").context["sheet"]
            rack = self.client.get("/racks/?shelf.open=colour").context["rack"]
            vessels = next(shelf for shelf in rack.shelves if shelf.key == "colour").vessels
            shop = next(facet for facet in self.client.get("/shop/").context["listing"].facets if facet.key == "colour")
            colours = {vessel.name: vessel.swatch.colours for vessel in vessels}
            return (
                sheet._swatch(sheet.entries["attribute:colour"], "Red").colours,
                colours["Red"],
                {c.label: c.swatch.colours for c in shop.choices}["Red"],
            )

        self.assertEqual(set(seen()), {("#b3262b",)})
        describe_value(row, "Red", colours=["#aa0011"])
        self.assertEqual(set(seen()), {("#aa0011",)})

    def test_numbers_are_read_alike(self):
        """Cuts and ends of ranges take what cells and files take."""
        for typed, cuts in (
            (["£5", "£12.50"], ["5", "25/2"]),
            (["1,5", "3"], ["3/2", "3"]),
            (["3,5"], ["7/2"]),
            (["1,250", "300"], ["300", "1250"]),
        ):
            self.act("price", "cuts", cut=typed)
            self.assertEqual(list(map(str, facet_document(the_setup().draft.document, "price")["cuts"])), cuts, typed)
        for address in ("/racks/", "/shop/"):
            plain, typed = (
                self.client.get(address, {"price.from": low, "price.to": high}, follow=True).context
                for low, high in (("3.5", "20"), ("3,5", "£20"))
            )
            name = "rack" if address == "/racks/" else "listing"
            found = [getattr(context[name], "result" if name == "rack" else "total") for context in (plain, typed)]
            self.assertEqual(found[0], found[1])
            self.assertLess(found[0], 1170)

    def test_cuts_are_typed(self):
        """Cuts are sorted, kept exactly, and refused with a reason where they are no numbers."""
        self.act("diameter", "cuts", cut=["16", "4.5", "10", ""])
        self.assertEqual(list(map(str, facet_document(the_setup().draft.document, "diameter")["cuts"])), ["9/2", "10", "16"])
        self.assertContains(self.act("diameter", "cuts", cut=["5", "thick"]), "“thick” is no number. Write one such as 10 or 2.5.")
        self.assertEqual(the_setup().draft.summary, "Diameter: cut at 4.5 mm, 10 mm, 16 mm")

    def test_mistakes_are_named_beside_their_field(self):
        """Nothing typed is lost."""
        cases = [({"label": " "}, "This field is required."), ({"key": "Big key"}, "Begin with a small letter"), ({"key": "sort"}, "Is a word that addresses use"),
                 ({"key": "price"}, "Is used twice"), ({"match": "none"}, "Select a valid choice")]  # fmt: skip
        for changed, words in cases:
            with self.subTest(words):
                page = self.client.post("/racks/facets/stock/", self.form("stock", **changed))
                self.assertContains(page, words, status_code=422)
        self.assertEqual(Edition.objects.count(), 1)

    def test_slider_and_back(self):
        """Drawn as a slider a facet of numbers is free; drawn otherwise its bins come back."""
        self.client.post("/racks/facets/price/shoppers/", {"control": "checkboxes", **self.edition()})
        self.assertNotIn("free", facet_document(the_setup().draft.document, "price"))
        self.client.post("/racks/facets/price/shoppers/", {"control": "slider", **self.edition()})
        self.assertTrue(facet_document(the_setup().draft.document, "price")["free"])

    def test_unbinned_products_are_listed(self):
        """The page names exactly the products that no bin takes."""
        page = self.client.get("/racks/facets/diameter/unbinned/?category=Rope and cordage").context["page"]
        shelf = next(s for s in self.client.get("/racks/?category=Rope and cordage").context["rack"].shelves if s.key == "diameter")
        self.assertEqual((page.total, len(page.products)), (shelf.unbinned, shelf.unbinned))

    def test_jump(self):
        """Letters lead to facets first, then to all else that begins with them."""
        targets = self.client.get("/racks/jump/?find=col").context["targets"]
        self.assertEqual((targets[0].sort, targets[0].address), ("facet", "/racks/facets/colour/"))
        self.assertContains(self.client.get("/racks/jump/?find=zzzz"), "Nothing has these letters")

    def test_find_a_source_by_its_values(self):
        """A value leads to the source that has it."""
        page = self.client.get("/racks/add/?find=samphire").context["page"]
        self.assertEqual([source.key for source in page.sources], ["brand"])
        self.assertContains(self.client.get("/racks/add/?find=zzzz"), "No source has that in its name or its values")

    def test_empty_rack_offers_the_next_step(self):
        """With every facet taken off, the rack says what it is for."""
        for key in list(keys()):
            self.client.post(f"/racks/facets/{key}/remove/", self.edition())
        self.assertContains(self.client.get("/racks/"), "This rack has no facets yet")
        self.client.post("/racks/put-live/", self.edition())
        self.assertContains(self.client.get("/shop/"), "Nothing to narrow by here.")
