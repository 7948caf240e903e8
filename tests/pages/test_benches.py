"""The benches: what is done on them reaches the draft, is named, undone, and counted as `count` counts it."""

import json
from datetime import date
from pathlib import Path
from tempfile import TemporaryDirectory

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.catalog.dictionary.entry import entries
from binsort.catalog.store.product_rows import all_products
from binsort.changes.products import change_many
from binsort.core.answers.answer import RackIndex
from binsort.core.count import answer_document
from binsort.core.facets.facet_file import read_facet_file
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.number_line import number_line
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.products.catalogue_writer import line_of
from binsort.core.products.edits import REPLACE
from binsort.core.values.dates import now_in_seconds
from binsort.core.values.numbers import written
from binsort.demo.loader import load_demo
from binsort.racks.controls import CONTROLS
from binsort.racks.setup import facet_document, the_setup
from binsort.tally.current import current


class BenchCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop and its owner."""
        load_demo()
        cls.owner = get_user_model().objects.get()

    def setUp(self):
        """Sign in."""
        self.client.force_login(self.owner)

    def act(self, facet, name, query="", **data):
        """Do something on a bench; the page that shows it."""
        sent = {"act": name, "edition": the_setup().draft_id, **data}
        return self.client.post(f"/racks/facets/{facet}/act/{query}", sent, follow=True)

    def page(self, facet, query=""):
        """What the page of a facet shows."""
        return self.client.get(f"/racks/facets/{facet}/{query}").context["page"]

    def document(self, facet):
        """The facet as the draft has it."""
        return facet_document(the_setup().draft.document, facet)

    @property
    def said(self):
        """What was done last, as undo names it."""
        return the_setup().draft.summary

    def add(self, source, **more):
        """Put a facet on the rack by the page that adds one, then give it a document."""
        from binsort.changes.facets import add_facet

        add_facet({"key": "mine", "label": "Mine", "source": source, **more}, rack="side", actor=self.owner)
        return "mine"

    def counted(self, facet, category=""):
        """The counts of a facet's bins as the command `count` gives them, from files."""
        with TemporaryDirectory() as folder:
            catalogue = Path(folder) / "catalogue.jsonl"
            catalogue.write_bytes(b"\n".join(map(line_of, all_products())))
            products = read_catalogue(catalogue.read_bytes().split(b"\n")).products
        specs = read_facet_file(the_setup().draft.text).facets
        rack = RackIndex(build_index(products, now_in_seconds()), specs)
        answer = answer_document(rack.answer(rack.read([("category", category)] if category else [], None)))
        return {bin["key"]: bin["count"] for one in answer["facets"] if one["key"] == facet for bin in one["bins"]}


class RangeTests(BenchCase):
    def test_bench_rack_preview_and_count_agree(self):
        """The same counts stand on the bench, on the rack, in the shopper's view, and in what `count` prints, on a listing too."""
        self.act("price", "cuts", cut=["10", "30", "99.5"])
        self.client.post("/racks/facets/price/shoppers/", {"control": "checkboxes", "edition": the_setup().draft_id})
        for query, category in (("", ""), ("?category=Rope and cordage", "Rope and cordage")):
            page = self.page("price", query)
            bench = {one.key: one.count for one in page.ranges.compartments}
            rack = self.client.get(f"/racks/{query}").context["rack"]
            shelf = {one.key: one.total for shelf in rack.shelves if shelf.key == "price" for one in shelf.vessels}
            seen = {choice.key: choice.count for choice in page.preview.choices}
            self.assertEqual(list(bench), ["lt-10", "10-to-30", "30-to-99.5", "ge-99.5"])
            self.assertEqual([bench, shelf, seen], [self.counted("price", category)] * 3)

    def test_what_the_page_counts_with(self):
        """The numbers a page is given count any range: a product with several articles once."""
        data = json.loads(self.client.get("/racks/facets/price/numbers/?category=Rope and cordage").content)
        page = self.page("price", "?category=Rope and cordage")
        before = dict(zip(data["repeats"], data["before"], strict=True))
        entries = data["starts"][-1]
        self.assertEqual(sum(before.get(entry, -1) < 0 for entry in range(entries)), page.total - page.unbinned)
        self.assertTrue(before)
        facet = current().rack(the_setup().draft.facet_file.racks[0].facets).by_key["price"]
        line = number_line(current().index, facet, current().index.listing(("rope and cordage",)))
        self.assertEqual(data["numbers"], [str(number) for number in line.numbers])

    def test_cuts_are_named_and_undone(self):
        """A cut that moved, came or went is said in words, and undo and redo say what they take back and bring again."""
        self.act("price", "cuts", cut=["10", "20", "60", "100"])
        self.assertEqual(self.said, "Price: cut moved from £50 to £60")
        self.act("price", "cuts", cut=["10", "20", "60"])
        self.assertEqual(self.said, "Price: cut at £100 taken out")
        self.act("price", "cuts", cut=["5.25", "10", "20", "60"])
        self.assertEqual(self.said, "Price: cut added at £5.25")
        page = self.client.get("/racks/facets/price/")
        self.assertContains(page, 'title="Price: cut added at £5.25"')
        self.client.post("/racks/undo/", {"edition": the_setup().draft_id})
        self.assertContains(self.client.get("/racks/facets/price/"), '<span class="sr-only">Price: cut added at £5.25</span>')
        self.client.post("/racks/redo/", {"edition": the_setup().draft_id})
        self.assertEqual(list(map(str, self.document("price")["cuts"])), ["21/4", "10", "20", "60"])

    def test_suggestions(self):
        """A suggestion is looked at with the counts it would give, then taken; those are the counts it has."""
        for way in ("widths", "counts", "groups", "round"):
            proposed = self.page("diameter", f"?suggest={way}&bins=4").ranges.proposed
            self.act("diameter", "suggest", cut=list(proposed.texts))
            bench = self.page("diameter").ranges
            self.assertEqual([one.count for one in bench.compartments], list(proposed.counts), way)
            self.assertLessEqual(len(proposed.counts), 5)
        self.assertIsNone(self.page("diameter", "?suggest=nothing&bins=x").ranges.proposed)
        self.act("diameter", "suggest", way="counts")
        self.assertIn("as suggested", self.said)

    def test_shapes(self):
        """Cuts become ranges by hand, stars and up, each number, any range, and cuts again; boundaries stay, labels too."""
        self.act("rating", "rows", key=["lt-3", "3-to-4", "4-to-4.5", "ge-4.5"], label=["", "", "", "The best"])
        self.assertEqual(self.page("rating").preview.choices[0].label, "The best")
        self.act("rating", "shape", shape="ranges")
        ranges = self.document("rating")["ranges"]
        self.assertEqual((len(ranges), ranges[-1]), (4, {"from": ranges[-1]["from"], "label": "The best"}))
        rows = self.page("rating").ranges.rows
        answer = self.act(
            "rating",
            "rows",
            **{
                "key": [row.key for row in rows],
                "from": ["", "2", "9", "4.5"],
                "to": ["3.5", "4", "4.5", ""],
                "label": ["low", "", "", ""],
            },
        )
        self.assertContains(answer, "A range from 9 to 4.5 holds nothing.")
        self.act(
            "rating",
            "rows",
            **{"key": [row.key for row in rows], "from": ["", "2", "", "4.5"], "to": ["3.5", "4", "", ""], "label": ["low", "", "", ""]},
        )
        self.assertEqual([row.words for row in self.page("rating").ranges.rows], ["under 3.5", "2 to 4", "4.5 and above"])
        self.assertTrue({"overlaps", "gaps"} <= {found.id for found in self.page("rating").findings})
        self.act("rating", "shape", shape="at_least")
        self.assertEqual(list(map(written, self.document("rating")["at_least"])), ["2", "3.5", "4", "4.5"])
        for shape, has in (("values", None), ("free", "free"), ("cuts", "cuts")):
            self.act("rating", "shape", shape=shape)
            self.assertTrue(has is None or has in self.document("rating"))
        self.act("rating", "ends", closed="1")
        self.assertEqual(self.document("rating")["ends"], "closed")
        self.act("rating", "free", free="1")
        self.assertTrue(self.document("rating")["free"])

    def test_the_boundary_is_turned(self):
        """Which side a cut's own number falls is said; turned, its products move to the lower bin, and back again."""
        self.act("diameter", "cuts", cut=["8", "16"])
        before = self.page("diameter", "?at=8").ranges
        self.assertEqual((before.boundary.number, before.boundary.into, before.boundary.turned), ("8 mm", "8–16 mm", "8.1"))
        on = len(
            [
                product
                for product in all_products()
                if product.visible and any(p.name == "Diameter" and 8 in p.values for p in product.properties)
            ]
        )
        self.act("diameter", "cuts", cut=["8.1", "16"])
        after = self.page("diameter", "?at=8.1").ranges
        self.assertEqual(after.compartments[0].count - before.compartments[0].count, on)
        self.assertEqual((after.boundary.turned, after.boundary.other), ("8", "8.1–16 mm"))
        around = before.around
        self.assertTrue(all(float(number) < 8 for number, *_ in around.below) and all(float(number) >= 8 for number, *_ in around.above))

    def test_mends_do_what_they_say(self):
        """A mend changes the facet; pressed again from an old page it says that it was mended meanwhile."""
        self.act("price", "cuts", cut=["300"])
        found = next(found for found in self.page("price").findings if found.id == "lopsided")
        self.act("price", "mend", finding=found.id, subject=found.subject, mend=found.mends[0].key)
        self.assertEqual(len(self.document("price")["cuts"]), 2)
        answer = self.act("price", "mend", finding="gaps", subject="7", mend="close")
        self.assertContains(answer, "That has been mended meanwhile.")

    def test_dates_age_and_level(self):
        """Dates are cut by the calendar and said by it; days ago and stock levels are numbers like all others."""
        self.add({"kind": "published"})
        self.act("mine", "suggest", way="calendar")
        cuts = self.document("mine")["cuts"]
        self.assertTrue(all(date.fromisoformat(cut).day == 1 for cut in cuts), cuts)
        self.assertContains(self.act("mine", "cuts", cut=["soon"]), "“soon” is no day. Write one such as 2026-03-01.")
        self.client.post(
            "/racks/facets/mine/",
            {**self.client.get("/racks/facets/mine/").context["form"].initial, "source": "age", "edition": the_setup().draft_id},
        )
        self.assertEqual(self.document("mine")["source"], {"kind": "published"})  # asked first: the cuts would go
        form = {
            **self.client.get("/racks/facets/mine/").context["form"].initial,
            "source": "age",
            "anyway": "1",
            "edition": the_setup().draft_id,
        }
        self.client.post("/racks/facets/mine/", form)
        self.act("mine", "shape", shape="at_most")
        self.act("mine", "cuts", cut=["30", "365"])
        self.assertEqual([row.words for row in self.page("mine").ranges.rows], ["in the last 30 days", "in the last 365 days"])
        self.assertEqual({one.key: one.count for one in self.page("mine").ranges.compartments}, self.counted("mine"))

    def test_numbers_in_other_words(self):
        """Prefix, suffix, decimals and thousands are the owner's, in the shop as on the bench."""
        address = "/racks/facets/price/shoppers/"
        initial = {name: value for name, value in self.client.get(address).context["form"].initial.items() if value is not None}
        self.client.post(
            address, {**initial, "before": "about ", "behind": " pounds", "decimals": "0", "look": "1", "edition": the_setup().draft_id}
        )
        self.assertEqual(self.page("price").ranges.rows[1].words, "about 10 to about 20 pounds")


class ValueTests(BenchCase):
    def test_merge_part_leave_out_and_only(self):
        """Each by its own act, named, and what `count` counts."""
        before = self.counted("colour")
        self.act("colour", "merge", value=["Navy blue"], into="Navy")
        self.assertEqual(self.said, "Colour: Navy blue merged into Navy")
        self.act("colour", "merge", value=["Gray", "Silver"], into="Grey")
        self.act("colour", "leave_out", value=["Default"])
        bench = {row.key: row.count for row in self.page("colour").values.bins}
        self.assertEqual(bench, {key: count for key, count in self.counted("colour").items() if count})
        self.assertGreater(bench["navy"], before["navy"])
        self.assertEqual(
            bench["grey"], self.page("colour").preview.choices[[c.key for c in self.page("colour").preview.choices].index("grey")].count
        )
        self.act("colour", "part", value=["Silver"])
        self.assertEqual(self.counted("colour")["silver"], before["silver"])
        self.act("colour", "gather", value=["Red", "Racing green"], label="Racing")
        self.assertIn("racing", self.counted("colour"))
        self.act("colour", "rename", bin="Racing", label="Race boats")
        self.assertIn("race-boats", self.counted("colour"))
        self.act("colour", "only", value=["Navy", "White"])
        self.assertEqual(set(self.counted("colour")), {"navy", "white"})
        for wrong, words in (
            ({"value": ["Ultraviolet"]}, "Select a value first"),
            ({"value": ["Navy"], "into": "Nowhere"}, "There is no bin “Nowhere”"),
        ):
            self.assertContains(self.act("colour", "merge", **wrong), words)
        self.assertContains(self.act("colour", "explode"), "That cannot be done here.")

    def test_two_people_on_one_facet(self):
        """The second sees what the first did; neither overwrites."""
        old = the_setup().draft_id
        self.act("colour", "merge", value=["Gray"], into="Grey")
        answer = self.client.post("/racks/facets/colour/act/", {"act": "leave_out", "value": "Default", "edition": old}, follow=True)
        self.assertContains(answer, "meanwhile Mara made a change, “Colour: Gray merged into Grey”")
        self.assertNotIn("leave_out", self.document("colour")["bins"])

    def test_swatches(self):
        """Colours, a short text or a picture by hand, else what the words say; in the shop as on the bench."""
        self.act("colour", "colour", bin="Navy", way="colours", colour=["#112233", "#445566", "#778899"], count="2")
        self.act("colour", "colour", bin="Default", way="text", text="none at all")
        self.act("colour", "colour", bin="Clear", way="image", image="/pictures/coil-3b5488.svg")
        choices = {choice.key: choice for choice in self.page("colour").preview.choices}
        self.assertEqual(
            (choices["navy"].swatch.colours, choices["default"].sign, choices["clear"].image),
            (("#112233", "#445566"), "none", "/pictures/coil-3b5488.svg"),
        )
        self.assertContains(self.act("colour", "colour", bin="Red", way="image", image="javascript:x"), "Write the address of a picture")
        self.act("colour", "colour", bin="Navy", way="words")
        self.assertEqual(self.page("colour").preview.choices[2].swatch.colours, ("#22345c",))

    def test_orders_by_size(self):
        """Letters by the ladder, either way, as one choice; new values can wait to be looked at."""
        self.add({"kind": "attribute", "attribute": "Size"})
        form = self.client.get("/racks/facets/mine/").context["form"].initial
        self.client.post("/racks/facets/mine/", {**form, "order": "size", "edition": the_setup().draft_id})
        labels = [row.label for row in self.page("mine").values.bins]
        self.assertEqual([label for label in labels if label in "SMXL"], [label for label in ("S", "M", "L", "XL") if label in labels])
        form = self.client.get("/racks/facets/mine/").context["form"].initial
        self.client.post("/racks/facets/mine/", {**form, "order": "-size", "new_values": "unbinned", "edition": the_setup().draft_id})
        self.assertEqual([row.label for row in self.page("mine").values.bins], labels[::-1])
        self.assertEqual(set(self.document("mine")["bins"]["only"]), set(labels))

    def test_categories(self):
        """Scopes are chosen; a category is left out or renamed, never merged."""
        form = self.client.get("/racks/facets/group/").context["form"].initial
        self.client.post(
            "/racks/facets/group/", {**form, "scope": "under", "under": "Rope and cordage", "deep": "on", "edition": the_setup().draft_id}
        )
        self.assertEqual(
            {name: self.document("group")[name] for name in ("scope", "under", "deep")},
            {"scope": "under", "under": "Rope and cordage", "deep": True},
        )
        self.act("group", "leave_out", value=["Rope and cordage > Mooring"])
        self.act("group", "rename", bin="Halyards", label="For halyards")
        self.assertEqual(
            self.document("group")["bins"],
            {"leave_out": ["Rope and cordage > Mooring"], "rename": {"Rope and cordage > Running rigging > Halyards": "For halyards"}},
        )
        self.assertFalse(self.page("group").values.can_merge)

    def test_find(self):
        """A search shows the values and bins that hold the letters, and nothing breaks where there is none."""
        self.assertEqual({row.label for row in self.page("colour", "?find=navy").values.rows if not row.state}, {"Navy", "Navy blue"})
        self.assertEqual(self.page("colour", "?find=zzz").values.rows, ())

    def test_why(self):
        """Where a product stands and by which value, or why in none; a name that nobody has is said."""
        why = self.page("diameter", "?why=braid-on-braid halyard, 8 mm").why
        self.assertEqual((why.standing.bins[0], why.outside), (("8–12 mm", "because of 8 mm"), False))
        self.assertContains(self.client.get("/racks/facets/diameter/?why=zzz"), "No product is called “zzz”")


class SourceTests(BenchCase):
    def test_words(self):
        """Groups are typed or made by clicking words that the names hold; each has its count."""
        self.add({"kind": "words", "in": ["name"], "groups": [{"label": "Shackles", "texts": ["shackle"]}]})
        bench = self.page("mine").words
        words = {word: count for word, count, _taken in bench.words}
        self.assertGreater(words["shackle"], 40)
        self.act(
            "mine",
            "words",
            **{"in": ["name", "tag"], "label": ["Shackles"], "texts": ["shackle, snap hook"], "word": "fender", "group": "new"},
        )
        self.assertEqual([group["label"] for group in self.document("mine")["source"]["groups"]], ["Shackles", "Fender"])
        self.act(
            "mine",
            "words",
            **{"in": ["name"], "label": ["Shackles", "Fender"], "texts": ["shackle", "fender"], "word": "buoy", "group": "1"},
        )
        self.assertEqual(self.document("mine")["source"]["groups"][1]["texts"], ["fender", "buoy"])
        self.assertEqual({group.key: group.count for group in self.page("mine").words.groups}, self.counted("mine"))
        self.assertContains(self.act("mine", "words", label=["A"], texts=["a"]), "Say where the words are looked for")
        self.assertContains(self.act("mine", "words", **{"in": "name", "label": ["A"], "texts": [""]}), "Keep one group at least")

    def test_reading_numbers(self):
        """Pointed at in one text, the number is read in all that begin alike; the unit is chosen, what is not read says why."""
        self.add({"kind": "number_from", "from": "tag"})
        page = self.client.get("/racks/facets/mine/reading/").context["page"]
        self.assertIn(("length-", ""), {(place.before, place.where) for place in page.places})
        self.client.post("/racks/facets/mine/read/", {"act": "point", "text": "length-20", "start": "7", "edition": the_setup().draft_id})
        self.assertEqual(self.document("mine")["source"], {"kind": "number_from", "from": "tag", "prefix": "length-"})
        self.client.post("/racks/facets/mine/read/", {"act": "unit", "unit": "m", "edition": the_setup().draft_id})
        page = self.client.get("/racks/facets/mine/reading/").context["page"]
        self.assertEqual(
            (page.unit, page.read_products),
            ("m", sum(any(tag.startswith("length-") for tag in p.tags) for p in all_products() if p.visible)),
        )
        self.assertIn("length-", page.text)
        answer = self.client.post(
            "/racks/facets/mine/read/", {"act": "point", "text": "none", "start": "0", "edition": the_setup().draft_id}, follow=True
        )
        self.assertContains(answer, "Point at one of the numbers in the text.")
        self.assertRedirects(self.client.get("/racks/facets/price/reading/"), "/racks/facets/price/")

    def test_texts_are_written_anew(self):
        """A text that could not be read is written as it was meant, on all products of the listing that say it, and taken back."""
        held = [p.id for p in all_products() if p.visible and "length-25" in p.tags]
        tags = entries({})["tags"]
        change_many(tags, REPLACE, ("lenght-25", "length-25"), held)
        self.add({"kind": "number_from", "from": "tag", "prefix": "length-"})
        page = self.client.get("/racks/facets/mine/reading/").context["page"]
        self.assertEqual(
            [(one.text, one.products, one.reason, one.ways) for one in page.unread],
            [("lenght-25", len(held), "begins otherwise: a slip?", ("length-25",))],
        )
        self.assertEqual(page.field.none + page.field.unread + page.read_products, page.total)
        back = {"old": "lenght-25", "next": "/racks/facets/mine/reading/"}
        self.assertContains(
            self.client.post("/racks/facets/mine/texts/", {**back, "new": " "}, follow=True), "Nothing was changed: write the"
        )
        answer = self.client.post("/racks/facets/mine/texts/", {**back, "new": "length-25"}, follow=True)
        self.assertEqual(answer.context["page"].unread, ())
        self.assertContains(answer, f"Replaced lenght-25 by length-25 in Tags of {len(held)} products.")
        self.assertEqual([p.id for p in all_products() if p.visible and "length-25" in p.tags], held)

    def test_another_source(self):
        """What cannot be kept is said first; left as it is nothing changes, changed anyway the rest stays."""
        self.act("colour", "merge", value=["Gray"], into="Grey")
        form = {**self.client.get("/racks/facets/colour/").context["form"].initial, "source": "brand"}
        asked = self.client.post("/racks/facets/colour/", {**form, "edition": the_setup().draft_id})
        self.assertContains(asked, "this goes: 1 merge. The rest stays.")
        self.assertEqual(self.document("colour")["source"]["kind"], "attribute")
        self.client.post("/racks/facets/colour/", {**form, "anyway": "1", "edition": the_setup().draft_id})
        self.assertEqual((self.document("colour")["source"], self.document("colour")["label"]), ({"kind": "brand"}, "Colour"))
        self.assertNotIn("bins", self.document("colour"))
        self.assertEqual(self.said, "Colour: made of another source; Grey parted")
        for kind in ("number_from", "words"):  # what is read out of texts is found in the catalogue
            self.client.post("/racks/facets/colour/", {**form, "source": kind, "anyway": "1", "edition": the_setup().draft_id})
            self.assertEqual(self.document("colour")["source"]["kind"], kind)
        self.assertIn("Halyard", [group["label"] for group in self.document("colour")["source"]["groups"]])

    def test_every_control_that_fits_works(self):
        """Each control that fits a facet can be chosen, is drawn in the shop, and sends what the rack understands."""
        met = set()
        for facet, source, more in (
            ("price", None, {}), ("colour", None, {}), ("rating", None, {}), ("group", None, {}),
            ("mine", {"kind": "published"}, {"free": True}), ("mine", {"kind": "reduced"}, {}), ("mine", {"kind": "initial"}, {}),
        ):  # fmt: skip
            if source:
                self.add(source, **more)
            for mini in self.client.get(f"/racks/facets/{facet}/shoppers/").context["page"].minis:
                self.client.post(f"/racks/facets/{facet}/shoppers/", {"control": mini.key, "edition": the_setup().draft_id})
                self.client.post("/racks/put-live/", {"edition": the_setup().draft_id})
                page = self.client.get("/shop/?per=1", follow=True)
                shown = next(one for one in page.context["listing"].facets if one.key == facet)
                self.assertEqual(shown.control.key, mini.key)
                self.assertContains(page, f'data-control="{mini.key}"')
                met.add(mini.key)
                if shown.choices and not shown.control.is_range:
                    choice = next(choice for choice in shown.choices if choice.count)
                    picked = self.client.get("/shop/", {facet: choice.key, "per": "1"}, follow=True).context["listing"]
                    self.assertEqual(picked.total, choice.count)
            if source:
                self.client.post("/racks/facets/mine/remove/", {"edition": the_setup().draft_id})
        self.assertEqual(met, set(CONTROLS))

    def test_a_facet_over_nothing(self):
        """Where no product says anything the page says what to do, and no address gives an error."""
        self.add({"kind": "attribute", "attribute": "Nowhere"})
        self.assertContains(self.client.get("/racks/facets/mine/"), "Nothing to put into bins here")
        for query in (
            "?scale=log&suggest=counts&bins=99999&at=x&find=%00&why=%F0%9F%9A%A4",
            "?category=Nowhere",
            "?at=9999999999999999999",
        ):
            for page in ("", "shoppers/"):
                for facet in ("mine", "price", "colour", "group"):
                    self.assertEqual(self.client.get(f"/racks/facets/{facet}/{page}{query}").status_code, 200)
