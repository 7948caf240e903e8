"""Driving the real pages in Debian's Chromium."""

import atexit
import os
import time
from functools import cache
from pathlib import Path

import axe_playwright_python
import psycopg
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.core.management import call_command
from django.db import connection, connections
from playwright.sync_api import Error, sync_playwright

from binsort.demo.loader import OWNER, PASSWORD, load_demo
from binsort.tally import current

CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
ABORTED = ("Failed to load resource", "htmx:sendAbort", "htmx:afterRequest")  # a request given up for a newer one is told twice
AXE = Path(axe_playwright_python.__file__).parent / "axe.min.js"


class _Browser:
    """One browser for all classes of a process."""

    def __init__(self):
        self._driver = sync_playwright().start()
        self.chromium = self._driver.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        atexit.register(self.close)

    def close(self):
        """End it."""
        self.chromium.close()
        self._driver.stop()


the_browser = cache(_Browser)


def restore_demo():
    """Put the demo shop in place of all there is in the test's database: loaded once, then copied as a template."""
    database, template = connection.settings_dict["NAME"], f"{connection.settings_dict['NAME']}_demo"
    with _beside() as other:
        is_there = other.execute("SELECT count(*) FROM pg_database WHERE datname = %s", [template]).fetchone()[0]
    if not is_there:
        call_command("flush", verbosity=0, interactive=False)
        load_demo()
    connections.close_all()
    with _beside() as other:
        one, two = (template, database) if not is_there else (database, template)
        _end_sessions(other, database)
        if is_there:
            other.execute(f'DROP DATABASE "{database}"')
        other.execute(f'CREATE DATABASE "{one}" TEMPLATE "{two}" STRATEGY FILE_COPY')
    current.forget()


def forget_demo():
    """Drop the template."""
    with _beside() as other:
        other.execute(f'DROP DATABASE IF EXISTS "{connection.settings_dict["NAME"]}_demo"')


def _beside():
    parts = connection.get_connection_params()
    return psycopg.connect(**{key: parts[key] for key in ("user", "password", "host", "port")}, dbname="postgres", autocommit=True)


def _end_sessions(other, database):
    """End what is left of a server's sessions; a database that is in use cannot be copied."""
    for _ in range(100):
        other.execute("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s", [database])
        if not other.execute("SELECT count(*) FROM pg_stat_activity WHERE datname = %s", [database]).fetchone()[0]:
            return
        time.sleep(0.02)


def wait_until(page, expression, *, seconds=30):
    """Wait until an expression is true in a page; asked from outside, for the pages' own policy lets nothing be evaluated inside."""
    end = time.monotonic() + seconds
    while not _is_so(page, expression):
        if time.monotonic() > end:
            raise AssertionError(f"still not so after {seconds} s: {expression}")
        page.wait_for_timeout(30)


def _is_so(page, expression):
    """Whether it is so now; what it names may not be there, or the page just be going."""
    try:
        return page.evaluate(expression)
    except Error:
        return False


class BrowserTestCase(StaticLiveServerTestCase):
    """Serves the demo shop and opens pages of it, with scripts or without; a script error fails the test."""

    @classmethod
    def setUpClass(cls):
        """Start the server and, where it is not running yet, the browser."""
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"  # the browser's driver runs a loop in this thread
        super().setUpClass()
        cls.browser = the_browser().chromium

    @classmethod
    def tearDownClass(cls):
        """Leave an empty database."""
        super().tearDownClass()
        connections.close_all()
        forget_demo()
        call_command("flush", verbosity=0, interactive=False)
        current.forget()

    def setUp(self):
        """The demo shop as it is at first."""
        restore_demo()
        self.errors = []

    def _fixture_teardown(self):
        """Leave what a test made: the next one is given the demo anew."""

    def open(self, path, *, scripts=True, width=1280, height=800, touch=False, **more):
        """Open a page in a browser of its own."""
        context = self.browser.new_context(
            viewport={"width": width, "height": height}, java_script_enabled=scripts, has_touch=touch, is_mobile=touch, **more
        )
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(30_000)  # for a machine that others keep busy
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on("console", lambda message: self.errors.append(message.text) if message.type == "error" else None)
        page.goto(self.live_server_url + path)
        return page

    def sign_in(self, **how):
        """Open the tool as the owner."""
        page = self.open("/racks/", **how)
        page.fill("#id_username", OWNER)
        page.fill("#id_password", PASSWORD)
        page.click("button:has-text('Sign in')")
        page.wait_for_url("**/racks/")
        return page

    def assert_accessible(self, page, name):
        """Run the audit of axe-core (WCAG 2.2 A and AA, best practice left out) over a page."""
        page.evaluate(AXE.read_text())
        found = page.evaluate(
            """async () => {
              const tags = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];
              const found = await axe.run({runOnly: tags, resultTypes: ['violations']});
              const broken = found.violations.map((v) => `${v.id}: ${v.help} at ${v.nodes.slice(0, 3).map((n) => n.target).join(', ')}`);
              return {passes: found.passes.length, broken};
            }"""
        )
        self.assertGreater(found["passes"], 10)
        self.assertEqual(found["broken"], [], name)

    def tearDown(self):
        """No script may have failed."""
        self.assertEqual([error for error in self.errors if not any(known in error for known in ABORTED)], [])
