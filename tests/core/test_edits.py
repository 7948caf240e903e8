"""Edits and parts: what a change does to a product, that it can be taken back, and what it leaves alone."""

import json
from datetime import date
from fractions import Fraction
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from binsort.core.products.catalogue_reader import read_product
from binsort.core.products.edits import ADD, REMOVE, REPLACE, SET, Edit, Field, Varies, edited, held, is_same, varies
from binsort.core.products.parts import Conflict, differing, parts_of, put_together, taken_back
from binsort.core.products.product import Offer, Product, Property, Variant
from tests.examples import examples

from .worlds import PRODUCTS

COLOUR, LENGTH = Field("attribute", "Colour"), Field("attribute", "Length", "mm")
FIELDS = st.sampled_from([COLOUR, Field("attribute", "diameter", "mm"), Field("tags"), Field("brand"), Field("price"), Field("categories")])


def read(document):
    """A product of a random document, numbers exact."""
    return read_product(json.loads(json.dumps(document), parse_float=Fraction))


def values_for(field, texts):
    """Values that fit a field."""
    if field.kind == "price":
        return tuple((len(text), "") for text in texts[:1])
    if field.kind == "categories":
        return tuple(((text,), "") for text in texts)
    return tuple((text, "") for text in (texts if field.kind in ("attribute", "tags") else texts[:1]))


class PartsTests(TestCase):
    @examples(100)
    @given(PRODUCTS)
    def test_taken_apart_and_put_together(self, document):
        """A product put together of its parts is the same one."""
        product = read(document)
        self.assertEqual(differing(put_together(product.id, parts_of(product)), product), [])

    @examples(100)
    @given(PRODUCTS, PRODUCTS, PRODUCTS)
    def test_a_change_is_taken_back_beside_others(self, before, after, later):
        """With no change since, what was is there again; with one, what both changed is named, and all else of the later one stays."""
        old, new, now = (put_together("A", parts_of(read(document))) for document in (before, after, later))
        self.assertEqual(differing(taken_back(old, new, new), old), [])
        changed, since = set(differing(old, new)), set(differing(new, now))
        try:
            back = taken_back(old, new, now)
        except Conflict as conflict:
            moved = {name for name in changed if name.startswith("offer.")} if bool(new.variants) != bool(now.variants) else set()
            self.assertLessEqual(set(conflict.names), (changed & since) | moved)
            back = taken_back(old, new, now, anyway=True)
        # Where there are variants a product has no price of its own.
        found = set(differing(back, old)) & changed, set(differing(back, now)) - changed
        if back.variants:
            found = tuple({name for name in names if not name.startswith("offer.")} for names in found)
        self.assertEqual(found, (set(), set()))

    def test_true_is_not_one(self):
        """A yes and the number 1 are different values, though they are equal to the machine."""
        one, yes = (Product("A", "A", properties=(Property("Spare", (value,)),)) for value in (1, True))
        self.assertEqual(differing(one, yes), ["attribute:spare"])


class EditTests(TestCase):
    @examples(100)
    @given(PRODUCTS, FIELDS, st.lists(st.sampled_from(["Navy", "red", "Teal", "10 mm"]), min_size=1, max_size=2, unique=True))
    def test_what_each_way_leaves(self, document, field, texts):
        """Setting leaves these values; adding all of before and these; removing none of these; nothing else is touched."""
        product, values = read(document), values_for(field, texts)
        if varies(product, field):
            with self.assertRaises(Varies):
                edited(product, Edit(field, SET, values))
        else:
            self.same(held(edited(product, Edit(field, SET, values)), field), values)
        if field.kind in ("attribute", "tags", "categories"):
            more = edited(product, Edit(field, ADD, values))
            for value in (*held(product, field), *values):
                self.assertTrue(any(is_same(value, other) for other in held(more, field)), value)
            less = edited(product, Edit(field, REMOVE, values))
            self.same(held(less, field), [v for v in held(product, field) if not any(is_same(v, gone) for gone in values)])
            self.assertLessEqual(set(differing(product, less)), {field.key, field.kind, "variants"})

    def same(self, found, wanted):
        """Assert that values are the same ones, whatever their order."""
        self.assertTrue(all(any(is_same(one, other) for other in wanted) for one in found), (found, wanted))
        self.assertTrue(all(any(is_same(one, other) for other in found) for one in wanted), (found, wanted))

    def test_replacing(self):
        """Only where the old value is, in place, and never twice; in variants each by itself."""
        navy = Property("Colour", ("Navy",))
        product = Product("A", "A", variants=(Variant("1", properties=(navy,)), Variant("2", properties=(Property("Colour", ("Red",)),))))
        found = edited(product, Edit(COLOUR, REPLACE, (("Blue", ""),), ("NAVY", "")))
        self.assertEqual([article.properties[0].values for article in found.variants], [("Blue",), ("Red",)])
        both = Product("A", "A", properties=(Property("colour", ("Gray", "Grey", "Red")),))
        self.assertEqual(held(edited(both, Edit(COLOUR, REPLACE, (("Grey", ""),), ("gray", ""))), COLOUR), (("Grey", ""), ("Red", "")))
        self.assertEqual(edited(both, Edit(COLOUR, REPLACE, (("Teal", ""),), ("Pink", ""))), both)

    def test_numbers_are_one_value_in_whatever_unit(self):
        """1.2 cm is 12 mm and is not added again; removing it takes it away; prices of equal variants are set together."""
        product = Product("A", "A", properties=(Property("Length", (Fraction(6, 5),), "cm"),))
        self.assertEqual(edited(product, Edit(LENGTH, ADD, ((12, "mm"),))), product)
        self.assertEqual(edited(product, Edit(LENGTH, REMOVE, ((12, "mm"),))).properties, ())
        sold = Product("A", "A", variants=(Variant("1", Offer(price=5)), Variant("2", Offer(price=5))))
        dearer = edited(sold, Edit(Field("price"), SET, ((6, ""),)))
        self.assertEqual([article.offer.price for article in dearer.variants], [6, 6])
        emptied = edited(Product("A", "A", brand="Orrin", published=date(2026, 1, 1)), Edit(Field("brand"), SET, ()))
        self.assertEqual((emptied.brand, emptied.published), ("", date(2026, 1, 1)))
