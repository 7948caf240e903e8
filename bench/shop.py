"""Shopping: a click on the server, several shoppers without pause, what is sent, and what a browser sees of it.

Run as ``python -m bench.shop [PRODUCTS]``, with the environment that ./run sets; without a number on the demo. Every click is
another one, so that hardly any page was drawn before; what leads to nothing, with its ways out, is timed apart. Prints one JSON object.
"""

import gzip
import http.client
import json
import os
import statistics
import sys
import threading
import time
from collections.abc import Callable, Sequence
from random import Random
from typing import Any
from urllib.parse import quote, urlencode

import django

from binsort.core.answers.answer import State

from .measuring import a_database
from .web import web

CLICK = {"HX-Request": "true", "HX-Target": "narrow"}
LISTINGS: tuple[tuple[str, ...], ...] = ((), ("rope and cordage",), ("deck hardware",), ("safety",), ("paint and varnish",))
CLICKS, TIMED, SHOPPERS, SECONDS = 600, 300, 4, 20  # clicks: of them timed
WORDS = ("hal", "spl", "shack", "polye", "mooring line", "halyrad", "SC-10", "wax", "tern", "swivel block")


def main() -> None:
    """Measure everything in a database of its own that is dropped afterwards."""
    django.setup()
    from binsort.demo.loader import load_demo

    from .pages import enlarge

    with a_database() as database:
        load_demo()
        if len(sys.argv) > 1:
            enlarge(int(sys.argv[1]))
        addresses = clicks(CLICKS)
        found: dict[str, Any] = {"click": one_shopper(addresses), "dead_end": one_shopper(clicks(CLICKS, blindly=True))}
        found.update(suggest=suggestions(), **sizes(addresses))
        found.update(served(database, addresses))
        print(json.dumps(found))


def clicks(count: int, *, blindly: bool = False) -> list[str]:
    """Return so many different addresses as a shopper comes by them: one pick more each time, of bins that promise products.

    ``blindly`` takes any bins instead, one to five at once: nearly all of those addresses leave nothing.
    """
    from binsort.racks.setup import the_setup
    from binsort.tally.current import current

    setup = the_setup()
    assert setup.live is not None
    rack, chance = current().rack(setup.live.facet_file.facets), Random(12)
    found: dict[str, None] = {}
    while len(found) < count:
        category = chance.choice(LISTINGS)
        pairs: list[tuple[str, str]] = []
        for _ in range(chance.randint(1, 5)):
            state = State(rack, rack.read(pairs, category or None))
            offered = [(answer.key, bin.key) for answer in state.facets for bin in answer.bins if not bin.picked and (bin.count or blindly)]
            if not offered:
                break
            pairs.append(chance.choice(offered))
            if not blindly:
                found[_address(category, pairs)] = None
        found[_address(category, pairs)] = None
    return list(found)[:count]


def _address(category: tuple[str, ...], pairs: Sequence[tuple[str, str]]) -> str:
    slugs = "/".join(("c", *(part.replace(" ", "-") for part in category))) + "/" if category else ""
    return f"/shop/{slugs}?{urlencode(pairs)}"


def one_shopper(addresses: list[str]) -> dict[str, float]:
    """Time each click once, from the request to the last byte of the answer, after others have warmed the process."""
    ask = _asker(**CLICK)
    for address in addresses[TIMED:]:
        ask(address)
    return summed([ask(address) for address in addresses[:TIMED]])


def _asker(**headers: str) -> Callable[[str], float]:
    """Return what asks the server's application as a web server does, and gives the milliseconds it took."""
    from django.core.wsgi import get_wsgi_application
    from django.test import RequestFactory

    application, requests = get_wsgi_application(), RequestFactory(headers={"host": "127.0.0.1", "accept-encoding": "gzip", **headers})

    def ask(address: str) -> float:
        environ, said = requests.get(address).environ, []

        def begin(status: str, _headers: list[tuple[str, str]], _error: Any = None, /) -> Callable[[bytes], object]:
            said.append(status)
            return lambda _part: None

        started = time.perf_counter()
        answer = application(environ, begin)
        b"".join(answer)
        answer.close()
        took = 1000 * (time.perf_counter() - started)
        if said != ["200 OK"]:
            raise SystemExit(f"{address} gave {said}")
        return took

    return ask


def suggestions() -> dict[str, float]:
    """Time suggestions for texts that nobody typed before, begun letter by letter, typing errors among them."""
    ask = _asker()
    ask("/shop/suggest/?q=halyadr")
    texts = [word[:end] for word in WORDS for end in range(3, len(word) + 1)]
    return summed([ask(f"/shop/suggest/?q={quote(text)}&category=rope+and+cordage") for text in texts])


def sizes(addresses: list[str]) -> dict[str, float]:
    """Return what a click and the first page weigh, compressed."""
    from django.test import Client

    client = Client(headers={"host": "127.0.0.1"})
    weights = [len(gzip.compress(client.get(address, headers=CLICK).content, 6)) / 1000 for address in addresses[:100]]
    return {"click_kb": statistics.median(weights), "click_kb_most": max(weights)}


def served(database: str, addresses: list[str]) -> dict[str, Any]:
    """Measure against a server of two processes: several shoppers at once, and a browser."""
    with web(database) as server:
        return {"shoppers": several(server.port, addresses), "browser": in_a_browser(server.port)}


def several(port: int, addresses: list[str]) -> dict[str, float]:
    """Time the clicks of several shoppers who never pause."""
    times: list[float] = []
    end = time.monotonic() + SECONDS

    def shop(number: int) -> None:
        chance = Random(number)
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        while time.monotonic() < end:
            started = time.perf_counter()
            connection.request("GET", chance.choice(addresses), headers={**CLICK, "Accept-Encoding": "gzip"})
            connection.getresponse().read()
            times.append(1000 * (time.perf_counter() - started))

    threads = [threading.Thread(target=shop, args=(number,)) for number in range(SHOPPERS)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return summed(times)


def in_a_browser(port: int) -> dict[str, float]:
    """Return what Chromium says of a first load and of clicks: paint, shifts, the slowest interaction, what was sent."""
    from playwright.sync_api import sync_playwright

    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script("""
            window.seen = {lcp: 0, cls: 0, inp: 0};
            new PerformanceObserver((list) => { window.seen.lcp = list.getEntries().at(-1).startTime; })
              .observe({type: 'largest-contentful-paint', buffered: true});
            const each = (work) => new PerformanceObserver((list) => list.getEntries().forEach(work));
            each((one) => { if (!one.hadRecentInput) window.seen.cls += one.value; })
              .observe({type: 'layout-shift', buffered: true});
            each((one) => { window.seen.inp = Math.max(window.seen.inp, one.duration); })
              .observe({type: 'event', durationThreshold: 16, buffered: true});
        """)
        page.goto(f"http://127.0.0.1:{port}/shop/c/rope-and-cordage/", wait_until="load")
        page.wait_for_timeout(800)
        sent = page.evaluate("""performance.getEntriesByType('resource').concat(performance.getEntriesByType('navigation'))
            .filter((one) => one.initiatorType !== 'img').reduce((sum, one) => sum + one.encodedBodySize, 0)""")
        for pick in ("colour-navy", "colour-white", "stock-in", "diameter-5-to-8", "colour-navy", "stock-in"):
            page.locator(f"label:has(#in-{pick})").click()
            page.wait_for_timeout(400)
        seen = page.evaluate("window.seen")
        browser.close()
    return {"first_kb": sent / 1000, **seen}


def summed(times: list[float]) -> dict[str, float]:
    """Return median and 95th percentile."""
    return {"median": statistics.median(times), "p95": statistics.quantiles(times, n=20)[-1], "runs": len(times)}


if __name__ == "__main__":
    main()
