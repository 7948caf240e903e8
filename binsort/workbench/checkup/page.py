"""The page *Checkup*: findings by weight, by rack or by kind, and those left as they are."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from django.conf import settings
from django.utils.translation import gettext as _

from binsort.racks.models import LeftAsIs, Setup
from binsort.tally.current import current

from .looking import Clock, Finding, look
from .rows import Rows, RowView, bins_to_choose

_DRAWN = 24  # findings whose effect is drawn
_MOST, _AT_MOST = 0.9, 5  # share of all weight that findings which cost shoppers most carry together, and how many they are at most
BY = ("weight", "rack", "kind")


@dataclass(frozen=True, slots=True)
class CheckupPage:
    """All that the page shows."""

    groups: tuple[tuple[str, tuple[RowView, ...]], ...]
    count: int
    waits: bool  # some was not looked for yet
    racks: tuple[tuple[str, str], ...]
    rack: str
    by: str
    left: tuple[LeftAsIs, ...]
    keys: tuple[tuple[str, str, str], ...]  # of all findings that are open
    bins: tuple[tuple[str, list[tuple[str, str]]], ...]  # facets and their bins that a text may lead to, where one has to be chosen


def open_findings(setup: Setup) -> list[Finding]:
    """Return the findings that nobody left as they are. Raises NotReady."""
    return _open(look(setup))


def _open(every: Iterable[Finding]) -> list[Finding]:
    left = {(one.place, one.finding, one.subject): one.said for one in LeftAsIs.objects.all()}
    return [one for one in every if left.get(one.key) != one.found.text]


def checkup_page(setup: Setup, asked: Mapping[str, str], seen: Iterable[tuple[str, str, str]] | None) -> CheckupPage:
    """Build the page. Raises NotReady.

    Args:
        setup: the set-up.
        asked: ``rack``: of one rack alone; ``by``: how they are put together; ``all``: also what takes its time to be looked for.
        seen: keys of the findings that were there when this person looked last; None for nobody knows.
    """
    clock = Clock(None if asked.get("all") else settings.CHECKUP_SECONDS)
    held, found = current(), look(setup, clock)
    every = _open(found)
    racks = tuple((rack["key"], rack["label"]) for rack in setup.draft.document["racks"])
    rack = asked.get("rack", "") if asked.get("rack", "") in dict(racks) else ""
    by = asked.get("by", "") if asked.get("by", "") in BY else BY[0]
    wanted = [one for one in every if not rack or one.about.rack == rack]
    known = None if seen is None else set(seen)
    makes = Rows(setup, held)
    rows = [makes.row(one, is_drawn=place < _DRAWN, is_new=known is not None and one.key not in known) for place, one in enumerate(wanted)]
    now = {one.key: one.found.text for one in found}
    return CheckupPage(
        groups=tuple(_groups(rows, by, dict(racks))),
        count=len(wanted),
        waits=clock.waits,
        racks=racks,
        rack=rack,
        by=by,
        left=tuple(one for one in LeftAsIs.objects.select_related("actor") if now.get((one.place, one.finding, one.subject)) == one.said),
        keys=tuple(one.key for one in every),
        bins=tuple(bins_to_choose(setup, held)) if any(mend.chooses for row in rows for mend in row.mends) else (),
    )


def _groups(rows: list[RowView], by: str, racks: dict[str, str]) -> Iterator[tuple[str, tuple[RowView, ...]]]:
    """Yield the findings under their headings."""
    if by == "weight":
        count = _that_cost_most([row.finding.weight for row in rows])
        named = ((_("Costs shoppers most"), rows[:count]), (_("Worth a look"), rows[count:]))
        yield from ((name, tuple(listed)) for name, listed in named if listed)
        return
    headings: dict[str, list[RowView]] = {}
    for row in rows:
        kind = row.finding.found.id.replace("-", " ").capitalize()
        name = racks.get(row.finding.about.rack, _("The catalogue")) if by == "rack" else kind
        headings.setdefault(name, []).append(row)
    yield from ((name, tuple(listed)) for name, listed in headings.items())


def _that_cost_most(weights: list[float]) -> int:
    """Return how many of the weightiest carry nine tenths of all weight together; five at most.

    >>> _that_cost_most([27_510, 11_310, 3_520, 760, 360]), _that_cost_most([1.0] * 20), _that_cost_most([])
    (2, 5, 0)
    """
    carried, total = 0.0, sum(weights)
    for number, weight in enumerate(weights[:_AT_MOST]):
        if carried >= _MOST * total:
            return number
        carried += weight
    return min(len(weights), _AT_MOST)
