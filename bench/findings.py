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

from .measuring import a_database
from .minute import FILES, first_minute

FIRST = 30


def main() -> None:
    """Look in a database of its own that is dropped afterwards."""
    django.setup()
    found = {"the demo as it comes": _in_a_database(_demo)}
    for name, (write, columns) in FILES.items():

        def bring(database: str, write: Callable[[], bytes] = write, name: str = name, columns: dict[int, str] = columns) -> None:
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / f"{name}.csv"
                path.write_bytes(write())
                first_minute(database, path, columns)

        found[f"{name}, with the proposed rack"] = _in_a_database(bring)
    print(json.dumps(found))


def _in_a_database(fill: Callable[[str], None]) -> dict[str, Any]:
    from binsort.racks.setup import the_setup
    from binsort.tally import current
    from binsort.workbench.checkup.looking import look

    with a_database() as database:
        current.forget()
        fill(database)
        every = look(the_setup())
        return {"count": len(every), "first": [[one.found.id, one.found.text, one.found.more] for one in every[:FIRST]]}


def _demo(database: str) -> None:
    from binsort.demo.loader import load_demo

    load_demo()


if __name__ == "__main__":
    main()
