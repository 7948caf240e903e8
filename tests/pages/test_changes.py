"""Changes beside each other: no price lost, no half of a change, everything taken back and done again."""

import threading
from dataclasses import replace
from unittest import mock

from django.contrib.auth import get_user_model
from django.test import TestCase, TransactionTestCase

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.dictionary.entry import entries
from binsort.catalog.dictionary.states import attributes_state
from binsort.catalog.files.export import take_out
from binsort.catalog.files.product_file import product_file_of
from binsort.catalog.models import Attribute, Category, RevisedProduct, Revision
from binsort.catalog.models import Product as Row
from binsort.catalog.store.product_rows import all_products, products_of
from binsort.changes import attributes, categories, locks, revisions, upserts
from binsort.changes import facets as facet_changes
from binsort.changes import live as live_changes
from binsort.changes.catalogue import replace_catalogue
from binsort.changes.imports import bring_in
from binsort.changes.locks import Busy, Refused
from binsort.changes.products import SeenOtherwise, delete_many, new_product, set_field
from binsort.changes.revisions import newest_undone, revise, revise_each
from binsort.changes.undo import ChangedSince, ParentGone, do_again, take_back, undo_last
from binsort.changes.upserts import set_offers, upsert_products
from binsort.racks.setup import the_setup
from tests.connections import elsewhere

from .test_bringing import FileCase
from .test_revising import same, state

LINES = [
    b'{"sku": "A", "name": "Horn cleat", "offers": {"price": 5}, "category": "Deck > Cleats", "additionalProperty": [{"name": "Colour", "value": "Gray"}]}',
    b'{"sku": "B", "name": "Fender", "category": "Deck > Fenders", "offers": {"price": 9}, "additionalProperty": [{"name": "Colour", "value": "Grey"}]}',
    b'{"productGroupID": "C", "name": "Halyard", "hasVariant": [{"sku": "C-1", "offers": {"price": 3}}, {"sku": "C-2", "offers": {"price": 4}}]}',
]  # fmt: skip


def prices():
    """The price of every article, by product."""
    return {product.id: [article.offer.price for article in product.articles] for product in all_products()}


class BesideEachOtherTests(TransactionTestCase):
    """Two writers at once, each with a connection of its own."""

    def setUp(self):
        """Three products."""
        replace_catalogue(LINES)
        self.addCleanup(replace_catalogue, [])

    def change_slowly(self, names, met, go_on):
        """Change brands, stopping once the products are locked and read until told to go on."""

        def becomes(name, product):
            if name == names[-1]:
                met.set()
                go_on.wait(10)
            return replace(product, brand="Hollin")

        with mock.patch.object(revisions, "BATCH", 1):
            return revise_each("Brands", names, becomes)

    def price_during(self, names, priced):
        """Set prices from outside while products are being changed by hand; returns both when they are through."""
        met, go_on = threading.Event(), threading.Event()
        by_hand = elsewhere(lambda: self.change_slowly(names, met, go_on))
        met.wait(10)
        from_outside = elsewhere(lambda: set_offers(priced))
        threading.Timer(0.3, go_on.set).start()
        return by_hand.result(20), from_outside.result(20)

    def test_a_price_beside_a_change_by_hand(self):
        """The price waits for the hand and both stay, for the product at hand and for those that a long change has done or not reached."""
        self.price_during(["A"], [{"sku": "A", "price": 7}])
        self.assertEqual((prices()["A"], products_of(["A"])["A"].brand), ([7], "Hollin"))
        revision, _ = self.price_during(["A", "B", "C"], [{"sku": "C-2", "price": 8}, {"sku": "A", "price": 6}])
        self.assertEqual((revision.changed, prices()), (2, {"A": [6], "B": [9], "C": [3, 8]}))

    def test_with_no_product_locked_the_price_is_lost(self):
        """The twin: where the price does not wait for the product's row, the hand writes over it."""

        def unlocked(identities):
            wanted = [name for name in identities if "\0" not in name]
            places = dict(Row.objects.filter(identity__in=wanted).values_list("identity", "place"))
            return locks.Locked(products_of(wanted, hidden=True), places)

        with mock.patch.object(upserts, "lock_products", unlocked), mock.patch.object(revisions, "lock_products", unlocked):
            self.price_during(["A"], [{"sku": "A", "price": 7}])
        self.assertEqual(prices()["A"], [5])

    def test_the_same_new_product_at_once(self):
        """Two that write one new product, with a category and an attribute that are new as well: one made it, to the other it is there."""
        document = {
            "sku": "N", "name": "New", "category": "Attic > Box", "offers": {"price": 1},
            "additionalProperty": [{"name": "Grain", "value": "fine"}],
        }  # fmt: skip
        for turn in range(5):
            numbered = {**document, "sku": f"N{turn}", "category": f"Attic {turn} > Box"}
            start = threading.Barrier(4)

            def put(numbered=numbered, start=start):
                start.wait(10)
                return upsert_products([numbered])

            done = [coming.result(20) for coming in [elsewhere(put) for _ in range(4)]]
            self.assertEqual(sorted((one.new, one.unchanged) for one in done), [(0, 1), (0, 1), (0, 1), (1, 0)])
            self.assertEqual(Category.objects.filter(name=f"Attic {turn}").count(), 1)

    def test_a_hand_waits_for_a_price(self):
        """In the other order, the change by hand starts from the new price."""
        met, go_on = threading.Event(), threading.Event()
        bulk = upserts.Variant.objects.bulk_update

        def slowly(*arguments):
            met.set()
            go_on.wait(10)
            return bulk(*arguments)

        with mock.patch.object(upserts.Variant.objects, "bulk_update", slowly):
            from_outside = elsewhere(lambda: set_offers([{"sku": "A", "price": 7}]))
            met.wait(10)
            by_hand = elsewhere(lambda: revise_each("Brand", ["A"], lambda _, product: replace(product, brand="Hollin")))
            threading.Timer(0.3, go_on.set).start()
            from_outside.result(20), by_hand.result(20)
        self.assertEqual((prices()["A"], products_of(["A"])["A"].brand), ([7], "Hollin"))

    def both(self, one, other):
        """Begin two changes at the same moment; returns both once they have ended."""
        barrier = threading.Barrier(2, timeout=10)

        def begun(work):
            barrier.wait()
            return work()

        return [elsewhere(lambda work=work: begun(work)) for work in (one, other)]

    def test_two_make_the_same(self):
        """Two writers of one new product, attribute and category: both are answered, one of them made it, nothing stands twice."""
        document = {"sku": "N", "name": "New", "category": "Bosun > Thread", "additionalProperty": [{"name": "Weave", "value": "flat"}]}
        for _ in range(5):
            done = self.both(lambda: upsert_products([document]), lambda: upsert_products([document]))
            self.assertEqual(sorted(found.result(20).new for found in done), [0, 1])
            upserts.delete_products(["N"])
        self.assertEqual(Category.objects.filter(path_identity="bosun > thread").count(), 1)
        self.assertEqual(Attribute.objects.filter(identity="weave").count(), 1)
        by_hand = self.both(lambda: new_product("New", "M"), lambda: new_product("New", "M"))
        refused = [str(found.exception(20)) for found in by_hand if found.exception(20)]
        self.assertEqual(refused, ["There is a product M already. Give this one another SKU."])

    def test_two_make_one_category_while_editing(self):
        """Products that are there and get a category that is not: the tree has it once, and both changes are made."""
        barrier, met = threading.Barrier(2, timeout=10), set()

        def place(name):
            def becomes(_, product):
                if name not in met:  # begun again with the tree held first, there is nobody to meet
                    met.add(name)
                    barrier.wait()
                return replace(product, categories=(("Bosun", "Twine"),))

            return revise_each("Placed", [name], becomes)

        for found in (elsewhere(lambda: place("A")), elsewhere(lambda: place("B"))):
            self.assertEqual(found.result(20).changed, 1)
        self.assertEqual(Category.objects.filter(path_identity="bosun > twine").count(), 1)

    def test_nobody_waits_for_ever(self):
        """Where a row is held too long the change is refused with the reason, and can be sent again."""
        held, go_on = threading.Event(), threading.Event()
        by_hand = elsewhere(lambda: self.change_slowly(["A"], held, go_on))
        held.wait(10)
        with (
            mock.patch.object(locks, "_WAIT_FOR_ROWS", "100ms"),
            self.assertRaisesRegex(Busy, "changing the same at this moment. Try again"),
        ):
            set_offers([{"sku": "A", "price": 7}])
        go_on.set()
        by_hand.result(20)

    def test_a_cell_is_compared_inside_its_lock(self):
        """Somebody else's value that came while a cell was on its way is not overwritten."""
        met, go_on = threading.Event(), threading.Event()
        by_hand = elsewhere(lambda: self.change_slowly(["A"], met, go_on))
        met.wait(10)
        brand = entries(definitions())["brand"]
        cell = elsewhere(lambda: set_field("A", brand, "Samphire", seen=""))
        threading.Timer(0.3, go_on.set).start()
        by_hand.result(20)
        self.assertIsInstance(cell.exception(20), SeenOtherwise)
        self.assertEqual(products_of(["A"])["A"].brand, "Hollin")


FACETS = [
    {"key": "colour", "label": "Colour", "source": {"kind": "attribute", "attribute": "Colour"}, "bins": {"leave_out": ["Gray"], "order": ["Gray", "Navy"]},
     "look": {"swatches": {"Gray": ["#808080"]}, "found_by": {"Gray": ["stone"]}}},
    {"key": "kind", "label": "Kind", "source": {"kind": "category"}, "scope": "under", "under": "Deck > Cleats",
     "look": {"found_by": {"deck > cleats": ["belay"]}}},
]  # fmt: skip


class TakenBackTests(TestCase):
    """What a change took along comes back with it."""

    def setUp(self):
        """Three products and two facets, live and with a draft of their own."""
        replace_catalogue(LINES)
        for facet in FACETS:
            facet_changes.add_facet(facet, rack="side", actor=None)
        live_changes.put_live()
        facet_changes.change_facet("kind", {**FACETS[1], "label": "Sort"}, actor=None)
        self.colour = Attribute.objects.get(identity="colour")
        self.before = self.all()

    def all(self):
        """Products, tree, dictionary, and the facets of draft and live."""
        setup = the_setup()
        tree = sorted(Category.objects.values_list("path_identity", "slug", "place"))
        words = sorted(Attribute.objects.values_list("identity", "name", "kind"))
        return state(), tree, words, setup.draft.document["facets"], setup.live.document["facets"]

    def assert_as(self, expected):
        """Everything is as it was."""
        found = self.all()
        self.assertTrue(same(found[0], expected[0]))
        self.assertEqual(found[1:], expected[1:])

    def test_facets_come_back_and_follow_again(self):
        """A rename, a merge and a move, taken back one after the other and done again: products, tree, draft and live each time."""
        steps = (
            lambda: attributes.change_attribute(self.colour, attributes.Definition("Hue", "choice", on_variants=self.colour.on_variants)),
            lambda: attributes.merge_values(Attribute.objects.get(identity="hue"), ["Gray"], "Grey"),
            lambda: categories.rename(Category.objects.get(name="Cleats").pk, "Belays"),
            lambda: categories.move(Category.objects.get(name="Belays").pk, None, 0),
            lambda: categories.delete(Category.objects.get(name="Deck").pk),
        )
        states = [self.before]
        for step in steps:
            step()
            states.append(self.all())
        setup = the_setup()
        self.assertEqual([facet["source"].get("attribute") for facet in setup.live.document["facets"]], ["Hue", None])
        self.assertEqual(setup.draft.document["facets"][0]["bins"], {"leave_out": ["Grey"], "order": ["Grey", "Navy"]})
        self.assertEqual(
            [facet["look"]["found_by"] for facet in setup.live.document["facets"]], [{"Grey": ["stone"]}, {"Belays": ["belay"]}]
        )
        self.assertEqual((setup.draft.document["facets"][1]["under"], setup.draft.document["facets"][1]["label"]), ("Belays", "Sort"))
        for expected in reversed(states[:-1]):
            undo_last()
            self.assert_as(expected)
        for expected in states[1:]:
            do_again(newest_undone().pk)
            self.assert_as(expected)
        self.assertIsNone(newest_undone())

    def test_a_facet_changed_since_is_not_overwritten(self):
        """A part that somebody changed after it had followed is named; its other parts and other facets are no matter."""
        revision = attributes.merge_values(self.colour, ["Gray"], "Grey")
        draft = the_setup().draft.document["facets"]
        facet_changes.change_facet("colour", {**draft[0], "label": "Paint"}, actor=None)
        take_back(revision.pk)
        self.assertEqual(
            (the_setup().draft.document["facets"][0]["label"], the_setup().draft.document["facets"][0]["bins"]["leave_out"]),
            ("Paint", ["Gray"]),
        )
        again = attributes.merge_values(self.colour, ["Gray"], "Grey")
        facet_changes.change_facet("colour", {**the_setup().draft.document["facets"][0], "bins": {"only": ["Grey"]}}, actor=None)
        with self.assertRaisesRegex(ChangedSince, "the facet Paint was changed since"):
            take_back(again.pk)
        self.assertEqual(state()["A"].properties[0].values, ("Grey",))

    def test_what_was_made_goes_only_where_nothing_uses_it(self):
        """A new category is taken back while it is empty; one that a product or a facet is in stays and is named, placements with it."""
        categories.add("Bosun", None)
        undo_last()
        self.assert_as(self.before)
        do_again(newest_undone().pk)
        self.assertTrue(Category.objects.filter(name="Bosun").exists())
        made = Revision.objects.get(summary="New category Bosun")
        revise("Placed", {"B": replace(state()["B"], categories=(("Bosun",),))})
        done = take_back(made.pk)
        self.assertEqual(done.note, "the category Bosun (1 product) stays, being in use.")
        self.assertEqual(state()["B"].categories, (("Bosun",),))
        row = attributes.add_attribute(attributes.Definition("Weave", "choice"))
        facet_changes.add_facet(
            {"key": "weave", "label": "Weave", "source": {"kind": "attribute", "attribute": "Weave"}}, rack="side", actor=None
        )
        self.assertIn("the attribute Weave (the facet Weave)", undo_last().note)
        self.assertTrue(Attribute.objects.filter(pk=row.pk).exists())

    def test_a_deleted_product_comes_back_in_its_place(self):
        """Not at the end of the listing; done again it goes again."""
        before = list(Row.objects.values_list("identity", flat=True))
        delete_many(["A", "B"])
        upsert_products([{"sku": "D", "name": "Dinghy"}])
        undo_last()
        self.assertEqual(list(Row.objects.values_list("identity", flat=True)), [*before, "D"])
        do_again(newest_undone().pk)
        self.assertEqual(list(Row.objects.values_list("identity", flat=True)), ["C", "D"])

    def test_too_old_is_refused_whole(self):
        """A change older than the kept ones is refused with the reason, also once its products were let go of."""
        revision = revise("Old", {"A": replace(state()["A"], brand="Hollin")})
        revise("New", {"B": None})
        with mock.patch("binsort.changes.revisions.KEPT", 1):
            for _ in range(2):
                with self.assertRaisesRegex(Refused, "only the last 200 changes can be undone, and that one is older"):
                    take_back(revision.pk)
                revisions.forget_old()
        self.assertEqual(list(RevisedProduct.objects.values_list("identity", flat=True)), ["B"])
        self.assertEqual((state()["A"].brand, Revision.objects.get(pk=revision.pk).undone_at), ("Hollin", None))

    def test_keeping_changes_costs_no_deleting(self):
        """However many changes there were, the next one deletes nothing of them."""
        for number in range(3):
            revise("Brand", {"A": replace(state()["A"], brand=f"Hollin {number}")})
        with mock.patch("binsort.changes.revisions.KEPT", 1):
            revise("Brand", {"A": replace(state()["A"], brand="Orrin")})
        self.assertEqual(RevisedProduct.objects.count(), 4)

    def test_a_parent_that_has_gone(self):
        """Undo of a move says that there is nowhere to go back to, and offers the nearest that is left."""
        moved = categories.move(Category.objects.get(name="Cleats").pk, None, 9)
        categories.delete(Category.objects.get(name="Deck").pk)
        with self.assertRaisesRegex(ParentGone, "Cleats was below Deck, which is gone. The nearest that is left is the top."):
            take_back(moved.pk)
        self.client.force_login(get_user_model().objects.create_user("owner", is_staff=True))
        page = self.client.post(f"/catalogue/changes/{moved.pk}/undo/", follow=True)
        self.assertContains(page, "Put it there")
        self.client.post(f"/catalogue/changes/{moved.pk}/undo/", {"nearest": "1"})
        self.assertIsNotNone(Revision.objects.get(pk=moved.pk).undone_at)

    def test_a_name_taken_since(self):
        """A category cannot go back to a name that another has by now; nothing is half done."""
        categories.rename(Category.objects.get(name="Cleats").pk, "Belays")
        categories.add("Cleats", Category.objects.get(name="Deck").pk)
        with self.assertRaisesRegex(Refused, "another category Cleats in its place by now"):
            take_back(Revision.objects.get(summary="Renamed the category Cleats to Belays").pk)
        self.assertEqual(Category.objects.filter(name__in=["Cleats", "Belays"]).count(), 2)

    def test_a_category_renamed_meanwhile(self):
        """Of two who rename one category the second is told."""
        key = Category.objects.get(name="Cleats").pk
        categories.rename(key, "Belays", seen="Cleats")
        with self.assertRaisesRegex(Refused, "somebody else renamed Cleats to Belays meanwhile"):
            categories.rename(key, "Horns", seen="Cleats")

    def test_buttons(self):
        """The pages offer redo after undo, and undo after redo."""
        self.client.force_login(get_user_model().objects.create_user("owner", is_staff=True))
        revision = revise("Brand", {"A": replace(state()["A"], brand="Hollin")})
        page = self.client.post(f"/catalogue/changes/{revision.pk}/undo/", follow=True)
        self.assertContains(page, f'action="/catalogue/changes/{revision.pk}/redo/"')
        page = self.client.post(f"/catalogue/changes/{revision.pk}/redo/", follow=True)
        self.assertContains(page, f'action="/catalogue/changes/{revision.pk}/undo/"')
        self.assertEqual(state()["A"].brand, "Hollin")
        revise("Brand", {"A": replace(state()["A"], brand="Orrin")})
        with self.assertRaisesRegex(Refused, "was done again already"):
            do_again(revision.pk)


class FileTests(FileCase):
    """Files taken back."""

    def exported(self):
        """Return the bytes of every form in which the catalogue goes out, and what shoppers see of categories and attributes."""
        written = []
        for form in ("jsonl", "csv", "jsonld"):
            take_out(self.folder / f"out.{form}", form)
            written.append((self.folder / f"out.{form}").read_bytes())
        nodes = list(Category.objects.order_by("path_identity").values_list("path_identity", "name", "slug", "place"))
        return [*written, nodes, [attributes_state([key]) for key in definitions()]]

    def test_undo_of_a_file_is_exact(self):
        """Whatever it did to products, those it did not name, their order, categories and attributes: what goes out is equal byte by byte."""
        replace_catalogue(LINES)
        before = self.exported()
        text = (
            "SKU;Name;Category;Weave;Colour\nZ-1;Warp;Bosun > Twine;flat;Ecru\nB;Fender of rope;Deck > Fenders > Rope;;Navy\nA;;;round;\n"
        )
        for way in ("keep", "hide", "delete"):
            revision, _ = bring_in(product_file_of(self.file(text)), missing=way)
            after = self.exported()
            take_back(revision.pk)
            for now, then in zip(self.exported(), before, strict=True):
                self.assertEqual(now, then, way)
            do_again(revision.pk)
            for now, then in zip(self.exported(), after, strict=True):
                self.assertEqual(now, then, way)
            take_back(revision.pk)

    def test_a_file_leaves_nothing_behind(self):
        """Categories and attributes that only the file made go with it, those that something uses since stay and are named."""
        replace_catalogue(LINES)
        before = sorted(Category.objects.values_list("path_identity", flat=True)), sorted(definitions())
        text = "SKU;Name;Category;Weave;Ply\nN-1;Warp;Bosun > Twine;flat;3\nN-2;Hank;Bosun > Thread;round;2\n"
        revision, _ = bring_in(product_file_of(self.file(text)))
        self.assertIn("weave", definitions())
        take_back(revision.pk)
        self.assertEqual((sorted(Category.objects.values_list("path_identity", flat=True)), sorted(definitions())), before)
        do_again(revision.pk)
        revise("Placed", {"A": replace(state()["A"], categories=(("Bosun", "Twine"),))})
        done = take_back(revision.pk)
        self.assertEqual(done.kept, ("the category Twine (1 product)", "the category Bosun (1 category below it)"))
        self.assertEqual(sorted(definitions()), before[1])
