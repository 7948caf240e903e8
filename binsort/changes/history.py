"""The history: every change leaves a line, in the transaction that makes it; and one change is taken back by itself."""

from collections.abc import Callable

from django.utils.translation import gettext as _

from binsort.core.facets.take_back import touched, without_change
from binsort.core.values.strict_json import one_line
from binsort.racks.models import Edition, Entry, PutLive
from binsort.racks.setup import Document

from .actors import Actor, user_of


def tell(
    kind: Entry.Kind, words: str, *, actor: Actor, before: Edition | None = None, after: Edition | None = None, live: PutLive | None = None
) -> Entry:
    """Write a line of the history."""
    differ = touched(before.document, after.document) if before and after and before.pk != after.pk else []
    touches = [" ".join(one) for one in differ]
    facets = [key for kind_of_part, key in differ if kind_of_part == "facet"]
    parts = one_line([_facet(before, facets[0]), _facet(after, facets[0])]) if len(facets) == 1 else ""
    return Entry.objects.create(
        kind=kind, words=words, actor=user_of(actor), before=before, after=after, live=live, touches=touches, parts=parts
    )


def _facet(edition: Edition | None, key: str) -> Document | None:
    return next((facet for facet in edition.document["facets"] if facet["key"] == key), None) if edition else None


def tell_of_token(words: str, token: str) -> None:
    """Write a line of what another system did by its token."""
    Entry.objects.create(kind=Entry.Kind.CATALOGUE, words=words, token=token)


class CannotTakeBack(ValueError):
    """A change of the set-up cannot be taken back; the text says why."""


def take_back_of(entry: Entry) -> Callable[[Document], None]:
    """Return the edit that takes one change of the set-up back. Raises CannotTakeBack."""
    if entry.kind != Entry.Kind.SETUP or entry.before is None or entry.after is None:
        raise CannotTakeBack(_("That is no change of the draft."))
    before, after = entry.before.document, entry.after.document

    def edit(document: Document) -> None:
        changed, clashes = without_change(document, before, after)
        if clashes:
            raise CannotTakeBack(_("%(names)s was changed again since. Take the later change back first.") % {"names": ", ".join(clashes)})
        document.clear()
        document.update(changed)

    return edit
