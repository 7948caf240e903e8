"""The served catalogue: import, index, snapshot, commit to count, one shopper's click; the demo's products copied until they are enough.

Run as ``python -m bench.served PRODUCTS``, with the environment that ./run sets; prints one JSON object.
"""

import json
import sys
import time
from collections.abc import Callable

import django

from .measuring import Times, memory_mb, timed, timed_after

CLICKS = (
    "/shop/?colour=navy", "/shop/?colour=navy&stock=in", "/shop/c/rope-and-cordage/?colour=navy&colour=white&material=polyester",
    "/shop/?price=10-to-20&rating=ge-4.5&colour=black", "/shop/c/deck-hardware/?stock=in&diameter=5-to-8",
)  # fmt: skip


def lines(products: int) -> list[bytes]:
    """Return so many products: the demo's, again and again under other numbers."""
    from binsort.demo.loader import CATALOGUE

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
    from binsort.changes.catalogue import replace_catalogue
    from binsort.core.values.strict_json import loads
    from binsort.demo.loader import FACETS
    from binsort.racks.setup import begin_with, the_setup
    from binsort.tally import snapshot_job
    from binsort.tally.current import current, forget

    begin_with(loads(FACETS.read_text()))
    specs = the_setup().draft.facet_file.facets
    found: dict[str, object] = {"products": products}

    def clocked(name: str, work: Callable[[], object]) -> None:
        started = time.perf_counter()
        work()
        found[name] = time.perf_counter() - started

    clocked("imported", lambda: replace_catalogue(lines(products)))
    clocked("built", lambda: current().rack(specs))
    found["memory"] = memory_mb()
    headers = {"HX-Request": "true", "HX-Target": "listing"}

    def click(run: int) -> None:
        page = client.get(CLICKS[run % len(CLICKS)], headers=headers)  # type: ignore[attr-defined]
        if page.status_code != 200 or not page.context["listing"].total:
            raise SystemExit(f"{CLICKS[run % len(CLICKS)]} gave nothing")

    found["click"] = vars(timed(click, seconds=10))
    found["changes"] = {name: vars(times) for name, times in changes(products).items()}
    clocked("frozen", snapshot_job.make_snapshot)
    forget()
    clocked("thawed", lambda: current().rack(specs))
    return found


def changes(products: int) -> dict[str, Times]:
    """Return the time from a commit to the counts that have it, of several kinds of change; the write itself is not in it."""
    from binsort.catalog.models import Product, Variant
    from binsort.core.facets.query import Query
    from binsort.racks.setup import the_setup
    from binsort.tally.current import current

    keys = list(Product.objects.values_list("pk", flat=True))
    specs = the_setup().draft.facet_file.facets

    def price(run: int) -> None:
        Variant.objects.filter(product=keys[run * 37 % len(keys)]).update(price=1000 + run)

    def new(run: int) -> None:
        row = Product.objects.create(identity=f"new-{run}-{time.monotonic()}", place=10**9 + run, name=f"New {run}", brand="Orrin")
        Variant.objects.create(product=row, price=12 + run, currency="GBP")

    def gone(run: int) -> None:
        Product.objects.filter(pk=keys[1 + run * 41 % len(keys)]).delete()

    def brand(run: int) -> None:
        Product.objects.filter(pk=keys[2 + run * 43 % len(keys)]).update(brand=f"Brand {run}")

    def many(run: int) -> None:
        Variant.objects.filter(product__in=keys[run * 10_000 % len(keys) :][:10_000]).update(level=run % 3)

    kinds = {"price of one": price, "one new": new, "one gone": gone, "brand of one": brand, "stock of 10,000": many}
    return {
        name: timed_after(change, lambda: current().rack(specs).answer(Query()), runs=7 if change is many else 25)
        for name, change in kinds.items()
    }


if __name__ == "__main__":
    main()
