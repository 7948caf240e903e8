"""Load: what shops of others ask, at a steady rate for minutes, of the JSON API and of listings on their pages.

Run as ``python -m bench.load PRODUCTS SECONDS RATE``, with the environment that ./run sets. Times run from the moment at which a question
was due, so that waiting behind others counts. Prints one JSON object.
"""

import json
import queue
import sys
import threading
import time
from dataclasses import dataclass, field
from http.client import HTTPConnection, HTTPException, RemoteDisconnected
from random import Random
from typing import Any
from urllib.parse import quote, urlencode

import django

from .shop import CLICKS, WORDS, clicks, summed
from .web import Web, web

_ASKERS = 32  # connections that are kept open
_PAUSE = 15  # seconds between two looks at the memory


@dataclass
class Found:
    """What came of the questions."""

    times: dict[str, list[float]] = field(default_factory=dict)  # milliseconds, by kind of question
    wrong: list[str] = field(default_factory=list)
    not_modified: int = 0
    memory: list[list[float]] = field(default_factory=list)


def main() -> None:
    """Measure in a database of its own that is dropped afterwards."""
    products, seconds, rate = map(int, sys.argv[1:4])
    django.setup()
    from django.conf import settings
    from django.test.utils import get_runner

    from binsort.demo.loader import load_demo

    from .pages import enlarge

    settings.STORAGES = {**settings.STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
    runner = get_runner(settings)(verbosity=0, interactive=False)
    databases = runner.setup_databases()
    try:
        load_demo(abroad=True)
        enlarge(products)
        questions = list(asked(seconds * rate))
        with web(str(settings.DATABASES["default"]["NAME"]), BINSORT_CALLS_A_MINUTE=str(rate * 120)) as server:
            found = load(server, questions, rate)
        every = [took for times in found.times.values() for took in times]
        print(json.dumps({
            "products": products, "seconds": seconds, "rate": rate, "wrong": len(found.wrong), "first_wrong": found.wrong[:3],
            "not_modified": found.not_modified, "all": summed(every), "memory": found.memory,
            **{kind: summed(times) for kind, times in found.times.items()},
        }))  # fmt: skip
    finally:
        runner.teardown_databases(databases)


def asked(count: int) -> list[tuple[str, str]]:
    """Return questions with their kind: listings on other sites and of the API as shoppers narrow them, suggestions, some asked again."""
    chance = Random(13)
    narrowed = [address.partition("?") for address in clicks(CLICKS * 4)]
    found = []
    for _ in range(count):
        kind = chance.choices(("embed", "listing", "suggestions", "again"), (45, 35, 10, 10))[0]
        path, _mark, query = chance.choice(narrowed)
        if kind == "embed":
            name = chance.choice(("marram-19", "safety-afloat"))
            found.append((kind, f"/api/shop/v1/embeds/{name}?_rack=side&{query}"))
        elif kind == "suggestions":
            word = chance.choice(WORDS)
            found.append((kind, f"/api/shop/v1/suggestions?q={quote(word[: chance.randint(3, len(word))])}"))
        else:
            category = path.removeprefix("/shop/").removeprefix("c/").strip("/").replace("-", " ")
            found.append((kind, f"/api/shop/v1/listing?{urlencode({'category': category}) if category else ''}&{query}"))
    return found


def load(server: Web, questions: list[tuple[str, str]], rate: int) -> Found:
    """Ask every question when it is due, so many a second."""
    found, waiting = Found(), queue.SimpleQueue[tuple[float, str, str] | None]()
    for warm in range(2):  # both processes have read what they keep
        for _kind, address in questions[warm : warm + 40]:
            _ask(HTTPConnection("127.0.0.1", server.port, timeout=60), address, {})
    askers = [threading.Thread(target=_asker, args=(server.port, waiting, found)) for _ in range(_ASKERS)]
    for asker in askers:
        asker.start()
    began, looked = time.perf_counter(), 0.0
    for number, (kind, address) in enumerate(questions):
        due = began + number / rate
        time.sleep(max(0.0, due - time.perf_counter()))
        waiting.put((due, kind, address))
        if time.perf_counter() - looked > _PAUSE:
            looked = time.perf_counter()
            found.memory.append(server.memory())
    for _ in askers:
        waiting.put(None)
    for asker in askers:
        asker.join()
    found.memory.append(server.memory())
    return found


def _asker(port: int, waiting: "queue.SimpleQueue[tuple[float, str, str] | None]", found: Found) -> None:
    connection, tags = HTTPConnection("127.0.0.1", port, timeout=60), dict[str, str]()
    while (question := waiting.get()) is not None:
        due, kind, address = question
        headers = {"If-None-Match": tags[address]} if kind == "again" and address in tags else {}
        try:
            status, tag = _ask(connection, address, headers)
        except RemoteDisconnected:  # the server closed a connection that was idle: asked once more on a new one (RFC 9112, 9.3.1)
            connection.close()
            status, tag = _ask(connection, address, headers)
        except (OSError, HTTPException) as error:
            connection.close()
            status, tag = 0, str(error)
        found.times.setdefault(kind, []).append(1000 * (time.perf_counter() - due))
        found.not_modified += status == 304
        if status not in (200, 304):
            found.wrong.append(f"{status} {address} {tag}")
        elif kind == "again":
            tags[address] = tag


def _ask(connection: HTTPConnection, address: str, headers: dict[str, str]) -> tuple[int, str]:
    """Return the status of the answer and its validator."""
    connection.request("GET", address, headers={"Accept-Encoding": "gzip", "Origin": "https://gullhythe.example", **headers})
    answer: Any = connection.getresponse()
    answer.read()
    return answer.status, answer.headers.get("ETag", "")


if __name__ == "__main__":
    main()
