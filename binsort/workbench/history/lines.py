"""The lines of the history: of the set-up and of the catalogue, told together, newest first."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from itertools import islice

from django.contrib.auth.models import User
from django.db.models import Q, QuerySet
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.catalog.models import Revision
from binsort.changes.revisions import KEPT
from binsort.racks.models import Entry

PAGE = 40
SETUP, CATALOGUE = "setup", "catalogue"
_OF_SETUP = (Entry.Kind.SETUP, Entry.Kind.LIVE, Entry.Kind.PEOPLE)


@dataclass(frozen=True, slots=True)
class Asked:
    """What the history is asked for."""

    what: str = ""  # the set-up, the catalogue, or both
    who: str = ""  # the number of a person, or the name of another system behind ``token:``
    facet: str = ""  # a key
    find: str = ""  # words
    until: date | None = None  # the last day
    before: datetime | None = None  # lines older than that


@dataclass(frozen=True, slots=True)
class Line:
    """One change."""

    at: datetime
    words: str
    who: str
    where: str  # in the draft, at once, …
    entry: Entry | None
    revision: Revision | None
    calls: int = 1  # of another system, told as one
    is_kept: bool = False  # a revision new enough to be taken back

    @property
    def id(self) -> str:
        """Its name on the page."""
        return f"line-{self.entry.pk}" if self.entry else f"revision-{self.revision.pk if self.revision else 0}"

    @property
    def can_take_back(self) -> bool:
        """Whether a button offers it."""
        if self.revision is not None:
            return self.revision.undone_at is None and self.is_kept
        return self.entry is not None and self.entry.kind == Entry.Kind.SETUP and self.entry.before_id is not None


def lines(asked: Asked) -> list[Line]:
    """Return a page of lines; one more than a page where there are older ones."""
    entries = _entries(asked)[: PAGE * 4] if asked.what != CATALOGUE or not asked.facet else Entry.objects.none()
    revisions = _revisions(asked)[: PAGE + 1] if asked.what != SETUP and not asked.facet else Revision.objects.none()
    oldest = min(Revision.objects.values_list("pk", flat=True)[:KEPT], default=0)
    found = [*map(_of_entry, entries), *(_of_revision(revision, revision.pk >= oldest) for revision in revisions)]
    found.sort(key=lambda line: line.at, reverse=True)
    return list(islice(_together(found), PAGE + 1))


def _entries(asked: Asked) -> QuerySet[Entry]:
    rows = Entry.objects.select_related("actor", "live")
    if asked.what == SETUP:
        rows = rows.filter(kind__in=_OF_SETUP)
    if asked.what == CATALOGUE:
        rows = rows.filter(kind=Entry.Kind.CATALOGUE)
    if asked.facet:
        rows = rows.filter(touches__contains=[f"facet {asked.facet}"])
    if asked.who.startswith("token:"):
        rows = rows.filter(token=asked.who.removeprefix("token:"))
    elif asked.who:
        rows = rows.filter(actor=int(asked.who))
    if asked.find:
        rows = rows.filter(Q(words__icontains=asked.find) | Q(live__note__icontains=asked.find))
    return rows.filter(_times(asked))


def _revisions(asked: Asked) -> QuerySet[Revision]:
    rows = Revision.objects.select_related("actor")
    if asked.who.startswith("token:"):
        return rows.none()
    if asked.who:
        rows = rows.filter(actor=int(asked.who))
    if asked.find:
        rows = rows.filter(Q(summary__icontains=asked.find) | Q(file__icontains=asked.find))
    return rows.filter(_times(asked))


def _times(asked: Asked) -> Q:
    times = Q()
    if asked.until is not None:
        times &= Q(at__lt=timezone.make_aware(datetime.combine(asked.until + timedelta(days=1), datetime.min.time())))
    if asked.before is not None:
        times &= Q(at__lt=asked.before)
    return times


def _of_entry(entry: Entry) -> Line:
    where = {Entry.Kind.SETUP: _("in the draft"), Entry.Kind.LIVE: "", Entry.Kind.CATALOGUE: _("at once"), Entry.Kind.PEOPLE: ""}
    who = entry.token or name_of(entry.actor)
    return Line(entry.at, entry.words, who, _("by its token, at once") if entry.token else str(where[Entry.Kind(entry.kind)]), entry, None)


def _of_revision(revision: Revision, is_kept: bool) -> Line:
    where = _("in the catalogue, at once") if revision.undone_at is None else _("in the catalogue, taken back since")
    counts = [
        ngettext("%(count)s new", "%(count)s new", revision.new) % {"count": f"{revision.new:,}"} if revision.new else "",
        ngettext("%(count)s changed", "%(count)s changed", revision.changed) % {"count": f"{revision.changed:,}"}
        if revision.changed
        else "",
        ngettext("%(count)s gone", "%(count)s gone", revision.left) % {"count": f"{revision.left:,}"} if revision.left else "",
    ]
    told = ", ".join(part for part in counts if part)
    words = _("%(file)s brought in") % {"file": revision.file} if revision.kind == Revision.Kind.FILE else str(revision)
    if told and revision.kind == Revision.Kind.FILE:
        words = f"{words}: {told}"
    return Line(revision.at, words, name_of(revision.actor), where, None, revision, is_kept=is_kept)


def _together(found: Sequence[Line]) -> Iterator[Line]:
    """Yield lines; what another system does call by call is told once an hour."""
    held: Line | None = None
    for line in found:
        token = line.entry.token if line.entry else ""
        if held is not None and held.entry and token and held.entry.token == token and held.at - line.at < timedelta(hours=1):
            held = Line(held.at, held.words, held.who, held.where, held.entry, None, held.calls + 1)
            continue
        if held is not None:
            yield held
        held = line
    if held is not None:
        yield held


def name_of(user: User | None) -> str:
    """Return what a person is called."""
    return (user.get_full_name() or user.get_username()) if user else str(_("nobody in particular"))
