"""A day of prices: how much memory a process that follows them needs, from the first change to the last.

Run as ``python -m bench.day PRODUCTS CHANGES``, with the environment that ./run sets; prints one JSON object.
"""

import json
import sys
import time

import django

from .measuring import memory_mb
from .served import lines

TOGETHER = 100  # prices in one call, each call a commit that is followed at once
LOOKED = 10  # times at the memory


def main() -> None:
    """Change prices in a database of its own that is dropped afterwards."""
    django.setup()
    from django.conf import settings
    from django.test.utils import get_runner

    runner = get_runner(settings)(verbosity=0, interactive=False)
    databases = runner.setup_databases()
    try:
        print(json.dumps(measured(int(sys.argv[1]), int(sys.argv[2]))))
    finally:
        runner.teardown_databases(databases)


def measured(products: int, changes: int) -> dict[str, object]:
    """Return the memory in MB after every tenth of the changes, and how long they took."""
    from binsort.catalog.models import Variant
    from binsort.changes.catalogue import replace_catalogue
    from binsort.changes.upserts import set_offers
    from binsort.core.facets.query import Query
    from binsort.core.values.strict_json import loads
    from binsort.demo.loader import FACETS
    from binsort.racks.setup import begin_with, the_setup
    from binsort.tally.current import current

    begin_with(loads(FACETS.read_text()))
    replace_catalogue(lines(products))
    specs = the_setup().draft.facet_file.facets
    current().rack(specs).answer(Query())
    alone = Variant.objects.filter(is_implicit=True)  # the demo's variants, copied, have their numbers several times
    skus = list(alone.order_by("product").values_list("product__identity", flat=True))
    memory, started = [memory_mb()], time.perf_counter()
    for number in range(0, changes, TOGETHER):
        items = [{"sku": skus[at % len(skus)], "price": f"{1 + at / 100:.2f}"} for at in range(number, number + TOGETHER)]
        set_offers(items)
        total = current().rack(specs).answer(Query()).total
        if not total:
            raise SystemExit("nothing is counted")
        if (number + TOGETHER) % (changes // LOOKED) == 0:
            memory.append(memory_mb())
    return {"products": products, "changes": changes, "memory": memory, "seconds": time.perf_counter() - started}


if __name__ == "__main__":
    main()
