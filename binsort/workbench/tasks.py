"""Long work that begins on the owner's pages, run by the worker."""

import logging
from urllib.parse import parse_qsl

from django.contrib.auth import get_user_model
from procrastinate.contrib.django import app

from binsort.changes.locks import Refused
from binsort.changes.products import change_many, delete_many
from binsort.tally.activity import Stopped, work

from .sheet.page import Sheet

_log = logging.getLogger(__name__)


@app.task(name="workbench.change_products")
def change_products(query: str, field: str, way: str, text: str, old: str, actor: int) -> None:
    """Change, or delete (``way`` is empty), all products that an address of the sheet finds."""
    sheet = Sheet(parse_qsl(query))
    user = get_user_model().objects.filter(pk=actor).first()
    arguments = {"query": query, "field": field, "way": way, "text": text, "old": old, "actor": actor}
    what = "Deleting products" if not way else f"Changing {sheet.entries[field].label}"
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
