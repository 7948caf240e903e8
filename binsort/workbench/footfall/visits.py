"""Visits as findings look at them: what happened since shoppers see what they see now, of the last thirty days."""

import time
from collections.abc import Mapping
from dataclasses import dataclass, field

from django.conf import settings
from django.db.models import Max
from django.utils import timezone

from binsort.core.insight.findings.visits import Visits
from binsort.footfall.kinds import DEAD_END, IN_VAIN, LOOKED, PICK, UNFOLDED, USED, VISIT
from binsort.footfall.models import DaySum
from binsort.footfall.reading import sums
from binsort.racks.models import PutLive

DAYS = 30
_KINDS = (VISIT, USED, PICK, UNFOLDED, LOOKED, DEAD_END, IN_VAIN)
_Stamp = tuple[object, ...]


@dataclass(slots=True)
class _Held:
    """What this process read last."""

    stamp: _Stamp = ()
    at: float = 0.0
    visits: Visits = field(default_factory=Visits)


_held = _Held()


def visits() -> tuple[_Stamp, Visits]:
    """Return the sums, and what changes when they do; read anew every so many seconds at most."""
    days, today = _days(), timezone.localdate()
    newest = DaySum.objects.order_by("-id").values_list("id", flat=True).first()
    stamp = days, today, newest, DaySum.objects.filter(day=today).aggregate(last=Max("last"))["last"]
    is_fresh = _held.stamp[:2] == stamp[:2] and time.monotonic() - _held.at < settings.VISITS_SECONDS
    if stamp != _held.stamp and not is_fresh:
        found = visits_of(sums(days, *_KINDS), days) if days else Visits()
        _held.stamp, _held.at, _held.visits = stamp, time.monotonic(), found
    return _held.stamp, _held.visits


def _days() -> int:
    """Return the days back to when shoppers got what they see; of that day itself only where they saw nothing before."""
    puts = list(PutLive.objects.order_by("-id").values_list("at", flat=True)[:2])
    if not puts:
        return DAYS
    since = (timezone.localdate() - timezone.localdate(puts[0])).days
    return min(DAYS, since if len(puts) > 1 else since + 1)


def visits_of(found: Mapping[str, Mapping[str, int]], days: int) -> Visits:
    """Return sums by kind as findings look at them."""
    picks = {what: number for what, number in found.get(PICK.key, {}).items() if "=" in what}
    return Visits(
        days=days,
        count=sum(found.get(VISIT.key, {}).values()),
        used=found.get(USED.key, {}),
        picked={(what.partition("=")[0], what.partition("=")[2]): number for what, number in picks.items()},
        unfolded=found.get(UNFOLDED.key, {}),
        listings=found.get(LOOKED.key, {}),
        dead_ends=found.get(DEAD_END.key, {}),
        in_vain=found.get(IN_VAIN.key, {}),
    )
