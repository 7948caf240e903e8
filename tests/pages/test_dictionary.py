"""The dictionary: definitions that come with products, and changes that carry over to products and facets and can be undone."""

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from binsort.catalog.dictionary.attributes import attribute_counts, definitions, state_mark
from binsort.catalog.models import Attribute, Revision
from binsort.changes import facets as facet_changes
from binsort.changes import live as live_changes
from binsort.changes import racks as rack_changes
from binsort.changes.attributes import (
    Clash,
    Definition,
    add_attribute,
    change_attribute,
    describe_value,
    merge_values,
    order_attributes,
    order_values,
    remove_attribute,
)
from binsort.changes.catalogue import replace_catalogue
from binsort.changes.locks import Refused
from binsort.changes.undo import ChangedSince, take_back, undo_last
from binsort.core.products.edits import Field, held
from binsort.racks.setup import the_setup
from binsort.tally.current import current

from .test_revising import same, state

LINES = [
    b'{"sku": "A", "name": "Cleat", "additionalProperty": [{"name": "Colour", "value": "Gray"}, {"name": "Length", "value": 8, "unitText": "mm"}]}',
    b'{"sku": "B", "name": "Rope", "additionalProperty": [{"name": "colour", "value": ["Grey", "Navy"]}, {"name": "Spare", "value": true}]}',
    b'{"productGroupID": "C", "name": "Line", "hasVariant": [{"sku": "C-1", "additionalProperty": [{"name": "Colour", "value": "gray"}]},'
    b' {"sku": "C-2", "additionalProperty": [{"name": "Colour", "value": "Navy"}]}]}',
    b'{"sku": "D", "name": "Lamp", "additionalProperty": [{"name": "Since", "value": "2024-05-01"},'
    b' {"name": "Care", "value": "Rinse with fresh water after each use and keep out of the sun."}]}',
]  # fmt: skip
FACET = {
    "key": "colour", "label": "Colour", "source": {"kind": "attribute", "attribute": "Colour"},
    "bins": {"only": ["Gray", "Navy"], "merge": [{"label": "Dark", "values": ["Gray"]}]},
}  # fmt: skip


class DictionaryTests(TestCase):
    def setUp(self):
        """Four products and a facet of their colour."""
        replace_catalogue(LINES)
        facet_changes.add_facet(FACET, rack="side", actor=None)
        live_changes.put_live()
        self.before = state()
        self.colour = Attribute.objects.get(identity="colour")

    def colours(self):
        """What each product says of its colour."""
        return {name: [value for value, _ in held(product, Field("attribute", "Colour"))] for name, product in state().items()}

    def counted(self):
        """What the live facet counts: products by label."""
        setup = the_setup()
        rack = current().rack(setup.live.facet_file.racks[0].facets)
        return {found.label: found.count for found in rack.answer(rack.read([])).facets[0].bins}

    def test_definitions_come_with_products(self):
        """Kind, unit, several values and level are those that the products show."""
        found = {row.identity: (row.name, row.kind, row.unit, row.many, row.on_variants) for row in definitions().values()}
        self.assertEqual(found, {
            "colour": ("Colour", "choice", "", True, True), "length": ("Length", "number", "mm", False, False),
            "spare": ("Spare", "yes_no", "", False, False), "since": ("Since", "date", "", False, False), "care": ("Care", "text", "", False, False),
        })  # fmt: skip
        self.assertEqual(attribute_counts(), {"colour": 3, "length": 1, "spare": 1, "since": 1, "care": 1})

    def test_merging_carries_over(self):
        """Gray becomes Grey on products and variants, and in the facet that names it; undone it is as before."""
        self.assertEqual(self.counted(), {"Dark": 2, "Navy": 2})
        revision = merge_values(self.colour, ["Gray"], "Grey", actor=None)
        self.assertEqual((revision.changed, revision.summary), (2, "Renamed Gray in Colour to Grey"))
        self.assertEqual(self.colours(), {"A": ["Grey"], "B": ["Grey", "Navy"], "C": ["Grey", "Navy"], "D": []})
        self.assertEqual(self.counted(), {"Dark": 3, "Navy": 2})
        undo_last()
        self.assertTrue(same(state(), self.before))
        with self.assertRaisesRegex(Refused, "cannot be empty"):
            merge_values(self.colour, ["Gray"], " ")

    def test_a_new_name_carries_over(self):
        """Every product, whatever its spelling of the name, and the facet, draft and live, are of the new name; back again by undo."""
        counts = self.counted()
        change_attribute(self.colour, Definition("Hue", "choice", many=True, on_variants=True), seen=state_mark(self.colour), actor=None)
        self.assertEqual(
            {prop.name for product in state().values() for prop in product.properties}, {"Hue", "Length", "Spare", "Since", "Care"}
        )
        self.assertEqual(the_setup().live.document["facets"][0]["source"]["attribute"], "Hue")
        self.assertEqual(self.counted(), counts)
        undo_last()
        self.assertEqual(self.colours()["A"], ["Gray"])
        self.assertIn("colour", definitions())

    def test_clashes(self):
        """A name that is taken is refused, and so is a change of what somebody else changed; nothing is lost."""
        with self.assertRaisesRegex(Clash, "an attribute LENGTH already"):
            add_attribute(Definition("LENGTH", "text"))
        with self.assertRaisesRegex(Clash, "needs a name"):
            add_attribute(Definition(" ", "text"))
        seen = state_mark(self.colour)
        change_attribute(self.colour, Definition("Colour", "choice", note="of the outside"), seen=seen)
        with self.assertRaisesRegex(Clash, "Somebody else changed Colour"):
            change_attribute(self.colour, Definition("Colour", "text"), seen=seen)
        self.assertEqual(Attribute.objects.get(identity="colour").note, "of the outside")

    def test_deleting_and_undoing(self):
        """Products lose it, the definition and what values look like go; undone, all is there again."""
        describe_value(self.colour, "Navy", colours=["#1d3156"], note="dark")
        remove_attribute(self.colour)
        self.assertEqual(set(map(tuple, self.colours().values())), {()})
        self.assertNotIn("colour", definitions())
        undo_last()
        self.assertTrue(same(state(), self.before))
        found = Attribute.objects.get(identity="colour")
        self.assertEqual([(value.text, value.colours, value.note) for value in found.values.all()], [("Navy", ["#1d3156"], "dark")])

    def test_orders_and_new_values(self):
        """Values and attributes stand as they were put; a definition changed since is not put back unasked."""
        order_values(self.colour, ["Navy", "Teal", "Grey", "navy"])
        self.assertEqual([value.text for value in self.colour.values.all()], ["Navy", "Teal", "Grey"])
        order_attributes(["spare", "nothing", "care"])
        self.assertEqual(list(definitions())[:2], ["spare", "care"])
        change_attribute(definitions()["spare"], Definition("Spare", "yes_no", note="one in the box"))
        first = self.colour.values.model.objects.count()
        with self.assertRaisesRegex(ChangedSince, "the attribute Spare"):
            take_back(Revision.objects.get(summary="Changed the order of the attributes").pk)
        self.assertEqual((definitions()["spare"].note, self.colour.values.model.objects.count()), ("one in the box", first))


class ServingTests(TestCase):
    def setUp(self):
        """A product with a colour, a facet of it, and somebody signed in."""
        replace_catalogue(LINES)
        facet_changes.add_facet(FACET, rack="side", actor=None)
        live_changes.put_live()
        self.client.force_login(get_user_model().objects.create_user("owner", is_staff=True))

    def serve(self, **served):
        """Say what the colour serves."""
        row = Attribute.objects.get(identity="colour")
        data = {"name": "Colour", "kind": "choice", "seen": state_mark(row), **served}
        return self.client.post(f"/catalogue/attributes/{row.pk}/", data, follow=True)

    def test_narrowing_and_pages(self):
        """Shoppers narrow by it, read it, both or neither, as its definition says; nobody is offered a facet of what serves none."""
        self.assertContains(self.client.get("/shop/"), 'name="colour"')
        self.assertContains(self.client.get("/shop/p/A/"), "Gray")
        self.assertEqual([tried.key for tried in self.client.get("/racks/").context["rack"].preview], ["colour"])
        self.serve(on_pages="on")
        self.assertEqual(self.client.get("/racks/").context["rack"].preview, ())
        self.assertNotContains(self.client.get("/shop/?colour=navy", follow=True), 'name="colour"')
        self.assertContains(self.client.get("/shop/p/A/"), "Gray")
        rack_changes.take_off_rack("colour", "side", actor=None)
        self.assertNotContains(self.client.get("/racks/add/"), "source=colour")
        self.serve(narrowing="on")
        self.assertNotContains(self.client.get("/shop/p/A/"), "Gray")
        self.assertContains(self.client.get("/racks/add/"), "source=colour")

    def test_pages(self):
        """The list, one attribute with its look-alikes merged in one click, refusals in place, and what deleting would touch."""
        row = Attribute.objects.get(identity="colour")
        self.client.get("/catalogue/attributes/")
        counted = []
        for more in (1, 12):
            for number in range(more):
                add_attribute(Definition(f"More {more} {number}", "choice"))
            with CaptureQueriesContext(connection) as queries:
                self.assertContains(self.client.get("/catalogue/attributes/"), "1 looks alike")
            counted.append(len(queries))
        self.assertEqual(counted[0], counted[1])
        page = self.client.get(f"/catalogue/attributes/{row.pk}/")
        self.assertContains(page, "the same but for spelling")
        found = self.client.post(f"/catalogue/attributes/{row.pk}/values/", {"merge": "1", "value": "Gray", "text": "Grey"}, follow=True)
        self.assertContains(found, "Renamed Gray in Colour to Grey on 2 products.")
        self.assertNotContains(found, "the same but for spelling")
        found = self.client.post(
            f"/catalogue/attributes/{row.pk}/values/", {"describe": "1", "text": "Navy", "colours": "navyish"}, follow=True
        )
        self.assertContains(found, "is no colour")
        self.client.post(f"/catalogue/attributes/{row.pk}/values/", {"way": "top", "text": "Navy"})
        self.client.post(f"/catalogue/attributes/{row.pk}/values/", {"way": "down", "text": "Navy"})
        shown = [value.text for value in self.client.get(f"/catalogue/attributes/{row.pk}/").context["page"].values]
        self.assertEqual(shown, ["Grey", "Navy"])
        stale = self.client.post(f"/catalogue/attributes/{row.pk}/", {"name": "Hue", "kind": "text", "seen": "old"})
        self.assertContains(stale, "Somebody else changed Colour meanwhile", status_code=422)
        self.assertContains(stale, 'value="Hue"', status_code=422)
        asked = self.client.get(f"/catalogue/attributes/{row.pk}/delete/")
        self.assertContains(asked, "would lose their values")
        self.assertContains(asked, "1 facet would have nothing left to narrow by")
        self.assertContains(self.client.post("/catalogue/attributes/", {"name": "length", "kind": "text"}), "already", status_code=422)
        self.assertEqual(self.client.post("/catalogue/attributes/", {"name": "Weave", "kind": "choice"}).status_code, 302)
