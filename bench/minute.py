"""The first minute: from a file of products to a live rack, by somebody who never saw the tool, in Chromium on an empty shop.

Run as ``python -m bench.minute``, with the environment that ./run sets. Each file is brought in with the worker beside the server, as
in the demo. An action is a click, a choice in a list, a file chosen. Prints one JSON object.
"""

import csv
import io
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import django

from .web import web

_PROJECT = Path(__file__).parent.parent
_NAME, _PASSWORD = "somebody", "sea-campion-and-thrift"


class Hands:
    """Somebody at the page, whose actions are counted."""

    def __init__(self, page: Any) -> None:
        self.page, self.actions = page, 0

    def click(self, what: str) -> None:
        """Click on what is in sight."""
        self.page.locator(what).first.click()
        self.actions += 1

    def choose_file(self, path: Path) -> None:
        """Choose a file."""
        self.page.set_input_files("#file", path)
        self.actions += 1

    def choose(self, what: str, value: str) -> None:
        """Choose in a list."""
        self.page.select_option(what, value)
        self.actions += 1


def main() -> None:
    """Measure each file in a database of its own that is dropped afterwards."""
    django.setup()
    from django.conf import settings
    from django.test.utils import get_runner

    settings.STORAGES = {**settings.STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
    found = {}
    for name, (write, columns) in FILES.items():
        runner = get_runner(settings)(verbosity=0, interactive=False)
        databases = runner.setup_databases()
        try:
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / f"{name}.csv"
                path.write_bytes(write())
                found[name] = first_minute(str(settings.DATABASES["default"]["NAME"]), path, columns)
        finally:
            runner.teardown_databases(databases)
    print(json.dumps(found))


def first_minute(database: str, path: Path, columns: dict[int, str]) -> dict[str, Any]:
    """Bring a file in, take the proposed rack, put it live; returns seconds, actions, products and facets that shoppers see."""
    from django.contrib.auth import get_user_model
    from playwright.sync_api import sync_playwright

    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    get_user_model().objects.create_superuser(_NAME, password=_PASSWORD)
    url = os.environ["BINSORT_DATABASE_URL"].rpartition("/")[0] + f"/{database}"
    environment = {**os.environ, "BINSORT_DATABASE_URL": url}
    command = [sys.executable, "-m", "binsort.project.manage", "procrastinate", "worker", "--concurrency", "1"]
    with web(database) as server, sync_playwright() as driver:
        worker = subprocess.Popen(command, cwd=_PROJECT, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        try:
            page = driver.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"]).new_page()
            page.set_default_timeout(120_000)
            page.goto(f"http://127.0.0.1:{server.port}/sign-in/")
            page.fill("#id_username", _NAME)
            page.fill("#id_password", _PASSWORD)
            page.click("button:has-text('Sign in')")
            page.wait_for_selector("#file")
            hands, began = Hands(page), time.perf_counter()
            hands.choose_file(path)
            hands.click("text=Look at it")
            page.wait_for_selector(".trial, [role=alert], select[name='c:0:meaning']")
            for place, meaning in columns.items():
                page.wait_for_selector(f"[name='c:{place}:meaning']")
                hands.choose(f"[name='c:{place}:meaning']", meaning)
            hands.click("button[name=bring]")
            page.wait_for_selector("text=Go on: a rack to start with")
            hands.click("text=Go on: a rack to start with")
            page.wait_for_selector("button:has-text('Start with')")
            worth = page.inner_text(".begin-worth")
            hands.click("button:has-text('Start with')")
            page.wait_for_selector("text=Put live")
            hands.click("text=Put live")
            took = _until_live(page, began, server.port)
            return {"seconds": took[0], "actions": hands.actions, "worth": worth, "products": took[1], "facets": took[2]}
        finally:
            worker.terminate()
            worker.wait(20)


def _until_live(page: Any, began: float, port: int) -> tuple[float, str, int]:
    """Return how long it took until a shopper sees facets, how many products, and how many facets."""
    shopper = page.context.browser.new_page()
    while time.perf_counter() - began < 300:
        shopper.goto(f"http://127.0.0.1:{port}/shop/")
        facets = shopper.locator("details.facet").count()
        if facets:
            return time.perf_counter() - began, shopper.inner_text("#status"), facets
        time.sleep(0.1)
    raise SystemExit("No facet went live.")


# -- the files


def demo() -> bytes:
    """Return the chandlery as a table, as its own export writes it; the database is empty again afterwards."""
    from django.core.management import call_command

    from binsort.catalog.files.export import take_out
    from binsort.demo.loader import load_demo
    from binsort.tally import current

    load_demo()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "chandlery.csv"
        take_out(path, "csv")
        written = path.read_bytes()
    call_command("flush", verbosity=0, interactive=False)
    current.forget()
    return written


def diamonds() -> bytes:
    """Return the 53,940 diamonds that ship with plotnine, with a number and a name, which they lack."""
    source = Path(find_spec("plotnine").submodule_search_locations[0]) / "data" / "diamonds.csv"  # type: ignore[union-attr, index]
    written = io.StringIO()
    writer = csv.writer(written)
    with source.open(newline="", encoding="utf-8") as lines:
        rows = csv.reader(lines)
        writer.writerow(["SKU", "Name", *next(rows)])
        for number, row in enumerate(rows, 1):
            writer.writerow([f"D{number}", f"{row[0]} ct {row[1]} diamond", *row])
    return written.getvalue().encode()


def airports() -> bytes:
    """Return the airports of the United States."""
    return (_PROJECT / "tests" / "data" / "airports.csv").read_bytes()


FILES: dict[str, tuple[Callable[[], bytes], dict[int, str]]] = {
    "demo": (demo, {}), "diamonds": (diamonds, {}), "airports": (airports, {0: "identity"}),
}  # fmt: skip

if __name__ == "__main__":
    main()
