"""Tokens: letting other systems write the catalogue, and ending that."""

import secrets
from collections.abc import Iterable
from datetime import timedelta
from hashlib import sha256
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext as _

from binsort.catalog.models import Token
from binsort.core.values.text import normalise
from binsort.people.acts import OF_TOKENS, Act
from binsort.people.rights import needs
from binsort.racks.models import Entry

from .history import tell
from .locks import Refused

_MARK = "binsort_"
_TOLD = timedelta(minutes=1)  # between two notes of a token being used


@needs(Act.PEOPLE)
@transaction.atomic
def give(name: str, *, acts: Iterable[str] = OF_TOKENS, actor: Any) -> tuple[Token, str]:
    """Make a token; returns it with its text, which cannot be asked for again.

    Args:
        name: of the system that is to use it.
        acts: what it may do, some of :data:`OF_TOKENS`.
        actor: who gives it.

    Raises:
        Refused: it has no name, or may do nothing.
    """
    words = normalise(name)
    may = [act.value for act in OF_TOKENS if act in set(acts)]
    if not words:
        raise Refused(_("name the system that is to use it."))
    if not may:
        raise Refused(_("choose what it may do."))
    text = _MARK + secrets.token_urlsafe(32)
    token = Token.objects.create(name=words[:200], digest=_digest(text), actor=actor, acts=may)
    tell(Entry.Kind.PEOPLE, _("Gave a token to %(name)s") % {"name": token.name}, actor=actor)
    return token, text


@needs(Act.PEOPLE)
@transaction.atomic
def end(number: int, *, actor: Any = None) -> bool:
    """End a token; tells whether there was one."""
    token = Token.objects.filter(pk=number, ended_at=None).first()
    done = bool(Token.objects.filter(pk=number, ended_at=None).update(ended_at=timezone.now()))
    if done and token:
        tell(Entry.Kind.PEOPLE, _("Ended the token of %(name)s") % {"name": token.name}, actor=actor)
    return done


def known(text: str) -> Token | None:
    """Return the token that somebody shows, None where it is none, or was ended."""
    token = Token.objects.filter(digest=_digest(text), ended_at=None, actor__is_active=True).select_related("actor").first()
    now = timezone.now()
    if token and (token.used_at is None or token.used_at < now - _TOLD):
        Token.objects.filter(pk=token.pk).update(used_at=now)
    return token


def _digest(text: str) -> str:
    return sha256(text.encode("utf-8", "surrogatepass")).hexdigest()
