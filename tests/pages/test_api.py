"""The API: what it writes, that doing it twice is doing it once, and that any call gets an answer that its description has."""

import json
import random
import re
from html import unescape
from unittest import mock

import schemathesis
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TestCase, override_settings
from django.test.client import ClientHandler
from django.test.utils import CaptureQueriesContext
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as PropertyCase
from schemathesis.specs.openapi.checks import ignored_auth, positive_data_acceptance

from binsort.catalog.api.payloads import MOST, BadItems
from binsort.catalog.models import Attribute, Token
from binsort.catalog.store.product_rows import products_of
from binsort.changes import tokens
from binsort.changes.catalogue import replace_catalogue
from binsort.changes.locks import Refused
from binsort.changes.upserts import upsert_products
from binsort.core.facets.query import Query
from binsort.core.facets.spec import facet_spec
from binsort.core.values.numbers import exact
from binsort.core.values.strict_json import loads
from binsort.demo.feed import sales
from binsort.project.errors import MOST_ADDRESS
from binsort.tally.current import current
from tests.examples import examples

from ..core.worlds import PRODUCTS
from .test_revising import LINES, same, state

STOCK = facet_spec({"key": "stock", "label": "Stock", "source": {"kind": "stock"}})


def through_the_test_client(environ, start_response):
    """The application as WSGI has it, within the transaction of a test."""
    response = ClientHandler()(environ)
    start_response(f"{response.status_code} {response.reason_phrase}", list(response.items()))
    return [response.getvalue()]


@override_settings(STORAGES={"staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}})
class ApiTests(TestCase):
    def setUp(self):
        """Three products, and a token."""
        replace_catalogue(LINES)
        _, self.token = tokens.give("shop", actor=get_user_model().objects.create_user("owner", is_staff=True))

    def call(self, method, path, body=None, **headers):
        """Call it; returns status and answer."""
        given = {"Authorization": f"Bearer {self.token}", **headers}
        data = body if isinstance(body, str) else json.dumps(body)
        found = getattr(self.client, method)(
            f"/api/v1/{path}", data if body is not None else None, content_type="application/json", headers=given
        )
        return found.status_code, json.loads(found.content, parse_float=str)

    def test_products(self):
        """Written, read exactly, replaced, deleted; sent again nothing changes; numbers and names that are missing are told by place."""
        lamp = '{"products": [{"sku": "L", "name": "Lamp", "offers": {"price": 0.1000000000000000055}}, {"sku": "A", "name": "Cleat"}]}'
        self.assertEqual(self.call("put", "products", lamp), (200, {"new": 1, "changed": 1, "unchanged": 0, "unknown": []}))
        self.assertEqual(self.call("put", "products", lamp), (200, {"new": 0, "changed": 0, "unchanged": 2, "unknown": []}))
        self.assertEqual(products_of(["L"])["L"].offer.price, exact("0.1000000000000000055"))
        self.assertEqual(self.call("get", "products/L")[1]["offers"]["price"], "0.1000000000000000055")
        before = state()
        status, found = self.call(
            "put", "products", {"products": [{"sku": "N", "name": "N"}, {"name": "x"}, {"sku": "y"}, {"sku": "z", "name": "a\0"}]}
        )
        self.assertEqual((status, [problem["place"] for problem in found["problems"]]), (422, ["1", "2", "3"]))
        self.assertTrue(same(state(), before))
        self.assertEqual(self.call("post", "products/delete", {"numbers": ["L", "L", "gone"]})[1]["unknown"], ["gone"])
        self.assertEqual(self.call("get", "products/L")[0], 404)

    def test_the_whole_catalogue_by_parts(self):
        """Part after part has every product once, hidden ones too."""
        replace_catalogue(
            [b'{"sku": "H", "name": "h", "isVisible": false}', *(f'{{"sku": "P{n}", "name": "p"}}'.encode() for n in range(7))]
        )
        found, after = [], 0
        while after is not None:
            answer = self.call("get", f"products?most=3&after={after}")[1]
            found += [product["sku"] for product in answer["products"]]
            after = answer["next"]
        self.assertEqual(found, ["H", *(f"P{n}" for n in range(7))])

    def test_prices_and_stock(self):
        """Of variants and of products without any; what is not sent stays, null goes; counts are those of the next answer."""
        rack = lambda: {made.label: made.count for made in current().rack((STOCK,)).answer(Query()).facets[0].bins if made.count}  # noqa: E731
        self.assertEqual(rack(), {"in": 3})
        items = [
            {"sku": "A", "price": "7.10", "level": 0},
            {"sku": "C-1", "list_price": 9},
            {"sku": "none", "level": 1},
            {"sku": "C", "level": 1},
        ]
        self.assertEqual(
            self.call("patch", "offers", {"items": items}), (200, {"new": 0, "changed": 2, "unchanged": 0, "unknown": ["none", "C"]})
        )
        self.assertEqual(self.call("patch", "offers", {"items": items})[1]["changed"], 0)
        offer = products_of(["A"])["A"].offer
        self.assertEqual((offer.price, offer.level, rack()), (exact("7.1"), 0, {"in": 2, "out": 1}))
        self.call("patch", "offers", {"items": [{"sku": "A", "level": None, "availability": "https://schema.org/BackOrder"}]})
        self.assertEqual((products_of(["A"])["A"].offer.level, rack()), (None, {"in": 2, "backorder": 1}))
        for item, words in (({"sku": "A", "price": "dear"}, "price is no number"), ({"sku": "A", "level": [1]}, "level is no number"),
                            ({"sku": "A", "availability": "soon"}, "no availability")):  # fmt: skip
            status, found = self.call("patch", "offers", {"items": [{"sku": "B", "price": 1}, item]})
            self.assertEqual((status, found["problems"][0]["place"]), (422, "1"))
            self.assertIn(words, found["problems"][0]["text"])
        self.assertEqual(products_of(["B"])["B"].offer.price, 9)

    def test_the_printed_example(self):
        """What the page prints works as it stands, as curl sends it; so do numbers written as texts."""
        replace_catalogue([b'{"sku": "SC-1012", "name": "Cleat"}'])
        self.client.force_login(get_user_model().objects.get())
        body = unescape(re.search(r"-d '(.*)'</code>", self.client.get("/catalogue/api/").content.decode())[1])
        for sent in (body, body.replace("94.50", '"94.50"')):
            sending = {"content_type": "application/x-www-form-urlencoded", "headers": {"Authorization": f"Bearer {self.token}"}}
            self.assertEqual(self.client.patch("/api/v1/offers", sent, **sending).status_code, 200)
            self.assertEqual(products_of(["SC-1012"])["SC-1012"].offer.price, exact("94.5"))

    def test_what_is_no_number_is_refused(self):
        """A price that cannot be read is not passed over as one that is not there."""
        before = state()
        for written in ('"abc"', "{}", "[1]", "true", "1e99999"):
            body = f'{{"products": [{{"sku": "N", "name": "N"}}, {{"sku": "A", "name": "A", "offers": {{"price": {written}}}}}]}}'
            status, answer = self.call("put", "products", body)
            self.assertEqual((status, answer["problems"][0]["place"]), (422, "1"))
            self.assertIn("price is ", answer["problems"][0]["text"])
        self.assertTrue(same(state(), before))

    def test_a_token_is_given_once(self):
        """Its text is on the page that follows, and on no page loaded after that."""
        self.client.force_login(get_user_model().objects.get())
        before = Token.objects.count()
        page = self.client.post("/catalogue/api/", {"name": "till", "act": ["look", "products"]}, follow=True)
        self.assertContains(page, "The new token")
        self.assertNotContains(self.client.get("/catalogue/api/"), "The new token")
        self.assertEqual((page.redirect_chain, Token.objects.count()), ([("/catalogue/api/", 302)], before + 1))

    def test_limits(self):
        """A thousand and no more; bodies that are no JSON; while a file comes in others are asked to wait."""
        many = [{"sku": f"M{n}", "name": "m"} for n in range(MOST + 1)]
        self.assertEqual(self.call("put", "products", {"products": many})[0], 422)
        self.assertEqual(self.call("put", "products", {"products": many[:-1]})[1]["new"], MOST)
        for body in ("{", "\ud800".encode("utf-16", "surrogatepass").decode("latin-1"), '{"products": NaN}'):
            self.assertEqual(self.call("put", "products", body)[0], 400)
        with mock.patch("binsort.changes.upserts.hold", side_effect=Refused("a file is being brought in.")):
            self.assertEqual(self.call("patch", "offers", {"items": [{"sku": "A", "level": 1}]})[0], 503)
        counted = []
        for many_items in (1, 50):
            with CaptureQueriesContext(connection) as queries:
                self.call("patch", "offers", {"items": [{"sku": f"M{n}", "level": many_items + 1} for n in range(many_items)]})
            counted.append(len(queries))
        self.assertEqual(counted[0], counted[1])

    def test_all_errors_are_problems(self):
        """Too much, too long, more attributes than there may be: each with its status, in the form of RFC 9457, and what to do."""
        with override_settings(DATA_UPLOAD_MAX_MEMORY_SIZE=100):
            status, problem = self.call("put", "products", {"products": [{"sku": "A", "name": "a" * 200}]})
            self.assertEqual((status, problem["status"]), (413, 413))
            self.assertIn("Send less in a call", problem["title"])
            self.client.force_login(get_user_model().objects.get())
            form = self.client.post("/catalogue/many/", {"text": "a" * 200})
            self.assertContains(form, "More was sent than is taken at once", status_code=413)
        for address, kind in (("/api/v1/products", "application/json"), ("/racks/", "text/html"), ("/shop/", "text/html")):
            answer = self.client.get(address, {"after": "1" * MOST_ADDRESS}, headers={"Authorization": f"Bearer {self.token}"})
            self.assertEqual((answer.status_code, answer["Content-Type"].split(";")[0]), (414, kind))
            self.assertIn("The address is longer than 6,000 characters", answer.content.decode())
        wide = lambda n: {"sku": f"W{n}", "name": "w", "additionalProperty": [{"name": f"N{n}-{k}", "value": 1} for k in range(700)]}  # noqa: E731
        before = state()
        status, problem = self.call("put", "products", {"products": [wide(n) for n in range(8)]})
        self.assertEqual(status, 422)
        self.assertRegex(problem["title"], "5,600 new attributes and the [0-9]+ that there are make more than 5,000")
        self.assertTrue(same(state(), before))
        self.assertFalse(Attribute.objects.filter(name__startswith="N").exists())

    def test_files(self):
        """Sent, tried, brought in; sent again it says that all is like that."""
        send = lambda text: self.client.post(  # noqa: E731
            "/api/v1/files", {"file": SimpleUploadedFile("s.csv", text)}, headers={"Authorization": f"Bearer {self.token}"}
        )
        found = send(b"SKU,Name,Price\nA,Cleat,6\nN,New,x\n").json()
        self.assertEqual((found["state"], found["report"]["changed"], found["report"]["refused"]), ("tried", 1, 1))
        self.assertEqual(self.call("post", f"files/{found['number']}/bring")[1]["state"], "done")
        self.assertEqual((products_of(["A"])["A"].offer.price, self.call("get", f"files/{found['number']}")[1]["state"]), (6, "done"))
        self.assertEqual(send(b"").status_code, 422)

    def test_the_simulated_feed(self):
        """What the demo's shop sends is taken, and never sells what is not there."""
        chance = random.Random(7)
        products = list(state().values())
        for items, _ in zip(sales(products, chance), range(20), strict=False):
            self.assertTrue(all(item["level"] >= 0 for item in items))
            status, done = self.call("patch", "offers", {"items": items})
            self.assertEqual((status, done["unknown"]), (200, []))

    def test_every_answer_is_described(self):
        """Random calls of every operation, good and bad, get an answer that the OpenAPI document has."""
        schema = schemathesis.openapi.from_wsgi("/api/v1/openapi.json", through_the_test_client)
        self.assertEqual(schema.raw_schema["openapi"], "3.1.0")
        names = set()
        for found in schema.get_all_operations():
            operation = found.ok()
            names.add(operation.definition.raw["operationId"])
            self.check(operation)
        self.assertEqual(
            names, {"list_products", "put_products", "delete_products", "get_product", "set_offers", "send_file", "get_file", "bring_file"}
        )

    def check(self, operation):
        """Call an operation with what its description allows, and with what it does not."""

        @examples(10, database=None)
        @given(case=operation.as_strategy())
        def good(case):
            answer = case.call(headers={"Authorization": f"Bearer {self.token}", "Accept-Encoding": "identity"})
            broken = ""
            try:  # tokens are tested in test_access; and a schema cannot say all that makes a product
                case.validate_response(answer, excluded_checks=[ignored_auth, positive_data_acceptance])
            except BaseExceptionGroup as error:
                broken = "\n".join(map(str, error.exceptions))
            self.assertEqual(broken, "")  # out here: the group, and what was raised because of it, cannot be sent between processes
            self.assertLess(answer.status_code, 500 if answer.status_code != 503 else 504)

        good()


def read(documents):
    """Documents as the API reads them."""
    return loads(json.dumps(documents))


class TwiceTests(PropertyCase):
    @examples(15)
    @given(st.lists(PRODUCTS, max_size=5))
    def test_any_products_twice_are_once(self, documents):
        """Whatever products are sent, sending them again changes nothing; those with what is no number change nothing at all."""
        before = state()
        try:
            upsert_products(read(documents))
        except BadItems:
            self.assertTrue(same(state(), before))
            return
        once = state()
        found = upsert_products(read(documents))
        self.assertEqual((found.new, found.changed), (0, 0), documents)
        self.assertTrue(same(state(), once))
