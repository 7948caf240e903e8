"""Tokens: letting other systems write the catalogue, and ending that."""

import secrets
from datetime import timedelta
from hashlib import sha256
from typing import Any

from django.utils import timezone
from django.utils.translation import gettext as _

from binsort.catalog.models import Token
from binsort.core.values.text import normalise

from .locks import Refused

_MARK = "binsort_"
_TOLD = timedelta(minutes=1)  # between two notes of a token being used


def give(name: str, *, actor: Any) -> tuple[Token, str]:
    """Make a token; returns it with its text, which cannot be asked for again. Raises Refused."""
    words = normalise(name)
    if not words:
        raise Refused(_("name the system that is to use it."))
    text = _MARK + secrets.token_urlsafe(32)
    return Token.objects.create(name=words[:200], digest=_digest(text), actor=actor), text


def end(number: int) -> bool:
    """End a token; tells whether there was one."""
    return bool(Token.objects.filter(pk=number, ended_at=None).update(ended_at=timezone.now()))


def known(text: str) -> Token | None:
    """Return the token that somebody shows, None where it is none, or was ended."""
    token = Token.objects.filter(digest=_digest(text), ended_at=None, actor__is_active=True).select_related("actor").first()
    now = timezone.now()
    if token and (token.used_at is None or token.used_at < now - _TOLD):
        Token.objects.filter(pk=token.pk).update(used_at=now)
    return token


def _digest(text: str) -> str:
    return sha256(text.encode("utf-8", "surrogatepass")).hexdigest()
