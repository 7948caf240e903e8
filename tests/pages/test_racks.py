"""Several racks: made, copied, shared, moved, deleted; where they show; how they behave; what a facet waits for."""

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.catalog.models import Category
from binsort.changes import categories, rules
from binsort.changes import facets as facet_changes
from binsort.changes import live as live_changes
from binsort.changes import racks as rack_changes
from binsort.changes.undo import undo_last
from binsort.core.facets.behaviour import Behaviour, Sort
from binsort.core.facets.place_edits import said_of_listing
from binsort.core.facets.rule_edits import Line
from binsort.demo.loader import load_demo
from binsort.racks.setup import rack_document, the_setup


def draft():
    """Return the draft."""
    return the_setup().draft.document


def rope(below=""):
    """Return how a rule names the demo's ropes."""
    return said_of_listing("category", "Rope and cordage" + below)


class RackCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop and its owner."""
        load_demo()
        cls.owner = get_user_model().objects.get()

    def setUp(self):
        """Sign in."""
        self.client.force_login(self.owner)

    def shop(self, address="/shop/", query=""):
        """Return a listing of the shop."""
        return self.client.get(address + query, follow=True).context["listing"]

    def put_live(self):
        """Let shoppers see the draft."""
        live_changes.put_live()

    def post(self, name, **fields):
        """Send a form of the tool that goes back to the rack."""
        return self.client.post(name, {"edition": the_setup().draft_id, "next": "/racks/", **fields}, follow=True)


class ManyRacksTests(RackCase):
    def test_shared_copied_moved_and_deleted(self):
        """A shared facet changes on both racks, a copy on its own; deleting a rack takes what no other has; undo brings all back."""
        self.post("/racks/all/", label="Quick row")
        self.post("/racks/facets/stock/put/", rack="quick-row", how="share")
        self.post("/racks/facets/colour/put/", rack="quick-row", how="copy")
        self.post("/racks/facets/rating/put/", rack="quick-row", how="move", **{"from": "side"})
        self.assertEqual(rack_document(draft(), "quick-row")["facets"], ["stock", "colour-2", "rating"])
        self.assertNotIn("rating", rack_document(draft(), "side")["facets"])
        page = self.client.get("/racks/of/quick-row/?colour-2=navy")
        self.assertEqual([shelf.label for shelf in page.context["rack"].shelves], ["Stock", "Colour", "Rating"])
        self.assertContains(page, "Quick row")
        told = self.client.get("/racks/of/quick-row/delete/")
        self.assertContains(told, "2 facets are on no other rack and go with it: Colour, Rating.")
        before = the_setup().draft_id
        self.post("/racks/of/quick-row/delete/")
        self.assertEqual([rack["key"] for rack in draft()["racks"]], ["side"])
        self.assertFalse({"colour-2", "rating"} & {facet["key"] for facet in draft()["facets"]})
        facet_changes.undo()
        self.assertEqual(the_setup().draft_id, before)

    def test_copies_keep_to_themselves(self):
        """A rack copied with copies of its facets has rules among the copies; its own name, and the first keeps all as it was."""
        rules.set_rule("colour", [Line("material")], every=True, actor=None)
        first = rack_document(draft(), "side")["facets"]
        rack_changes.copy_rack("side", "Deck rack", own_facets=True, actor=None)
        second = rack_document(draft(), "deck-rack")["facets"]
        self.assertFalse(set(first) & set(second))
        facets = {facet["key"]: facet for facet in draft()["facets"]}
        self.assertEqual(facets["colour-2"]["show_when"], {"all": [{"facet": "material-2", "picked": True}]})
        self.assertEqual(facets["colour"]["show_when"], {"all": [{"facet": "material", "picked": True}]})

    def test_what_is_refused_is_said(self):
        """A name that is empty, the only rack, a facet that is there already, a rack that is gone: nothing changes, in words."""
        before = the_setup().draft_id
        self.assertContains(self.post("/racks/all/", label=" "), "A rack needs a name.")
        self.assertContains(self.post("/racks/of/side/delete/"), "It is the only rack.")
        self.assertContains(self.post("/racks/facets/stock/put/", rack="side", how="share"), "Stock is on Side rack already.")
        self.assertContains(self.post("/racks/of/gone/rename/", label="x"), "that rack is not there any more")
        self.assertEqual(the_setup().draft_id, before)

    def test_a_rack_draws_a_shared_facet_its_own_way(self):
        """Changed on that rack, the other stays; drawn as elsewhere again, both are alike. A heading stands on its rack alone."""
        self.post("/racks/all/", label="Quick row")
        self.post("/racks/facets/material/put/", rack="quick-row", how="share")
        address = "/racks/facets/material/shoppers/?rack=quick-row"
        self.post(address, own="yes")
        self.post(address, control="dropdown")
        self.post("/racks/facets/material/heading/", rack="quick-row", heading="Made of")
        row, side = (self.client.get(f"/racks/of/{key}/").context["rack"] for key in ("quick-row", "side"))
        drawn = {rack.key: next(one.control.key for one in rack.preview if one.key == "material") for rack in (row, side)}
        self.assertEqual(drawn["quick-row"], "dropdown")
        self.assertNotEqual(drawn["side"], "dropdown")
        self.assertEqual((row.headings, side.headings), ({"material": "Made of"}, {}))
        self.post(address, own="no")
        self.assertNotIn("looks", rack_document(draft(), "quick-row")["place"])


class PlacesTests(RackCase):
    def setUp(self):
        """A row above every listing; the ropes have a rack of their own."""
        super().setUp()
        rack_changes.make_rack("Quick row", actor=None)
        rack_changes.make_rack("Rope rack", actor=None)
        rack_changes.put_on_rack("stock", "quick-row", moved_from="side", actor=None)
        for key in ("colour", "diameter"):
            rack_changes.put_on_rack(key, "rope-rack", actor=None)
        rack_changes.place_rack(said_of_listing("all"), "above", "quick-row", actor=None)
        rack_changes.place_rack(rope(), "side", "rope-rack", actor=None)
        rack_changes.place_rack(rope(" > Mooring"), "side", "nothing", below=False, actor=None)
        self.put_live()

    def facets(self, listing):
        """Return the keys at each place of a listing."""
        return [[placed.facet.key for placed in part] for part in (listing.above, listing.side, listing.below)]

    def test_each_listing_has_its_racks(self):
        """The nearest rule wins, on the page as in the table; facets that are not on the listing cannot be picked there."""
        self.assertEqual(self.facets(self.shop("/shop/c/rope-and-cordage/")), [["stock"], ["colour", "diameter"], []])
        self.assertEqual(self.facets(self.shop("/shop/c/rope-and-cordage/mooring/")), [["stock"], [], []])
        self.assertIn("price", self.facets(self.shop())[1])
        tried = self.shop("/shop/c/rope-and-cordage/", "?price=under-10&stock=in&colour=navy")
        self.assertEqual({pill.label for pill in tried.pills}, {"Stock", "Colour"})
        self.assertEqual(tried.total, self.shop("/shop/", "?category=Rope+and+cordage&stock=in&colour=navy").total)
        page = self.client.get("/listings/?at=rope and cordage > mooring > warps&where=side").context["page"]
        self.assertEqual(page.inherits, "Rope rack")
        self.assertEqual([reason.label for reason in page.reasons], ["Quick row", "Rope rack", "nothing", "as at the side"])

    def test_what_would_change_is_said_and_then_done(self):
        """Listings and products are counted before; setting it does that; the page tells who still sees what."""
        asked = {"at": "rope and cordage", "where": "side", "choice": "own", "rack": "quick-row"}
        effect = self.client.get("/listings/", asked).context["page"].effect
        below = Category.objects.filter(path_identity__startswith="rope and cordage > ").count()
        self.assertEqual(effect.listings, below)  # the category and all below it but Mooring, which has nothing of its own
        self.assertEqual((effect.comes, effect.goes), (("Stock",), ("Colour", "Diameter")))
        done = self.post("/listings/", **asked, below="1")
        self.assertContains(done, "Rope and cordage, at the side: Quick row")
        reasons = self.client.get("/listings/", {"at": asked["at"]}).context["page"].reasons
        self.assertEqual((reasons[1].label, reasons[1].now), ("Quick row", "Rope rack"))
        self.assertEqual(self.facets(self.shop("/shop/c/rope-and-cordage/"))[1], ["colour", "diameter"])

    def test_a_category_gets_another_name(self):
        """Racks stay where they are, draft and live; taking the name back takes them back; deleting names them."""
        row = Category.objects.get(path_identity="rope and cordage")
        categories.rename(row.pk, "Cordage", seen=row.name, actor=None)
        self.assertEqual(self.facets(self.shop("/shop/c/rope-and-cordage/"))[1], ["colour", "diameter"])
        self.assertContains(self.client.get(f"/catalogue/categories/{row.pk}/delete/"), "Rope rack")
        undo_last(actor=None)
        self.assertEqual(draft(), the_setup().live.document)
        self.assertEqual(draft()["racks"][2]["place"]["shows"][0]["category"], "Rope and cordage")

    def test_a_drawer_of_its_own(self):
        """What only a phone has and what only a wide page has is marked; each stands there once."""
        rack_changes.place_rack(rope(), "drawer", "side", actor=None)
        self.put_live()
        listing = self.shop("/shop/c/rope-and-cordage/")
        where = {placed.facet.key: placed.where for placed in listing.side}
        self.assertEqual((where["colour"], where["price"]), ("", "phone"))
        self.assertNotIn("stock", where)


class BehaviourTests(RackCase):
    def behave(self, **how):
        """Let the rack behave otherwise, live."""
        rack_changes.set_behaviour("side", Behaviour(**how), actor=None)
        self.put_live()

    def test_sorts(self):
        """The first choice is where shoppers start; a number of an attribute sorts as its numbers do, those without one last."""
        self.behave(sorts=(Sort("-price", label="Dearest"), Sort("name"), Sort("attribute", "Diameter", True, "Thickest")))
        listing = self.shop("/shop/c/rope-and-cordage/", "?per=100")
        self.assertEqual([words for _key, words in listing.sorts], ["Dearest", "Name, A to Z", "Thickest"])
        self.assertEqual(listing.sort, "-price")
        other = self.shop("/shop/c/rope-and-cordage/", "?sort=-attribute.diameter&per=100")
        names = [card.name for card in other.cards]
        sizes = [int(name.partition(" mm")[0].rpartition(" ")[2]) for name in names if " mm" in name]
        self.assertEqual(sizes, sorted(sizes, reverse=True))
        self.assertGreater(len(set(sizes)), 3)
        self.assertEqual(self.shop("/shop/", "?sort=newest").sort, "-price")  # not offered

    def test_around_the_products(self):
        """Products a page, pages, the count, words of the shop, where results show: all as set, without scripts too."""
        self.behave(
            per=10, rest="pages", count="none", clear="Start again", nothing="Nothing like that", ways=("picks",), results="Lighting"
        )
        page = self.client.get("/shop/?colour=navy", follow=True)
        self.assertEqual((len(page.context["listing"].cards), page.context["listing"].action), (10, "/shop/c/lighting/"))
        self.assertContains(page, "Start again")
        self.assertNotContains(page, 'hx-target="#more"')
        self.assertContains(page, "data-elsewhere")
        empty = self.client.get("/shop/?colour=clear&group=rope-and-cordage", follow=True)
        self.assertContains(empty, "Nothing like that")
        self.assertNotContains(empty, "see 1,170 products")

    def test_the_page(self):
        """Each setting is kept as it is changed, what would stand first is told, a wrong number is said beside its field."""
        page = self.client.get("/racks/of/side/behaves/?category=Rope and cordage")
        self.assertRegex(page.context["page"].sorts[1].first, r"^£\d")
        form = {"after": "scroll", "results": "here", "picks": "both", "applies": "button", "applies_on_phones": "once", "count": "of",
                "per": "30", "rest": "all", "ways": ["picks"], "sort": ["price", "name"], "label.price": "Cheap first"}  # fmt: skip
        self.post("/racks/of/side/behaves/", **form)
        kept = Behaviour.of(rack_document(draft(), "side"))
        self.assertEqual((kept.after, kept.per, kept.sorts), ("scroll", 30, (Sort("price", label="Cheap first"), Sort("name"))))
        wrong = self.client.post("/racks/of/side/behaves/", {**form, "per": "0"})
        self.assertContains(wrong, "Write a number from 1 to 100.", status_code=422)


class RuleTests(RackCase):
    def test_a_rule_in_words_and_tried_in_place(self):
        """A line is added, made to wait for particular bins by clicking them, and holds once they are picked."""
        self.post("/racks/facets/colour/when/", lines="0", add="1", every="any")
        lines = self.client.get("/racks/?show.when=colour").context["rack"].card.lines
        self.assertEqual([(line.label, line.how) for line in lines], [("Price", "picked")])  # the one above it
        self.post("/racks/facets/colour/when/", lines="1", facet_0="material", how_0="picked", every="any")
        self.post("/racks/facets/colour/when/", bin="material:nylon")
        words = {shelf.key: shelf.rule for shelf in self.client.get("/racks/").context["rack"].shelves}
        self.assertEqual(words["colour"], "once Nylon is picked")
        bare, tried = (self.client.get(f"/racks/?show.when=-{query}").context["rack"] for query in ("", "&material=nylon"))
        self.assertEqual([(shown, all) for _words, shown, all in tried.counted], [(6, 7), (7, 7)])
        self.assertEqual([tie.holds for tie in (*bare.ties, *tried.ties)], [False, True])

    def test_a_circle_is_refused_with_its_ways_out(self):
        """It is drawn and named, nothing is kept; untying another facet keeps what was asked for."""
        rules.set_rule("diameter", [Line("colour")], every=True, actor=None)
        before = the_setup().draft_id
        asked = {"lines": "1", "facet_0": "diameter", "how_0": "picked", "every": "any"}
        page = self.post("/racks/facets/colour/when/", **asked)
        self.assertEqual((page.status_code, the_setup().draft_id), (422, before))
        circle = page.context["rack"].card.circle
        self.assertEqual((circle.labels, circle.ways), (("Colour", "Diameter", "Colour"), (("diameter:colour", "Diameter"),)))
        self.post("/racks/facets/colour/when/", **asked, untie="diameter:colour")
        facets = {facet["key"]: facet.get("show_when") for facet in draft()["facets"]}
        self.assertEqual((facets["colour"], facets["diameter"]), ({"any": [{"facet": "diameter", "picked": True}]}, None))

    def test_sub_categories_after_a_category(self):
        """One click adds the facet behind the first; it shows what is below the pick, and nothing before one is made."""
        self.post("/racks/facets/group/when/", split="1")
        self.put_live()
        keys = rack_document(draft(), "side")["facets"]
        new = keys[keys.index("group") + 1]
        self.assertNotIn(new, [facet.key for facet in self.shop().facets])
        below = next(facet for facet in self.shop(query="?group=lighting").facets if facet.key == new)
        self.assertTrue(below.choices)
        self.assertTrue(all(choice.key.startswith("lighting-") for choice in below.choices))
