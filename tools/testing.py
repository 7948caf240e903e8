"""Running the tests: those that kill processes beside the rest, which is parted among the cores."""

import os
import re
import subprocess
import tempfile
import time

from .cluster import Cluster
from .environment import PROJECT, PYTHON, say

_BESIDE = "tests.alone"  # on a cluster of their own, mostly waiting
_COUNTS = re.compile(rb"^(\d+) passed, (\d+) failed, (\d+) skipped$", re.MULTILINE)


def _command(*labels: str) -> list[str]:
    return [str(PYTHON), "-W", "error::DeprecationWarning:binsort", "-m", "binsort.project.manage", "test", *labels]


def run_some(names: list[str], environment: dict[str, str]) -> int:
    """Run the tests that are named; returns the exit status."""
    return subprocess.run(_command(*names), cwd=PROJECT, env=environment).returncode


def run_all(names: list[str], environment: dict[str, str]) -> int:
    """Run all tests; returns the exit status."""
    alone = Cluster("test-postgres-alone", durable=False)
    was_started = alone.start()
    try:
        return _run_side_by_side(environment, {**environment, "BINSORT_DATABASE_URL": alone.url()})
    finally:
        if was_started:
            alone.stop()


def _run_side_by_side(environment: dict[str, str], of_its_own: dict[str, str]) -> int:
    started, cores = time.monotonic(), os.cpu_count() or 1
    with tempfile.TemporaryFile() as kills, tempfile.TemporaryFile() as rest:
        beside = subprocess.Popen(_command(_BESIDE), cwd=PROJECT, env=of_its_own, stdout=kills, stderr=subprocess.STDOUT)
        labels = ("tests.browser", "tests.pages", "tests.core", "tests.tools")
        first = subprocess.run(
            _command(*labels, "--parallel", str(cores)), cwd=PROJECT, env=environment, stdout=rest, stderr=subprocess.STDOUT
        )
        status = first.returncode or beside.wait()
        printed = [_whole(file) for file in (rest, kills)]
    for text in printed:
        say(_COUNTS.sub(b"", text).decode("utf-8", "replace").strip())
    counts = [tuple(map(int, found)) for text in printed for found in _COUNTS.findall(text)]
    passed, failed, skipped = (sum(part) for part in zip(*counts, strict=True)) if counts else (0, 1, 0)
    say(f"Took {time.monotonic() - started:.0f} s.")
    print(f"{passed} passed, {failed} failed, {skipped} skipped")
    return status if status or len(counts) == len(printed) else 1


def _whole(file: "tempfile._TemporaryFileWrapper[bytes]") -> bytes:
    file.seek(0)
    return file.read()
