"""The set-up as a file: what goes out comes in with no difference; trial, refusal, the same twice; a file as the master."""

import json
import tempfile
from io import StringIO
from pathlib import Path

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import TestCase
from hypothesis import assume, given
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as PropertyTestCase

from binsort.changes import facets as facet_changes
from binsort.changes import racks as rack_changes
from binsort.changes.facets import KeptElsewhere
from binsort.changes.setup_files import bring_setup_in, setup_text, try_setup
from binsort.core.facets.facet_file import check_document, schema
from binsort.core.facets.place_edits import said_of_listing
from binsort.core.values.strict_json import dumps
from binsort.demo.loader import load_demo
from binsort.racks.controls import CONTROLS
from binsort.racks.models import Edition, Entry
from binsort.racks.setup import the_setup
from tests.core.worlds import facet_files
from tests.examples import examples

LOOKS = st.fixed_dictionaries({}, optional={
    "control": st.sampled_from(sorted(CONTROLS)), "help": st.sampled_from(["Ölzeug", "“so”", "a\nb", "🐟"]), "columns": st.integers(1, 3),
    "limit": st.integers(1, 500), "counts": st.booleans(), "step": st.sampled_from([0.1, 2, 12.5]), "ends": st.just({"least": 0.30, "most": 1}),
    "swatches": st.just({"Navy": ["#1f2f5c", "#ffffff"], "XL": {"text": "XL"}}), "numbers": st.just({"prefix": "£", "decimals": 2}),
})  # fmt: skip
PLACES = st.fixed_dictionaries({}, optional={
    "shows": st.just([{"where": "side", "listing": "all"}, {"where": "above", "listing": "category", "category": "Ropes > Mooring", "below": False}]),
    "behaviour": st.just({"per": 30, "sorts": [{"by": "-rating", "label": "Best"}, {"by": "attribute", "attribute": "Length", "down": True}]}),
    "headings": st.just({"f0": "Looks"}), "looks": st.fixed_dictionaries({"f0": LOOKS}),
})  # fmt: skip


class OutAndInTests(PropertyTestCase):
    @examples(40)
    @given(facet_files(), st.lists(LOOKS, min_size=4, max_size=4), st.lists(PLACES, min_size=2, max_size=2))
    def test_what_goes_out_comes_in(self, document, looks, places):
        """Any set-up taken out is brought in without a difference, to the last decimal, and is brought in once."""
        for facet, look in zip(document["facets"], looks, strict=False):
            facet.update({"look": look} if look else {})
        keys = [facet["key"] for facet in document["facets"]]
        document["racks"] = [
            {"key": "one", "label": "One", "facets": keys, **({"place": places[0]} if places[0] else {})},
            {"key": "two", "label": "Two", "facets": keys[:1], **({"place": {"headings": {keys[0]: "x"}}} if places[1] else {})},
        ]
        assume(not check_document(document))  # the generator makes bins that some kinds cannot have
        bring_setup_in(dumps(document), name="first.json", actor=None)
        before = the_setup().draft
        trial = try_setup(setup_text(before))
        self.assertEqual((trial.differences, trial.changes_nothing), ((), True))
        self.assertIsNone(bring_setup_in(setup_text(before).encode(), name="again.json", actor=None))
        self.assertEqual(the_setup().draft_id, before.pk)


class FileTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop and its owner."""
        load_demo()
        cls.owner = get_user_model().objects.get()

    def setUp(self):
        """Sign in."""
        self.client.force_login(self.owner)

    def out(self):
        """Return the draft as the page gives it."""
        return json.loads(self.client.get("/racks/file/out/").content)

    def send(self, document):
        """Look at a file on the page."""
        file = SimpleUploadedFile("facets.json", json.dumps(document).encode())
        return self.client.post("/racks/file/", {"file": file})

    def test_by_page(self):
        """A file is looked at first, told in words, then brought in as one change that undo takes back."""
        document = self.out()
        document["facets"][1]["label"] = "What it costs"
        document["racks"][0]["facets"].reverse()
        page = self.send(document)
        self.assertEqual([one.words for one in page.context["trial"].differences], ["called What it costs", "facets in another order"])
        before = the_setup().draft_id
        self.client.post("/racks/file/", {"text": page.context["text"], "name": "facets.json", "bring": "1", "edition": before})
        self.assertEqual(self.out(), document)
        self.assertEqual(Entry.objects.first().words, "Set-up brought in from facets.json")
        facet_changes.undo()
        self.assertEqual(the_setup().draft_id, before)

    def test_what_is_broken(self):
        """All problems are told at once, by page and by command, and nothing changes; so it is where the draft is another by now."""
        document, before = self.out(), the_setup().draft_id
        document["facets"][0]["look"] = {"colour": "loud"}
        document["racks"][0]["place"] = {"shows": [{"where": "roof", "listing": "all"}]}
        page = self.send(document)
        self.assertEqual((page.status_code, len(page.context["problems"])), (422, 2))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "broken.json")
            path.write_text(json.dumps(document))
            with self.assertRaises(CommandError) as caught:
                call_command("racks_in", path)
        self.assertIn("look.colour is not known here", str(caught.exception))
        good = self.out()
        good["facets"][0]["label"] = "Kind"
        rack_changes.make_rack("Another", actor=None)
        self.client.post("/racks/file/", {"text": json.dumps(good), "bring": "1", "edition": before})
        self.assertEqual(len(the_setup().draft.document["racks"]), 2)

    def test_by_command(self):
        """Out, changed, tried, in; the same twice changes nothing; places and looks come along."""
        rack_changes.place_rack(said_of_listing("category", "Lighting"), "side", "nothing", actor=None)
        with tempfile.TemporaryDirectory() as folder:
            path, told = Path(folder, "facets.json"), StringIO()
            call_command("racks_out", path, stdout=told)
            self.assertIn("Wrote 7 facets on 1 racks", told.getvalue())
            path.write_text(path.read_text().replace('"label": "Stock"', '"label": "Availability"'))
            count = Edition.objects.count()
            for options, words in (
                ({"trial": True}, "facet Stock: called Availability"), ({}, "Brought into the draft."), ({}, "Nothing changed."),
            ):  # fmt: skip
                told = StringIO()
                call_command("racks_in", path, stdout=told, **options)
                self.assertIn(words.replace("Stock:", "Availability:"), told.getvalue())
            self.assertEqual(Edition.objects.count(), count + 1)

    def test_a_file_is_the_master(self):
        """Pages say so, lead there and change nothing; the file does; until the pages are the master again."""
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, "facets.json")
            call_command("racks_out", path, stdout=StringIO())
            call_command("racks_in", path, master="git.example/saltmarsh/facets.json", stdout=StringIO())
            self.assertContains(self.client.get("/racks/"), "kept in git.example/saltmarsh/facets.json")
            with self.assertRaises(KeptElsewhere):
                rack_changes.make_rack("Another", actor=None)
            for address in ("/racks/all/", "/racks/undo/", "/racks/order/"):
                said = self.client.post(address, {"label": "Another", "facet": "stock"})
                self.assertContains(said, "The set-up is kept in a file", status_code=409)
            path.write_text(path.read_text().replace('"label": "Stock"', '"label": "Availability"'))
            call_command("racks_in", path, stdout=StringIO())
            self.assertIn("Availability", [facet["label"] for facet in self.out()["facets"]])
        self.client.post("/racks/file/master/", {"master": ""})
        rack_changes.make_rack("Another", actor=None)

    def test_the_schema_names_what_there_is(self):
        """Every control, and every property that a look's form can write."""
        look = schema()["$defs"]["look"]["properties"]
        self.assertEqual(look["control"]["enum"], list(CONTROLS))
