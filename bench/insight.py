"""Server time of what the tool finds out by itself, on many products: the checkup as it is held and after changes, footfall, why, what if.

Run as ``python -m bench.insight PRODUCTS``, with the environment that ./run sets. Prints one JSON object.
"""

import json
import sys
from functools import partial
from itertools import count
from typing import Any

import django

from .measuring import a_database, timed, timed_after
from .pages import answered, enlarge

RUNS = 12
_PRICES = count(1)
PAGES: dict[str, tuple[str, int | None]] = {
    "checkup": ("/checkup/", 200),
    "footfall": ("/racks/of/side/footfall/", None),
    "why, two picks": ("/racks/of/side/why/?colour=navy&price=20-to-50&product={product}", None),
    "what if, as ours pick": ("/racks/of/side/what-if/?change=cut:price:{new}&shopper=ours", 1000),
    "what if, top first": ("/racks/of/side/what-if/?change=cut:price:{new}&shopper=top", 1000),
    "what if, at best, asked for": ("/racks/of/side/what-if/?change=cut:price:{new}&shopper=best", 1000),
    "what if, at best, counted": ("/racks/of/side/what-if/?change=cut:price:{new}&shopper=best&look=1", None),
}


def main() -> None:
    """Measure in a database of its own that is dropped afterwards."""
    django.setup()
    from django.contrib.auth import get_user_model
    from django.test import Client

    from binsort.demo.loader import load_demo

    with a_database():
        load_demo()
        enlarge(int(sys.argv[1]))
        client = Client(headers={"host": "127.0.0.1"})
        client.force_login(get_user_model().objects.get(username="mara"))
        print(json.dumps(measured(client)))


def measured(client: Any) -> dict[str, Any]:
    """Return the times of every page, and of the checkup after changes."""
    from binsort.catalog.models import Product

    product = Product.objects.values_list("identity", flat=True)[100]
    found: dict[str, Any] = {}
    news = count(1)  # each change is one that was not tried before
    for name, (path, target) in PAGES.items():

        def ask_anew(run: int, path: str = path) -> None:
            answered(client, path.format(product=product, new=f"11.{next(news):04}"), run)

        answered(client, "/checkup/?all=1", 0)
        found[name] = {**vars(timed(ask_anew)), "target": target}
    ask = partial(answered, client, "/checkup/", 0)
    everything = partial(answered, client, "/checkup/?all=1", 0)

    def changed(change: Any, run: int) -> None:
        everything()
        change(run)

    for name, change in (("a facet changed", recut), ("a facet renamed", rename), ("a price changed", reprice)):
        found[f"checkup, {name}"] = {**vars(timed_after(partial(changed, change), ask, runs=RUNS)), "target": 200}
        found[f"   all, {name}"] = {**vars(timed_after(change, everything, runs=RUNS)), "target": None}
    return found


def recut(run: int) -> None:
    """Cut prices anew."""
    _changed("price", cuts=[10 + run, 50, 100])


def rename(run: int) -> None:
    """Call a facet otherwise."""
    _changed("colour", label=f"Colour {run}")


def _changed(key: str, **values: Any) -> None:
    from binsort.changes import facets
    from binsort.racks.setup import facet_document, the_setup

    facets.change_facet(key, {**facet_document(the_setup().draft.document, key), **values}, actor=None)


def reprice(run: int) -> None:
    """Let one product cost what it never did."""
    from binsort.catalog.models import Variant
    from binsort.changes.upserts import set_offers

    skus = Variant.objects.filter(is_implicit=True).order_by("product").values_list("product__identity", flat=True)
    set_offers([{"sku": skus[run], "price": f"{20 + next(_PRICES)}.50"}])


if __name__ == "__main__":
    main()
