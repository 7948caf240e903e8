"""Clocks and scales."""

import statistics
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np


@dataclass(frozen=True)
class Times:
    """Times of repeated runs, in milliseconds."""

    median: float
    p95: float
    runs: int

    def __str__(self) -> str:
        return f"{self.median:9.2f} ms median {self.p95:9.2f} ms p95 ({self.runs} runs)"


@contextmanager
def a_database() -> Iterator[str]:
    """Give a database of its own that is dropped afterwards; its name. Django stands as it serves, without the tests' slower templates."""
    from django.conf import settings
    from django.test.utils import get_runner

    settings.STORAGES = {**settings.STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
    runner = get_runner(settings)(verbosity=0, interactive=False)
    databases = runner.setup_databases()
    try:
        yield str(settings.DATABASES["default"]["NAME"])
    finally:
        runner.teardown_databases(databases)


def timed(work: Callable[[int], object], *, seconds: float = 3, least: int = 7, most: int = 400) -> Times:
    """Run warm, then time runs for some seconds; ``work`` gets the number of the run."""
    for run in range(3):
        work(run)
    found: list[float] = []
    end = time.monotonic() + seconds
    while len(found) < least or (time.monotonic() < end and len(found) < most):
        started = time.perf_counter()
        work(len(found))
        found.append(1000 * (time.perf_counter() - started))
    return Times(statistics.median(found), statistics.quantiles(found, n=20)[-1], len(found))


def timed_after(change: Callable[[int], object], work: Callable[[], object], *, runs: int) -> Times:
    """Time work after each of so many changes; the changes are not in the times."""
    found: list[float] = []
    for run in range(runs + 1):
        change(run)
        started = time.perf_counter()
        work()
        found.append(1000 * (time.perf_counter() - started))
    return Times(statistics.median(found[1:]), statistics.quantiles(found[1:], n=20)[-1], runs)


def reading_speed() -> float:
    """Return how many MB a second one thread reads out of memory, from summing up numbers that no cache holds."""
    numbers = np.ones(32 << 20, dtype=np.uint64)
    times = timed(lambda run: numbers.sum(), seconds=1)
    return numbers.nbytes / 2**20 / (times.median / 1000)


def memory_mb(what: str = "VmRSS") -> float:
    """Return this process's memory in MB: ``VmRSS`` now, ``VmHWM`` at its peak."""
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith(what + ":"):
            return int(line.split()[1]) / 1024
    raise LookupError(what)


def machine() -> str:
    """Say what machine this is."""
    model = next(
        (line.partition(":")[2].strip() for line in Path("/proc/cpuinfo").read_text().splitlines() if line.startswith("model name")),
        "unknown",
    )
    cores = Path("/proc/cpuinfo").read_text().count("processor\t")
    memory = int(Path("/proc/meminfo").read_text().split()[1]) / 1024**2
    return f"{cores} cores of {model}, {memory:.0f} GB"
