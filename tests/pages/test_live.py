"""What shoppers see and when: review, put live, scheduled, called off, gone back; the secret link; every step leaves a line."""

from datetime import UTC, datetime, timedelta
from unittest.mock import patch
from zoneinfo import ZoneInfo

from django.contrib.auth import get_user_model
from django.db import IntegrityError, transaction
from django.test import TestCase, override_settings
from django.utils import timezone

from binsort.catalog.models import Attribute, Variant
from binsort.changes import attributes, live
from binsort.changes import facets as facet_changes
from binsort.changes.facets import EditedMeanwhile
from binsort.changes.live import NotLive
from binsort.changes.racks import take_off_rack
from binsort.changes.tasks import carry_out
from binsort.changes.undo import undo_last
from binsort.changes.upserts import set_offers
from binsort.demo.loader import load_demo
from binsort.racks.models import Edition, Entry, PutLive, Schedule
from binsort.racks.setup import facet_document, the_setup
from binsort.workbench.review.views import local_moment


def change(key, **parts):
    """Change a facet of the draft."""
    return facet_changes.change_facet(key, {**facet_document(the_setup().draft.document, key), **parts}, actor=None)


class LiveCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop and its owner."""
        load_demo()
        cls.owner = get_user_model().objects.get()

    def setUp(self):
        """Sign in."""
        self.client.force_login(self.owner)

    def labels(self, client=None):
        """Return the labels of the facets that shoppers see."""
        return [facet.label for facet in (client or self.client).get("/shop/").context["listing"].facets]


class ReviewTests(LiveCase):
    def test_what_changed_in_words_and_products(self):
        """A merge, other cuts, another matching: told, with the products that move; each is taken back alone."""
        change("colour", bins={"merge": [{"label": "Navy", "values": ["Navy", "Navy blue"]}]})
        change("material", match="all")
        page = self.client.get("/racks/review/?category=Rope and cordage").context["page"]
        colour, material = page.changes
        self.assertEqual((colour.words, material.words), ("Navy blue went into Navy", "any of became all of"))
        rack = self.client.get("/racks/?category=Rope and cordage&shelf.open=colour").context["rack"]
        self.assertEqual((colour.bins, material.drawing), ("12 to 11 bins", None))
        live_bins = {one.told.partition(": ")[0]: int(one.told.partition(": ")[2].replace(",", "")) for one in colour.drawing.before}
        draft_bins = {vessel.name: vessel.total for shelf in rack.shelves if shelf.key == "colour" for vessel in shelf.vessels}
        in_both = live_bins["Navy"] + live_bins["Navy blue"] - draft_bins["Navy"]
        self.assertEqual(colour.moved, f"{live_bins['Navy blue'] - in_both} products moved")
        self.client.post("/racks/review/take-back/", {"kind": "facet", "key": "colour", "edition": the_setup().draft_id})
        left = self.client.get("/racks/review/").context["page"].changes
        self.assertEqual([one.key for one in left], ["material"])

    def test_new_and_gone(self):
        """A facet that is new and one that is taken off stand there; taking that back puts it where it was."""
        take_off_rack("rating", "side", actor=self.owner)
        page = self.client.get("/racks/review/").context["page"]
        self.assertEqual([(one.label, one.words, one.is_gone, one.by) for one in page.changes], [("Rating", "taken off", True, "Mara")])
        self.assertIn("Links with a pick of Rating lead to the listing without it", [promise.text for promise in page.promises])
        self.client.post("/racks/review/take-back/", {"kind": "facet", "key": "rating"})
        self.assertEqual(self.client.get("/racks/review/").context["page"].changes, ())


class PutLiveTests(LiveCase):
    def test_put_live_and_back(self):
        """Shoppers see it at once; back is one step; the draft stays; each has a line with who, and its note."""
        first = PutLive.objects.get()
        change("stock", label="Availability")
        self.assertNotIn("Availability", self.labels())
        self.client.post("/racks/put-live/", {"note": "As asked", "edition": the_setup().draft_id})
        self.assertIn("Availability", self.labels())
        live.go_back(first.pk, actor=self.owner)
        self.assertNotIn("Availability", self.labels())
        self.assertEqual(facet_document(the_setup().draft.document, "stock")["label"], "Availability")
        lines = [(entry.words, entry.actor) for entry in Entry.objects.filter(kind="live")[:2]]
        self.assertEqual(lines, [("Gone back", self.owner), ("Put live: As asked", self.owner)])

    def test_two_people(self):
        """Who saw another draft, or another state live, is told; nothing goes live over it."""
        seen = the_setup().draft_id
        change("stock", label="Availability")
        with self.assertRaises(EditedMeanwhile):
            live.put_live(based_on=seen)
        number = PutLive.objects.first().pk
        live.put_live()
        with self.assertRaises(NotLive):
            live.go_back(number, seen=number)

    def test_what_was_follows_new_names(self):
        """Going back after an attribute got another name works, draft and past alike; taking the name back is followed, too."""
        first = PutLive.objects.get()
        change("stock", label="Availability")
        live.put_live()
        row = Attribute.objects.get(identity="material")
        attributes.change_attribute(row, attributes.Definition("Fibre", row.kind, many=row.many, on_variants=row.on_variants))
        live.go_back(first.pk)
        material = next(facet for facet in self.client.get("/shop/").context["listing"].facets if facet.key == "material")
        self.assertTrue(material.choices)
        undo_last(actor=None)
        again = next(facet for facet in self.client.get("/shop/").context["listing"].facets if facet.key == "material")
        self.assertEqual([choice.key for choice in again.choices], [choice.key for choice in material.choices])

    def test_into_the_draft(self):
        """What was live becomes the draft, and undo brings the draft back."""
        first, before = PutLive.objects.get(), the_setup().draft.text
        changed = change("stock", label="Availability")
        live.into_draft(first.pk, actor=None)
        self.assertEqual(the_setup().draft.text, before)
        facet_changes.undo()
        self.assertEqual(the_setup().draft_id, changed.pk)


@override_settings(TIME_ZONE="Europe/London")
class ScheduleTests(LiveCase):
    def test_live_at_its_second(self):
        """Shoppers see it from that very second, whether the worker was there or not; carried out once, and told so."""
        change("stock", label="Availability")
        at = timezone.now() + timedelta(days=3)
        live.schedule(at, note="For spring", actor=self.owner)
        change("rating", label="Stars")  # stays in the draft
        for moment, seen in ((at - timedelta(seconds=1), False), (at, True)):
            with patch("django.utils.timezone.now", return_value=moment):
                self.assertEqual("Availability" in self.labels(), seen)
        with patch("django.utils.timezone.now", return_value=at + timedelta(hours=1)):
            carry_out()
            carry_out()
            self.assertNotIn("Stars", self.labels())
        rows = PutLive.objects.filter(way="schedule")
        self.assertEqual([(row.at, row.actor, row.note) for row in rows], [(at, self.owner, "For spring")])
        self.assertEqual(Schedule.objects.filter(ended_at=None).count(), 0)

    def test_called_off_and_replaced(self):
        """One waits at a time; a new one takes its place, putting live or calling off ends it."""
        at = timezone.now() + timedelta(days=3)
        for days in (0, 1):
            live.schedule(at + timedelta(days=days))
        self.assertEqual(Schedule.objects.get(ended_at=None).at, at + timedelta(days=1))
        with self.assertRaises(IntegrityError), transaction.atomic():
            Schedule.objects.create(edition=Edition.objects.first(), at=at)
        live.put_live()
        self.assertFalse(Schedule.objects.filter(ended_at=None).exists())
        with self.assertRaises(NotLive):
            live.schedule(timezone.now() - timedelta(seconds=1))

    def test_across_the_change_to_summer_time(self):
        """What the shop's clock says is what is meant, by the time-zone database; an hour that is left out is refused in words."""
        zone = ZoneInfo("Europe/London")  # IANA: on 29 March 2026 clocks go from 01:00 to 02:00, on 25 October from 02:00 to 01:00
        with timezone.override(zone):
            for text, utc in (
                ("2026-03-28T08:00", datetime(2026, 3, 28, 8, tzinfo=UTC)),
                ("2026-03-29T08:00", datetime(2026, 3, 29, 7, tzinfo=UTC)),
                ("2026-10-24T08:00:30", datetime(2026, 10, 24, 7, 0, 30, tzinfo=UTC)),
                ("2026-10-25T08:00", datetime(2026, 10, 25, 8, tzinfo=UTC)),
                ("2026-03-30T08:00+02:00", datetime(2026, 3, 30, 6, tzinfo=UTC)),  # ISO 8601 with an offset
            ):
                self.assertEqual(local_moment(text), utc, text)
            for wrong in ("2026-03-29T01:30", "2026-02-30T08:00", "", "soon"):
                with self.assertRaises(NotLive):
                    local_moment(wrong)


class LinkTests(LiveCase):
    def test_whoever_has_it_sees_the_draft(self):
        """Other shoppers do not; it says so on the page; once ended it shows what all see."""
        change("stock", label="Availability")
        self.client.post("/racks/draft-link/", {})
        link = self.client.get("/racks/review/").context["page"].link
        stranger = self.client_class()
        self.assertNotIn("Availability", self.labels(stranger))
        stranger.get(f"/shop/draft/{link.token}/")
        self.assertIn("Availability", self.labels(stranger))
        page = stranger.get("/shop/")
        self.assertContains(page, "You see a draft")
        self.assertIn("private", page["Cache-Control"])
        self.client.post(f"/racks/draft-link/{link.pk}/end/", {})
        self.assertNotIn("Availability", self.labels(stranger))
        self.assertEqual(stranger.get(f"/shop/draft/{link.token}/").status_code, 404)


class HistoryTests(LiveCase):
    def page(self, query=""):
        """Return the page of the history."""
        return self.client.get(f"/history/{query}").context["page"]

    def words(self, query=""):
        """Return the lines in words."""
        return [view.line.words for view in self.page(query).lines]

    def test_everything_leaves_a_line(self):
        """Changes of the draft, undo, redo, put live, schedules, links, the catalogue, other systems: who, when, in words."""
        change("stock", label="Availability")
        facet_changes.undo(actor=self.owner)
        facet_changes.redo(actor=self.owner)
        live.put_live(note="Spring", actor=self.owner)
        live.schedule(timezone.now() + timedelta(days=2))
        live.call_off(actor=self.owner)
        live.end_link(live.make_link(actor=self.owner).pk, actor=self.owner)
        row = Attribute.objects.get(identity="material")
        attributes.change_attribute(
            row, attributes.Definition("Fibre", row.kind, many=row.many, on_variants=row.on_variants), actor=self.owner
        )
        undo_last(actor=self.owner)
        sku = Variant.objects.filter(is_implicit=False).first().sku
        for level in (3, 4):
            set_offers([{"sku": sku, "level": level}], by="Till")
        words = self.words()
        till = next(view.line for view in self.page().lines if view.line.who == "Till")
        self.assertEqual((till.words, till.calls), ("Price or stock of 1 article", 2))
        for wanted in (
            "Stock: called Availability", "Undone: Stock: called Availability", "Done again: Stock: called Availability",
            "Put live: Spring", "Called off what was scheduled", "Made a secret link that shows the draft", "Ended a secret link",
            "Renamed material to Fibre", "Followed material, now Fibre", "Undone: Renamed material to Fibre", "The beginning",
        ):  # fmt: skip
            self.assertTrue(any(wanted.lower() in line.lower() for line in words), (wanted, words))
        self.assertTrue(all(view.line.who for view in self.page().lines))

    def test_asked_for(self):
        """By kind, person, facet, words and day; what no question understands is passed over."""
        change("stock", label="Availability")
        facet_changes.change_facet("rating", {**facet_document(the_setup().draft.document, "rating"), "label": "Stars"}, actor=self.owner)
        self.assertEqual(self.words("?facet=stock"), ["Stock: called Availability"])
        self.assertEqual(self.words(f"?who={self.owner.pk}"), ["Rating: called Stars"])
        self.assertEqual(self.words("?find=availab"), ["Stock: called Availability"])
        self.assertNotIn("Rating: called Stars", self.words("?what=catalogue"))
        self.assertEqual(self.words("?until=2001-01-01"), [])
        for wrong in ("?until=soon&before=x&who=me&live=nine", "?who=token:%00", "?before=9999-99-99T99:99", "?live=999999999999999"):
            self.assertEqual(self.client.get(f"/history/{wrong}").status_code, 200)

    def test_taken_back_alone(self):
        """One change goes, what came since stays; what was changed again is told and stays; that has its line and undo, too."""
        change("stock", label="Availability")
        change("rating", label="Stars")
        line = next(view.line for view in self.page("?facet=stock").lines)
        self.client.post(f"/history/{line.entry.pk}/take-back/", {"edition": the_setup().draft_id})
        facets = {facet["key"]: facet["label"] for facet in the_setup().draft.document["facets"]}
        self.assertEqual((facets["stock"], facets["rating"]), ("Stock", "Stars"))
        change("stock", label="In stock?")
        said = self.client.post(f"/history/{line.entry.pk}/take-back/", {"next": "/history/"}, follow=True)
        self.assertContains(said, "In stock? was changed again since.")

    def test_what_going_back_would_do(self):
        """Before it is done the changes are told, with their counts; then both ways do it."""
        first = PutLive.objects.get()
        change("price", cuts=[15, 30])
        live.put_live(actor=self.owner)
        back = self.page(f"?live={first.pk}").back
        ((label, words, before, after),) = back.changes
        self.assertEqual((label, len(before) < len(after)), ("Price", True))
        self.assertTrue(words)
        self.client.post(f"/history/live/{first.pk}/go-back/", {"seen": back.seen, "note": "Too coarse"})
        self.assertEqual(PutLive.objects.first().note, "Too coarse")
        self.assertTrue(self.page(f"?live={first.pk}").back.is_now)
        self.client.post(f"/history/live/{first.pk}/go-back/", {"seen": back.seen})
        self.assertEqual(PutLive.objects.count(), 3)  # it was seen before the last one: refused
