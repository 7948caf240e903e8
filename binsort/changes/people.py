"""Changes of who may do what: invitations, roles, passwords, and signing out everywhere."""

import secrets
from datetime import timedelta
from hashlib import sha256

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone
from django.utils.translation import gettext as _

from binsort.core.values.text import normalise
from binsort.people.acts import Act, Role
from binsort.people.models import Invitation, Member, PasswordLink
from binsort.people.rights import check, member_of, needs
from binsort.racks.models import Entry

from .actors import Actor, user_of
from .history import tell

DAYS, PLACES = (1, 7, 30), (1, 5)  # how long an invitation may work, and for how many
_PASSWORD_LINK_WORKS = timedelta(days=1)
_LONGEST = 150  # characters of a name


class PeopleRefused(ValueError):
    """It cannot be done to somebody; the text says why and what to do."""


@needs(Act.PEOPLE)
@transaction.atomic
def invite(role: Role, *, products: bool = True, note: str = "", days: int = 7, places: int = 1, actor: Actor) -> Invitation:
    """Make a link by which people come in.

    Args:
        role: what they become.
        products: of an editor: the catalogue, too.
        note: for whom it is; only owners see it.
        days: how long it works, one of :data:`DAYS`.
        places: how many can use it, one of :data:`PLACES`.
        actor: who invites.

    Raises:
        PeopleRefused: it is to work for longer or more people than may be.
    """
    if days not in DAYS or places not in PLACES:
        raise PeopleRefused(_("Choose how long it works and for how many."))
    row = Invitation.objects.create(
        token=secrets.token_urlsafe(12), role=role, products=products, note=normalise(note)[:200], places=places,
        actor=user_of(actor), ends_at=timezone.now() + timedelta(days=days),
    )  # fmt: skip
    words = _("Invitation as %(role)s made: %(note)s") if row.note else _("Invitation as %(role)s made")
    tell(Entry.Kind.PEOPLE, words % {"role": role.value, "note": row.note}, actor=actor)
    return row


@needs(Act.PEOPLE)
@transaction.atomic
def end_invitation(number: int, *, actor: Actor) -> bool:
    """End an invitation; tells whether it still worked."""
    done = bool(Invitation.objects.filter(pk=number, ended_at=None).update(ended_at=timezone.now()))
    if done:
        tell(Entry.Kind.PEOPLE, _("Ended an invitation"), actor=actor)
    return done


@transaction.atomic
def come_in(token: str, *, name: str, username: str, password: str) -> User:
    """Make an account by an invitation.

    Args:
        token: of the link.
        name: what the person is called.
        username: to sign in with.
        password: the one they chose.

    Raises:
        PeopleRefused: the link works no more, or a name is taken or missing.
        ValidationError: the password is too easy to guess.
    """
    row = Invitation.objects.select_for_update().filter(token=token).first()
    if row is None or not row.is_open:
        raise PeopleRefused(_("This invitation works no more. Ask whoever gave it to you for another one."))
    name, username = normalise(name), normalise(username)
    if not name or not username or len(name) > _LONGEST or len(username) > _LONGEST:
        raise PeopleRefused(_("Write your name and a name to sign in with, %(most)s characters at most.") % {"most": _LONGEST})
    user = User(username=username, first_name=name)
    try:
        user.full_clean(exclude=["password"], validate_unique=False)
    except ValidationError as error:
        raise PeopleRefused(" ".join(error.messages)) from error
    validate_password(password, user)
    user.set_password(password)
    try:
        with transaction.atomic():
            user.save()
    except IntegrityError as error:
        raise PeopleRefused(_("Somebody signs in as %(name)s already. Choose another name.") % {"name": username}) from error
    Member.objects.create(user=user, role=row.role, products=row.products)
    row.used += 1
    row.save(update_fields=["used"])
    tell(Entry.Kind.PEOPLE, _("%(name)s came in as %(role)s") % {"name": name, "role": row.role}, actor=user)
    return user


def _locked(user: User) -> Member:
    """Hold everybody's role until this transaction ends, and return one. Raises PeopleRefused."""
    list(Member.objects.select_for_update().order_by("pk"))
    member = member_of(User.objects.get(pk=user.pk))
    if member is None:
        raise PeopleRefused(_("That account is of nobody who works here any more."))
    return member


def _keep_an_owner(user: User) -> None:
    """Raise PeopleRefused where nobody else could let people in."""
    others = User.objects.filter(is_active=True).exclude(pk=user.pk).select_related("member")
    if not any((member := member_of(other)) and member.role == Role.OWNER for other in others):
        raise PeopleRefused(_("That is the only owner. Make somebody else one first."))


@needs(Act.PEOPLE)
@transaction.atomic
def set_role(user: User, role: Role, *, products: bool = True, actor: Actor) -> Member | None:
    """Let somebody go further, or less far; None where that is so already. Raises PeopleRefused."""
    member = _locked(user)
    if (member.role, member.products or role != Role.EDITOR) == (role, products or role != Role.EDITOR):
        return None
    if member.role == Role.OWNER and role != Role.OWNER:
        _keep_an_owner(user)
    member.role, member.products = role, products
    member.save()
    said = {"name": _called(user), "role": role.value}
    words = _("%(name)s is now %(role)s") if products or role != Role.EDITOR else _("%(name)s is now %(role)s, without products")
    tell(Entry.Kind.PEOPLE, words % said, actor=actor)
    return member


@needs(Act.PEOPLE)
@transaction.atomic
def remove_person(user: User, *, actor: Actor) -> None:
    """Let somebody in no more; what they did stays in the history. Raises PeopleRefused."""
    member = _locked(user)
    if member.role == Role.OWNER:
        _keep_an_owner(user)
    Member.objects.filter(user=user).delete()
    User.objects.filter(pk=user.pk).update(is_active=False, is_staff=False)
    tell(Entry.Kind.PEOPLE, _("Removed %(name)s") % {"name": _called(user)}, actor=actor)


# -- passwords, and being signed in


@needs(Act.PEOPLE)
@transaction.atomic
def give_password_link(user: User, *, actor: Actor) -> str:
    """Return the token of a link by which somebody sets a new password, once, within a day. It cannot be asked for again."""
    _locked(user)
    PasswordLink.objects.filter(user=user, used_at=None).delete()
    token = secrets.token_urlsafe(24)
    PasswordLink.objects.create(digest=_digest(token), user=user, actor=user_of(actor), ends_at=timezone.now() + _PASSWORD_LINK_WORKS)
    tell(Entry.Kind.PEOPLE, _("Gave %(name)s a link for a new password") % {"name": _called(user)}, actor=actor)
    return token


def password_link(token: str) -> PasswordLink | None:
    """Return a link that still works, None for any other."""
    if "\0" in token:
        return None
    found = PasswordLink.objects.select_related("user").filter(digest=_digest(token), used_at=None, ends_at__gt=timezone.now())
    return found.filter(user__is_active=True).first()


@transaction.atomic
def use_password_link(token: str, password: str) -> User:
    """Set a new password by a link; whoever was signed in with the old one is signed out.

    Raises:
        PeopleRefused: the link works no more.
        ValidationError: the password is too easy to guess.
    """
    found = password_link(token)
    if found is None:
        raise PeopleRefused(_("This link works no more. Ask an owner for another one."))
    validate_password(password, found.user)
    if not PasswordLink.objects.filter(pk=found.pk, used_at=None).update(used_at=timezone.now()):
        raise PeopleRefused(_("This link has just been used. Ask an owner for another one."))
    _set_password(found.user, password)
    tell(Entry.Kind.PEOPLE, _("Set a new password by a link"), actor=found.user)
    return found.user


@transaction.atomic
def change_password(user: User, password: str) -> None:
    """Change one's own password; everywhere else one is signed out. Raises ValidationError."""
    validate_password(password, user)
    _set_password(user, password)
    tell(Entry.Kind.PEOPLE, _("Changed the password"), actor=user)


def _set_password(user: User, password: str) -> None:
    user.set_password(password)
    user.save(update_fields=["password"])  # sessions of the old one end with it


@transaction.atomic
def sign_out_everywhere(user: User, *, actor: Actor) -> None:
    """Sign somebody out wherever they are signed in: oneself, or by an owner anybody. Raises NotAllowed."""
    if user_of(actor) != user:
        check(actor, Act.PEOPLE)
    member = _locked(user)
    member.signed_out_at = timezone.now()
    member.save()
    tell(Entry.Kind.PEOPLE, _("Signed %(name)s out everywhere") % {"name": _called(user)}, actor=actor)


def _called(user: User) -> str:
    return user.get_full_name() or user.get_username()


def _digest(text: str) -> str:
    return sha256(text.encode("utf-8", "surrogatepass")).hexdigest()
