"""What the tool says after a change of the catalogue, with the way back."""

from django.contrib import messages
from django.http import HttpRequest
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.catalog.models import Revision
from binsort.changes.revisions import newest, newest_undone
from binsort.changes.undo import Done


def say_done(request: HttpRequest, revision: Revision | None, *, nothing: str = "") -> None:
    """Say what was done, with a button that takes it back."""
    if revision is None:
        messages.info(request, nothing or _("Nothing changes: it is like that already."))
        return
    count = revision.changed + revision.left
    is_told = not count or f"{count:,} product" in revision.summary
    words = ngettext("%(summary)s on %(count)s product.", "%(summary)s on %(count)s products.", count)
    told = f"{revision.summary}." if is_told else words % {"summary": revision.summary, "count": f"{count:,}"}
    messages.success(request, told, extra_tags=f"take-back:{revision.pk}")


def say_undone(request: HttpRequest, done: Done) -> None:
    """Say what was taken back and what stays, with a button that does it again."""
    told = _("Undone: %(what)s. %(note)s") % {"what": done.revision, "note": done.note}
    messages.info(request, told.strip(), extra_tags=f"do-again:{done.revision.pk}")


def undo_state() -> dict[str, Revision | None]:
    """Return what the buttons *Undo* and *Redo* of the catalogue's pages are about."""
    return {"newest": newest(), "undone": newest_undone()}
