"""Server time of the pages: the whole request, on the demo and on many products.

Run as ``python -m bench.pages [PRODUCTS]``, with the environment that ./run sets; without a number on the demo. Prints one JSON object.
"""

import json
import sys
from functools import partial
from typing import TYPE_CHECKING

import django

from .measuring import timed
from .served import lines

if TYPE_CHECKING:
    from django.test import Client

ON_THE_DEMO: dict[str, tuple[str, int | None]] = {
    "rack": ("/racks/?category=Rope+and+cordage", 60),
    "rack with picks": ("/racks/?category=Rope+and+cordage&colour=navy&price=20-to-50", 80),
    "a facet": ("/racks/facets/price/?category=Rope+and+cordage", 80),
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


def main() -> None:
    """Measure every page in a database of its own that is dropped afterwards."""
    django.setup()
    from django.conf import settings
    from django.contrib.auth import get_user_model
    from django.test import Client
    from django.test.utils import get_runner

    settings.STORAGES = {**settings.STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
    runner = get_runner(settings)(verbosity=0, interactive=False)
    databases = runner.setup_databases()  # without the test environment, which would slow every template
    try:
        from binsort.demo.loader import load_demo

        load_demo()
        pages = ON_THE_DEMO
        if len(sys.argv) > 1:
            pages = ON_MANY
            enlarge(int(sys.argv[1]))
        client = Client(headers={"host": "127.0.0.1"})
        client.force_login(get_user_model().objects.get())
        print(
            json.dumps({name: {**vars(timed(partial(answered, client, path))), "target": target} for name, (path, target) in pages.items()})
        )
    finally:
        runner.teardown_databases(databases)


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
