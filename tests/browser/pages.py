"""Driving the real pages in Debian's Chromium."""

import os
from pathlib import Path

import axe_playwright_python
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.db import connections
from playwright.sync_api import sync_playwright

from binsort.demo.loader import OWNER, PASSWORD, load_demo

CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
AXE = Path(axe_playwright_python.__file__).parent / "axe.min.js"


class BrowserTestCase(StaticLiveServerTestCase):
    """Serves the demo shop and opens pages of it, with scripts or without; a script error fails the test."""

    @classmethod
    def setUpClass(cls):
        """Start the server and the browser."""
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"  # the browser's driver runs a loop in this thread
        super().setUpClass()
        cls.driver = sync_playwright().start()
        cls.browser = cls.driver.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)

    @classmethod
    def tearDownClass(cls):
        """Stop both."""
        cls.browser.close()
        cls.driver.stop()
        super().tearDownClass()
        connections.close_all()

    def setUp(self):
        """Load the demo shop afresh."""
        load_demo()
        self.errors = []

    def open(self, path, *, scripts=True, width=1280, height=800, touch=False):
        """Open a page in a browser of its own."""
        context = self.browser.new_context(
            viewport={"width": width, "height": height}, java_script_enabled=scripts, has_touch=touch, is_mobile=touch
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
        found = page.evaluate("axe.run({runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']})")
        self.assertGreater(len(found["passes"]), 10)
        broken = [f"{v['id']}: {v['help']} at {[n['target'] for n in v['nodes']][:3]}" for v in found["violations"]]
        self.assertEqual(broken, [], name)

    def tearDown(self):
        """No script may have failed."""
        self.assertEqual([error for error in self.errors if "Failed to load resource" not in error and "sendAbort" not in error], [])
