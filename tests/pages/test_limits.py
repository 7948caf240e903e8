"""Limits of the API: 429 with Retry-After by token and by address; and HEAD."""

from unittest import mock

from django.contrib.auth import get_user_model
from django.test import TestCase, override_settings

from binsort.changes import sites, tokens
from binsort.demo.loader import load_demo
from binsort.project import limits

LISTING = "/api/shop/v1/listing?colour=navy"


class LimitTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """The demo shop."""
        load_demo()
        cls.owner = get_user_model().objects.get(username="mara")

    def setUp(self):
        """A clock that stands still until it is moved."""
        self.now = 1_000.0
        clock = mock.patch.object(limits.time, "monotonic", lambda: self.now)
        clock.start()
        self.addCleanup(clock.stop)

    @override_settings(CALLS_A_MINUTE=60)
    def test_by_address(self):
        """Ten at once, then one a second; the wait that is told is enough; another address, the pages and preflights are not touched."""
        sites.let_in("https://gullhythe.example", actor=self.owner)
        answers = [self.client.get(LISTING).status_code for _ in range(11)]
        self.assertEqual(answers, [200] * 10 + [429])
        refused = self.client.get(LISTING, headers={"origin": "https://gullhythe.example"})
        self.assertEqual((refused["Retry-After"], refused["Cache-Control"]), ("1", "no-store"))
        self.assertEqual(refused["Access-Control-Allow-Origin"], "https://gullhythe.example")  # so that a script can read when to ask again
        self.assertIn("60 calls a minute", refused.json()["title"])
        self.assertEqual(self.client.get(LISTING, REMOTE_ADDR="192.0.2.7").status_code, 200)
        self.assertEqual(self.client.get("/shop/").status_code, 200)
        self.now += int(refused["Retry-After"])
        self.assertEqual([self.client.get(LISTING).status_code for _ in range(2)], [200, 429])

    @override_settings(CALLS_A_MINUTE=60, CALLS_A_MINUTE_BY_TOKEN=120)
    def test_by_token(self):
        """A token has a limit of its own once it is known; one that is none counts for its address."""
        secret = tokens.give("Shop", actor=self.owner)[1]
        good, bad = ({"headers": {"authorization": f"Bearer {text}"}} for text in (secret, "guess"))
        answers = [self.client.get("/api/v1/products", **good).status_code for _ in range(22)]
        self.assertEqual((answers.count(200), answers[-1]), (20, 429))
        tried = [
            self.client.get("/api/v1/products", headers={"authorization": f"Bearer guess{number}"}).status_code for number in range(12)
        ]
        self.assertEqual((tried.count(401), tried[-1]), (9, 429))
        self.assertEqual(self.client.get("/api/v1/products", **bad).status_code, 429)

    def test_head(self):
        """The headers of GET without a body, validators included (RFC 9110, 9.3.2)."""
        whole, head = self.client.get(LISTING), self.client.head(LISTING)
        self.assertEqual((head.status_code, head.content, head["ETag"]), (200, b"", whole["ETag"]))
        self.assertEqual(head["Content-Length"], str(len(whole.content)))
        self.assertEqual(self.client.head(LISTING, headers={"if-none-match": whole["ETag"]}).status_code, 304)
