"""What shoppers see: put live at once or at a time, called off, gone back from; and the secret links that show the draft."""

import secrets
from datetime import datetime

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext as _

from binsort.core.facets.facet_file import FacetFileError, check_document
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import DraftLink, Edition, Entry, PutLive, Schedule, Setup

from .actors import Actor, user_of
from .facets import locked_setup, refuse_where_kept_elsewhere
from .history import tell

_LONGEST_NOTE = 500
_FURTHEST = 366  # days that something can be scheduled ahead


class NotLive(ValueError):
    """It cannot go live like that; the text says why and what to do."""


@needs(Act.LIVE)
@transaction.atomic
def put_live(*, note: str = "", actor: Actor = None, based_on: int | None = None) -> PutLive:
    """Let shoppers see the draft. What waits to go live is called off, for it is older.

    Raises:
        EditedMeanwhile: the draft is another by now.
        NotLive: the note is too long.
    """
    note = _checked_note(note)
    call_off(actor=actor)
    setup = locked_setup(based_on)
    return _let_live(setup, setup.draft, PutLive.Way.PUT, note, actor)


def _let_live(setup: Setup, edition: Edition, way: PutLive.Way, note: str, actor: Actor, at: datetime | None = None) -> PutLive:
    before, setup.live = setup.live, edition
    setup.save(update_fields=["live", "goes_live_at"])
    row = PutLive.objects.create(edition=edition, way=way, note=note, actor=user_of(actor), at=at or timezone.now())
    words = {
        PutLive.Way.PUT: _("Put live"),
        PutLive.Way.SCHEDULE: _("Put live by schedule"),
        PutLive.Way.BACK: _("Gone back"),
    }[way]
    entry = tell(Entry.Kind.LIVE, f"{words}: {note}" if note else str(words), actor=actor, before=before, after=edition, live=row)
    if at:
        Entry.objects.filter(pk=entry.pk).update(at=at)
    return row


def _checked_note(note: str) -> str:
    note = note.strip()
    if len(note) > _LONGEST_NOTE:
        raise NotLive(_("A note has %(most)s characters at most. Shorten it.") % {"most": _LONGEST_NOTE})
    return note


# -- at a time


@needs(Act.LIVE)
@transaction.atomic
def schedule(at: datetime, *, note: str = "", actor: Actor = None, based_on: int | None = None) -> Schedule:
    """Let shoppers see the draft as it is now from a moment on; in place of what waits already.

    Args:
        at: the moment, with its time zone.
        note: for the history.
        actor: who does it.
        based_on: the edition that the user saw.

    Raises:
        EditedMeanwhile: the draft is another by now.
        NotLive: the moment is past or too far ahead.
    """
    note, now = _checked_note(note), timezone.now()
    if at <= now:
        raise NotLive(_("That time is past. Choose one to come, or put it live now."))
    if (at - now).days > _FURTHEST:
        raise NotLive(_("That is more than a year ahead. Choose an earlier day."))
    call_off(actor=actor)
    setup = locked_setup(based_on)
    row = Schedule.objects.create(edition=setup.draft, note=note, at=at, actor=user_of(actor))
    setup.goes_live_at = at
    setup.save(update_fields=["goes_live_at"])
    told = timezone.localtime(at)
    words = _("Scheduled to go live on %(day)s at %(time)s") % {"day": f"{told:%-d %B %Y}", "time": f"{told:%H:%M:%S}"}
    tell(Entry.Kind.LIVE, words, actor=actor, before=setup.live, after=setup.draft)
    return row


@needs(Act.LIVE)
@transaction.atomic
def call_off(*, actor: Actor = None) -> Schedule | None:
    """Call off what waits to go live; returns it, None where nothing does. What is due already is carried out first."""
    setup = locked_setup(None)
    _carry_out(setup)
    row = Schedule.objects.filter(ended_at=None).first()
    if row is not None:
        row.ended_at = timezone.now()
        row.save(update_fields=["ended_at"])
        setup.goes_live_at = None
        setup.save(update_fields=["goes_live_at"])
        tell(Entry.Kind.LIVE, _("Called off what was scheduled"), actor=actor, before=row.edition, after=setup.live)
    return row


@transaction.atomic
def carry_out_schedule() -> PutLive | None:
    """Put live what is due; returns what was done, None for nothing. Doing it twice does it once."""
    return _carry_out(locked_setup(None))


def _carry_out(setup: Setup) -> PutLive | None:
    row = Schedule.objects.select_related("edition", "actor").filter(ended_at=None, at__lte=timezone.now()).first()
    if row is None:
        return None
    row.ended_at = timezone.now()
    row.save(update_fields=["ended_at"])
    setup.goes_live_at = None
    return _let_live(setup, row.edition, PutLive.Way.SCHEDULE, row.note, row.actor, row.at)


# -- back


@needs(Act.LIVE)
@transaction.atomic
def go_back(number: int, *, note: str = "", actor: Actor = None, seen: int | None = None) -> PutLive:
    """Let shoppers see again what was live before. The draft stays as it is; products, prices and stock are those of now.

    Args:
        number: of the time it was put live.
        note: for the history.
        actor: who does it.
        seen: the number of what was live when the user decided; None for whatever is.

    Raises:
        PutLive.DoesNotExist: there is no such time.
        NotLive: something else went live meanwhile, or it would not be valid any more.
    """
    setup = locked_setup(None)
    note = _checked_note(note)
    _carry_out(setup)
    newest = PutLive.objects.first()
    if seen is not None and newest is not None and newest.pk != seen:
        raise NotLive(_("Meanwhile something else was put live. You see it now; decide again."))
    row = PutLive.objects.select_related("edition").get(pk=number)
    _check(row.edition)
    return _let_live(setup, row.edition, PutLive.Way.BACK, note, actor)


@needs(Act.DRAFT)
@transaction.atomic
def into_draft(number: int, *, actor: Actor = None, based_on: int | None = None) -> Edition:
    """Make what was live once the draft; its changes since then can be brought back by undo.

    Raises:
        PutLive.DoesNotExist: there is no such time.
        EditedMeanwhile: the draft is another by now.
        NotLive: it would not be valid any more.
    """
    setup = locked_setup(based_on)
    refuse_where_kept_elsewhere(setup)
    row = PutLive.objects.select_related("edition").get(pk=number)
    _check(row.edition)
    told = timezone.localtime(row.at)
    summary = _("The draft made what was live from %(day)s, %(time)s") % {"day": f"{told:%-d %B}", "time": f"{told:%H:%M}"}
    before = setup.draft
    setup.draft = Edition.objects.create(text=row.edition.text, base=before, summary=summary, actor=user_of(actor))
    setup.save(update_fields=["draft"])
    tell(Entry.Kind.SETUP, summary, actor=actor, before=before, after=setup.draft)
    return setup.draft


def _check(edition: Edition) -> None:
    try:
        problems = check_document(edition.document)
    except FacetFileError as error:
        problems = error.problems
    if problems:
        raise NotLive(_("It is not valid any more: %(why)s") % {"why": problems[0].text})


# -- secret links


@needs(Act.DRAFT)
@transaction.atomic
def make_link(*, actor: Actor = None) -> DraftLink:
    """Make an address that shows the draft in the shop to whoever has it."""
    link = DraftLink.objects.create(token=secrets.token_urlsafe(16), actor=user_of(actor))
    tell(Entry.Kind.LIVE, _("Made a secret link that shows the draft"), actor=actor)
    return link


@needs(Act.DRAFT)
@transaction.atomic
def end_link(number: int, *, actor: Actor = None) -> None:
    """End a secret link; whoever has it sees what all shoppers see."""
    if DraftLink.objects.filter(pk=number, ended_at=None).update(ended_at=timezone.now()):
        tell(Entry.Kind.LIVE, _("Ended a secret link"), actor=actor)
