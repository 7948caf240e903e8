"""Two web processes under concurrent writes: every answer is held against the last commit seen before its request.

Run as ``python -m tests.kills.freshness REQUESTS`` with BINSORT_DATA naming an empty folder; prints one JSON object.
"""

import json
import os
import sys
import threading
import urllib.request

from tools.cluster import Cluster, free_port

from .__main__ import Process, patiently


class Writer(threading.Thread):
    """Counts a brand's name up, one commit a step, beside the noise of other changes."""

    def __init__(self):
        super().__init__()
        self.committed, self.stopped = 0, threading.Event()

    def run(self):
        """Write until stopped."""
        from django.db import connection, transaction

        from binsort.catalog.models import Product, Variant

        first, *others = Product.objects.values_list("pk", flat=True)
        number = 0
        while not self.stopped.is_set():
            number += 1
            with transaction.atomic():
                Variant.objects.filter(product=others[number % len(others)]).update(level=number)
                Product.objects.filter(pk=first).update(brand=f"count {number}")
            self.committed = number
        connection.close()


def main(requests):
    """Ask both processes so many times each."""
    cluster = Cluster()
    cluster.start()
    os.environ["BINSORT_DATABASE_URL"] = cluster.url()
    import django

    django.setup()
    from django.core.management import call_command

    from binsort.changes.catalogue import replace_catalogue
    from binsort.demo.loader import CATALOGUE

    call_command("migrate", verbosity=0)
    replace_catalogue(CATALOGUE.read_bytes().splitlines()[:100])
    os.environ["BINSORT_KILLS_FACETS"] = json.dumps(
        {"binsort": 1, "facets": [{"key": "brand", "label": "Brand", "source": {"kind": "brand"}}]}
    )
    ports = [free_port(), free_port()]
    webs = [
        Process("-m", "gunicorn", "tests.kills.counting", "--bind", f"127.0.0.1:{port}", "--threads", "4", "--no-control-socket")
        for port in ports
    ]
    writer = Writer()
    asked, stale = [], []
    try:
        for web in webs:
            web.start()
        for port in ports:
            patiently(lambda port=port: counted(port))
        writer.start()
        readers = [threading.Thread(target=read, args=(writer, port, requests, (asked, stale))) for port in ports]
        for reader in readers:
            reader.start()
        for reader in readers:
            reader.join()
    finally:
        writer.stopped.set()
        writer.join()
        for web in webs:
            web.kill()
        cluster.stop()
    print(json.dumps({"asked": len(asked), "stale": len(stale), "commits": writer.committed, "examples": stale[:3]}))


def read(writer, port, requests, found):
    """Ask one process, holding each answer against what was committed before."""
    asked, stale = found
    for _ in range(requests):
        before = writer.committed
        answered = counted(port)
        asked.append(answered)
        if answered < before:
            stale.append((before, answered))


def counted(port):
    """Return how far a web process has counted."""
    with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=30) as answer:
        bins = json.load(answer)["answer"]["facets"][0]["bins"]
    return max((int(made["label"].removeprefix("count ")) for made in bins if made["label"].startswith("count ")), default=0)


if __name__ == "__main__":
    main(int(sys.argv[1]))
