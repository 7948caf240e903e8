"""Reading the sums of the last days. Small numbers are nobody's business: what fewer than five visits did is not told."""

from collections import Counter
from collections.abc import Mapping
from datetime import timedelta

from django.db.models import Sum
from django.utils import timezone

from .kinds import Kind
from .models import DaySum

LEAST = 5


def sums(days: int) -> Mapping[str, Counter[str]]:
    """Return how often each thing happened in the last so many days, today among them, by kind; one query."""
    since = timezone.localdate() - timedelta(days=days)
    found: dict[str, Counter[str]] = {}
    for kind, what, times in DaySum.objects.filter(day__gt=since).values_list("kind", "what").annotate(Sum("times")):
        found.setdefault(kind, Counter())[what] = times
    return found


def times(found: Mapping[str, Counter[str]], kind: Kind, what: str = "") -> int:
    """Return how often something happened."""
    return found.get(kind.key, Counter())[what]


def often(found: Mapping[str, Counter[str]], kind: Kind, most: int) -> list[tuple[str, int]]:
    """Return what happened most often, none that happened fewer than five times."""
    return [(what, number) for what, number in found.get(kind.key, Counter()).most_common(most) if number >= LEAST]
