"""Whether somebody may do something: asked by every page and, behind it, by every service."""

from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from django.contrib.auth.models import AnonymousUser, User
from django.core.exceptions import PermissionDenied

from .acts import Act, Role, acts_of
from .models import Member

Given = ParamSpec("Given")
Result = TypeVar("Result")
SERVICES: dict[str, Act] = {}  # every service that changes something, by its name, with what is needed for it


class NotAllowed(PermissionDenied):
    """Somebody may not do that."""

    def __init__(self, act: Act) -> None:
        super().__init__(act)
        self.act = act


def member_of(user: User | AnonymousUser | None) -> Member | None:
    """Return how far somebody may go, None for strangers; one query for each object of a user."""
    if not isinstance(user, User) or not user.is_active:
        return None
    if not hasattr(user, "_member"):
        row = Member.objects.filter(user=user).first()
        user._member = row or (Member(user=user, role=Role.OWNER, since=user.date_joined) if user.is_staff else None)  # type: ignore[attr-defined]
    return user._member  # type: ignore[attr-defined,no-any-return]


def allowed(user: User | AnonymousUser | None) -> frozenset[Act]:
    """Return all that somebody may do."""
    member = member_of(user)
    return acts_of(Role(member.role), products=member.products) if member else frozenset()


def needs(act: Act) -> Callable[[Callable[Given, Result]], Callable[Given, Result]]:
    """Let a service be done only by whom may do that; without an actor it is the shop's own machine that does it.

    Args:
        act: what is needed.
    """

    def named(service: Callable[Given, Result]) -> Callable[Given, Result]:
        SERVICES[f"{service.__module__.rpartition('.')[2]}.{service.__qualname__}"] = act

        @wraps(service)
        def checked(*args: Given.args, **kwargs: Given.kwargs) -> Result:
            check(kwargs.get("actor"), act)
            return service(*args, **kwargs)

        return checked

    return named


def check(actor: Any, act: Act) -> None:
    """Raise NotAllowed where somebody may not do that."""
    if actor is not None and act not in allowed(actor):
        raise NotAllowed(act)
