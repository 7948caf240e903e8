"""Set is got: what an owner sets and puts live is what shoppers get, and what was told beforehand."""

import json
import re
from datetime import date, timedelta
from io import BytesIO

from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image

from binsort.catalog.models import Attribute, Product
from binsort.catalog.store.category_paths import category_identities
from binsort.changes import facets as facet_changes
from binsort.changes import racks as rack_changes
from binsort.changes.embeds import add_embed
from binsort.changes.undo import undo_last
from binsort.core.facets.former_forms import upgraded
from binsort.core.facets.places import Listing, plan
from binsort.core.facets.spec import Source
from binsort.core.index.catalogue_index import CATEGORY
from binsort.core.index.tags import tag_by_slug, tagged, tags_of
from binsort.core.insight.proposals import grouped_tags, proposals
from binsort.core.values.colours import contrast
from binsort.racks.models import ShopFace
from binsort.racks.number_words import words_of
from binsort.racks.setup import facet_document, the_setup
from binsort.racks.theme import Theme
from binsort.tally.current import current

from .test_racks import RackCase, draft

ROPE = "/shop/c/rope-and-cordage/"


class SetCase(RackCase):
    def change(self, key, **parts):
        """Change parts of a facet; None takes one out."""
        document = {**facet_document(draft(), key), **parts}
        facet_changes.change_facet(key, {name: part for name, part in document.items() if part is not None}, actor=None)
        self.go_live()

    def look(self, key, **look):
        """Set parts of how a facet looks, through its page, as its form sends them."""
        page = self.client.get(f"/racks/facets/{key}/shoppers/")
        sent = {name: value for name, value in page.context["form"].initial.items() if value is not None}
        return self.post(f"/racks/facets/{key}/shoppers/", **{**sent, "look": "1", **look})

    def settle(self, **settings):
        """Set how the side rack behaves, through its page."""
        page = self.client.get("/racks/of/side/behaves/")
        sent = {name: value for name, value in page.context["form"].initial.items() if value is not None}
        self.assertLess(self.post("/racks/of/side/behaves/", **{**sent, "results": "here", **settings}).status_code, 400)
        self.go_live()

    def go_live(self):
        """Put the draft live."""
        self.client.post("/racks/put-live/", {"edition": the_setup().draft_id})

    def drawn(self, key, address="/shop/"):
        """Return a facet as shoppers get it."""
        return next(facet for facet in self.client.get(address, follow=True).context["listing"].facets if facet.key == key)


class CategoryFacetTests(SetCase):
    def test_levels(self):
        """So many levels are drawn as are set, in every control that lists; a tree that opens draws all; the bench counts what is drawn."""
        top = {choice.label for choice in self.drawn("group").choices}
        self.assertEqual(len(top), 8)
        self.look("group", levels="2")
        self.go_live()
        two = self.drawn("group").choices
        self.assertEqual({choice.indent for choice in two}, {0, 1})
        bench = self.client.get("/racks/facets/group/")
        self.assertEqual((bench.context["page"].values.drawn_count, bench.context["page"].values.bin_count), (len(two), 48))
        self.look("group", levels="0")
        self.go_live()
        every = self.drawn("group").choices
        self.assertEqual((len(every), max(choice.indent for choice in every)), (48, 2))
        for control in ("buttons", "dropdown", "many", "swatches", "pictures", "search", "radio"):
            self.post("/racks/facets/group/shoppers/", control=control)
            self.go_live()
            facet = self.drawn("group")
            self.assertEqual((facet.control.key, len(facet.choices)), (control, 48))
            self.assertEqual(max(choice.indent for choice in facet.choices), 2 if control == "radio" else 0)
        self.look("group", levels="1")
        for control in ("tree", "drilled"):
            self.post("/racks/facets/group/shoppers/", control=control)
            self.go_live()
            self.assertEqual(len(self.drawn("group").choices), 48)

    def test_only_these_stand_beside_each_other(self):
        """Five sub-categories chosen one by one are five choices, none set in."""
        names = ["Mooring lines", "Warps", "D shackles", "Bow shackles", "Blocks"]
        paths = [path for path in (" > ".join(value.path) for value in self.paths()) if path.rpartition(" > ")[2] in names]
        self.change("group", bins={"only": paths}, look=None)
        self.assertEqual({(choice.label, choice.indent) for choice in self.drawn("group").choices}, {(name, 0) for name in names})

    def paths(self):
        """Return the categories."""
        return current().index.column(CATEGORY).values

    def test_below_one_and_back(self):
        """*Below one* takes the category in view, offers others, and going to *Top only* and back keeps the depth."""
        form = dict(self.client.get("/racks/facets/group/").context["form"].initial)
        sent = {name: value for name, value in form.items() if value is not None and name not in ("under", "deep")}
        self.post("/racks/facets/group/?category=Rope and cordage", **{**sent, "scope": "under"})
        group = facet_document(draft(), "group")
        self.assertEqual((group["under"], group["deep"]), ("Rope and cordage", True))
        self.assertIn("under", self.client.get("/racks/facets/group/").context["form"].fields)
        for scope in ("listing", "top", "listing"):
            self.post("/racks/facets/group/", **{**sent, "scope": scope, **({"deep": "off"} if scope == "listing" else {})})
        self.assertNotIn("deep", facet_document(draft(), "group"))

    def test_orders(self):
        """Fewest first, by the tree of the catalogue, backwards, by hand."""
        self.change("group", order="-count", scope="top", under=None, deep=None)
        counts = [choice.count for choice in self.drawn("group").choices]
        self.assertEqual(counts, sorted(counts))
        self.change("group", order="tree")
        tree = [department.name for department in self.client.get("/shop/").context["departments"]()]
        self.assertEqual([choice.label for choice in self.drawn("group").choices], tree)
        self.change("group", order="listed", bins={"order": [tree[3], tree[1]]})
        self.assertEqual([choice.label for choice in self.drawn("group").choices][:2], [tree[3], tree[1]])

    def test_sub_categories_get_a_name(self):
        """The facet of the categories below another is called what people would call it, and shows on a department's own listing."""
        self.post("/racks/facets/group/when/", split="1")
        facet = draft()["facets"][-1]
        self.assertEqual(facet["label"], "Kind")
        self.go_live()
        self.assertNotIn("kind", [one.key for one in self.client.get("/shop/").context["listing"].facets])
        self.assertIn("Mooring", [choice.label for choice in self.drawn("kind", ROPE).choices])


class NumberTests(SetCase):
    def test_a_slider_from_0_to_150_in_steps_of_10(self):
        """Scale, boxes and keys have the ends that are set; what lies beyond is met at an open end; marks are those that are named."""
        self.look("price", least="0", most="150", step="10", marks="set", marks_at="0, 50 = half way, 150", ranges="on")
        self.assertEqual(facet_document(draft(), "price")["ends_at"], {"low": 0, "high": 150})
        self.go_live()
        facet = self.drawn("price")
        self.assertEqual((facet.range.low, facet.range.high, facet.range.step), ("0", "150", "10"))
        anchors = json.loads(facet.range.anchors)
        self.assertEqual((anchors[0][1], anchors[-1][1]), (0, 150))
        self.assertEqual([text for text, _left in facet.range.marks], ["0", "half way", "150"])
        self.assertTrue(facet.lists_bins)
        dear = self.client.get("/shop/?price.from=100&price.to=", follow=True).context["listing"].total
        self.assertEqual(dear, self.client.get("/shop/?price=ge-100", follow=True).context["listing"].total)
        self.assertContains(self.look("price", least="9", most="5"), "Ends before it begins", status_code=422)

    def test_a_look_of_before_keeps_its_ends(self):
        """A facet file that has ends in a look comes in with ends that hold."""
        document = upgraded({"facets": [{"key": "a", "free": True, "look": {"ends": {"least": 0}, "step": 5}}]})
        self.assertEqual(document["facets"][0], {"key": "a", "free": True, "look": {"step": 5}, "ends_at": {"low": 0}})

    def test_signs(self):
        """Sign, decimals, decimal sign and thousands are alike in boxes, bins and chips; money has its sign by itself."""
        self.look("price", before="$", decimals="2", grouped="\u00a0", point=",", chip="Costs")
        self.go_live()
        page = self.client.get("/shop/?price.from=20.5&price.to=1000", follow=True)
        self.assertContains(page, "Costs $20,50 to $1\u00a0000,00")
        facet = next(one for one in page.context["listing"].facets if one.key == "price")
        self.assertEqual((facet.range.prefix, facet.range.start, facet.range.signs), ("$", "20,50", "2|,|\u00a0"))
        found = type("F", (), {"spec": type("S", (), {"source": Source("price")})})
        self.assertEqual(words_of(found, "", "", {}).range(None, 20, inclusive=False), "under £20")

    def test_counts_and_a_choice_for_all(self):
        """Counts once something is picked; a choice that takes the picks of its facet away, in own words."""
        self.look("material", counts="picked", all="Any stuff")
        self.go_live()
        bare, picked = self.drawn("material"), self.drawn("material", "/shop/?colour=navy")
        self.assertEqual((bare.counts, picked.counts), (False, True))
        self.assertContains(self.client.get("/shop/"), "Any stuff")

    def test_ratings_in_another_shape(self):
        """Shape and colour of ratings are drawn in the shop, in the small drawing, and by each range's own number."""
        self.look("rating", shape="dot", shape_colour="#b83a13")
        self.go_live()
        shop = self.client.get("/shop/").content.decode()
        self.assertIn('color="#b83a13"', shop)
        drawn = re.findall(r'aria-label="([\d.]+) of 5 stars" color="#b83a13"', shop)
        self.assertEqual(drawn, ["4.5", "4", "3"])
        small = self.client.get("/racks/facets/rating/shoppers/").content.decode().split('id="control-stars"')[1].split("</button>")[0]
        self.assertEqual(re.findall(r'aria-label="([\d.]+) of 5', small), ["4.5", "4", "3", "0"])

    def test_swatches_of_many_colours(self):
        """As many colours as are named, cut as stripes with a line, large, the label on hover: seen in the shop."""
        self.act("colour", "colour", bin="Navy", way="colours", count="5", colour=["#111111", "#222222", "#333333", "#444444", "#555555"])
        self.look("colour", cut="stripes", line="on", size="large", label="hover")
        self.go_live()
        facet = self.drawn("colour")
        navy = next(choice for choice in facet.choices if choice.label == "Navy")
        self.assertEqual((len(navy.swatch.colours), navy.swatch.cut, navy.swatch.line), (5, "stripes", True))
        self.assertEqual(facet.choices_class, "swatches label-hover size-large")
        self.assertEqual(self.look("colour", cut="corner", line="off", size="usual", label="right").status_code, 200)
        self.assertNotIn("swatch", {*facet_document(draft(), "colour")["look"]} - {"swatches"})

    def test_a_picture_from_a_file(self):
        """A picture given as a file is read, written anew without what hides in it, shown in the shop; what is none is refused."""
        self.post("/racks/facets/group/shoppers/", control="pictures")
        page = self.client.get("/racks/facets/group/").content.decode()
        self.assertIn("A picture from a file", page)
        hidden = Image.new("RGB", (900, 300), "#b3262b")
        exif = hidden.getexif()
        exif[0x010E] = "where it was taken"
        file = BytesIO()
        hidden.save(file, "JPEG", exif=exif)
        named = SimpleUploadedFile("flag.jpg", file.getvalue(), "image/jpeg")
        self.act("group", "colour", bin="Safety", way="file", file=named)
        self.go_live()
        image = next(choice.image for choice in self.drawn("group").choices if choice.label == "Safety")
        answer = self.client.get(image)
        with Image.open(BytesIO(answer.content)) as got:
            self.assertEqual((got.format, got.size, dict(got.getexif())), ("WEBP", (480, 160), {}))
        self.assertIn("immutable", answer["Cache-Control"])
        for data in (b"<svg onload=alert(1)>", file.getvalue()[:60], b""):
            before = draft()
            page = self.act("group", "colour", bin="Safety", way="file", file=SimpleUploadedFile("x.png", data, "image/png"))
            self.assertEqual(draft(), before)
            self.assertIn("no picture that can be read" if data else "", page.content.decode())

    def act(self, key, act, **sent):
        """Do something on a bench, as its script sends it."""
        return self.client.post(f"/racks/facets/{key}/act/", {"act": act, "edition": the_setup().draft_id, **sent}, follow=True)

    def test_a_scroll_is_as_high_as_it_is_set(self):
        """*So many are 3* makes a list that scrolls three rows high."""
        self.look("material", more="scroll", limit="3")
        self.go_live()
        self.assertTrue(self.drawn("material").scrolls)
        self.assertEqual(self.drawn("material").scroll_height, 3 * 26 + 13)


class PageTests(SetCase):
    def test_places_of_the_page(self):
        """A title, the right side, a button in place of the side, no choice of order, own words: all as set."""
        self.settle(title="Find your line", side="right", width="narrow", sorting="hidden", more="And then", picture="large")
        page = self.client.get("/shop/")
        self.assertContains(page, "Find your line")
        self.assertContains(page, 'class="page side-right side-narrow"')
        self.assertNotContains(page, 'id="sort"')
        self.assertContains(page, "<b>And then</b>", html=True)
        self.settle(wide="sheet", opener="Narrow it", applies="button", apply="Have a look")
        page = self.client.get("/shop/")
        self.assertContains(page, 'data-wide="sheet"')
        self.assertContains(page, 'id="wide-opener"')
        self.assertContains(page, "Narrow it")
        self.assertContains(page, "Have a look")
        told = self.client.get("/shop/?colour=navy", headers={"X-Only": "total"}).json()
        self.assertEqual(told["words"], f"Have a look ({told['total']:,})")  # own words stay, with the number

    def test_a_facet_by_itself(self):
        """One facet of the side stands above the products, another below; they follow a new key, and go back where their rack stands."""
        for key, where in (("colour", "above"), ("material", "below")):
            self.post(f"/racks/facets/{key}/apart/", rack="side", where=where)
        self.go_live()
        listing = self.client.get("/shop/").context["listing"]
        self.assertEqual([[placed.facet.key for placed in row] for row in (listing.above, listing.below)], [["colour"], ["material"]])
        self.assertFalse({"colour", "material"} & {placed.facet.key for placed in listing.side})
        facet_changes.change_facet("colour", {**facet_document(draft(), "colour"), "key": "tint"}, actor=None)
        self.go_live()
        self.assertEqual([placed.facet.key for placed in self.client.get("/shop/").context["listing"].above], ["tint"])
        self.assertIn("above the products", self.client.get("/racks/facets/tint/").content.decode())
        self.post("/racks/facets/tint/apart/", rack="side", where="")
        self.go_live()
        self.assertEqual(self.client.get("/shop/").context["listing"].above, ())
        self.post("/racks/facets/tint/apart/", rack="side", where="roof")
        self.assertNotIn("roof", str(draft()))

    def test_the_button_says_what_it_shows(self):
        """Picks that were not sent yet are counted for the words of the button, exactly."""
        self.settle(applies="button")
        told = self.client.get("/shop/?colour=navy&material=nylon", headers={"X-Only": "total"}).json()
        self.assertEqual(told["total"], self.client.get("/shop/?colour=navy&material=nylon", follow=True).context["listing"].total)
        self.assertEqual(told["words"], f"Show {told['total']} products")

    def test_results_elsewhere_take_the_category_along(self):
        """The page's own category goes along as a pick, unless the owner lets it stay behind."""
        self.settle(results="all")
        listing = self.client.get(ROPE).context["listing"]
        self.assertEqual((listing.action, listing.carried), ("/shop/", (("group", "rope-and-cordage"),)))
        self.assertContains(self.client.get(ROPE), "data-carried")
        self.settle(results="all", carried="no")
        self.assertEqual(self.client.get(ROPE).context["listing"].carried, ())

    def test_cards(self):
        """What stands on a card, and where it leads, is as set."""
        self.settle(facts=["stock"], opens="tab")
        page = self.client.get("/shop/").content.decode().split('id="cards"')[1]
        self.assertNotIn("card-brand", page)
        self.assertNotIn("card-rating", page)
        self.assertIn('class="stock', page)
        self.assertIn('target="_blank"', page)

    def test_what_listings_foretells_comes(self):
        """For a place and a choice: the number of listings and what comes is what shoppers get afterwards."""
        for where, choice in (("drawer", "nothing"), ("above", "own"), ("side", "nothing"), ("drawer", "own"), ("above", "nothing")):
            with self.subTest(where=where, choice=choice):
                before = self.shown_everywhere()
                address = f"/listings/?at=all&where={where}&choice={choice}&rack=side"
                effect = self.client.get(address).context["page"].effect
                self.post("/listings/", at="all", where=where, choice=choice, rack="side", below="1")
                after = self.shown_everywhere()
                self.assertEqual(effect.listings, sum(before[key] != after[key] for key in before) + self.of_search(effect))
                self.assertEqual(effect.after, len(after[None][where]))
        self.go_live()
        page = self.client.get("/shop/")
        self.assertContains(page, 'id="wide-opener"')  # a rack in the drawer alone opens on a desktop, too
        self.assertNotContains(page, "Nothing to narrow by here")

    def shown_everywhere(self):
        """Return what the draft shows on each listing of the tree, by place."""
        return {path: plan(draft(), Listing.of(path)).facets for path in (None, *category_identities())}

    def of_search(self, effect):
        """Listings found by text follow all products; they are told as one more where anything changes."""
        return 1 if effect.listings else 0

    def test_the_face_of_a_shop(self):
        """Its name, search text and foot are those it was given; with none nothing of the demo is there, and nothing of delivery."""
        self.assertContains(self.client.get("/shop/"), "Saltmarsh Chandlery")
        ShopFace.objects.all().delete()
        page = self.client.get("/shop/")
        self.assertNotContains(page, "Saltmarsh")
        self.assertNotContains(page, "chandlery")
        self.assertContains(page, "<title>All products · The shop</title>", html=True)
        self.assertRedirects(
            self.client.post("/shop-face/", {"name": "Gull Hythe", "search": "Find", "free_from": "49.50", "next": "start"}),
            "/racks/start/",
        )
        self.assertContains(self.client.get("/shop/"), "Gull Hythe")
        self.assertContains(self.post("/shop-face/", free_from="soon"), "Write a sum such as 75", status_code=422)


class ThemeTests(SetCase):
    def test_one_theme_for_all(self):
        """Measures and colours kept reach the shop, its drawings and other sites; tried they reach nobody; a button brings back what was."""
        tried = self.client.get("/shop-theme/", {"box": "22", "accent": "#7a1d3a", "corner": "4"})
        self.assertContains(tried, "/theme.css?box=22&amp;corner=4&amp;accent=%237a1d3a")
        self.assertNotContains(self.client.get("/shop/"), "theme.css")
        self.client.post("/shop-theme/", {"family": "serif", "box": "22", "accent": "#7a1d3a", "corner": "4"})
        for address in ("/shop/", "/racks/"):
            self.assertContains(
                self.client.get(address, follow=True), "/theme.css?family=serif&amp;box=22&amp;corner=4&amp;accent=%237a1d3a"
            )
        sheet = self.client.get("/theme.css?family=serif&box=22&corner=4&accent=%237a1d3a").content.decode()
        self.assertIn("--facet-box:22px", sheet)
        self.assertEqual(self.client.get("/theme.css?gap=30").content, b".facet{--facet-gap:30px}\n")
        self.assertIn("--color-navy:#7a1d3a", sheet)
        embed = add_embed("Anywhere", actor=None)
        told = self.client.get(f"/api/shop/v1/embeds/{embed.name}").json()["theme"]
        self.assertEqual(told["measures"], {"--facet-box": "22px", "--facet-corner": "4px"})
        self.assertEqual(told["colours"]["--color-navy"], "#7a1d3a")
        self.client.post("/shop-theme/", {"family": "shop"})
        self.assertNotContains(self.client.get("/shop/"), "theme.css")
        before = self.client.get("/shop-theme/").context["before"]
        self.client.post("/shop-theme/", before)
        self.assertContains(self.client.get("/shop/"), "family=serif")

    def test_nothing_illegible(self):
        """Colours that could not be read are told with their contrast and another one; the shop never draws them."""
        page = self.client.get("/shop-theme/", {"ink": "#dddddd", "ground": "#ffffff"})
        self.assertContains(page, "contrast 1.4 to the ground; 4.5 is needed")
        for ground in ("#ffffff", "#000000", "#777777", "#ff0000", "#f8f4e9"):
            for colour in ("#ffffff", "#000000", "#808080", "#00ff00"):
                drawn = Theme(ink=colour, accent=colour, edge=colour, ground=ground).colours
                for name, least in (("ink", 4.5), ("accent", 4.5), ("edge", 3.0)):
                    self.assertGreaterEqual(contrast(drawn[name], ground), least, (name, colour, ground))
        self.assertEqual(Theme(ground="#101010", ink="#101010").tokens()["--ground"], "#101010")  # other sites have words and ground alike
        self.assertEqual(self.client.post("/shop-theme/", {"box": "99"}).status_code, 422)
        self.assertEqual(self.client.post("/shop-theme/", {"ink": "red;}"}).status_code, 422)
        self.assertEqual(self.client.get("/theme.css?ink=red;}&box=x").content, b"")


class RuleTests(SetCase):
    def test_days_and_listings(self):
        """A facet shows on the listings and days that its rule names, in the shop; the rule is said in words; broken days are left out."""
        today = timezone.localdate()
        self.post("/racks/facets/material/when/", lines="0", add="listing", every="any", next="/racks/?category=Lighting")
        self.post("/racks/facets/material/when/", lines="1", kind_0="listing", listing_0="Rope and cordage", every="any")
        words = {shelf.key: shelf.rule for shelf in self.client.get("/racks/").context["rack"].shelves}
        self.assertEqual(words["material"], "on Rope and cordage and below")
        self.go_live()
        self.assertEqual([self.shows("material", address) for address in ("/shop/", ROPE, f"{ROPE}mooring/")], [False, True, True])
        page = self.client.get("/racks/facets/material/shoppers/")
        self.assertContains(page, "it shows on Rope and cordage and below")
        self.assertTrue(page.context["page"].drawing.choices)
        for first, last, expected in ((0, 3, True), (-9, -1, False), (1, 9, False)):
            days = {name: (today + timedelta(days=offset)).isoformat() for name, offset in (("from_0", first), ("to_0", last))}
            self.post("/racks/facets/material/when/", lines="1", kind_0="days", every="any", **days)
            self.go_live()
            self.assertEqual(self.shows("material", "/shop/"), expected, days)
        self.post("/racks/facets/material/when/", lines="1", kind_0="days", every="any", from_0="soon", to_0="2026-13-40")
        self.assertNotIn("show_when", facet_document(draft(), "material"))

    def shows(self, key, address):
        """Tell whether shoppers get a facet."""
        return key in [facet.key for facet in self.client.get(address).context["listing"].facets]

    def test_settings_say_what_they_mean_here(self):
        """Any of and all of are told with the facet's own figures, which the shop has."""
        means = dict(self.client.get("/racks/facets/colour/").context["page"].means)
        names = re.match(r"(.+) or (.+): ([\d,]+); both at once: ([\d,]+)", means["match"])
        either = self.client.get(f"/shop/?colour={names[1].lower()}&colour={names[2].lower()}", follow=True).context["listing"].total
        self.assertEqual(names[3], f"{either:,}")

    def test_an_attribute_that_does_not_serve(self):
        """Form, shelf and bench say that nobody sees its facet."""
        Attribute.objects.filter(identity="material").update(narrowing=False)
        self.assertContains(self.client.get("/racks/"), "not shown: the attribute does not serve narrowing")
        self.assertContains(self.client.get("/racks/facets/material/"), "the attribute Material does not serve narrowing")
        row = Attribute.objects.get(identity="material")
        self.assertContains(self.client.get(f"/catalogue/attributes/{row.pk}/"), "shoppers would not see Material on Side rack")

    def test_an_attribute_comes_back_where_it_was(self):
        """Undo gives a changed attribute its address back."""
        row = Attribute.objects.get(identity="material")
        kept = {"name": "Stuff", "kind": row.kind, "narrowing": "on", "on_pages": "on"}
        self.client.post(f"/catalogue/attributes/{row.pk}/", kept)
        self.assertTrue(Attribute.objects.filter(identity="stuff", pk=row.pk).exists())
        undo_last()
        self.assertEqual(self.client.get(f"/catalogue/attributes/{row.pk}/").status_code, 200)
        self.assertEqual(Attribute.objects.get(identity="material").pk, row.pk)


class TagTests(SetCase):
    def test_groups_of_tags(self):
        """Some tags become a facet of their own, the rest stays; both are in the shop, each narrows by itself; undo puts all back."""
        facet_changes.add_facet({"key": "tag", "label": "Tags", "source": {"kind": "tag"}, "order": "count"}, rack="side", actor=None)
        self.go_live()
        names = [choice.label for choice in self.drawn("tag").choices]
        mine = names[:2]
        answer = self.client.post("/racks/facets/tag/act/", {"act": "split_off", "edition": the_setup().draft_id, "value": mine})
        self.assertEqual(answer.status_code, 302)
        new = answer["Location"].split("/")[-2]
        self.go_live()
        self.assertEqual(sorted(choice.label for choice in self.drawn(new).choices), sorted(mine))
        self.assertEqual([choice.label for choice in self.drawn("tag").choices], names[2:])
        one, other = self.drawn(new).choices[0], self.drawn("tag").choices[0]
        both = self.client.get(f"/shop/?{new}={one.key}&tag={other.key}", follow=True).context["listing"].total
        self.assertLessEqual(both, min(one.count, other.count))
        self.client.post("/racks/undo/", {"edition": the_setup().draft_id})
        self.assertNotIn(new, [facet["key"] for facet in draft()["facets"]])
        self.assertEqual(facet_document(draft(), "tag").get("bins", {}), {})
        page = self.client.post(
            "/racks/facets/tag/act/", {"act": "split_off", "edition": the_setup().draft_id, "value": names}, follow=True
        )
        self.assertContains(page, "Tick some of the values, not all of them")

    def test_the_listing_of_a_tag(self):
        """It holds the products of the tag, counts and empty bins among them alone, with a rack of its own where one is placed there."""
        tag, total = tags_of(current().index)[0]
        slug = next(slug for slug, name in tag_by_slug(current().index).items() if name == tag)
        rows = Product.objects.filter(tags__contains=[tag], visible=True)
        facet_changes.change_facet("colour", {**facet_document(draft(), "colour"), "empty": "emptied"}, actor=None)
        self.go_live()
        page = self.client.get(f"/shop/t/{slug}/").context["listing"]
        self.assertEqual((page.total, page.listing, page.title.lower()), (total, rows.count(), tag.lower()))
        colour = next(facet for facet in page.facets if facet.key == "colour")
        self.assertTrue(all(choice.count for choice in colour.choices))  # what the listing never has is not dimmed there
        first = colour.choices[0]
        narrowed = self.client.get(f"/shop/t/{slug}/?colour={first.key}").context["listing"]
        self.assertEqual(narrowed.total, first.count)
        self.assertTrue(set(narrowed.slots) <= set(tagged(current().index, tag)))
        origin = self.client.get(narrowed.cards[0].address).context["product"].origin
        self.assertEqual((origin.address, origin.total), (f"/shop/t/{slug}/?colour={first.key}", narrowed.total))
        rack_changes.make_rack("Of tags", actor=None)
        rack_changes.put_on_rack("price", "of-tags", actor=None)
        told = self.client.get("/listings/", {"at": f"tag:{tag.lower()}", "where": "side", "choice": "own", "rack": "of-tags"}).context[
            "page"
        ]
        self.assertEqual((told.effect.listings, told.effect.products, told.effect.comes), (1, total, ()))
        self.client.post("/listings/", {"at": f"tag:{tag.lower()}", "where": "side", "choice": "own", "rack": "of-tags",
                                        "edition": the_setup().draft_id})  # fmt: skip
        self.go_live()
        self.assertEqual([facet.key for facet in self.client.get(f"/shop/t/{slug}/").context["listing"].facets], ["price"])
        self.assertGreater(len(self.client.get("/shop/").context["listing"].facets), 1)
        self.assertEqual(self.client.get("/shop/t/nothing-has-it/").status_code, 404)
        self.assertContains(self.client.get(f"/listings/?at=tag:{tag.lower()}&where=side"), "See it in the shop")

    def test_tags_that_begin_alike(self):
        """Tags of one group are proposed as a facet by themselves, its bins named by what stands behind the mark."""
        for number, row in enumerate(Product.objects.order_by("pk")[:30]):
            Product.objects.filter(pk=row.pk).update(tags=[*row.tags, ("use:day_sailing", "use:racing", "use:cruising")[number % 3]])
        proposal = next(one for one in grouped_tags(current().index) if one["label"] == "Use")
        self.assertEqual(proposal["bins"]["only"], ["use:cruising", "use:day_sailing", "use:racing"])
        self.assertEqual(proposal["bins"]["rename"]["use:day_sailing"], "Day sailing")
        self.assertIn("Use", [one.spec.label for one in proposals(current().index, None, [])])


class SourceTests(SetCase):
    def test_words_of_the_trade(self):
        """Sale, review, availability and size find their sources; a source that has a facet makes another one by a key of its own."""
        for word, label in (
            ("sale", "Reduced"),
            ("reviews", "Rating"),
            ("availability", "Stock"),
            ("size", "Diameter"),
            ("maker", "Brand"),
        ):
            found = [source.label for source in self.client.get("/racks/add/", {"find": word}).context["page"].sources]
            self.assertIn(label, found, word)
        again = next(
            source for source in self.client.get("/racks/add/", {"find": "price"}).context["page"].sources if source.label == "Price"
        )
        self.assertTrue(again.again)
        self.post("/racks/add/", source=again.key, rack="side")
        self.assertEqual([facet["key"] for facet in draft()["facets"] if facet["source"]["kind"] == "price"], ["price", "price-2"])

    def test_a_finding_leads_to_its_products(self):
        """“8 products have no colour” leads to those 8."""
        page = self.client.get("/racks/facets/colour/").context["page"]
        found = next(one for one in page.findings if one.id == "unbinned")
        said = int(re.match(r"([\d,]+)", found.text)[1].replace(",", ""))
        leads = self.client.get(page.meant_address.partition("#")[0], follow=True).context
        self.assertEqual((leads.get("page") or leads["sheet"]).total, said)


class DayTests(SetCase):
    def test_a_day_of_9999(self):
        """A date at the end of time is no error anywhere."""
        self.change("price", show_when={"all": [{"from": "0001-01-01", "to": "9999-12-31"}]})
        self.assertEqual(date.fromisoformat("9999-12-31").year, 9999)
        for address in ("/shop/", "/racks/", "/racks/facets/price/shoppers/"):
            self.assertEqual(self.client.get(address).status_code, 200)
