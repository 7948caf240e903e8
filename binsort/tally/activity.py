"""Long work: how far it is, how long it will take, and stopping it."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db import connection
from django.utils import timezone

from .models import Work

_EVERY = timedelta(seconds=0.4)  # between two reports of progress
_SILENT = timedelta(seconds=60)  # work that said nothing for so long has died
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
def work(what: str, unit: str = "products") -> Iterator[Progress]:
    """Do a piece of long work that shows on the Activity page."""
    Work.objects.filter(moved__lt=timezone.now() - timedelta(days=7)).delete()
    made = Work.objects.create(what=what, unit=unit, state=Work.State.RUNNING, started=timezone.now())
    progress = Progress(made)
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

    @property
    def is_open(self) -> bool:
        """Tell whether it still goes on."""
        return self.state in (Work.State.RUNNING, Work.State.WAITING)


def lines() -> list[Line]:
    """Return the newest pieces of work."""
    return list(map(_line, Work.objects.all()[:SHOWN]))


def line(number: int) -> Line | None:
    """Return one piece of work."""
    found = Work.objects.filter(pk=number).first()
    return _line(found) if found else None


def running() -> Line | None:
    """Return the piece of work that goes on, if any."""
    found = Work.objects.filter(state=Work.State.RUNNING, moved__gt=timezone.now() - _SILENT).first()
    return _line(found) if found else None


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


_DIED = "The process doing it went away. It is done again where it is needed."


def _line(found: Work) -> Line:
    if found.state == Work.State.RUNNING and found.moved < timezone.now() - _SILENT:
        found.state, found.ended, found.note = Work.State.FAILED, found.moved, _DIED
    spent = (found.moved - found.started) if found.started else None
    left = None
    if found.state == Work.State.RUNNING and spent and found.done and found.total:
        left = spent * (found.total - found.done) / found.done
    return Line(
        id=found.pk,
        what=found.what,
        state=found.state,
        words=Work.State(found.state).label,
        done=found.done,
        total=found.total,
        unit=found.unit,
        share=100 * found.done // found.total if found.total else 0,
        left=left,
        took=found.ended - found.started if found.ended and found.started else None,
        ended=found.ended,
        note=found.note,
        asked_to_stop=found.asked_to_stop,
    )
