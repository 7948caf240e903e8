"""Long work of the owner's pages, run by the worker; where there is none, by whoever asks."""

import logging
from urllib.parse import parse_qsl

from django.contrib.auth import get_user_model
from procrastinate.contrib.django import app

from binsort.catalog import uploads
from binsort.catalog.models import Product, Upload
from binsort.catalog.revising import Refused
from binsort.catalog.tables import Unreadable
from binsort.tally.activity import Stopped, work
from binsort.tally.current import is_worker_alive

from .bulk import change_many, delete_many
from .sheet import Sheet

_SMALL = 1 << 20  # bytes of a file that is tried while its owner waits
_FEW = 5000  # products of a catalogue it is compared with
_log = logging.getLogger(__name__)


def try_soon(upload: Upload) -> None:
    """Have a file tried: at once where that is quick, else in the background."""
    upload.state = Upload.State.TRYING
    upload.save(update_fields=["state"])
    if (upload.size <= _SMALL and Product.objects.count() <= _FEW) or not is_worker_alive():
        try_upload(upload.pk)
    else:
        try_upload.defer(number=upload.pk)


def take_soon(upload: Upload) -> None:
    """Have a file brought in."""
    upload.state = Upload.State.BRINGING
    upload.save(update_fields=["state"])
    if is_worker_alive():
        take_upload.defer(number=upload.pk)
    else:
        take_upload(upload.pk)


@app.task(name="workbench.try_upload")
def try_upload(number: int) -> None:
    """Try a file."""
    upload = Upload.objects.filter(pk=number, state=Upload.State.TRYING).first()
    if upload is None:
        return
    try:
        with work(f"Trying {upload.name}") as progress:
            _tell(upload, progress.work.pk)
            uploads.try_out(upload, progress)
    except Stopped:
        Upload.objects.filter(pk=number).update(
            state=Upload.State.TRIED, problem="The trial run was cancelled. Change a column to try again."
        )


@app.task(name="workbench.take_upload")
def take_upload(number: int) -> None:
    """Bring a file in."""
    upload = Upload.objects.filter(pk=number, state=Upload.State.BRINGING).first()
    if upload is None:
        return
    problem = "Something went wrong. Nothing was changed; try again."
    try:
        with work(f"Bringing in {upload.name}") as progress:
            _tell(upload, progress.work.pk)
            uploads.take(upload, progress)
            problem = ""
    except Stopped:
        problem = "Bringing it in was cancelled. Nothing was changed."
    except (Refused, Unreadable) as error:
        problem = f"Nothing was changed: {error}"
    finally:
        if problem:
            Upload.objects.filter(pk=number).update(state=Upload.State.TRIED, problem=problem)


@app.task(name="workbench.change_products")
def change_products(query: str, field: str, way: str, text: str, old: str, actor: int) -> None:
    """Change, or delete (``way`` is empty), all products that an address of the sheet finds."""
    sheet = Sheet(parse_qsl(query))
    user = get_user_model().objects.filter(pk=actor).first()
    try:
        with work("Deleting products" if not way else f"Changing {sheet.entries[field].label}") as progress:
            if way:
                change_many(sheet.entries[field], way, text, old, sheet.identities, actor=user, progress=progress)
            else:
                delete_many(sheet.identities, actor=user, progress=progress)
    except Stopped:
        _log.warning("changing products was cancelled")
    except Refused as error:
        _log.warning("products were not changed: %s", error)


def _tell(upload: Upload, number: int) -> None:
    upload.work = number
    upload.save(update_fields=["work"])
