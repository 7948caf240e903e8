"""Changes of the set-up as services: what follows a change, what is refused, and two at the same moment."""

from threading import Barrier, Thread

from django.db import connection
from django.test import TestCase, TransactionTestCase

from binsort.changes import facets as facet_changes
from binsort.changes import live as live_changes
from binsort.changes import racks as rack_changes
from binsort.core.facets.facet_file import FacetFileError
from binsort.racks.models import Edition
from binsort.racks.setup import UnknownFacet, changed_facets, changes_since_live, the_setup

BRAND = {"key": "brand", "label": "Brand", "source": {"kind": "brand"}}
STOCK = {"key": "stock", "label": "Stock", "source": {"kind": "stock"}, "show_when": {"all": [{"facet": "brand", "picked": True}]}}


def draft():
    """Return the document that is worked on."""
    return the_setup().draft.document


class EditingTests(TestCase):
    def setUp(self):
        """A rack of two facets, the second shown once the first is picked."""
        for facet in (BRAND, STOCK):
            facet_changes.add_facet(facet, rack="side", actor=None)

    def test_a_new_key_is_followed(self):
        """Racks and rules name the facet by its new key."""
        facet_changes.change_facet("brand", {**BRAND, "key": "maker"}, actor=None)
        self.assertEqual(draft()["racks"][0]["facets"], ["maker", "stock"])
        self.assertEqual(draft()["facets"][1]["show_when"], {"all": [{"facet": "maker", "picked": True}]})

    def test_rules_on_a_removed_facet_go_with_it(self):
        """The other facet stays, and is shown always."""
        rack_changes.take_off_rack("brand", "side", actor=None)
        self.assertEqual([facet["key"] for facet in draft()["facets"]], ["stock"])
        self.assertNotIn("show_when", draft()["facets"][0])

    def test_what_is_not_valid_is_not_kept(self):
        """The problems are named and the draft stays as it was."""
        before = the_setup().draft_id
        with self.assertRaises(FacetFileError) as caught:
            facet_changes.change_facet("brand", {**BRAND, "label": " ", "free": True}, actor=None)
        self.assertEqual({problem.id for problem in caught.exception.problems}, {"empty-label", "kind-without-ranges"})
        self.assertEqual(the_setup().draft_id, before)
        with self.assertRaises(UnknownFacet):
            rack_changes.take_off_rack("nothing", "side", actor=None)

    def test_changes_since_live_are_counted_by_facet(self):
        """Added, changed and removed facets count, and so does another order; undoing all of it counts nothing."""
        self.assertEqual(changes_since_live(the_setup()), 2)
        live_changes.put_live()
        facet_changes.change_facet("brand", {**BRAND, "label": "Maker"}, actor=None)
        facet_changes.change_facet("brand", {**BRAND, "label": "Made by"}, actor=None)
        self.assertEqual(changes_since_live(the_setup()), 1)
        facet_changes.order_facets("side", ["stock", "brand"], actor=None)
        self.assertEqual(changes_since_live(the_setup()), 2)
        self.assertEqual(changed_facets(the_setup()), {"brand"})
        for _ in range(3):
            facet_changes.undo()
        self.assertEqual(changes_since_live(the_setup()), 0)

    def test_redo_follows_the_newest_branch(self):
        """After undo and another change, redo does not lead back to what was undone."""
        facet_changes.undo()
        facet_changes.add_facet({**BRAND, "key": "tag", "label": "Tag", "source": {"kind": "tag"}}, rack="side", actor=None, place=0)
        self.assertEqual(draft()["racks"][0]["facets"], ["tag", "brand"])
        self.assertIsNone(facet_changes.redo())
        facet_changes.undo()
        self.assertEqual(facet_changes.redo().summary, "Added Tag")


class AtTheSameMomentTests(TransactionTestCase):
    def test_of_two_changes_from_one_edition_one_wins(self):
        """The other is told; with no edition named both would be made, one after the other."""
        for named, made in ((True, 1), (False, 2)):
            with self.subTest(named=named):
                facet_changes.add_facet({**BRAND, "key": f"brand-{named}".lower()}, rack="side", actor=None)
                base, before = the_setup().draft_id, Edition.objects.count()
                refused = self.both(base if named else None)
                self.assertEqual((Edition.objects.count() - before, len(refused)), (made, 2 - made))

    def both(self, based_on):
        """Let two threads make a change at once; returns who was refused."""
        barrier, refused = Barrier(2), []

        def change(name):
            barrier.wait()
            try:
                facet_changes.change(name, lambda document: None, actor=None, based_on=based_on)
            except facet_changes.EditedMeanwhile:
                refused.append(name)
            finally:
                connection.close()

        threads = [Thread(target=change, args=(name,)) for name in ("one", "other")]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return refused
