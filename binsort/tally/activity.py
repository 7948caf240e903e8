"""Long work: how far it is, how long it will take, and stopping it."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.db import connection
from django.utils import timezone
from procrastinate.contrib.django import app

from .models import Work

_EVERY = timedelta(seconds=0.4)  # between two reports of progress
_LOCK = 7_265_321  # of work that goes on, among the advisory locks; held beside its number
_REST = timedelta(minutes=10)  # after somebody cancelled it, before it is begun again by itself
SHOWN = 20
COUNTING = "Counting the catalogue"


class Stopped(Exception):
    """Somebody asked the work to stop."""


class Progress:
    """Says how far a piece of work is. Through a connection of its own, so that it is seen at once, whatever is open."""

    def __init__(self, work: Work) -> None:
        self.work = work
        self._connection = connection.copy()
        self._told = timezone.now() - _EVERY
        with self._connection.cursor() as cursor:  # the database lets go of it where the process dies
            cursor.execute("SELECT pg_advisory_lock(%s, %s)", [_LOCK, work.pk])

    def __call__(self, done: int, total: int = 0) -> None:
        """Tell how much is done, of how much. Raises Stopped where somebody asked for it."""
        now = timezone.now()
        if now - self._told < _EVERY and done != total:
            return
        self._told = now
        with self._connection.cursor() as cursor:
            cursor.execute(
                "UPDATE tally_work SET done = %s, total = GREATEST(%s, total), moved = %s WHERE id = %s RETURNING asked_to_stop",
                [done, total, now, self.work.pk],
            )
            if cursor.fetchone() == (True,):
                raise Stopped

    def end(self, state: str, note: str = "") -> None:
        """Tell how it ended."""
        with self._connection.cursor() as cursor:
            cursor.execute(
                "UPDATE tally_work SET state = %s, ended = now(), note = %s, done = CASE WHEN %s THEN total ELSE done END WHERE id = %s",
                [state, note, state == Work.State.DONE, self.work.pk],
            )
        self._connection.close()


@contextmanager
def work(what: str, unit: str = "products", *, task: str = "", arguments: dict[str, Any] | None = None) -> Iterator[Progress]:
    """Do a piece of long work that shows on the Activity page.

    Args:
        what: in words.
        unit: of what its progress is told.
        task: the job that does it again where it fails, with its ``arguments``; empty where that is asked for elsewhere.
        arguments: of that job.
    """
    Work.objects.filter(moved__lt=timezone.now() - timedelta(days=7)).delete()
    begun = Work.objects.create(
        what=what, unit=unit, state=Work.State.RUNNING, started=timezone.now(), task=task, arguments=arguments or {}
    )
    progress = Progress(begun)
    try:
        yield progress
    except Stopped:
        progress.end(Work.State.STOPPED)
        raise
    except BaseException as error:
        progress.end(Work.State.FAILED, str(error)[:500])
        raise
    progress.end(Work.State.DONE)


@dataclass(frozen=True, slots=True)
class Line:
    """A piece of work as the owner sees it; one whose process went away counts as failed."""

    id: int
    what: str
    state: str
    words: str
    done: int
    total: int
    unit: str
    share: int  # hundredths
    left: timedelta | None
    took: timedelta | None
    ended: datetime | None
    note: str
    asked_to_stop: bool
    can_try_again: bool

    @property
    def is_open(self) -> bool:
        """Tell whether it still goes on."""
        return self.state in (Work.State.RUNNING, Work.State.WAITING)

    @property
    def has_failed(self) -> bool:
        """Tell whether it ended before it was done."""
        return self.state in (Work.State.STOPPED, Work.State.FAILED)


def lines() -> list[Line]:
    """Return the newest pieces of work."""
    alive = _alive()
    return [_line(row, alive) for row in Work.objects.all()[:SHOWN]]


def line(number: int) -> Line | None:
    """Return one piece of work."""
    row = Work.objects.filter(pk=number).first()
    return _line(row, _alive()) if row else None


def running() -> Line | None:
    """Return the piece of work that goes on, if any."""
    alive = _alive()
    row = Work.objects.filter(state=Work.State.RUNNING, pk__in=alive).first() if alive else None
    return _line(row, alive) if row else None


def _alive() -> set[int]:
    """Return the numbers of the pieces of work that a process is doing."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT objid FROM pg_locks WHERE locktype = 'advisory' AND classid = %s AND objsubid = 2 AND granted"
            " AND database = (SELECT oid FROM pg_database WHERE datname = current_database())",
            [_LOCK],
        )
        return {number for (number,) in cursor.fetchall()}


def try_again(number: int) -> bool:
    """Have failed work done again by the worker; tells whether it can be."""
    failed = line(number)
    if failed is None or not failed.can_try_again:
        return False
    row = Work.objects.get(pk=number)
    app.configure_task(row.task).defer(**row.arguments)
    Work.objects.filter(pk=number).update(task="", note="It is being done again.", state=Work.State.FAILED, ended=timezone.now())
    return True


def ask_to_stop(number: int) -> bool:
    """Ask a piece of work to stop; tells whether it was running."""
    return bool(Work.objects.filter(pk=number, state=Work.State.RUNNING).update(asked_to_stop=True))


def rests_until(what: str) -> datetime | None:
    """Return when work that somebody cancelled is begun again by itself, None where nobody has."""
    last = Work.objects.filter(what=what).first()
    if last is None or last.state != Work.State.STOPPED or not last.asked_to_stop or last.ended is None:
        return None
    until = last.ended + _REST
    return until if until > timezone.now() else None


def end_rest(what: str) -> None:
    """Let work that was cancelled be begun again."""
    Work.objects.filter(what=what, state=Work.State.STOPPED).update(asked_to_stop=False)


_DIED = "The process doing it went away. Nothing of it was kept."


def _line(row: Work, alive: set[int]) -> Line:
    if row.state == Work.State.RUNNING and row.pk not in alive:
        row.state, row.ended, row.note = Work.State.FAILED, row.moved, _DIED
    spent = (row.moved - row.started) if row.started else None
    left = None
    if row.state == Work.State.RUNNING and spent and row.done and row.total:
        left = spent * (row.total - row.done) / row.done
    return Line(
        id=row.pk,
        what=row.what,
        state=row.state,
        words=Work.State(row.state).label,
        done=row.done,
        total=row.total,
        unit=row.unit,
        share=100 * row.done // row.total if row.total else 0,
        left=left,
        took=row.ended - row.started if row.ended and row.started else None,
        ended=row.ended,
        note=row.note,
        asked_to_stop=row.asked_to_stop,
        can_try_again=bool(row.task) and row.state in (Work.State.FAILED, Work.State.STOPPED),
    )
