"""Long changes of the catalogue, run by the worker; where there is none, by whoever asks."""

from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from binsort.catalog.files import uploads
from binsort.catalog.files.table import Unreadable
from binsort.catalog.models import Product, Upload
from binsort.tally.activity import Stopped, line, work
from binsort.tally.current import is_worker_alive

from .imports import take
from .locks import Refused
from .revisions import forget_old

_SMALL = 1 << 20  # bytes of a file that is tried while its owner waits
_FEW = 5000  # products of a catalogue it is compared with
_DIED = "The process doing it went away. Nothing was changed: try again, or leave the file."


def try_soon(upload: Upload) -> None:
    """Have a file tried: at once where that is quick, else in the background."""
    _begin(upload, Upload.State.TRYING)
    if (upload.size <= _SMALL and Product.objects.count() <= _FEW) or not is_worker_alive():
        try_upload(upload.pk)
    else:
        try_upload.defer(number=upload.pk)


def take_soon(upload: Upload) -> None:
    """Have a file brought in."""
    _begin(upload, Upload.State.BRINGING)
    if is_worker_alive():
        take_upload.defer(number=upload.pk)
    else:
        take_upload(upload.pk)


def _begin(upload: Upload, state: str) -> None:
    upload.state, upload.work, upload.problem = state, None, ""
    upload.save(update_fields=["state", "work", "problem"])


def settle(upload: Upload) -> None:
    """Give an upload back to its owner where the process that had it died."""
    if upload.state not in (Upload.State.TRYING, Upload.State.BRINGING):
        return
    found = line(upload.work) if upload.work else None
    if found.is_open if found else _waits(upload):
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
    upload = Upload.objects.filter(pk=number, state=Upload.State.TRYING).first()
    if upload is None:
        return
    problem = "Something went wrong while it was tried. Try again, or leave the file."
    try:
        with work(f"Trying {upload.name}") as progress:
            _tell(upload, progress.work.pk)
            uploads.try_out(upload, progress)
            problem = ""
    except Stopped:
        problem = "The trial run was cancelled. Change a column to try again."
    finally:
        _give_back(number, problem)


@app.task(name="changes.take_upload")
def take_upload(number: int) -> None:
    """Bring a file in."""
    upload = Upload.objects.filter(pk=number, state=Upload.State.BRINGING).first()
    if upload is None:
        return
    problem = "Something went wrong. Nothing was changed; try again."
    try:
        with work(f"Bringing in {upload.name}") as progress:
            _tell(upload, progress.work.pk)
            take(upload, progress)
            problem = ""
    except Stopped:
        problem = "Bringing it in was cancelled. Nothing was changed."
    except (Refused, Unreadable) as error:
        problem = f"Nothing was changed: {error}"
    finally:
        _give_back(number, problem)


def _tell(upload: Upload, number: int) -> None:
    upload.work = number
    upload.save(update_fields=["work"])


def _give_back(number: int, problem: str) -> None:
    if problem:
        Upload.objects.filter(pk=number).update(state=Upload.State.TRIED, problem=problem)


@app.periodic(cron="*/10 * * * *")
@app.task(name="changes.forget_old", queueing_lock="forget_old")
def forget_old_revisions(timestamp: int) -> None:
    """Every ten minutes: let go of what products were before changes that are too old to be taken back."""
    forget_old()
