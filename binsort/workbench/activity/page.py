"""The Activity page: what takes long, how far it is, and how current the counts are."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.catalog.files.kept_exports import exports_of
from binsort.catalog.models import Export
from binsort.tally.activity import COUNTING, Line, lines, rests_until
from binsort.tally.current import is_worker_alive
from binsort.tally.models import Snapshot


@dataclass(frozen=True, slots=True)
class ActivityView:
    """All that the page shows."""

    lines: tuple[tuple[Line, str, str, Export | None], ...]  # with the time left, or taken, in words, and the file it wrote
    snapshot: Snapshot | None
    has_worker: bool
    rests_until: datetime | None  # the counting, because somebody cancelled it

    @property
    def goes_on(self) -> bool:
        """Tell whether something is being done."""
        return any(line.is_open for line, *_rest in self.lines)


def activity_page() -> ActivityView:
    """Build the page."""
    shown = lines()
    files = exports_of(line.id for line in shown)
    told_lines = tuple((line, in_words(line.left), in_words(line.took), files.get(line.id)) for line in shown)
    return ActivityView(told_lines, Snapshot.objects.order_by("-pk").first(), is_worker_alive(), rests_until(COUNTING))


def in_words(time: timedelta | None) -> str:
    """Say how long something takes, as one would; empty for nothing.

    >>> [in_words(timedelta(seconds=n)) for n in (0.2, 1, 75, 7300)]
    ['under a second', '1 second', '1 minute 15 seconds', '2 hours 1 minute']
    """
    if time is None:
        return ""
    seconds = round(time.total_seconds())
    if seconds < 1:
        return _("under a second")
    hours, minutes, rest = seconds // 3600, seconds // 60 % 60, seconds % 60
    parts = [
        (hours, ngettext("%(count)s hour", "%(count)s hours", hours)),
        (minutes, ngettext("%(count)s minute", "%(count)s minutes", minutes)),
        (rest, ngettext("%(count)s second", "%(count)s seconds", rest)),
    ]
    counted = [words % {"count": count} for count, words in parts if count]
    return " ".join(counted[:2])
