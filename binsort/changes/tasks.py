"""Long changes of the catalogue, run by the worker; where there is none, by whoever asks."""

from collections.abc import Callable
from contextlib import suppress
from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils.translation import gettext as _
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.tasks import Task

from binsort.catalog.files import uploads
from binsort.catalog.files.unreadable import UnreadableTable
from binsort.catalog.models import Product, Upload
from binsort.tally.activity import Progress, Stopped, line, work
from binsort.tally.current import is_worker_alive

from .imports import take
from .live import carry_out_schedule
from .locks import Refused
from .revisions import forget_old

_SMALL = 1 << 20  # bytes of a file that is tried while its owner waits
_FEW = 5000  # products of a catalogue it is compared with
_DIED = "The process doing it went away. Nothing was changed: try again, or leave the file."


def try_soon(upload: Upload) -> None:
    """Have a file tried: at once where that is quick, else in the background; nothing where somebody began meanwhile."""
    if _begin(upload, Upload.State.TRYING):
        _do(try_upload, upload, at_once=upload.size <= _SMALL and Product.objects.count() <= _FEW)


def take_soon(upload: Upload) -> None:
    """Have a file brought in; nothing where somebody began meanwhile."""
    if _begin(upload, Upload.State.BRINGING):
        _do(take_upload, upload, at_once=False)


def _begin(upload: Upload, state: str) -> bool:
    """Begin where the file still is as it was seen and not brought in; tells whether that was so."""
    as_seen = Upload.objects.filter(pk=upload.pk, state=upload.state).exclude(state=Upload.State.DONE)
    begun = as_seen.update(state=state, work=None, problem="")
    upload.refresh_from_db(fields=["state", "work", "problem"])
    return bool(begun)


def _do(task: Task[[int], None, Any], upload: Upload, *, at_once: bool) -> None:
    if at_once or not is_worker_alive():
        task(upload.pk)
    else:
        task.defer(number=upload.pk)


def settle(upload: Upload) -> None:
    """Give an upload back to its owner where the process that had it died."""
    if upload.state not in (Upload.State.TRYING, Upload.State.BRINGING):
        return
    job = line(upload.work) if upload.work else None
    if job.is_open if job else _waits(upload):
        return
    settled = Upload.objects.filter(pk=upload.pk, state=upload.state, work=upload.work)
    settled.update(state=Upload.State.TRIED, problem=_DIED)
    upload.refresh_from_db()


def _waits(upload: Upload) -> bool:
    """Tell whether a job for an upload is in the queue."""
    jobs = ProcrastinateJob.objects.filter(task_name__in=(try_upload.name, take_upload.name), status__in=("todo", "doing"))
    return jobs.filter(args__number=upload.pk).exists()


@app.task(name="changes.try_upload")
def try_upload(number: int) -> None:
    """Try a file."""
    failed = "Something went wrong while it was tried. Try again, or leave the file."
    cancelled = "The trial run was cancelled. Change a column to try again."
    _carry_out(number, Upload.State.TRYING, "Trying", uploads.try_out, failed=failed, cancelled=cancelled)


@app.task(name="changes.take_upload")
def take_upload(number: int) -> None:
    """Bring a file in."""
    failed = "Something went wrong. Nothing was changed; try again."
    cancelled = "Bringing it in was cancelled. Nothing was changed."
    _carry_out(number, Upload.State.BRINGING, "Bringing in", take, failed=failed, cancelled=cancelled)


def _carry_out(number: int, state: str, what: str, service: Callable[[Upload, Progress], object], *, failed: str, cancelled: str) -> None:
    """Do what a file waits for; where that ends otherwise the file is its owner's again, with words that say why."""
    upload = Upload.objects.filter(pk=number, state=state).first()
    if upload is None:
        return
    problem = failed
    try:
        with work(f"{what} {upload.name}") as progress:
            _tell(upload, progress.work.pk)
            service(upload, progress)
            problem = ""
    except Stopped:
        problem = cancelled
    except (Refused, UnreadableTable) as error:
        problem = f"Nothing was changed: {error}"
    except Exception as error:
        problem = f"{failed} {cause_of(error)}"
        raise
    finally:
        if problem:
            Upload.objects.filter(pk=number).update(state=Upload.State.TRIED, problem=problem)


def cause_of(error: BaseException) -> str:
    """Return what went wrong and where, for who has to tell somebody of it."""
    where = " ".join(getattr(error, "__notes__", ()))
    words = {"where": where, "what": f"{type(error).__name__}: {error}".strip(": ")[:300]}
    return (_("What went wrong %(where)s: %(what)s.") if where else _("What went wrong: %(what)s.")) % words


def _tell(upload: Upload, number: int) -> None:
    upload.work = number
    upload.save(update_fields=["work"])


@app.periodic(cron="* * * * *")
@app.task(name="changes.carry_out", queueing_lock="carry_out")
def carry_out(timestamp: int = 0) -> None:
    """Put live what is due: asked for at its very moment, and every minute, should that have been missed."""
    carry_out_schedule()


def carry_out_at(moment: datetime) -> None:
    """Have what is scheduled carried out at its moment."""
    with suppress(AlreadyEnqueued), transaction.atomic():
        carry_out.configure(schedule_at=moment, queueing_lock=f"carry_out {moment.isoformat()}").defer()


@app.periodic(cron="*/10 * * * *")
@app.task(name="changes.forget_old", queueing_lock="forget_old")
def forget_old_revisions(timestamp: int) -> None:
    """Every ten minutes: let go of what products were before changes that are too old to be taken back."""
    forget_old()
