"""The server's time for one shopper's click, on the demo's catalogue copied until it has enough products.

Run as ``python -m bench.clicks PRODUCTS``, with the environment that ./run sets; prints one JSON object.
"""

import json
import sys
import time

import django

from .measuring import memory_mb, timed

CLICKS = (
    "/shop/?colour=navy", "/shop/?colour=navy&stock=in", "/shop/c/rope-and-cordage/?colour=navy&colour=white&material=polyester",
    "/shop/?price=10-to-20&rating=ge-4.5&colour=black", "/shop/c/deck-hardware/?stock=in&diameter=5-to-8",
)  # fmt: skip


def lines(products: int) -> list[bytes]:
    """Return so many products: the demo's, again and again under other numbers."""
    from binsort.demo.loading import CATALOGUE

    base = CATALOGUE.read_text().splitlines()
    found = []
    for number in range(products):
        product = json.loads(base[number % len(base)])
        key = "productGroupID" if "productGroupID" in product else "sku"
        product[key] = f"{product[key]}-{number // len(base)}"
        found.append(json.dumps(product).encode())
    return found


def main() -> None:
    """Import, build, click; everything in a database of its own that is dropped afterwards."""
    django.setup()
    from django.conf import settings
    from django.test import Client
    from django.test.utils import get_runner

    runner = get_runner(settings)(verbosity=0, interactive=False)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    try:
        print(json.dumps(measured(Client(), int(sys.argv[1]))))
    finally:
        runner.teardown_databases(databases)


def measured(client: object, products: int) -> dict[str, object]:
    """Return the figures of one size."""
    from binsort.catalog.importing import replace_catalogue
    from binsort.core.jsontext import loads
    from binsort.demo.loading import FACETS
    from binsort.racks.editing import begin_with
    from binsort.tally.current import current

    begin_with(loads(FACETS.read_text()))
    started = time.perf_counter()
    replace_catalogue(lines(products))
    imported = time.perf_counter() - started
    started = time.perf_counter()
    current()
    built = time.perf_counter() - started
    headers = {"HX-Request": "true", "HX-Target": "listing"}

    def click(run: int) -> None:
        found = client.get(CLICKS[run % len(CLICKS)], headers=headers)  # type: ignore[attr-defined]
        if found.status_code != 200 or not found.context["listing"].total:
            raise SystemExit(f"{CLICKS[run % len(CLICKS)]} gave nothing")

    for run in range(len(CLICKS)):
        click(run)
    return {"products": products, "imported": imported, "built": built, "click": vars(timed(click, seconds=10)), "memory": memory_mb()}


if __name__ == "__main__":
    main()
