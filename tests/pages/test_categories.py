"""The category tree: products and facets follow every change of it, and each is undone."""

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.catalog.models import Category
from binsort.catalog.store.category_paths import category_paths
from binsort.changes import categories
from binsort.changes import facets as facet_changes
from binsort.changes.catalogue import replace_catalogue
from binsort.changes.locks import Refused
from binsort.changes.undo import ChangedSince, take_back, undo_last
from binsort.core.facets.query import Query
from binsort.racks.setup import the_setup
from binsort.tally.current import current
from binsort.workbench.categories.page import step

from .test_revising import same, state

LINES = [
    b'{"sku": "A", "name": "Warp", "category": "Ropes > Mooring > Warps"}',
    b'{"sku": "B", "name": "Halyard", "category": ["Ropes > Running", "Sale"]}',
    b'{"sku": "C", "name": "Fender", "category": "Deck"}',
]
FACET = {"key": "kind", "label": "Kind", "source": {"kind": "category"}, "scope": "under", "under": "Ropes > Mooring", "deep": True}


class CategoryTests(TestCase):
    def setUp(self):
        """Three products in a tree, and a facet below one of its categories."""
        replace_catalogue(LINES)
        facet_changes.add_facet(FACET, rack="side", actor=None)
        self.before, self.tree = state(), self.paths()

    def paths(self):
        """The paths of all categories."""
        return sorted(" > ".join(path) for path in category_paths().values())

    def key(self, name):
        """The number of a category."""
        return Category.objects.get(name=name).pk

    def listed(self, *path):
        """The products of a listing, by the counts."""
        rack = current().rack(())
        return list(rack.answer(Query(category=path)).products)

    def test_renaming_and_moving(self):
        """What is below follows, listings and facets too; the address stays; undone, everything is as before."""
        categories.rename(self.key("Mooring"), "Berthing", actor=None)
        self.assertEqual(self.listed("ropes", "berthing", "warps"), ["A"])
        self.assertEqual(Category.objects.get(name="Berthing").slug, "mooring")
        self.assertEqual(the_setup().draft.document["facets"][0]["under"], "Ropes > Berthing")
        categories.move(self.key("Berthing"), self.key("Deck"), 0, actor=None)
        self.assertEqual((self.listed("deck"), self.listed("ropes")), (["A", "C"], ["B"]))
        self.assertEqual(the_setup().draft.document["facets"][0]["under"], "Deck > Berthing")
        undo_last()
        undo_last()
        self.assertTrue(same(state(), self.before))
        self.assertEqual(self.paths(), self.tree)
        self.assertEqual(self.listed("ropes", "mooring"), ["A"])

    def test_deleting(self):
        """Products stay, without it and what is below; they keep their other categories; undone, they are back in it."""
        revision = categories.delete(self.key("Ropes"))
        self.assertEqual((revision.changed, self.paths()), (2, ["Deck", "Sale"]))
        self.assertEqual([product.categories for product in state().values()], [(), (("Sale",),), (("Deck",),)])
        undo_last()
        self.assertTrue(same(state(), self.before))
        self.assertEqual(self.paths(), self.tree)

    def test_refusals(self):
        """Not below itself, not two of a name, not without a name; what was changed since is not put back unasked."""
        ropes, warps = self.key("Ropes"), self.key("Warps")
        for change, words in (
            (lambda: categories.move(ropes, warps, 0), "cannot be below itself"),
            (lambda: categories.rename(ropes, "deck"), "a category deck at the top already"),
            (lambda: categories.rename(ropes, "A > B"), "without “>”"),
            (lambda: categories.add(" ", None), "needs a name"),
            (lambda: categories.add("warps", self.key("Mooring")), "below Mooring already"),
            (lambda: categories.move(0, None, 0), "is gone"),
        ):
            with self.assertRaisesRegex(Refused, words):
                change()
        self.assertEqual(self.paths(), self.tree)
        first = categories.rename(ropes, "Cordage")
        categories.rename(ropes, "Lines")
        with self.assertRaisesRegex(ChangedSince, "the category Cordage"):
            take_back(first.pk)
        self.assertIn("Lines > Mooring > Warps", self.paths())

    def test_steps_by_keyboard(self):
        """Up, down, in and out, and not beyond the ends."""
        order = lambda: list(Category.objects.filter(parent=None).order_by("place").values_list("name", flat=True))  # noqa: E731
        deck = self.key("Deck")
        for way, wanted in (("up", ["Ropes", "Deck", "Sale"]), ("up", ["Deck", "Ropes", "Sale"]), ("up", ["Deck", "Ropes", "Sale"])):
            categories.move(deck, *step(deck, way), actor=None)
            self.assertEqual(order(), wanted)
        ropes = self.key("Ropes")
        categories.move(ropes, *step(ropes, "in"), actor=None)
        self.assertEqual((order(), self.listed("deck")), (["Deck", "Sale"], ["A", "B", "C"]))
        categories.move(ropes, *step(ropes, "out"), actor=None)
        self.assertEqual(order(), ["Deck", "Ropes", "Sale"])

    def test_pages(self):
        """The tree with its products, changes by its forms, and what deleting would touch."""
        self.client.force_login(get_user_model().objects.create_user("owner", is_staff=True))
        self.assertContains(self.client.get("/catalogue/categories/"), "Warps")
        post = lambda **data: self.client.post("/catalogue/categories/", data, follow=True)  # noqa: E731
        self.assertContains(post(add="1", name="Rigging", parent=str(self.key("Deck"))), "Rigging is in the tree")
        self.assertContains(post(key=str(self.key("Rigging")), rename="1", name="Deck gear"), "Renamed the category Rigging to Deck gear")
        self.assertContains(post(key=str(self.key("Deck gear")), way="out"), "Moved the category Deck gear to the top")
        self.assertContains(post(key=str(self.key("Sale")), parent=str(self.key("Deck")), place="0"), "Moved the category Sale below Deck")
        self.assertContains(post(key="x", rename="1"), "Not done: that category is gone")
        asked = self.client.get(f"/catalogue/categories/{self.key('Mooring')}/delete/")
        self.assertContains(asked, "categor")
        self.assertContains(asked, "1 facet names it")
        done = self.client.post(f"/catalogue/categories/{self.key('Mooring')}/delete/", follow=True)
        self.assertContains(done, "Deleted the category Mooring on 1 product.")
