"""Counting what happens: into the memory of the process, and every few seconds from there into the sums of the day.

A request waits for nothing. Processes add to the same rows, so that their sums are exact; one that is killed loses what it had counted
since it last wrote.
"""

import atexit
import os
import threading
from collections.abc import Iterator
from contextlib import suppress
from datetime import date, datetime, timedelta

from django.conf import settings
from django.db import Error, connection, transaction
from django.utils import timezone

from .kinds import Kind
from .models import DaySum

KEPT_DAYS = 400
_LONGEST = 300  # letters of a thing
_MOST = 20_000  # different things in memory; more are not counted until they are written

_Key = tuple[date, str, str]
_UPSERT = """
    INSERT INTO footfall_daysum (day, kind, what, times, last)
    SELECT * FROM unnest(%s::date[], %s::text[], %s::text[], %s::bigint[], %s::timestamptz[])
    ON CONFLICT (day, kind, what) DO UPDATE
    SET times = footfall_daysum.times + excluded.times, last = greatest(footfall_daysum.last, excluded.last)
"""


class Counter:
    """What one process has counted and not yet written."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._counted: dict[_Key, tuple[int, datetime]] = {}
        self._most: dict[str, int] = {}
        self._writer = 0  # the process whose thread writes

    def count(self, kind: Kind, what: str, times: int = 1) -> None:
        """Count something that happened just now."""
        now = timezone.now()
        key = timezone.localdate(now), kind.key, what[:_LONGEST].replace("\0", "")
        with self._lock:
            before = self._counted.get(key)
            if before is not None or len(self._counted) < _MOST:
                self._counted[key] = (before[0] if before else 0) + times, now
                self._most[kind.key] = kind.most
        if self._writer != os.getpid() and settings.FOOTFALL_SECONDS:
            self._begin()

    def write(self) -> None:
        """Add what was counted to the sums of the day; where the database is away it waits for the next time."""
        with self._lock:
            counted, self._counted = self._counted, {}
        if not counted:
            return
        try:
            _add(counted, self._most)
        except Error:
            with self._lock:
                for key, (times, last) in counted.items():
                    since = self._counted.get(key)
                    self._counted[key] = (times + since[0], since[1]) if since else (times, last)

    def _begin(self) -> None:
        """Let a thread of this process write; one process has one, those forked off it have their own."""
        with self._lock:
            if self._writer == os.getpid():
                return
            self._writer = os.getpid()
        atexit.register(self._last)
        threading.Thread(target=self._run, name="footfall", daemon=True).start()

    def _run(self) -> None:
        done = threading.Event()
        while not done.wait(settings.FOOTFALL_SECONDS):
            self.write()
            connection.close()

    def _last(self) -> None:
        with suppress(Error):
            self.write()


def _add(counted: dict[_Key, tuple[int, datetime]], most: dict[str, int]) -> None:
    with transaction.atomic(), connection.cursor() as cursor:
        rows = [(*key, *counted[key]) for key in _within(counted, most)]  # in one order, so that two processes never block each other
        cursor.execute(_UPSERT, [list(column) for column in zip(*rows, strict=True)] if rows else [[]] * 5)


def _within(counted: dict[_Key, tuple[int, datetime]], most: dict[str, int]) -> Iterator[_Key]:
    """Yield what is written: all of a kind while the day has few different things of it, then only things that it has."""
    known: dict[tuple[date, str], set[str]] = {}
    for key in sorted(counted):
        spot = key[:2]
        if spot not in known:
            known[spot] = set(DaySum.objects.filter(day=key[0], kind=key[1]).values_list("what", flat=True))
        if key[2] in known[spot] or len(known[spot]) < most.get(key[1], 0):
            known[spot].add(key[2])
            yield key


def forget_old() -> None:
    """Delete the sums of days that are too long ago."""
    DaySum.objects.filter(day__lt=timezone.localdate() - timedelta(days=KEPT_DAYS)).delete()


counter = Counter()
count = counter.count
