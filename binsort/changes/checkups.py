"""Checkups: mending what was found about the whole, leaving a finding as it is, and taking it up again."""

from collections.abc import Callable
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext as _

from binsort.core.values.text import normalise
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import Edition, Entry, LeftAsIs
from binsort.racks.setup import Document

from .actors import Actor
from .facets import change
from .history import tell
from .locks import Refused

_LONGEST = 200  # letters of a reason


@needs(Act.DRAFT)
def mend_whole(words: str, changed: Callable[[Document], Document], *, actor: Actor, based_on: int | None = None) -> Edition:
    """Put the set-up that a mend makes in place of the draft. Raises EditedMeanwhile, FacetFileError."""

    def edit(document: Document) -> None:
        document.update(changed(document))

    return change(words, edit, actor=actor, based_on=based_on)


@needs(Act.DRAFT)
@transaction.atomic
def leave(place: str, finding: str, subject: str, *, said: str, reason: str, actor: Any) -> LeftAsIs:
    """Leave a finding as it is, with a reason or none; it comes back where the facts change. Raises Refused."""
    reason = normalise(reason)
    if len(reason) > _LONGEST:
        raise Refused(_("A reason has 200 letters at most. Shorten it."))
    values = {"said": said, "reason": reason, "actor": actor, "at": timezone.now()}
    left, _is_new = LeftAsIs.objects.update_or_create(place=place, finding=finding, subject=subject, defaults=values)
    words = _("Left as it is: %(said)s (%(reason)s)") if reason else _("Left as it is: %(said)s")
    tell(Entry.Kind.SETUP, words % {"said": said, "reason": reason}, actor=actor)
    return left


@needs(Act.DRAFT)
@transaction.atomic
def take_up(number: int, *, actor: Any) -> str:
    """Take a finding up again; returns it in words, empty where that was done before."""
    left = LeftAsIs.objects.select_for_update().filter(pk=number).first()
    if left is None:
        return ""
    left.delete()
    tell(Entry.Kind.SETUP, _("Taken up again: %(said)s") % {"said": left.said}, actor=actor)
    return left.said
