"""The page *History*: a ruler of days, the lines, and what going back would do."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from itertools import pairwise
from urllib.parse import urlencode

from django.contrib.auth.models import User
from django.db.models import Count
from django.db.models.functions import TruncDate
from django.urls import reverse
from django.utils import timezone
from django.utils.timesince import timesince
from django.utils.translation import gettext as _

from binsort.catalog.models import Revision, Token
from binsort.core.answers.answer import State
from binsort.core.facets.query import Query
from binsort.core.facets.spec import FacetSpec, facet_spec
from binsort.core.values.strict_json import loads
from binsort.racks.differences import differences
from binsort.racks.models import Entry, PutLive, Schedule, Setup
from binsort.tally.current import Current, current
from binsort.workbench.shelf.small import Part, before_and_after

from .lines import CATALOGUE, PAGE, SETUP, Asked, Line, lines, name_of

_DAYS = 30  # of the ruler
_DRAWN, _DRAWN_OF_MANY, _MANY = 16, 5, 20_000  # lines with vessels, fewer of a big catalogue
_BAR = 18  # pixels: how high a bar of the ruler
RULER_STEP = 26


@dataclass(frozen=True, slots=True)
class LineView:
    """A line with what it did to counts."""

    line: Line
    day: str  # where a new day begins
    before: tuple[Part, ...]
    after: tuple[Part, ...]
    is_live_now: bool
    chosen: bool
    address: str  # of the line chosen, where going back would be shown
    lasted: str  # how long it was live


@dataclass(frozen=True, slots=True)
class DayView:
    """A day of the ruler."""

    x: int
    above: int
    below: int
    label: str
    told: str
    address: str
    put_live: bool
    inside: bool  # of what the list shows


@dataclass(frozen=True, slots=True)
class BackView:
    """What going back to something that was live would do."""

    row: PutLive
    changes: tuple[tuple[str, str, tuple[Part, ...], tuple[Part, ...]], ...]  # label, words, before, afterwards
    same: int
    is_now: bool
    seen: int


@dataclass(frozen=True, slots=True)
class HistoryPage:
    """All that the page shows."""

    lines: tuple[LineView, ...]
    days: tuple[DayView, ...]
    width: int
    count: int
    since: date | None
    older: str
    newest: str
    asked: Asked
    people: tuple[tuple[str, str], ...]
    facets: tuple[tuple[str, str], ...]
    trays: tuple[tuple[str, str, str, bool], ...]
    scheduled: Schedule | None
    scheduled_x: int | None
    back: BackView | None


def history_page(setup: Setup, asked: Asked, chosen: int | None, kept: Mapping[str, str]) -> HistoryPage:
    """Build the page.

    Args:
        setup: the set-up.
        asked: what is asked for.
        chosen: the number of the time something was put live that could be gone back to.
        kept: what the address asks for.
    """
    return _Page(setup, asked, chosen, kept).build()


class _Page:
    def __init__(self, setup: Setup, asked: Asked, chosen: int | None, kept: Mapping[str, str]) -> None:
        self.setup, self.asked, self.chosen, self.kept = setup, asked, chosen, kept
        self.held: Current = current()
        self.live_now = PutLive.objects.first()
        self.drawn = 0

    def address(self, **changed: object) -> str:
        named = {name: str(value) for name, value in {**self.kept, **changed}.items() if value not in ("", None)}
        return f"{reverse('history')}?{urlencode(named)}" if named else reverse("history")

    def build(self) -> HistoryPage:
        found = lines(self.asked)
        shown = found[:PAGE]
        days = tuple(self.days(shown))
        scheduled = Schedule.objects.select_related("actor").filter(ended_at=None).first()
        first = Entry.objects.order_by("at").values_list("at", flat=True).first()
        return HistoryPage(
            lines=tuple(self.views(shown)),
            days=days,
            width=RULER_STEP * (len(days) + 2),
            count=Entry.objects.count() + Revision.objects.count(),
            since=timezone.localtime(first).date() if first else None,
            older=self.address(before=shown[-1].at.isoformat()) if len(found) > PAGE else "",
            newest=self.address(before="", until="") if self.asked.before or self.asked.until else "",
            asked=self.asked,
            people=tuple(self.people()),
            facets=tuple((facet["key"], facet["label"]) for facet in self.setup.draft.document["facets"]),
            trays=tuple(self.trays()),
            scheduled=scheduled,
            scheduled_x=self.scheduled_at(scheduled, len(days)) if scheduled else None,
            back=self.back(),
        )

    def trays(self) -> Iterator[tuple[str, str, str, bool]]:
        for what, words in (("", _("Everything")), (SETUP, _("Set-up")), (CATALOGUE, _("Catalogue"))):
            yield what or "all", words, self.address(what=what, before=""), self.asked.what == what

    def people(self) -> Iterator[tuple[str, str]]:
        for user in User.objects.order_by("username"):
            yield str(user.pk), name_of(user)
        for token in dict.fromkeys(Token.objects.values_list("name", flat=True)):
            yield f"token:{token}", token

    # -- the ruler

    def days(self, shown: list[Line]) -> Iterator[DayView]:
        last = timezone.localdate()
        if self.asked.until:
            last = max(self.asked.until, min(last, self.asked.until + timedelta(days=_DAYS // 3)))
        first = last - timedelta(days=_DAYS - 1)
        since = timezone.make_aware(datetime.combine(first, datetime.min.time()))
        above = _by_day(Entry.objects.filter(at__gte=since).exclude(kind=Entry.Kind.CATALOGUE))
        below = _by_day(Revision.objects.filter(at__gte=since))
        for day, count in _by_day(Entry.objects.filter(at__gte=since, kind=Entry.Kind.CATALOGUE)).items():
            below[day] = below.get(day, 0) + count
        put_live = set(_by_day(PutLive.objects.filter(at__gte=since)))
        most = max([*above.values(), *below.values(), 1])
        within = (timezone.localtime(shown[-1].at).date(), timezone.localtime(shown[0].at).date()) if shown else (last, last)
        for place in range(_DAYS):
            day = first + timedelta(days=place)
            counts = above.get(day, 0), below.get(day, 0)
            yield DayView(
                x=RULER_STEP * place,
                above=_height(counts[0], most),
                below=_height(counts[1], most),
                label=f"{day:%-d %b}" if place == 0 or day.weekday() == 0 else "",
                told=_("%(day)s: %(setup)s of the set-up, %(catalogue)s of the catalogue")
                % {"day": f"{day:%A %-d %B}", "setup": counts[0], "catalogue": counts[1]},
                address=self.address(until=day.isoformat(), before=""),
                put_live=day in put_live,
                inside=within[0] <= day <= within[1],
            )

    @staticmethod
    def scheduled_at(scheduled: Schedule, days: int) -> int:
        ahead = (timezone.localtime(scheduled.at).date() - timezone.localdate()).days
        return RULER_STEP * min(days + 1, days - 1 + max(0, ahead))

    # -- lines

    def views(self, shown: list[Line]) -> Iterator[LineView]:
        today, last = timezone.localdate(), None
        ended = self.ends()
        for line in shown:
            day = timezone.localtime(line.at).date()
            begins = day != last
            last = day
            entry = line.entry
            vessels = self.vessels(entry) if entry and entry.before_id and entry.kind == Entry.Kind.SETUP else ((), ())
            live = entry.live_id if entry else None
            yield LineView(
                line=line,
                day=_day_words(day, today) if begins else "",
                before=vessels[0],
                after=vessels[1],
                is_live_now=live is not None and self.live_now is not None and live == self.live_now.pk,
                chosen=live is not None and live == self.chosen,
                address=self.address(live=live) if live else "",
                lasted=ended.get(live, "") if live else "",
            )

    def ends(self) -> dict[int | None, str]:
        """Return how long each state was live, in words."""
        rows = list(PutLive.objects.values_list("pk", "at")[:200])
        told: dict[int | None, str] = {}
        for (_later, until), (number, at) in pairwise(rows):
            told[number] = _("Live for %(time)s") % {"time": timesince(at, until, depth=1)}
        return told

    def vessels(self, entry: Entry) -> tuple[tuple[Part, ...], tuple[Part, ...]]:
        """Return what a change did to the bins of the one facet that it touched, over all products; nothing where no bin changed."""
        if not entry.parts or self.drawn >= self.most:
            return (), ()
        found = self.both(*(facet_spec(facet) if facet else None for facet in loads(entry.parts)))
        self.drawn += bool(found[0] or found[1])
        return found

    @property
    def most(self) -> int:
        return _DRAWN if len(self.held.index.every_product) <= _MANY else _DRAWN_OF_MANY

    def both(self, before: FacetSpec | None, after: FacetSpec | None) -> tuple[tuple[Part, ...], tuple[Part, ...]]:
        """Return a facet before and afterwards as small vessels; nothing where no product moves."""
        if before == after:
            return (), ()
        sides = [self.state(spec) for spec in (before, after)]
        return before_and_after(sides[0], sides[1])

    def state(self, spec: FacetSpec | None) -> State:
        return State(self.held.rack([spec] if spec else []), Query())

    # -- back

    def back(self) -> BackView | None:
        row = PutLive.objects.select_related("edition", "actor").filter(pk=self.chosen).first() if self.chosen else None
        live = self.setup.for_shoppers
        if row is None or live is None or self.live_now is None:
            return None
        found = differences(live.document, row.edition.document)
        changes: list[tuple[str, str, tuple[Part, ...], tuple[Part, ...]]] = []
        for one in found:
            is_drawn = one.kind == "facet" and len(changes) < _DRAWN_OF_MANY
            specs = [facet_spec(facet) if facet and is_drawn else None for facet in (one.before, one.after)]
            parts = self.both(specs[0], specs[1]) if is_drawn else ((), ())
            changes.append(((one.after or one.before or {"label": one.key})["label"], one.words, *parts))
        facets = {one.key for one in found if one.kind == "facet"}
        same = sum(facet["key"] not in facets for facet in row.edition.document["facets"])
        return BackView(row, tuple(changes), same, not found, self.live_now.pk)


def _by_day(rows: object) -> dict[date, int]:
    found = rows.annotate(day=TruncDate("at")).values("day").order_by("day").annotate(count=Count("pk"))  # type: ignore[attr-defined]
    return {row["day"]: row["count"] for row in found}


def _height(count: int, most: int) -> int:
    return max(3, round(_BAR * count / most)) if count else 0


def _day_words(day: date, today: date) -> str:
    full = f"{day:%A %-d %B}" if day.year == today.year else f"{day:%A %-d %B %Y}"
    if day == today:
        return _("Today, %(day)s") % {"day": full}
    return _("Yesterday, %(day)s") % {"day": full} if day == today - timedelta(days=1) else full
