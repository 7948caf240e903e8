"""The checkup: everything that looks wrong in one list, mended and undone in one step, left until the facts change."""

from django.contrib.auth import get_user_model
from django.test import TestCase
from django.utils import timezone

from binsort.catalog.models import Product
from binsort.changes import checkups, live
from binsort.changes import facets as facet_changes
from binsort.demo.loader import load_demo
from binsort.footfall.kinds import DEAD_END, IN_VAIN, LOOKED, USED, VISIT
from binsort.footfall.models import DaySum
from binsort.racks.models import Entry, LeftAsIs
from binsort.racks.setup import facet_document, the_setup
from binsort.workbench.checkup.looking import look
from binsort.workbench.checkup.page import open_findings


class CheckupTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """The demo shop."""
        load_demo()
        cls.owner = get_user_model().objects.get(username="mara")

    def setUp(self):
        """Sign in."""
        self.client.force_login(self.owner)

    def page(self, query=""):
        """Return the page."""
        return self.client.get(f"/checkup/{query}").content.decode()

    def the(self, finding, subject=""):
        """Return one finding."""
        return next(one for one in look(the_setup()) if one.found.id == finding and subject in one.found.subject)

    def names(self, one):
        """Return the fields by which a form names a finding."""
        return {"place": one.place, "finding": one.found.id, "subject": one.found.subject}

    def test_the_list(self):
        """By weight, by rack and by kind all of them are there; one rack alone has its own; the bar has the number."""
        every = look(the_setup())
        self.assertGreater(len(every), 5)
        self.assertEqual([one.weight for one in every], sorted((one.weight for one in every), reverse=True))
        for by in ("weight", "rack", "kind"):
            self.assertEqual(self.page(f"?by={by}").count(" data-finding"), len(every))
        with_rack = [one for one in every if one.about.rack == "side"]
        self.assertEqual(self.page("?rack=side").count(" data-finding"), len(with_rack))
        self.assertContains(self.client.get("/checkup/number/"), f'<span class="n">{len(every)}</span>')

    def test_mended_and_undone(self):
        """A mend of a facet by its button, and one of the whole: gone from the list; undone, it is back."""
        one = self.the("look-alikes")
        mend = one.found.mends[0]
        fields = {**self.names(one), "act": "mend", "mend": mend.key, "edition": the_setup().draft_id, "next": "/checkup/"}
        done = self.client.post(f"/racks/facets/{one.about.key}/act/?rack=side", fields, follow=True)
        self.assertEqual(done.redirect_chain[-1][0], "/checkup/")
        self.assertNotIn(one.key, [other.key for other in look(the_setup())])
        facet_changes.undo(actor=self.owner)
        self.assertIn(one.key, [other.key for other in look(the_setup())])
        unused = self.the("unused-attribute", "breaking load")
        fields = {**self.names(unused), "mend": "add", "edition": the_setup().draft_id}
        self.assertContains(self.client.post("/checkup/mend/", fields, follow=True), "Add Breaking load.")
        self.assertEqual(the_setup().draft.document["racks"][0]["facets"][-1], "breaking-load")
        self.assertContains(self.client.post("/checkup/mend/", fields, follow=True), "mended meanwhile")

    def test_two_people(self):
        """A mend of a state that somebody changed meanwhile writes nothing, and is told."""
        unused, seen = self.the("unused-attribute", "breaking load"), the_setup().draft_id
        colour = facet_document(the_setup().draft.document, "colour")
        facet_changes.change_facet("colour", {**colour, "label": "Tint"}, actor=self.owner)
        fields = {**self.names(unused), "mend": "add", "edition": seen}
        self.assertContains(self.client.post("/checkup/mend/", fields, follow=True), "Not done: meanwhile")
        self.assertEqual(facet_document(the_setup().draft.document, "colour")["label"], "Tint")
        self.assertNotIn("breaking-load", the_setup().draft.document["racks"][0]["facets"])

    def test_left_until_the_facts_change(self):
        """With a reason it stands below, and in the history; with other facts it is back; taken up it is back at once."""
        one = self.the("unbinned")
        count = len(open_findings(the_setup()))
        self.client.post("/checkup/leave/", {**self.names(one), "reason": " all of them\n return "})
        self.assertEqual(len(open_findings(the_setup())), count - 1)
        self.assertIn("“all of them return”", self.page())
        self.assertIn("all of them return", Entry.objects.first().words)
        Product.objects.filter(visible=True).first().delete()
        again = [other for other in open_findings(the_setup()) if other.key == one.key]
        if again:  # the product was one of those
            self.assertNotEqual(again[0].found.text, one.found.text)
        other = self.the("unused-attribute", "breaking load")
        left = checkups.leave(*other.key, said=other.found.text, reason="", actor=self.owner)
        self.assertNotIn(other.key, [found.key for found in open_findings(the_setup())])
        LeftAsIs.objects.filter(pk=left.pk).update(said="1 product has breaking load, and nobody can narrow by it")
        self.assertIn(other.key, [found.key for found in open_findings(the_setup())])
        checkups.leave(*other.key, said=other.found.text, reason="", actor=self.owner)
        self.assertContains(self.client.post(f"/checkup/take-up/{left.pk}/", follow=True), "Taken up again")
        self.assertIn(other.key, [found.key for found in open_findings(the_setup())])
        self.assertContains(self.client.post("/checkup/leave/", {**self.names(other), "reason": "x" * 300}, follow=True), "200 letters")

    def test_new_ones_are_marked(self):
        """Nothing at the first look; afterwards what came since."""
        self.assertNotIn('class="is-new"', self.page())
        self.assertNotIn('class="is-new"', self.page())
        colour = facet_document(the_setup().draft.document, "colour")
        facet_changes.change_facet("colour", {**colour, "bins": {"only": ["Navy"]}}, actor=self.owner)
        fresh = self.page()
        self.assertIn('class="is-new"', fresh)
        self.assertNotIn('class="is-new"', self.page())

    def test_what_visits_tell(self):
        """Weights take visits in; a dead end and a search in vain are findings; a text leads to the bin that is chosen for it, and back."""
        day = timezone.localdate()

        def happened(kind, **times):
            DaySum.objects.bulk_create(
                DaySum(day=day, kind=kind.key, what=what, times=number, last=timezone.now()) for what, number in times.items()
            )

        before = {one.key: one.weight for one in look(the_setup())}
        happened(VISIT, **{"": 400})
        happened(LOOKED, **{"": 400})
        happened(USED, colour=100, stock=120, price=90, group=90, diameter=90, material=90)
        happened(IN_VAIN, **{"bungee zz": 40, "kedge zz": 4})
        happened(DEAD_END, **{"colour=black&colour=nothing&diameter=lt-5&rating=lt-3&stock=out": 30})
        told = {one.found.id: one for one in look(the_setup())}
        alike = self.the("look-alikes")
        self.assertLess(alike.weight, before[alike.key])
        self.assertEqual(told["hardly-used"].about.key, "rating")
        self.assertContains(self.client.get("/checkup/"), "about 400 visits in 1 day")
        vain = self.the("in-vain")
        self.assertEqual((vain.found.text, vain.met), ("“bungee zz” is searched for in vain", 40))
        self.assertNotContains(self.client.get("/checkup/"), "kedge zz")  # fewer than five
        self.assertIn("Shock cord", self.page())
        fields = {**self.names(vain), "bin": "group=rope-and-cordage-small-cordage-shock-cord", "edition": the_setup().draft_id}
        wrong = self.client.post("/checkup/lead/", {**fields, "bin": "group=nothing"}, follow=True)
        self.assertContains(wrong, "There is no such bin any more")
        group = next(facet for facet in the_setup().draft.document["facets"] if facet["key"] == "group")
        done = self.client.post("/checkup/lead/", fields, follow=True)
        self.assertContains(done, "“bungee zz” finds Shock cord")
        self.assertNotIn(vain.key, [one.key for one in look(the_setup())])
        found = lambda text: self.client.get("/shop/", {"q": text}, follow=True).context["listing"].total  # noqa: E731
        self.assertEqual(found("bungee zz"), 0)  # not live yet
        live.put_live(actor=self.owner)
        self.assertGreater(found("Bungee ZZ"), 20)
        self.assertEqual(found("bungee  zz halyard"), 0)  # every word counts
        facet_changes.undo(actor=self.owner)
        self.assertEqual(next(facet for facet in the_setup().draft.document["facets"] if facet["key"] == "group"), group)

    def test_what_takes_its_time_follows(self):
        """Without time the page is there with what is known and asks for the rest itself; that has everything, and only that counts as seen."""
        colour = facet_document(the_setup().draft.document, "colour")
        every = len(look(the_setup()))
        facet_changes.change_facet("colour", {**colour, "label": "Tint"}, actor=self.owner)
        with self.settings(CHECKUP_SECONDS=0):
            first = self.page()
            self.assertIn("all=1", first)
            self.assertLess(first.count(" data-finding"), every)
            self.assertNotIn("Nothing looks wrong", first)
            self.assertNotIn("checkup", self.client.session)
            rest = self.page("?rack=&by=weight&all=1")
            self.assertEqual(rest.count(" data-finding"), len(look(the_setup())))
            self.assertNotIn("all=1", self.page())  # it is known from now on
