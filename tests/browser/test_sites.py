"""A page of another origin reads the shop's listings, once the owner let its site in."""

import re
from functools import partial
from html import unescape
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from threading import Thread
from urllib.parse import urlencode
from urllib.request import urlopen

from django.contrib.auth import get_user_model

from binsort.changes import sites
from tests.pages.test_shop_counts import CHOICE

from .pages import BrowserTestCase, the_browser

_ASK = """async ([address, headers]) => {
  try {
    const answer = await fetch(address, {headers});
    const body = answer.status === 200 ? await answer.json() : null;
    return [answer.status, body && body.total, answer.headers.get('ETag'), answer.headers.get('Server')];
  } catch (error) { return error.name; }
}"""


class Quiet(SimpleHTTPRequestHandler):
    """Serves a folder, and says nothing of it."""

    def log_message(self, format, *args):
        """Say nothing."""


class OtherSiteTests(BrowserTestCase):
    def setUp(self):
        """Serve a page on a port of its own, which makes it another origin."""
        super().setUp()
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        (Path(folder.name) / "index.html").write_text("<!doctype html><title>Gull Hythe Sailing Club</title><p>Lines for the Marram 19")
        server = ThreadingHTTPServer(("127.0.0.1", 0), partial(Quiet, directory=folder.name))
        Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        self.origin = f"http://127.0.0.1:{server.server_port}"

    def test_read_from_another_origin(self):
        """Kept from it at first; let in, it reads counts and validators, asks again for nothing, and sends a header that has to be allowed."""
        page = the_browser().chromium.new_page()
        self.addCleanup(page.close)
        page.goto(self.origin)
        address = f"{self.live_server_url}/api/shop/v1/listing?colour=navy"
        self.assertEqual(page.evaluate(_ASK, [address, {}]), "TypeError")  # as the Fetch standard has a network error
        sites.let_in(self.origin, actor=get_user_model().objects.get(username="mara"))
        status, total, tag, server = page.evaluate(_ASK, [address, {}])
        self.assertEqual((status, total), (200, self.total_of("/shop/?colour=navy")))
        self.assertIsNone(server)  # of the headers only those that are named can be read
        self.assertEqual(page.evaluate(_ASK, [address, {"If-None-Match": tag}])[0], 304)
        self.assertEqual(page.evaluate(_ASK, [f"{self.live_server_url}/api/v1/products", {}]), "TypeError")

    def test_a_client_from_the_docs(self):
        """The client that docs/other-sites.md prints gets every count that the shop's own pages show, pick after pick."""
        text = (Path(__file__).parents[2] / "docs" / "other-sites.md").read_text(encoding="utf-8")
        client = {}
        exec(re.search(r"```python\n(.*?)```", text, re.DOTALL)[1], client)
        chance, compared = Random(7), 0
        for category in ("", "Rope and cordage", "Safety"):
            found = client["listing"](self.live_server_url, urlencode({"category": category}) if category else "")
            for _ in range(4):
                with urlopen(found["address"]) as answer:
                    html = answer.read().decode()
                told = client["counts"](found)
                for label in CHOICE.findall(html):
                    key, value, count = (
                        re.search(pattern, label) for pattern in (r'name="([^"]+)"', r'value="([^"]*)"', r'count">([\d,]+)<')
                    )
                    if key and value and value[1] and count:
                        self.assertEqual(told[key[1], unescape(value[1])], int(count[1].replace(",", "")))
                        compared += 1
                offered = [(facet["key"], one["key"]) for facet in found["facets"] for one in facet["choices"] if one["enabled"]]
                found = client["picked"](self.live_server_url, found, *chance.choice(offered))
        self.assertGreater(compared, 200)

    def total_of(self, path):
        """Return how many products a listing of the shop has, as its own page says."""
        page = self.open(path, scripts=False)
        return int(page.inner_text("#status").split()[0].replace(",", ""))
