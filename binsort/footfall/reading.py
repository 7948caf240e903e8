"""Reading the sums of the last days. Small numbers are nobody's business: what fewer than five visits did is not told."""

from collections import Counter
from collections.abc import Mapping
from datetime import timedelta

from django.db.models import Sum
from django.utils import timezone

from .kinds import Kind
from .models import DaySum

LEAST = 5


def sums(days: int, *kinds: Kind) -> Mapping[str, Counter[str]]:
    """Return how often each thing happened in the last so many days, today among them, by kind; of some kinds or of all. One query."""
    since = timezone.localdate() - timedelta(days=days)
    found: dict[str, Counter[str]] = {}
    rows = DaySum.objects.filter(day__gt=since)
    if kinds:
        rows = rows.filter(kind__in=[kind.key for kind in kinds])
    for kind, what, times in rows.values_list("kind", "what").annotate(Sum("times")):
        found.setdefault(kind, Counter())[what] = times
    return found


def times(found: Mapping[str, Counter[str]], kind: Kind, what: str = "") -> int:
    """Return how often something happened."""
    return found.get(kind.key, Counter())[what]


def times_of_all(found: Mapping[str, Counter[str]], kind: Kind) -> int:
    """Return how often anything of a kind happened."""
    return found.get(kind.key, Counter()).total()


def often(found: Mapping[str, Counter[str]], kind: Kind, most: int) -> list[tuple[str, int]]:
    """Return what happened most often, none that happened fewer than five times."""
    return [(what, number) for what, number in found.get(kind.key, Counter()).most_common(most) if number >= LEAST]
