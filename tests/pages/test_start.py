"""A second proposal: what a rack does not have yet, with what it would save there; added in one step, and taken back in one."""

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.changes import facets as facet_changes
from binsort.demo.loader import load_demo
from binsort.racks.setup import the_setup

HERE = "/racks/start/"


class SecondProposalTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """The demo shop, whose rack has no brand."""
        load_demo()
        cls.owner = get_user_model().objects.get(username="mara")

    def setUp(self):
        """Sign in."""
        self.client.force_login(self.owner)

    def facets(self):
        """Return the rack of the draft."""
        return the_setup().draft.document["racks"][0]["facets"]

    def test_what_is_new(self):
        """Only what saves clicks is ticked; the figures follow the ticks; added, the page has what it promised, and nothing is proposed twice."""
        page = self.client.get(HERE).context["page"]
        self.assertEqual([line.label for line in page.shelves if line.ticked], ["Brand"])
        self.assertIn("Breaking load", [line.label for line in page.shelves])
        self.assertLess(page.with_rack, page.without - 0.5)
        none = self.client.get(f"{HERE}?chosen=1").context["page"]
        self.assertEqual((none.with_rack, none.without), (page.without, page.without))
        before = self.facets()
        fields = {"rack": "1", "facet": ["brand"], "edition": the_setup().draft_id}
        self.assertContains(self.client.post(HERE, fields, follow=True), "Added 1 proposed facet.")
        self.assertEqual([key for key in self.facets() if key != "brand"], before)
        after = self.client.get(HERE).context["page"]
        self.assertEqual({line.label for line in after.shelves}, {line.label for line in page.shelves} - {"Brand"})
        self.assertAlmostEqual(after.without, page.with_rack)
        facet_changes.undo(actor=self.owner)
        self.assertEqual(self.facets(), before)

    def test_nothing_is_lost(self):
        """A whole rack can still be proposed; without a tick nothing is added; of two people the second is told."""
        self.assertContains(self.client.get(f"{HERE}?anew=1"), "A rack to start with")
        seen = the_setup().draft_id
        self.assertContains(self.client.post(HERE, {"rack": "1", "edition": seen}, follow=True), "Tick one facet at least")
        facet_changes.order_facets("side", list(reversed(self.facets())), actor=self.owner)
        late = self.client.post(HERE, {"rack": "1", "facet": "brand", "edition": seen}, follow=True)
        self.assertContains(late, "Not done: meanwhile")
        self.assertNotIn("brand", self.facets())
