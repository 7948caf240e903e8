"""What the tool says after a change of the catalogue, with the way back."""

from django.contrib import messages
from django.http import HttpRequest

from binsort.catalog.models import Revision
from binsort.changes.revisions import newest, newest_undone
from binsort.changes.undo import Done


def say_done(request: HttpRequest, revision: Revision | None, *, nothing: str = "Nothing changes: it is like that already.") -> None:
    """Say what was done, with a button that takes it back."""
    if revision is None:
        messages.info(request, nothing)
        return
    count = revision.changed + revision.left
    is_told = not count or f"{count:,} product" in revision.summary
    products = "" if is_told else f" on {count:,} product{'s' if count != 1 else ''}"
    messages.success(request, f"{revision.summary}{products}.", extra_tags=f"take-back:{revision.pk}")


def say_undone(request: HttpRequest, done: Done) -> None:
    """Say what was taken back and what stays, with a button that does it again."""
    messages.info(request, f"Undone: {done.revision}. {done.note}".strip(), extra_tags=f"do-again:{done.revision.pk}")


def undo_state() -> dict[str, Revision | None]:
    """Return what the buttons *Undo* and *Redo* of the catalogue's pages are about."""
    return {"newest": newest(), "undone": newest_undone()}
