"""Revisions: changes by hand, many at once, and taking each of them back without losing what came after."""

from dataclasses import replace
from unittest import mock

from django.db import connection
from django.test import TestCase, TransactionTestCase

from binsort.catalog.models import RevisedProduct, Revision
from binsort.catalog.store.product_rows import all_products, products_of
from binsort.changes import locks
from binsort.changes import revisions as revising
from binsort.changes import undo as undoing
from binsort.changes.catalogue import replace_catalogue
from binsort.changes.locks import Busy, Refused
from binsort.changes.revisions import forget_old, revise, revise_each
from binsort.changes.undo import ChangedSince, take_back, undo_last
from binsort.changes.upserts import set_offers
from binsort.core.products.parts import differing
from binsort.core.products.product import Product
from tests.connections import another_connection

LINES = [
    b'{"sku": "A", "name": "Horn cleat", "brand": "Orrin", "offers": {"price": 5}, "additionalProperty": [{"name": "Colour", "value": "Grey"}]}',
    b'{"sku": "B", "name": "Fender", "keywords": ["new"], "category": "Deck > Fenders", "offers": {"price": 9}}',
    b'{"productGroupID": "C", "name": "Halyard", "hasVariant": [{"sku": "C-1", "offers": {"price": 3}}, {"sku": "C-2", "offers": {"price": 4}}]}',
]  # fmt: skip


def state():
    """Every product by identity."""
    return {product.id: product for product in all_products()}


def same(one, other):
    """Whether two states of the catalogue are the same."""
    return one.keys() == other.keys() and not any(differing(one[name], other[name]) for name in one)


class RevisingTests(TestCase):
    def setUp(self):
        """Three products."""
        replace_catalogue(LINES)
        self.before = state()

    def test_new_changed_and_deleted_are_taken_back(self):
        """One revision of all three; what stays as it is, is left alone; afterwards all is as before, places too."""
        after = {"A": replace(self.before["A"], brand="Hollin"), "B": None, "C": self.before["C"], "D": Product("D", "Dinghy")}
        revision = revise("Changed much", after)
        self.assertEqual((revision.new, revision.changed, revision.left), (1, 1, 1))
        self.assertEqual(RevisedProduct.objects.count(), 3)
        self.assertEqual(sorted(state()), ["A", "C", "D"])
        undo_last()
        self.assertTrue(same(state(), self.before))
        with self.assertRaisesRegex(Refused, "nothing that could be undone"):
            undo_last()
        with self.assertRaisesRegex(Refused, "undone before"):
            take_back(revision.pk)
        self.assertIsNone(revise("Nothing", dict(self.before)))

    def test_earlier_ones_beside_later_ones(self):
        """The brand is taken back though the name was changed since and the shop sends prices; a brand changed again is not lost."""
        first = revise("Brand", {"A": replace(self.before["A"], brand="Hollin")})
        revise("Name", {"A": replace(state()["A"], name="Cleat")})
        set_offers([{"sku": "A", "price": 7}])
        take_back(first.pk)
        found = state()["A"]
        self.assertEqual((found.brand, found.name, found.offer.price), ("Orrin", "Cleat", 7))
        again = revise("Brand", {"A": replace(found, brand="Hollin")})
        revise("Brand", {"A": replace(found, brand="Samphire")})
        with self.assertRaisesRegex(ChangedSince, "brand of A was changed since"):
            take_back(again.pk)
        self.assertEqual(state()["A"].brand, "Samphire")
        take_back(again.pk, anyway=True)
        self.assertEqual(state()["A"].brand, "Orrin")

    def test_all_of_it_or_nothing(self):
        """Where a product cannot be changed, none is, and there is no revision."""

        def change(name, product):
            if name == "B":
                raise ValueError("no")
            return replace(product, brand="Hollin")

        with mock.patch.object(revising, "BATCH", 1), self.assertRaises(ValueError):
            revise_each("Many", ["A", "B", "C"], change)
        self.assertTrue(same(state(), self.before))
        self.assertEqual(Revision.objects.count(), 0)

    def test_the_oldest_can_no_longer_be_taken_back(self):
        """Only so many are kept; of older ones it is still told that they were."""
        with mock.patch.object(revising, "KEPT", 2):
            for name in ("one", "two", "three", "four"):
                revise(name, {"A": replace(self.before["A"], name=name)})
            first = Revision.objects.get(summary="one").pk
            with mock.patch.object(undoing, "KEPT", 2), self.assertRaisesRegex(Refused, "only the last 2 changes can be undone"):
                take_back(first)
            self.assertEqual(forget_old(), 2)
            self.assertEqual(set(RevisedProduct.objects.values_list("revision__summary", flat=True)), {"three", "four"})
            self.assertEqual([undo_last().revision.summary, undo_last().revision.summary], ["four", "three"])
            with self.assertRaises(Refused):
                undo_last()
        self.assertEqual(Revision.objects.count(), 4)


class HoldingTests(TransactionTestCase):
    def tearDown(self):
        """Leave nothing behind."""
        replace_catalogue([])

    def hold_elsewhere(self, other, *, alone):
        """Let another connection hold the catalogue, as somebody who writes it does."""
        kind = "" if alone else "_shared"
        other.execute(f"SELECT pg_advisory_xact_lock{kind}({locks._CATALOGUE})")

    def test_files_are_alone_and_hands_are_not(self):
        """While a file is brought in nothing else is written; two hands do not wait for each other."""
        replace_catalogue(LINES)
        named = {"A": replace(products_of(["A"])["A"], name="Cleat")}
        with another_connection() as other:
            self.hold_elsewhere(other, alone=True)
            with self.assertRaisesRegex(Busy, "somebody else is changing the same"):
                revise("Name", named)
            other.rollback()
            self.hold_elsewhere(other, alone=False)
            self.assertIsNotNone(revise("Name", named))
            self.assertEqual(undo_last().revision.summary, "Name")

    def test_with_the_lock_off_a_file_is_written_over(self):
        """The twin: without it the same change goes through while a file is brought in."""
        replace_catalogue(LINES)
        named = {"A": replace(products_of(["A"])["A"], name="Cleat")}
        with another_connection() as other, mock.patch.object(revising, "hold"):
            self.hold_elsewhere(other, alone=True)
            self.assertIsNotNone(revise("Name", named))
        self.assertFalse(connection.in_atomic_block)
