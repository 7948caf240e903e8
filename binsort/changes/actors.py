"""Who makes a change."""

from typing import TypeAlias

from django.contrib.auth.models import AnonymousUser, User

Actor: TypeAlias = User | AnonymousUser | None


def user_of(actor: Actor) -> User | None:
    """Return the user to be recorded with a change, None for nobody in particular."""
    return actor if isinstance(actor, User) else None
