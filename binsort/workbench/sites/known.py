"""Sites that may show listings, and those that asked and may not, with what is known of their visits."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db.models import Max, Sum
from django.utils import timezone

from binsort.footfall.kinds import SITE_ASKED, SITE_REFUSED, SITE_SHOWN
from binsort.footfall.models import DaySum
from binsort.racks.models import Site

DAYS = 30
_REFUSED = 6  # that are named


@dataclass(frozen=True, slots=True)
class KnownSite:
    """A site."""

    origin: str
    number: int | None  # its row where it is let in
    shown: int  # times in the last thirty days
    asked: int
    last: datetime | None


def known_sites() -> tuple[KnownSite, ...]:
    """Return those that are let in by their name, then those that asked and are not, the most frequent first; two queries."""
    since = timezone.localdate() - timedelta(days=DAYS)
    sums: dict[str, dict[str, tuple[int, datetime]]] = {}
    kinds = [kind.key for kind in (SITE_SHOWN, SITE_ASKED, SITE_REFUSED)]
    rows = DaySum.objects.filter(kind__in=kinds, day__gt=since).values_list("what", "kind").annotate(Sum("times"), Max("last"))
    for origin, kind, times, last in rows:
        sums.setdefault(origin, {})[kind] = (times, last)
    let_in = {site.origin: site.pk for site in Site.objects.all()}
    strangers = sorted(
        (origin for origin, own in sums.items() if origin not in let_in and SITE_REFUSED.key in own),
        key=lambda origin: -sums[origin][SITE_REFUSED.key][0],
    )
    return tuple(_known([*let_in, *strangers[:_REFUSED]], let_in, sums))


def _known(origins: list[str], let_in: dict[str, int], sums: dict[str, dict[str, tuple[int, datetime]]]) -> Iterator[KnownSite]:
    for origin in origins:
        own = sums.get(origin, {})
        number = let_in.get(origin)
        asking = own.get((SITE_ASKED if number else SITE_REFUSED).key, (0, None))
        showing = own.get(SITE_SHOWN.key, (0, None)) if number else (0, None)
        last = max((at for at in (asking[1], showing[1]) if at), default=None)
        yield KnownSite(origin, number, showing[0], asking[0], last)
