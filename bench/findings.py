"""What the checkup finds: on the demo as it comes, and on each file of the first minute, with the rack that was proposed from it.

Run as ``python -m bench.findings``, with the environment that ./run sets. Prints one JSON object: the first thirty of each, to be
judged by a person; docs/checkup.md has that judgement.
"""

import json
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import django

from .minute import FILES, first_minute

FIRST = 30


def main() -> None:
    """Look in a database of its own that is dropped afterwards."""
    django.setup()
    from django.conf import settings
    from django.test.utils import get_runner

    settings.STORAGES = {**settings.STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
    found = {"the demo as it comes": _in_a_database(get_runner(settings), _demo)}
    for name, (write, columns) in FILES.items():

        def bring(write: Callable[[], bytes] = write, name: str = name, columns: dict[int, str] = columns) -> None:
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / f"{name}.csv"
                path.write_bytes(write())
                first_minute(str(settings.DATABASES["default"]["NAME"]), path, columns)

        found[f"{name}, with the proposed rack"] = _in_a_database(get_runner(settings), bring)
    print(json.dumps(found))


def _in_a_database(runner: Any, fill: Callable[[], None]) -> dict[str, Any]:
    from binsort.racks.setup import the_setup
    from binsort.tally import current
    from binsort.workbench.checkup.looking import look

    runner = runner(verbosity=0, interactive=False)
    databases = runner.setup_databases()
    current.forget()
    try:
        fill()
        every = look(the_setup())
        return {"count": len(every), "first": [[one.found.id, one.found.text, one.found.more] for one in every[:FIRST]]}
    finally:
        runner.teardown_databases(databases)


def _demo() -> None:
    from binsort.demo.loader import load_demo

    load_demo()


if __name__ == "__main__":
    main()
