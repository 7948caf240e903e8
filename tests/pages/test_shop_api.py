"""The JSON API for shops of others: described, conditional, open to the sites that the owner let in."""

import json

import schemathesis
from django.contrib.auth import get_user_model
from django.test import TestCase
from hypothesis import given
from schemathesis.specs.openapi.checks import positive_data_acceptance

from binsort.catalog.models import Product, Variant
from binsort.changes import facets as facet_changes
from binsort.changes import live, sites
from binsort.changes.locks import Refused
from binsort.demo.loader import load_demo
from binsort.racks.models import Entry, Site
from binsort.racks.setup import the_setup
from tests.examples import examples

from .test_api import through_the_test_client

API = "/api/shop/v1"
CLUB = "https://gullhythe.example"


class ShopApiTestCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop."""
        load_demo()
        cls.owner = get_user_model().objects.get(username="mara")


class DescribedTests(ShopApiTestCase):
    def test_every_answer_is_described(self):
        """Random calls of every operation get an answer that the OpenAPI document has."""
        schema = schemathesis.openapi.from_wsgi(f"{API}/openapi.json", through_the_test_client)
        self.assertEqual(schema.raw_schema["openapi"], "3.1.0")
        names = set()
        for found in schema.get_all_operations():
            operation = found.ok()
            names.add(operation.definition.raw["operationId"])
            self.check(operation)
        self.assertEqual(names, {"listing", "suggestions", "product", "categories", "embed"})

    def check(self, operation):
        """Call an operation with what its description allows."""

        @examples(12, database=None)
        @given(case=operation.as_strategy())
        def good(case):
            answer = case.call(headers={"Accept-Encoding": "identity"})
            broken = ""
            try:
                case.validate_response(
                    answer, excluded_checks=[positive_data_acceptance]
                )  # no schema knows the categories and numbers there are
            except BaseExceptionGroup as error:
                broken = "\n".join(map(str, error.exceptions))
            self.assertEqual(broken, "")  # out here: the group, and what was raised because of it, cannot be sent between processes
            self.assertLess(answer.status_code, 500)

        good()

    def test_a_product_as_it_was_looked_for(self):
        """The article that meets the picks, the reasons, and addresses that another site can use."""
        found = self.client.get(f"{API}/listing?category=Rope+and+cordage&colour=navy&stock=in", headers={"host": "127.0.0.1"}).json()
        card = next(card for card in found["products"] if card["article"])
        self.assertTrue(card["image"].startswith("http://127.0.0.1/pictures/"))
        product = self.client.get(f"{API}/products/{card['id']}?{found['query']}").json()
        self.assertEqual([reason["pick"] for reason in product["reasons"]], ["Navy", "In stock"])
        [chosen] = [article for article in product["articles"] if article["chosen"]]
        self.assertEqual((chosen["options"]["Colour"], chosen["stock"], chosen["matches"]), ("Navy", "in", True))
        self.assertEqual(self.client.get(f"{API}/products/none-of-this").status_code, 404)
        self.assertEqual(self.client.get(f"{API}/listing?category=Sails").json()["status"], 404)
        suggested = self.client.get(f"{API}/suggestions?q=halyrad").json()
        self.assertEqual((suggested["forgiven"], suggested["total"] > 0), (["halyrad"], True))

    def test_a_suggested_label_is_plain(self):
        """The shop marks what was typed; other shops get the words as they are."""
        label = "Tern & Gale"
        Product.objects.filter(brand=Product.objects.first().brand).update(brand=label)
        facet_changes.add_facet({"key": "brand", "label": "Brand", "source": {"kind": "brand"}}, rack="side", actor=self.owner)
        live.put_live(actor=self.owner, based_on=the_setup().draft_id)
        self.assertIn(label, [bin["label"] for bin in self.client.get(f"{API}/suggestions?q=gale").json()["bins"]])
        self.assertContains(self.client.get("/shop/suggest/?q=gale"), "Tern &amp; <b>Gale</b>")

    def test_pages_follow_each_other(self):
        """From page to page by ``following`` every product comes once."""
        query, met = "category=Deck+hardware&sort=price&per=40", []
        while query:
            page = self.client.get(f"{API}/listing?{query}").json()
            met += [card["id"] for card in page["products"]]
            query = page["following"]
        self.assertEqual((len(met), len(set(met))), (page["total"], page["total"]))
        self.assertEqual(self.client.get(f"{API}/listing?per=100000").json()["per"], 100)


class ConditionalTests(ShopApiTestCase):
    def test_not_modified(self):
        """If-None-Match as in RFC 9110, 13.1.2: one, several, weak, any; after a change the answer comes whole."""
        address = f"{API}/listing?colour=navy"
        whole = self.client.get(address)
        tag = whole["ETag"]
        for asked in (tag, f"W/{tag}", f'"xyzzy", {tag}, "r2d2xxxx"', "*"):
            with self.subTest(asked=asked):
                again = self.client.get(address, headers={"if-none-match": asked})
                self.assertEqual((again.status_code, again.content, again["ETag"]), (304, b"", tag))
        self.assertEqual(self.client.get(address, headers={"if-none-match": '"xyzzy"'}).content, whole.content)
        card = next(card for card in whole.json()["products"] if card["lowest"])
        Variant.objects.filter(product__identity=card["id"]).update(price=1)
        changed = self.client.get(address, headers={"if-none-match": tag})
        self.assertEqual(changed.status_code, 200)
        self.assertNotEqual(changed["ETag"], tag)


class SitesTests(ShopApiTestCase):
    def asked_from(self, origin, method="get", **headers):
        """Ask as a browser does for a page of another site."""
        return getattr(self.client, method)(f"{API}/listing", headers={"origin": origin, **headers})

    def test_only_sites_that_are_let_in_may_read(self):
        """The CORS protocol of the Fetch standard: the origin is named where it is let in, and nowhere else; ended at once."""
        self.assertNotIn("Access-Control-Allow-Origin", self.asked_from(CLUB))
        site, is_new = sites.let_in("GullHythe.example/bosun", actor=self.owner)
        self.assertEqual((site.origin, is_new), (CLUB, True))
        self.assertEqual(sites.let_in(CLUB, actor=self.owner), (site, False))
        answer = self.asked_from(CLUB)
        self.assertEqual(answer["Access-Control-Allow-Origin"], CLUB)
        self.assertIn("origin", answer["Vary"].lower())
        self.assertNotIn("Access-Control-Allow-Credentials", answer)
        preflight = self.asked_from(
            CLUB, "options", **{"access-control-request-method": "GET", "access-control-request-headers": "if-none-match"}
        )
        self.assertEqual((preflight.status_code, preflight["Access-Control-Allow-Origin"]), (200, CLUB))
        for other in ("https://gullhythe.example.evil.example", "http://gullhythe.example", "null", ""):
            self.assertNotIn("Access-Control-Allow-Origin", self.asked_from(other))
        self.assertNotIn("Access-Control-Allow-Origin", self.client.get("/api/v1/products", headers={"origin": CLUB}))
        self.assertEqual(sites.end(site.pk, actor=self.owner), site)
        self.assertNotIn("Access-Control-Allow-Origin", self.asked_from(CLUB))
        self.assertIsNone(sites.end(site.pk, actor=self.owner))
        self.assertEqual(
            list(Entry.objects.filter(words__contains=CLUB).values_list("words", flat=True).order_by("pk")),
            [f"Let {CLUB} show listings", f"Ended {CLUB} showing listings"],
        )

    def test_the_page(self):
        """Sites are let in by any address of them; what is none is said beside the field and kept in it."""
        self.client.force_login(self.owner)
        self.assertContains(self.client.get("/listings/sites/"), "None yet")
        self.assertContains(
            self.client.post("/listings/sites/", {"site": "tideway-club.example"}, follow=True), "may show listings from now on"
        )
        wrong = self.client.post("/listings/sites/", {"site": "ftp://x y"})
        self.assertContains(wrong, "is no address of a site", status_code=422)
        self.assertContains(wrong, 'value="ftp://x y"', status_code=422)
        ended = self.client.post(f"/listings/sites/{Site.objects.get().pk}/end/", follow=True)
        self.assertContains(ended, "may show listings no more")

    def test_what_is_no_origin(self):
        """Texts that browsers would never send are refused."""
        for text in ("", "https://", "javascript:alert(1)", "https://a b", "http://x:99999", "https://user@x.example"):
            with self.subTest(text=text), self.assertRaises(Refused):
                sites.let_in(text, actor=self.owner)

    def test_the_description_is_valid_json(self):
        """And names every facet-independent parameter."""
        document = json.loads(self.client.get(f"{API}/openapi.json").content)
        named = {one["name"] for one in document["paths"][f"{API}/listing"]["get"]["parameters"]}
        self.assertEqual(named, {"category", "q", "sort", "page", "per", "picks"})
