"""The page *People*: everybody as a row of five compartments, how far they may go, and what they did of late."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from django.contrib.auth.models import User
from django.db.models import Max
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.catalog.models import Revision, Token
from binsort.people.acts import Act, Role, acts_of
from binsort.people.models import Invitation
from binsort.people.rights import member_of
from binsort.racks.models import Entry

ACTS: tuple[tuple[Act, Any, Any, Any], ...] = (  # act, whom it reaches, what it is, what it covers
    (Act.LOOK, _l("reaches nobody"), _l("Look, try picks"), _l("and read")),
    (Act.DRAFT, _l("the draft"), _l("Facets and racks"), _l("bins, places, rules")),
    (Act.PRODUCTS, _l("shoppers"), _l("Products"), _l("files, prices, stock")),
    (Act.LIVE, "", _l("Put live, go back"), _l("and schedule")),
    (Act.PEOPLE, _l("the door"), _l("Let people in"), _l("people and tokens")),
)
ROLES: tuple[tuple[Role, Any, Any], ...] = (
    (Role.VIEWER, _l("Viewer"), _l("looks and tries picks")),
    (Role.EDITOR, _l("Editor"), _l("changes the draft, no shopper sees it")),
    (Role.KEEPER, _l("Keeper"), _l("products, prices and files only, no facets")),
    (Role.OWNER, _l("Owner"), _l("puts live, lets people in")),
)
_SAID = {
    Act.LOOK: _l("looks"), Act.DRAFT: _l("in the draft"), Act.PRODUCTS: _l("at once"), Act.LIVE: _l("at once"), Act.PEOPLE: _l("yes"),
}  # fmt: skip
DAYS, UNUSED_FOR = 14, timedelta(days=14)
_HIGHEST = 15  # pixels of a bar


@dataclass(frozen=True, slots=True)
class Compartment:
    """An act of one row."""

    act: str
    said: str  # empty where it is not allowed


@dataclass(frozen=True, slots=True)
class PersonView:
    """Somebody, an invitation or another system."""

    number: int
    name: str
    told: str
    role: str
    products: bool
    compartments: tuple[Compartment, ...]
    bars: tuple[tuple[int, int], ...]  # where a bar stands and how high it is
    last: datetime | None
    is_me: bool = False
    left: int = 0  # places of an invitation
    token: str = ""  # of an invitation
    is_silent: bool = False  # a token that nobody used for long


@dataclass(frozen=True, slots=True)
class PeoplePage:
    """All that the page shows."""

    people: tuple[PersonView, ...]
    invitations: tuple[PersonView, ...]
    tokens: tuple[PersonView, ...]
    acts: tuple[tuple[Act, Any, Any, Any], ...]
    roles: tuple[tuple[str, str, str, str], ...]  # with a path under the compartments of its acts
    silent: tuple[PersonView, ...]


def people_page(me: User) -> PeoplePage:
    """Build the page as somebody sees it."""
    tokens = tuple(_tokens())
    return PeoplePage(
        people=tuple(_people(me)),
        invitations=tuple(_invitations()),
        tokens=tokens,
        acts=ACTS,
        roles=tuple(
            (role.value, str(name), str(words), _drawn(acts_of(role, products=role is not Role.EDITOR))) for role, name, words in ROLES
        ),
        silent=tuple(token for token in tokens if token.is_silent),
    )


def _drawn(acts: frozenset[Act]) -> str:
    """Return a path under the compartments of some acts, each ten wide."""
    return "".join(f"M{10 * place} 16h10" for place, (act, *_rest) in enumerate(ACTS) if act in acts)


def role_words(role: str) -> str:
    """Return a role in words."""
    return next(str(name) for one, name, _words in ROLES if one == role)


def _compartments(acts: frozenset[Act]) -> tuple[Compartment, ...]:
    return tuple(Compartment(act.value, str(_SAID[act]) if act in acts else "") for act, *_rest in ACTS)


def _people(me: User) -> Iterator[PersonView]:
    done = _done_by_day()
    last = dict(Entry.objects.exclude(actor=None).values_list("actor").annotate(last=Max("at")))
    users = User.objects.filter(is_active=True).select_related("member").order_by("first_name", "username")
    found = [(user, member) for user in users if (member := member_of(user))]
    order = [role.value for role, *_rest in ROLES]
    for user, member in sorted(found, key=lambda pair: -order.index(pair[1].role)):
        role = role_words(member.role).lower()
        if member.role == Role.EDITOR and member.products:
            role = _("editor, and products")
        seen = [moment for moment in (user.last_login, last.get(user.pk)) if moment]
        yield PersonView(
            number=user.pk,
            name=user.get_full_name() or user.get_username(),
            told=_("%(role)s since %(when)s") % {"role": role, "when": f"{timezone.localtime(member.since):%B %Y}"},
            role=member.role,
            products=member.products,
            compartments=_compartments(acts_of(Role(member.role), products=member.products)),
            bars=_bars(done, user.pk),
            last=max(seen, default=None),
            is_me=user.pk == me.pk,
        )


def _invitations() -> Iterator[PersonView]:
    for row in Invitation.objects.filter(ended_at=None, ends_at__gt=timezone.now()):
        if row.is_open:
            words = _("for %(note)s · until %(day)s") if row.note else _("until %(day)s")
            yield PersonView(
                number=row.pk,
                name=_("Link for an %(role)s") % {"role": row.role} if row.role != Role.VIEWER else _("Link for a viewer"),
                told=words % {"note": row.note, "day": f"{timezone.localtime(row.ends_at):%-d %B %H:%M}"},
                role=row.role,
                products=row.products,
                compartments=_compartments(acts_of(Role(row.role), products=row.products)),
                bars=(),
                last=None,
                left=row.places - row.used,
                token=row.token,
            )


def _tokens() -> Iterator[PersonView]:
    for row in Token.objects.filter(ended_at=None):
        used = row.used_at or row.at
        yield PersonView(
            number=row.pk,
            name=row.name,
            told=_("writes products") if "products" in row.acts else _("reads products"),
            role="",
            products=True,
            compartments=_compartments(frozenset(Act(act) for act in row.acts)),
            bars=(),
            last=row.used_at,
            is_silent=used < timezone.now() - UNUSED_FOR,
        )


def _done_by_day() -> Counter[tuple[int, date]]:
    """Return how many changes each person made on each of the last days."""
    since = timezone.now() - timedelta(days=DAYS)
    moments = [*Entry.objects.filter(at__gte=since).exclude(actor=None).values_list("actor", "at")]
    moments += Revision.objects.filter(at__gte=since).exclude(actor=None).values_list("actor", "at")
    return Counter((actor, timezone.localtime(at).date()) for actor, at in moments)


def _bars(done: Counter[tuple[int, date]], user: int) -> tuple[tuple[int, int], ...]:
    today = timezone.localdate()
    counts = [done[user, today - timedelta(days=DAYS - 1 - place)] for place in range(DAYS)]
    most = max([*counts, 1])
    return tuple((4 * place, max(2, round(_HIGHEST * count / most))) for place, count in enumerate(counts) if count)
