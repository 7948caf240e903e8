"""Server time of the pages: the whole request, on the demo and on many products.

Run as ``python -m bench.pages [PRODUCTS]``, with the environment that ./run sets; without a number on the demo,
with ``racks`` on very many racks. Prints one JSON object.
"""

import json
import sys
from functools import partial
from typing import TYPE_CHECKING

import django

from .measuring import a_database, timed
from .served import lines

if TYPE_CHECKING:
    from django.test import Client

ON_THE_DEMO: dict[str, tuple[str, int | None]] = {
    "rack": ("/racks/?category=Rope+and+cordage", 60),
    "rack with picks": ("/racks/?category=Rope+and+cordage&colour=navy&price=20-to-50", 80),
    "a facet": ("/racks/facets/price/?category=Rope+and+cordage", 80),
    "value bench": ("/racks/facets/colour/?category=Rope+and+cordage", 150),
    "how shoppers see it": ("/racks/facets/colour/shoppers/?category=Rope+and+cordage", 150),
    "sheet": ("/catalogue/", 80),
    "a product": ("/catalogue/products/SC-1004/", 60),
    "shop": ("/shop/?colour=navy", None),
}
ON_MANY: dict[str, tuple[str, int | None]] = {
    "sheet": ("/catalogue/", 120),
    "search": ("/catalogue/?q=halyard", 120),
    "jump": ("/racks/jump/?find=shackle", 80),
    "dictionary": ("/catalogue/attributes/", 100),
}


ON_MANY_RACKS: dict[str, tuple[str, int | None]] = {
    "rack": ("/racks/of/r7/?category=Department+3+%3E+Group+4", 150),
    "all racks": ("/racks/all/", 150),
    "show when": ("/racks/of/r7/?show.when=f55", 150),
    "how it behaves": ("/racks/of/r7/behaves/", 150),
    "listings": ("/listings/", 150),
    "listings, a place chosen": ("/listings/?at=department+3+%3E+group+4&where=side&choice=own&rack=r9", 150),
    "a facet": ("/racks/facets/f55/?category=Department+3+%3E+Group+4", 150),
    "how shoppers see it": ("/racks/facets/f55/shoppers/", 150),
    "add a facet": ("/racks/add/?rack=r7&category=Department+3+%3E+Group+4", 150),
    "review, 40 facets changed": ("/racks/review/?category=Department+3+%3E+Group+4", 150),
    "history": ("/history/", 150),
    "what going back would do": ("/history/?live=1", 150),
    "people": ("/people/", 150),
    "jump": ("/racks/jump/?find=facet+19", 150),
    "shop": ("/shop/c/department-3/group-4/?f55=value-1", 150),
}


def main() -> None:
    """Measure every page in a database of its own that is dropped afterwards."""
    django.setup()
    from django.contrib.auth import get_user_model
    from django.test import Client

    with a_database():
        pages = fill(sys.argv[1] if len(sys.argv) > 1 else "")
        client = Client(headers={"host": "127.0.0.1"})
        client.force_login(get_user_model().objects.get())
        print(
            json.dumps({name: {**vars(timed(partial(answered, client, path))), "target": target} for name, (path, target) in pages.items()})
        )


def fill(what: str) -> dict[str, tuple[str, int | None]]:
    """Fill the database with the demo, so many products, or ``racks``: very many racks; returns the pages to be measured."""
    from binsort.demo.loader import load_demo

    from .many_racks import build

    if what == "racks":
        build()
        return ON_MANY_RACKS
    load_demo()
    if what:
        enlarge(int(what))
    return ON_MANY if what else ON_THE_DEMO


def enlarge(products: int) -> None:
    """Put so many products in place of the demo's."""
    from binsort.changes.catalogue import replace_catalogue

    replace_catalogue(lines(products))


def answered(client: "Client", path: str, _run: int) -> None:
    """Ask for a page; it has to be there."""
    status = client.get(path).status_code
    if status != 200:
        raise SystemExit(f"{path} gave {status}")


if __name__ == "__main__":
    main()
