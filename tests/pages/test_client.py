"""The client that ships: whatever fails on the way, the catalogue ends as the shop's system has it."""

import io
import json
import time
from email.message import Message
from http.client import IncompleteRead, RemoteDisconnected
from random import Random
from unittest import mock
from urllib.error import HTTPError, URLError

from django.contrib.auth import get_user_model
from django.test import TestCase

from binsort.catalog.api import client as shipped
from binsort.catalog.models import Token
from binsort.catalog.store.product_rows import all_products
from binsort.changes import tokens
from binsort.core.products.catalogue_writer import document_of
from binsort.core.values.strict_json import dumps


class Line:
    """A line to the application on which calls and answers get lost."""

    def __init__(self, client, chance, failing):
        self.client, self.chance, self.failing, self.calls = client, chance, failing, 0

    def __call__(self, request, timeout):
        """Do what ``urlopen`` does."""
        self.calls += 1
        failure = self.chance.choice(["refused", "busy", "too many", "lost", "half"]) if self.chance.random() < self.failing else ""
        if failure == "refused":
            raise URLError(ConnectionRefusedError(111, "Connection refused"))
        if failure in ("busy", "too many"):
            raise self.error(request, 503 if failure == "busy" else 429, b"{}", {"Retry-After": "7"})
        path = request.full_url.removeprefix("http://shop.example")
        headers = {name.lower(): value for name, value in request.header_items()}
        answer = self.client.generic(request.get_method(), path, request.data or b"", content_type="application/json", headers=headers)
        if failure == "lost":
            raise RemoteDisconnected("Remote end closed connection without response")
        if answer.status_code >= 400:
            raise self.error(request, answer.status_code, answer.content, {})
        held = io.BytesIO(answer.content)
        if failure == "half":
            held.read = mock.Mock(side_effect=IncompleteRead(answer.content[:10]))
        return held

    def error(self, request, status, content, headers):
        """Return an answer as ``urllib`` raises it."""
        message = Message()
        for name, value in headers.items():
            message[name] = value
        return HTTPError(request.full_url, status, "not done", message, io.BytesIO(content))


class ClientTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Give a token."""
        owner = get_user_model().objects.create_user("owner", is_staff=True)
        cls.token = tokens.give("Till", actor=owner)[1]

    def shop(self, seed=1, failing=0.0, **how):
        """Return a client on a line, the line, and how long it slept between tries."""
        line, slept = Line(self.client, Random(seed), failing), []
        for name, double in (("urlopen", line), ("sleep", slept.append)):
            patched = mock.patch.object(shipped if name == "urlopen" else time, name, double)
            patched.start()
            self.addCleanup(patched.stop)
        return shipped.Client("http://shop.example/", self.token, **how), line, slept

    def there(self):
        """Return the catalogue as a dictionary of documents."""
        return {product.id: json.loads(dumps(document_of(product))) for product in all_products()}

    def product(self, number, **more):
        """Return a product to send."""
        return {
            "@type": "Product",
            "sku": number,
            "name": f"Cleat {number}",
            "offers": {"@type": "Offer", "price": 5, "inventoryLevel": 3},
            **more,
        }

    def test_a_day_on_a_bad_line(self):
        """Full load, changes, prices, stock and deletions, with calls and answers lost: nothing is missing, doubled or old."""
        for seed in range(6):
            with self.subTest(seed=seed):
                catalogue, line, slept = self.shop(seed, failing=0.4, tries=40)
                chance, model = Random(seed), {f"L-{n}": self.product(f"L-{n}") for n in range(30)}
                with mock.patch.object(shipped, "A_CALL", 7):
                    catalogue.load(model.values())
                    self.assertEqual(self.there(), model)
                    for _turn in range(6):
                        number = chance.choice(sorted(model))
                        match chance.choice(["put", "offers", "delete", "load"]):
                            case "put":
                                model[number] = self.product(number, brand={"@type": "Brand", "name": "Hollin"})
                                catalogue.put([model[number]])
                            case "offers":
                                price, level = chance.randint(1, 90), chance.randint(0, 40)
                                done = catalogue.set_offers([{"sku": number, "price": price, "level": level}, {"sku": "none"}])
                                model[number]["offers"].update(price=price, inventoryLevel=level)
                                self.assertEqual(done["unknown"], ["none"])
                            case "delete":
                                catalogue.delete([number])
                                del model[number]
                            case "load":
                                model = {key: model[key] for key in sorted(model)[2:]} | {f"N-{seed}": self.product(f"N-{seed}")}
                                catalogue.load(model.values())
                        self.assertEqual(self.there(), model)
                self.assertGreater(line.calls, 12)
                self.assertIn(1.0, slept)
                self.assertIn(7.0, slept)  # as Retry-After says
                self.assertEqual({one["sku"] for one in catalogue.products()}, set(model))
                catalogue.delete(sorted(model))

    def test_what_trying_again_cannot_help(self):
        """A wrong call is refused once, in words; nothing of it is taken. A line that stays dead is told after all tries."""
        catalogue, line, slept = self.shop()
        with self.assertRaises(shipped.Refused) as refused:
            catalogue.put([self.product("A"), {"name": "no number"}])
        self.assertEqual(refused.exception.args[0], 422)
        self.assertIn("problems", refused.exception.args[1])
        self.assertEqual((self.there(), line.calls, slept), ({}, 1, []))
        with self.assertRaises(ValueError):
            catalogue.load([])
        dead, line, slept = self.shop(failing=1.0, tries=4)
        with self.assertRaisesRegex(OSError, "was tried 4 times"):
            dead.put([self.product("A")])
        self.assertEqual((line.calls, len(slept)), (4, 3))
        Token.objects.update(ended_at="2026-01-01T00:00:00Z")
        ended, *_ = self.shop()
        with self.assertRaises(shipped.Refused) as refused:
            ended.put([self.product("A")])
        self.assertEqual(refused.exception.args[0], 401)
