"""The catalogue sheet and the product page: what they show, what they keep, and what they refuse without losing what was typed."""

import re
from unittest import mock

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from binsort.catalog.files.product_file import usual_currency
from binsort.catalog.models import Revision
from binsort.catalog.store.product_rows import products_of
from binsort.changes import facets as facet_changes
from binsort.changes import live as live_changes
from binsort.changes.catalogue import replace_catalogue
from binsort.core.products.edits import Field, held
from binsort.core.products.product import Sale
from binsort.core.values.dates import instant
from binsort.core.values.numbers import exact
from binsort.workbench.sheet import views as sheetviews
from binsort.workbench.tasks import change_products, take_out_products

from .test_revising import state

LINES = [
    '{"sku": "R/1", "name": "Dock line 14 mm", "brand": "Orrin", "category": "Ropes > Mooring", "keywords": ["new"], "offers": {"price": 34.5, "inventoryLevel": 4},'
    ' "additionalProperty": [{"name": "Colour", "value": "Navy"}, {"name": "Load", "value": 46.5, "unitText": "kN"}]}',
    '{"sku": "R2", "name": "Anchor warp <b>", "brand": "Hollin", "category": "Ropes > Mooring", "offers": {"price": 48}}',
    '{"sku": "R3", "name": "حبل 🪢", "category": "Ropes", "additionalProperty": [{"name": "Colour", "value": ["Red", "White"]}]}',
    '{"productGroupID": "H", "name": "Halyard", "category": "Rigging", "hasVariant": [{"sku": "H-1", "offers": {"price": 3},'
    ' "additionalProperty": [{"name": "Colour", "value": "Red"}]}, {"sku": "H-2", "offers": {"price": 4}, "additionalProperty": [{"name": "Colour", "value": "Navy"}]}]}',
    '{"sku": "X", "name": "Withdrawn", "isVisible": false}',
]  # fmt: skip


class OwnerCase(TestCase):
    def setUp(self):
        """Five products, one hidden, and somebody signed in."""
        replace_catalogue([line.encode() for line in LINES])
        self.client.force_login(get_user_model().objects.create_user("owner", is_staff=True))

    def value(self, name, *field):
        """The values of a field of a product."""
        return [value for value, _ in held(products_of([name], hidden=True)[name], Field(*field))]

    def shown(self, query=""):
        """The products that the sheet shows, in order."""
        self.page = self.client.get(f"/catalogue/{query}")
        return [row.identity for row in self.page.context["sheet"].rows]


class SheetTests(OwnerCase):
    def test_narrowing(self):
        """By listing, what is missing, a pick of a column, letters of name, number, tag or a variant's number; together; hidden ones apart."""
        colour = self.client.get("/catalogue/").context["sheet"].attributes["colour"].pk
        for query, wanted in (
            ("", ["R/1", "R2", "R3", "H"]), ("?category=Ropes", ["R/1", "R2", "R3"]), ("?missing=attribute:colour", ["R2"]),
            ("?missing=brand", ["R3", "H"]), (f"?a{colour}=red", ["R3", "H"]), (f"?a{colour}=red&missing=brand&category=Rigging", ["H"]),
            ("?q=warp", ["R2"]), ("?q=h-2", ["H"]), ("?q=NEW", ["R/1"]), ("?q=حبل", ["R3"]), ("?q=%00", ["R/1", "R2", "R3", "H"]),
            ("?hidden=1", ["X"]), ("?missing=nothing&page=99&a999=x&sort=-name", ["H", "R3", "R/1", "R2"]),
        ):  # fmt: skip
            found = self.shown(query)
            self.assertEqual(found if "sort" not in query else sorted(found), wanted if "sort" not in query else sorted(wanted), query)
        self.assertContains(self.client.get("/catalogue/?q=zzz"), "No product meets all of this")
        self.assertContains(self.client.get("/catalogue/"), "Anchor warp &lt;b&gt;")

    def test_coverage_and_choices(self):
        """Each column says how many of the listing have a value, and its choices how many products each would leave."""
        columns = {column.label: column for column in self.client.get("/catalogue/?category=Ropes").context["sheet"].columns}
        self.assertEqual((columns["Colour"].covered, columns["Colour"].missing, columns["Load"].missing), (67, 1, 2))
        sheet = self.client.get(f"/catalogue/?missing=brand&open={columns['Colour'].pick_key}").context
        self.assertEqual([(words, count) for words, count, *_ in sheet["choices"]], [("Navy", 1), ("Red", 2), ("White", 1)])
        self.shown("?missing=attribute:load&category=Ropes")
        self.assertEqual([words for words, _ in self.page.context["sheet"].also_missing], ["1 in Rigging"])

    def test_sorted_by_a_column(self):
        """By any column up and down, numbers by size, words from A to Z, products without a value last; the head says so."""
        for query, wanted in (
            ("?by=price", ["H", "R/1", "R2", "R3"]), ("?by=-price", ["R2", "R/1", "H", "R3"]), ("?by=brand", ["R2", "R/1", "R3", "H"]),
            ("?by=-brand", ["R/1", "R2", "R3", "H"]), ("?by=attribute:colour", ["R/1", "H", "R3", "R2"]), ("?by=-attribute:colour", ["R3", "H", "R/1", "R2"]),
            ("?by=name", ["R2", "R/1", "H", "R3"]), ("?by=-name", ["R3", "H", "R/1", "R2"]), ("?by=nothing", ["R/1", "R2", "R3", "H"]),
            ("?by=price&category=Ropes&missing=attribute:load", ["R2", "R3"]),
        ):  # fmt: skip
            self.assertEqual(self.shown(query), wanted, query)
        self.shown("?by=price")
        column = next(column for column in self.page.context["sheet"].columns if column.key == "price")
        self.assertEqual((column.is_sorted, column.sort_address), ("ascending", "/catalogue/?by=-price"))
        self.assertContains(self.page, 'aria-sort="ascending"', count=1)

    def test_emptying_is_a_choice_of_its_own(self):
        """Setting without a value changes nothing and says what to write; emptying does, and is taken back."""
        send = {"field": "attribute:colour", "product": ["R/1", "R3"]}
        page = self.client.post("/catalogue/many/", {**send, "way": "set", "text": " "}, follow=True)
        self.assertContains(page, "Write the value to set, or choose “Empty”")
        self.assertEqual(self.value("R/1", "attribute", "Colour"), ["Navy"])
        self.client.post("/catalogue/many/", {**send, "way": "empty", "text": "left over"})
        self.assertEqual((self.value("R/1", "attribute", "Colour"), self.value("R3", "attribute", "Colour")), ([], []))
        revision = Revision.objects.first()
        self.assertEqual(revision.summary, "Emptied Colour of 2 products")
        self.client.post(f"/catalogue/changes/{revision.pk}/undo/")
        self.assertEqual(self.value("R3", "attribute", "Colour"), ["Red", "White"])

    def test_hidden_products_stay_and_are_offered(self):
        """Where all are selected the hidden ones are named; when all others are deleted they are offered."""
        self.assertContains(self.client.get("/catalogue/"), "1 hidden product is not among them")
        self.client.post("/catalogue/many/", {"every": "1", "delete": "1", "query": ""})
        self.assertContains(self.client.get("/catalogue/"), "There is 1 product that is hidden from shoppers")
        self.assertEqual(self.shown("?hidden=1"), ["X"])

    def test_one_currency_is_shown_everywhere(self):
        """A catalogue of euros is shown in euros on every page of both houses, none in the currency of the settings."""
        line = '{{"sku": "E{0}", "name": "Cleat", "category": "Deck > Cleats", "offers": {{"price": {0}.5, "priceCurrency": "EUR"}}}}'
        replace_catalogue(line.format(n).encode() for n in range(1, 30))
        price = {
            "key": "price",
            "label": "Price",
            "source": {"kind": "price"},
            "cuts": [10, 20],
            "free": True,
            "look": {"control": "slider"},
        }
        live_changes.put_live(based_on=facet_changes.add_facet(price, rack="side", actor=None).pk)
        for address in ("/racks/", "/racks/facets/price/", "/catalogue/", "/catalogue/products/E3/", "/shop/", "/shop/p/E3/"):
            page = self.client.get(address)
            self.assertContains(page, "€", msg_prefix=address)
            self.assertNotContains(page, "£", msg_prefix=address)
        others = (f'{{"sku": "G{n}", "name": "Cleat", "offers": {{"price": {n}, "priceCurrency": "GBP"}}}}'.encode() for n in range(60))
        replace_catalogue([line.format(7).encode(), *others])
        self.assertEqual((usual_currency(), self.client.get("/catalogue/").context["sheet"].held.currency), ("EUR", "EUR"))

    def test_no_products_and_columns_of_choice(self):
        """An empty catalogue says what to do; chosen columns stay for this person, and the usual ones come back."""
        self.client.post("/catalogue/columns/", {"column": ["tags", "attribute:load", "nothing"]})
        self.assertEqual([c.label for c in self.client.get("/catalogue/").context["sheet"].columns], ["Tags", "Load"])
        self.client.post("/catalogue/columns/", {"usual": "1"})
        self.assertEqual(len(self.client.get("/catalogue/").context["sheet"].columns), 6)
        replace_catalogue([])
        self.assertContains(self.client.get("/catalogue/"), "No products here yet")
        for address in ("/racks/", "/racks/add/"):
            self.assertContains(self.client.get(address), '="/catalogue/bring-in/"', msg_prefix=address)

    def test_queries_do_not_grow(self):
        """A page of fifty rows asks the database as often as one of four."""
        counted = []
        for many in (4, 200):
            replace_catalogue(
                f'{{"sku": "N{n}", "name": "N{n}", "additionalProperty": [{{"name": "Colour", "value": "Red"}}]}}'.encode()
                for n in range(many)
            )
            self.client.get("/catalogue/")
            with CaptureQueriesContext(connection) as queries:
                self.client.get("/catalogue/")
            counted.append(len(queries))
        self.assertEqual(counted[0], counted[1])

    def cell(self, product, field, text, seen="", **more):
        """Fill a cell."""
        return self.client.post("/catalogue/cell/", {"product": product, "field": field, "text": text, "seen": seen, **more})

    def test_a_row_comes_back_under_its_columns(self):
        """A listing has columns of its own; the row of a filled cell has those that stand above it."""
        row = self.cell("R2", "attribute:load", "28.4", column=["price", "brand", "attribute:load"])
        self.assertEqual(re.findall(r'data-field="([^"]*)"', row.content.decode()), ["price", "brand", "attribute:load"])

    def test_ratings_have_five_stars(self):
        """A rating of 7 out of 5 is refused, with what can be written."""
        for field, text in (("rating_value", "7"), ("rating_value", "-1"), ("review_count", "-2")):
            self.assertContains(self.cell("R2", field, text), "Write a number", status_code=422)
        self.assertEqual(self.cell("R2", "rating_value", "5").status_code, 200)

    def test_filling_cells(self):
        """What is typed is read as its column means it, kept, and taken back; units are converted."""
        self.assertContains(self.cell("R2", "attribute:load", "4,6 t"), "which t cannot be turned into", status_code=422)
        self.assertEqual(self.cell("R2", "attribute:load", "28400 N").status_code, 200)
        self.assertEqual(self.value("R2", "attribute", "Load", "kN"), [exact("28.4")])
        self.assertEqual(self.cell("R2", "attribute:colour", "Teal | Navy").status_code, 200)
        self.assertEqual(self.value("R2", "attribute", "Colour"), ["Teal", "Navy"])
        asked = self.cell("R2", "categories", "Sale > Ends | Ropes", "Ropes > Mooring")
        self.assertContains(asked, "no category “Sale”, “Sale &gt; Ends” yet", status_code=422)
        self.assertEqual(products_of(["R2"])["R2"].categories, (("Ropes", "Mooring"),))
        self.assertEqual(self.cell("R2", "categories", "Sale > Ends | Ropes", "Ropes > Mooring", make_categories="1").status_code, 200)
        self.assertEqual(products_of(["R2"])["R2"].categories, (("Sale", "Ends"), ("Ropes",)))
        self.client.post(f"/catalogue/changes/{Revision.objects.first().pk}/undo/")
        self.assertEqual(products_of(["R2"])["R2"].categories, (("Ropes", "Mooring"),))

    def test_refused_cells(self):
        """Each says why in words; nothing is written."""
        before = state()
        for product, field, text, seen, status, words in (
            ("R2", "attribute:load", "much", "", 422, "is no number. Write it in digits, in kN"), ("R2", "price", "POA", "48", 422, "is no number"),
            ("R2", "attribute:load", "1 | 2", "", 422, "has one value, not 2"), ("R2", "published", "1/2/2025", "", 422, "is no date"),
            ("H", "attribute:colour", "Teal", "Red | Navy", 422, "variants differ"), ("R2", "name", " ", "Anchor warp <b>", 422, "needs a name"),
            ("R2", "attribute:load", "5 mm", "", 422, "is measured in kN"), ("gone", "brand", "x", "", 410, "is gone"),
            ("R2", "brand", "Samphire", "Orrin", 409, "somebody else changed it to “Hollin”"), ("R2", "visible", "maybe", "yes", 422, "neither yes nor no"),
        ):  # fmt: skip
            self.assertContains(self.cell(product, field, text, seen), words, status_code=status)
        self.assertEqual(state(), before)
        self.assertEqual(self.cell("R2", "brand", "Samphire", "Orrin", anyway="1").status_code, 200)
        self.assertEqual(products_of(["R2"])["R2"].brand, "Samphire")

    def bulk(self, **data):
        """Change many."""
        return self.client.post("/catalogue/many/", {"way": "set", "text": "", **data}, follow=True)

    def test_many_at_once(self):
        """What it would do is said first, exactly; then it is done as one change, undone as one; those that differ are left alone."""
        asked = self.client.post(
            "/catalogue/many/", {"preview": "1", "product": ["R/1", "R2", "H"], "field": "attribute:colour", "way": "set", "text": "Navy"}
        )
        self.assertEqual((asked.context["effect"].changed, asked.context["effect"].same, asked.context["effect"].varied), (1, 1, 1))
        self.assertEqual((asked.context["before"], asked.context["after"]), (75, 100))
        self.assertContains(
            self.bulk(every="1", query="category=Ropes", field="tags", way="add", text="sale | rope"),
            "Added sale | rope to Tags of 3 products",
        )
        self.assertEqual([product.tags for product in state().values()][:3], [("new", "sale", "rope"), ("sale", "rope"), ("sale", "rope")])
        self.assertContains(
            self.bulk(product=["R3", "H"], field="attribute:colour", way="replace", old="red", text="Crimson"), "of 2 products"
        )
        self.assertEqual(self.value("H", "attribute", "Colour"), ["Crimson", "Navy"])
        ends = {"product": ["R/1", "R2"], "field": "categories", "way": "set", "text": "Ends"}
        self.assertContains(self.client.post("/catalogue/many/", {**ends, "preview": "1"}), "Make “Ends”, which does not exist yet")
        self.assertContains(self.bulk(**ends), "Nothing was changed: there is no category “Ends” yet")
        self.bulk(**ends, make_categories="1")
        self.assertEqual(self.shown("?category=Ends"), ["R/1", "R2"])
        self.assertContains(self.bulk(product=["R/1"], delete="1"), "Deleted R/1")
        self.assertNotIn("R/1", state())
        for _ in range(4):
            self.client.post(f"/catalogue/changes/{Revision.objects.filter(undone_at=None).first().pk}/undo/")
        self.assertEqual((products_of(["R/1"])["R/1"].tags, self.value("H", "attribute", "Colour")), (("new",), ["Red", "Navy"]))
        for data, words in (({"field": "brand", "text": "x"}, "No product is selected"), ({"product": "R2", "field": "price", "text": "x"}, "is no number"),
                            ({"product": "R2", "field": "brand", "text": "hollin", "way": "add"}, "has one value")):  # fmt: skip
            self.assertContains(self.bulk(**data), words)

    def test_very_many_at_once(self):
        """Beyond what anybody would wait for, a worker does it, as one change with its progress; what cannot be is said at once."""
        data = {"every": "1", "query": "category=Ropes", "field": "brand", "way": "set", "text": "Samphire"}
        with mock.patch.object(sheetviews, "INLINE", 2), mock.patch.object(sheetviews, "is_worker_alive", return_value=True):
            asked = self.client.post("/catalogue/many/", {**data, "preview": "1"})
            self.assertContains(asked, "Will go through <b>3 products</b>")
            self.assertContains(self.bulk(**{**data, "field": "price", "text": "dear"}), "is no number")
            with mock.patch.object(change_products, "defer") as deferred:
                self.assertContains(self.bulk(**data), "in the background")
                self.bulk(**data, delete="1")
        for call in deferred.call_args_list:
            change_products(**call.kwargs)
            self.assertEqual(Revision.objects.first().changed + Revision.objects.first().left, 3)
        self.assertEqual(sorted(state()), ["H", "X"])
        self.client.post(f"/catalogue/changes/{Revision.objects.first().pk}/undo/")
        self.assertEqual([state()[name].brand for name in ("R/1", "R2", "R3", "H")], ["Samphire"] * 3 + [""])

    def test_files_of_what_is_found(self):
        """What is narrowed is what goes out, and a cell that could be a formula is defused."""
        self.cell("R2", "name", "=SUM(A1)", "Anchor warp <b>")
        found = self.client.post("/catalogue/take-out/csv/", {"query": "category=Ropes&missing=attribute:colour"})
        text = b"".join(found.streaming_content).decode("utf-8-sig")
        self.assertIn("R2,", text)
        self.assertIn("'=SUM(A1)", text)
        self.assertNotIn("Dock line", text)

    def test_many_are_taken_out_in_the_background(self):
        """Nobody waits; the file is fetched from Activity, byte by byte what would have come at once."""
        data = {"query": "category=Ropes"}
        at_once = b"".join(self.client.post("/catalogue/take-out/jsonl/", data).streaming_content)
        with (
            mock.patch("binsort.workbench.sheet.views.SMALL", 1),
            mock.patch("binsort.workbench.sheet.views.is_worker_alive", return_value=True),
            mock.patch.object(take_out_products, "defer") as deferred,
        ):
            self.assertRedirects(self.client.post("/catalogue/take-out/jsonl/", data), "/activity/", fetch_redirect_response=False)
        take_out_products(**deferred.call_args.kwargs)
        line, _, _, file = self.client.get("/activity/").context["page"].lines[0]
        fetched = self.client.get(f"/catalogue/take-out/{file.pk}/file/")
        self.assertEqual((line.what, b"".join(fetched.streaming_content)), ("Taking out JSON Lines", at_once))
        self.assertIn("products.jsonl", fetched["Content-Disposition"])


class ProductPageTests(OwnerCase):
    def setUp(self):
        """A facet of the colour besides."""
        super().setUp()
        facet_changes.add_facet(
            {"key": "colour", "label": "Colour", "source": {"kind": "attribute", "attribute": "Colour"}}, rack="side", actor=None
        )
        load = {"key": "load", "label": "Load", "source": {"kind": "attribute", "attribute": "Load"}, "cuts": [20, 40]}
        facet_changes.add_facet(load, rack="side", actor=None)

    def save(self, name, **texts):
        """Send the form of a product with some fields typed into, as the page gave it."""
        page = self.client.get(f"/catalogue/products/{name}/").context["page"]
        data = {"variants_seen": page.variants_mark}
        for field in (*page.basics, *page.offer, *page.attributes, *page.more):
            data |= {f"f:{field.entry.key}": field.text, f"s:{field.entry.key}": field.seen}
        for variant in page.variants:
            data[f"v:{variant.name}:sku"] = variant.sku
            data |= {f"v:{variant.name}:{cell.entry.key}": cell.text for cell in variant.cells}
        return data | texts

    def send(self, name, data):
        """Send a form."""
        return self.client.post(f"/catalogue/products/{name}/", data, follow=True)

    def test_bins_and_why(self):
        """Each facet says which bins the product is in and why, or why it is in none."""
        found = {s.key: s for s in self.client.get("/catalogue/products/R/1/").context["page"].standings}
        self.assertEqual((found["colour"].bins, found["load"].bins), ((("Navy", ""),), (("40 kN and above", "because of 46.5 kN"),)))
        self.assertEqual(
            {s.key: s.reason for s in self.client.get("/catalogue/products/R2/").context["page"].standings}["load"], "it has no load"
        )
        self.assertContains(self.client.get("/catalogue/products/X/"), "hidden from shoppers")

    def test_everything_is_edited(self):
        """Fields, variants one by one, a new variant and one that goes; as one change that is undone as one."""
        data = self.save(
            "H",
            **{
                "f:brand": "Samphire",
                "f:rating_value": "4.25",
                "f:review_count": "8",
                "v:0:price": "3.5",
                "v:1:gone": "1",
                "v:new:sku": "H-3",
                "v:new:attribute:colour": "Teal",
            },
        )
        asked = self.send("H", data)
        self.assertContains(asked, "Brand: no product has “Samphire” yet.", status_code=422)
        self.assertContains(asked, "Colour: no product has “Teal” yet.", status_code=422)
        self.assertContains(asked, 'value="H-3"', status_code=422)  # nothing that was typed is lost
        self.assertEqual(products_of(["H"])["H"].brand, data["s:brand"])
        self.assertContains(self.send("H", {**data, "make_values": "1"}), "Changed Halyard.")
        found = products_of(["H"])["H"]
        self.assertEqual(
            (found.brand, [(a.sku, a.offer.price) for a in found.variants]), ("Samphire", [("H-1", exact("3.5")), ("H-3", None)])
        )
        self.assertEqual((self.value("H", "attribute", "Colour"), found.rating), (["Red", "Teal"], exact("4.3")))
        self.client.post(f"/catalogue/changes/{Revision.objects.first().pk}/undo/")
        self.assertEqual([a.sku for a in products_of(["H"])["H"].variants], ["H-1", "H-2"])

    def test_a_new_value_is_asked_about(self):
        """One that nothing has yet is asked about beside the known one like it; a known one in another spelling, and a number, is not."""
        asked = self.send("R2", self.save("R2", **{"f:attribute:colour": "Nawy"}))
        self.assertContains(asked, "Take Navy", status_code=422)
        self.assertContains(asked, "It is new: save", status_code=422)
        self.assertEqual(self.value("R2", "attribute", "Colour"), [])
        self.assertContains(
            self.send("R2", self.save("R2", **{"f:attribute:colour": "NAVY", "f:attribute:load": "77"})), "Changed Anchor warp"
        )
        self.assertContains(self.send("R2", self.save("R2", **{"f:attribute:colour": "Nawy", "make_values": "1"})), "Changed Anchor warp")

    def test_sale_prices(self):
        """A sale price is typed with its window, of a product or of one variant; one that cannot be read is told."""
        self.assertContains(self.send("R2", self.save("R2", **{"f:sales": "40 from 2026-12-01 to 2026-12-24"})), "Changed Anchor warp")
        offer = products_of(["R2"])["R2"].offer
        self.assertEqual(offer.sales, (Sale(40, instant("2026-12-01"), instant("2026-12-24", end=True)),))
        self.send("H", self.save("H", **{"v:1:sales": "2.5"}))
        self.assertEqual([len(article.offer.sales) for article in products_of(["H"])["H"].variants], [0, 1])
        self.assertContains(self.send("R2", self.save("R2", **{"f:sales": "40 from spring"})), "is no sale price", status_code=422)
        self.send("R2", self.save("R2", **{"f:sales": ""}))
        self.assertEqual((products_of(["R2"])["R2"].offer.sales, products_of(["R2"])["R2"].offer.has_sale_entry), ((), False))

    def test_two_people(self):
        """Fields that only one of them touched are both kept; where both did, the second is shown what changed, and nothing typed is lost."""
        mine, theirs = (
            self.save("R2", **{"f:brand": "Orrin", "f:tags": "calm", "make_values": "1"}),
            self.save("R2", **{"f:brand": "Samphire", "f:price": "50", "make_values": "1"}),
        )
        self.send("R2", theirs)
        found = self.send("R2", mine)
        self.assertContains(found, "Somebody else set it to “Samphire” meanwhile", status_code=422)
        self.assertContains(found, 'value="calm"', status_code=422)
        self.assertEqual((products_of(["R2"])["R2"].brand, products_of(["R2"])["R2"].tags), ("Samphire", ()))
        again = mine | {"s:brand": "Samphire"}
        self.assertContains(self.send("R2", again), "Changed Anchor warp")
        product = products_of(["R2"])["R2"]
        self.assertEqual((product.brand, product.tags, product.offer.price), ("Orrin", ("calm",), 50))
        one, other = self.save("H", **{"v:0:price": "7"}), self.save("H", **{"v:1:price": "8"})
        self.send("H", one)
        self.assertContains(self.send("H", other), "Somebody else changed the variants meanwhile", status_code=422)

    def test_refusals_and_new_products(self):
        """Wrong fields are told beside them and nothing is written; a new product needs a name and a number of its own."""
        found = self.send("R2", self.save("R2", **{"f:price": "dear", "f:brand": "Orrin", "f:attribute:load": "5 mm"}))
        self.assertContains(found, "“dear” is no number", status_code=422)
        self.assertContains(found, "is measured in kN", status_code=422)
        self.assertEqual(products_of(["R2"])["R2"].brand, "Hollin")
        post = lambda **data: self.client.post("/catalogue/new/", data, follow=True)  # noqa: E731
        for data, words in (
            ({"name": "", "number": "N"}, "needs a name"),
            ({"name": "N", "number": " "}, "needs a SKU"),
            ({"name": "N", "number": "R/1"}, "already"),
        ):
            self.assertContains(post(**data), words, status_code=422)
        self.assertContains(post(name="Gaff 🪝", number="a/b?c"), "Gaff 🪝")
        self.assertContains(self.client.post("/catalogue/products/R2/delete/", follow=True), "Deleted R2.")
        self.assertContains(self.send("R2", {"f:brand": "x", "s:brand": ""}), "somebody deleted R2 meanwhile")
