"""Kill the web process, the worker, a writer or PostgreSQL itself at random moments; restart; compare every count with the slow reference.

Run as ``python -m tests.kills ROUNDS SEED`` with BINSORT_DATA naming an empty folder; prints one JSON object, ends with 1 at a difference.
"""

import json
import os
import random
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections import Counter
from fractions import Fraction
from pathlib import Path

from tools.cluster import Cluster, free_port

QUERIES = ["", "colour=navy&colour=white&sort=name", "stock=in&sort=price", "price=20..50&rating=ge-4.5&sort=newest"]
PATIENCE = 30  # seconds


class Process:
    """One process that can be killed and started again."""

    def __init__(self, *arguments, ready=None):
        self._arguments, self._ready, self.process = arguments, ready, None

    def start(self):
        """Start it; does not wait."""
        pipes = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE, "text": True} if self._ready else {"stdout": subprocess.DEVNULL}
        self.process = subprocess.Popen([sys.executable, *self._arguments], stderr=subprocess.DEVNULL, start_new_session=True, **pipes)

    def wait_until_ready(self):
        """Wait for its first line, where it writes one."""
        if self._ready and self.process.stdout.readline().strip() != self._ready:
            raise SystemExit(f"{self._arguments} did not start")

    def kill(self):
        """Kill it and everything it started."""
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()


def kill_postgres(cluster):
    """Kill PostgreSQL and all of its processes, as a power cut would."""
    postmaster = int((cluster.data / "postmaster.pid").read_text().split()[0])
    children = [int(path.parent.name) for path in Path("/proc").glob("[0-9]*/stat") if _parent(path) == postmaster]
    for pid in (postmaster, *children):
        try:
            os.kill(pid, signal.SIGKILL)
        except ProcessLookupError:
            continue
    while any(Path(f"/proc/{pid}").exists() and _state(pid) != "Z" for pid in (postmaster, *children)):
        time.sleep(0.01)


def _fields(path):
    try:
        return path.read_text().rpartition(")")[2].split()
    except OSError:
        return ["Z", "0"]


def _parent(path):
    return int(_fields(path)[1])


def _state(pid):
    return _fields(Path(f"/proc/{pid}/stat"))[0]


def patiently(work):
    """Try until it works."""
    end = time.monotonic() + PATIENCE
    while True:
        try:
            return work()
        except Exception:
            if time.monotonic() > end:
                raise
            time.sleep(0.03)


def main(rounds, seed):
    """Do so many rounds."""
    chance, cluster = random.Random(seed), Cluster()
    cluster.start()
    os.environ["BINSORT_DATABASE_URL"] = cluster.url()
    import django

    django.setup()
    from django.core.management import call_command

    call_command("migrate", verbosity=0)
    port = free_port()
    processes = {
        "web": Process("-m", "gunicorn", "tests.kills.counting", "--bind", f"127.0.0.1:{port}", "--threads", "2", "--no-control-socket"),
        "worker": Process("-m", "binsort.project.manage", "procrastinate", "worker", "--concurrency", "1"),
        "writer": Process("-m", "tests.kills.writing", ready="ready"),
    }
    try:
        for process in processes.values():
            process.start()
        for process in processes.values():
            process.wait_until_ready()
        killed = Counter()
        for number in range(rounds):
            killed[one_round(chance, number, (cluster, processes, port))] += 1
    finally:
        for process in processes.values():
            process.kill()
        cluster.stop()
    from_snapshots = sum(STARTS)
    print(
        json.dumps(
            {
                "rounds": rounds,
                "killed": killed,
                "products": sorted(SIZES)[len(SIZES) // 2],
                "compared": COMPARED[0],
                "from snapshots": from_snapshots,
            }
        )
    )


COMPARED, SIZES, STARTS = [0], [], []


def one_round(chance, number, shop):
    """Write, kill, restart, compare; returns what was killed."""
    from django.db import connection

    from binsort.tally.current import ask_for_snapshot

    cluster, processes, port = shop
    patiently(ask_for_snapshot)
    writer = processes["writer"].process
    writer.stdin.write(f"{chance.getrandbits(32)}\n")
    writer.stdin.flush()
    time.sleep(chance.random() * 0.25)
    target = chance.choice(["web", "worker", "writer", "postgres"])
    if target == "postgres":
        kill_postgres(cluster)
        connection.close()
        cluster.start()
    else:
        processes[target].kill()
        processes[target].start()
        processes[target].wait_until_ready()
    if target != "writer":
        processes["writer"].process.stdout.readline()
    compare(number, target, port)
    return target


def compare(number, target, port):
    """Hold the web process, and a start from the newest snapshot, against the reference over the rows."""
    from binsort.catalog.store.product_rows import all_products
    from binsort.tally import current
    from binsort.tally.models import Snapshot
    from tests.core.reference import Reference
    from tests.kills.counting import PER, SPECS, answered

    def over_http(query):
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/?{query}", timeout=PATIENCE) as found:
            return json.load(found)

    products = patiently(all_products)
    SIZES.append(len(products))
    current.forget()
    STARTS.append(patiently(Snapshot.objects.exists))
    here = number % len(QUERIES)
    for place, query in enumerate(QUERIES):
        if place == (here + 2) % len(QUERIES):  # three of the four a round
            continue
        ways = [lambda query=query: patiently(lambda: over_http(query))]
        if place == here:  # each in turn
            ways.append(lambda query=query: answered(query))
        for way in ways:
            found = way()
            moment = Fraction(found["now"])
            pairs = [tuple(pair.split("=")) for pair in query.split("&") if pair]
            expected = json.loads(json.dumps(Reference(products, SPECS, moment).answer(pairs, None, per=PER)))
            given = json.loads(json.dumps(found["answer"]))
            COMPARED[0] += sum(len(facet["bins"]) + 1 for facet in given["facets"])
            if given != expected:
                print(
                    f"round {number}, {target} killed: {query!r} gave\n{json.dumps(given)[:3000]}\nnot\n{json.dumps(expected)[:3000]}",
                    file=sys.stderr,
                )
                raise SystemExit(1)


if __name__ == "__main__":
    main(int(sys.argv[1]), int(sys.argv[2]))
