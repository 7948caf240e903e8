"""Long work that begins on the owner's pages, run by the worker."""

import logging
import tempfile
from pathlib import Path
from urllib.parse import parse_qsl

from django.contrib.auth import get_user_model
from django.utils.translation import gettext as _
from procrastinate.contrib.django import app

from binsort.catalog.files.export import FORMS, PASSES, CannotWrite, take_out
from binsort.catalog.files.kept_exports import keep_export
from binsort.changes.locks import Refused
from binsort.changes.products import change_many, delete_many
from binsort.tally.activity import Stopped, work

from .sheet.page import Sheet

SMALL = 5000  # products that are taken out while their owner waits
_log = logging.getLogger(__name__)


@app.task(name="workbench.change_products")
def change_products(query: str, field: str, way: str, text: str, old: str, actor: int) -> None:
    """Change, or delete (``way`` is empty), all products that an address of the sheet finds."""
    sheet = Sheet(parse_qsl(query))
    user = get_user_model().objects.filter(pk=actor).first()
    arguments = {"query": query, "field": field, "way": way, "text": text, "old": old, "actor": actor}
    what = _("Changing %(label)s") % {"label": sheet.entries[field].label} if way else _("Deleting products")
    try:
        with work(what, task=change_products.name, arguments=arguments) as progress:
            if way:
                change_many(sheet.entries[field], way, (text, old), sheet.identities, ask=False, actor=user, progress=progress)
            else:
                delete_many(sheet.identities, actor=user, progress=progress)
    except Stopped:
        _log.warning("changing products was cancelled")
    except Refused as error:
        _log.warning("products were not changed: %s", error)


@app.task(name="workbench.take_out_products")
def take_out_products(query: str, form: str) -> None:
    """Write the products that an address of the sheet finds into a file, to be fetched from Activity."""
    sheet = Sheet(parse_qsl(query))
    identities = sheet.everything_or_found
    size = sheet.total * PASSES.get(form, 1)
    what = _("Taking out %(form)s") % {"form": FORMS[form][0]}
    try:
        with (
            work(what, task=take_out_products.name, arguments={"query": query, "form": form}) as progress,
            tempfile.TemporaryDirectory() as folder,
        ):
            path = Path(folder) / "products"
            progress(0, size)
            take_out(path, form, identities, progress=lambda done: progress(min(done, size - 1), size))
            keep_export(path, form, work=progress.work.pk)
            progress(size, size)
    except Stopped:
        _log.warning("taking products out was cancelled")
    except CannotWrite as error:
        _log.warning("products were not taken out: %s", error)
