"""What is sent and believed in the open: headers, cookies, proxies, static names."""

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import mock

from django.db import OperationalError
from django.test import RequestFactory, SimpleTestCase, TestCase, override_settings

from binsort.changes.catalogue import replace_catalogue
from binsort.project.proxy import client_address

PROJECT = Path(__file__).parents[2]


def managed(*arguments, **environment):
    """Run a management command as in the open."""
    settings = {
        "BINSORT_SECRET_KEY": "k" * 20 + "eep-this-one-to-the-tests-" + "0123456789",
        "BINSORT_HTTPS": "1",
        "BINSORT_HOSTS": "shop.example",
    }
    mine = {name: value for name, value in os.environ.items() if name != "DJANGO_ALLOW_ASYNC_UNSAFE"}  # which the browser's tests set
    command = [sys.executable, "-m", "binsort.project.manage", *arguments]
    return subprocess.run(command, cwd=PROJECT, env={**mine, **settings, **environment}, capture_output=True, text=True)


class DeploymentTests(SimpleTestCase):
    def test_the_check_for_deployment_is_clean(self):
        """Django finds nothing to warn of."""
        done = managed("check", "--deploy", "--fail-level", "WARNING")
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("no issues (0 silenced)", done.stdout)

    def test_static_names_carry_a_digest(self):
        """Style sheets, scripts and the fonts they name are kept for a year under names that change with them."""
        with tempfile.TemporaryDirectory() as folder:
            done = managed("collectstatic", "--noinput", BINSORT_DATA=folder)
            self.assertEqual(done.returncode, 0, done.stderr)
            sheets = [path for path in Path(folder).rglob("workbench.*.css") if re.search(r"\.[0-9a-f]{12}\.css$", path.name)]
            self.assertRegex(sheets[0].read_text(), r"familjen-grotesk-latin-wght-normal\.[0-9a-f]{12}\.woff2")
            self.assertTrue(sheets[0].with_name(sheets[0].name + ".gz").exists())


class HeaderTests(TestCase):
    def test_no_script_and_no_style_sheet_from_elsewhere(self):
        """The policy allows none that is written into a page; answers are compressed."""
        replace_catalogue([b'{"sku": "A", "name": "Cleat"}'])
        page = self.client.get("/shop/", headers={"accept-encoding": "gzip"})
        policy = dict(part.strip().partition(" ")[::2] for part in page["Content-Security-Policy"].split(";"))
        self.assertEqual((policy["default-src"], policy["script-src"], policy["style-src"]), ("'none'", "'self'", "'self'"))
        self.assertNotIn("unsafe", page["Content-Security-Policy"])
        self.assertEqual(page["Content-Encoding"], "gzip")
        text = self.client.get("/shop/").content.decode()
        self.assertEqual(re.findall(r"<script(?![^>]*(?:\bsrc=|ld\+json))|<style|\son[a-z]+=|\sstyle=", text), [])

    def test_without_a_database(self):
        """People get a page of the house that comes back by itself, other systems a problem that says to send again; neither asks for more."""
        self.client.raise_request_exception = False
        away = OperationalError("connection refused")
        with (
            mock.patch("django.contrib.sessions.backends.db.SessionStore.load", side_effect=away),
            mock.patch("binsort.tally.feed.position", side_effect=away),
            mock.patch("binsort.tally.current.current", side_effect=away),
            mock.patch("binsort.shopfront.views.listing_page", side_effect=away),
        ):
            self.client.cookies["binsort_session"] = "somebody"
            shop, tool = self.client.get("/shop/"), self.client.get("/racks/")
        with mock.patch("binsort.changes.tokens.known", side_effect=away):
            machine = self.client.get("/api/v1/products", headers={"Authorization": "Bearer x"})
        self.assertEqual([page.status_code for page in (shop, tool, machine)], [503, 503, 503])
        self.assertEqual({page["Retry-After"] for page in (shop, tool, machine)}, {"3"})
        self.assertContains(shop, "comes back by itself", status_code=503)
        self.assertContains(tool, "The database cannot be reached", status_code=503)
        self.assertEqual(machine.json()["status"], 503)
        with mock.patch("binsort.shopfront.views.listing_page", side_effect=ValueError):
            self.assertContains(self.client.get("/shop/"), "Something went wrong on our side", status_code=500)

    def test_forms_behind_a_proxy(self):
        """Behind one that ends TLS a form is taken and the client's own address counts; without one no header is believed."""
        request = RequestFactory().get("/", HTTP_X_FORWARDED_FOR="6.6.6.6, 203.0.113.9", REMOTE_ADDR="127.0.0.1")
        for proxies, address in ((0, "127.0.0.1"), (1, "203.0.113.9"), (3, "127.0.0.1")):
            with override_settings(PROXIES=proxies):
                self.assertEqual(client_address(request), address)
        client = self.client_class(enforce_csrf_checks=True)
        secure = {
            "X-Forwarded-Proto": "https",
            "Host": "testserver",
            "Origin": "https://testserver",
            "Referer": "https://testserver/sign-in/",
        }
        with override_settings(SECURE_PROXY_SSL_HEADER=("HTTP_X_FORWARDED_PROTO", "https"), CSRF_TRUSTED_ORIGINS=["https://testserver"]):
            page = client.get("/sign-in/", headers=secure)
            token = page.context["csrf_token"]
            sent = client.post("/sign-in/", {"username": "x", "password": "y", "csrfmiddlewaretoken": str(token)}, headers=secure)
        self.assertEqual(sent.status_code, 200)
