"""Looking: every finding of the draft, of single facets and of the whole; looked for once while neither draft nor catalogue changes."""

import time
from collections.abc import Callable, Hashable, Iterator
from dataclasses import dataclass, replace
from functools import partial

from binsort.catalog.store.category_paths import category_paths, identities_of
from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.places import CATEGORY, EMBED, rules_of
from binsort.core.index.bins import Bin
from binsort.core.insight.findings import About, Found, Mend, Visited, Whole, findings_of_visits, findings_of_whole
from binsort.core.insight.findings.visits import Visits
from binsort.core.insight.findings.whole import FACET
from binsort.core.values.strict_json import dumps
from binsort.core.values.text import identity
from binsort.racks.attribute_use import not_narrowing
from binsort.racks.models import Embed, Setup
from binsort.racks.number_words import bin_words, words_of
from binsort.racks.setup import drawn_document, facet_document
from binsort.search.by_text import search
from binsort.tally.current import Current, current
from binsort.workbench.facet.page import BenchSight
from binsort.workbench.footfall.visits import visits


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing found, and where."""

    found: Found
    about: About
    is_whole: bool  # its mends change the set-up, not one facet
    listing: str  # path of the listing it was looked at on; empty for all products
    met: int | None = None  # visits that met it; None where too few were counted
    days: int = 0  # that those visits are of
    weight: float = 0.0

    @property
    def place(self) -> str:
        """What it is about, as it is kept."""
        return f"{self.about.kind} {self.about.key}".strip()

    @property
    def key(self) -> tuple[str, str, str]:
        """What tells it apart."""
        return self.place, self.found.id, self.found.subject

    def mend(self, key: str) -> Mend | None:
        """Return one of its mends."""
        return next((mend for mend in self.found.mends if mend.key == key), None)


class Clock:
    """The time there is to look."""

    def __init__(self, seconds: float | None) -> None:
        """Begin; without seconds there is time for everything."""
        self._end = None if seconds is None else time.monotonic() + seconds
        self.waits = False  # something was not looked for yet

    def may_look(self) -> bool:
        """Tell whether there is time for more, and note where there is none."""
        if self._end is not None and time.monotonic() >= self._end:
            self.waits = True
            return False
        return True


def look(setup: Setup, clock: Clock | None = None) -> tuple[Finding, ...]:
    """Return everything that is found, the weightiest first; with a clock what was known and what it has time for. Raises NotReady."""
    held, clock = current(), clock or Clock(None)
    off = held.beside("not narrowing", not_narrowing)
    abroad = held.beside("embeds by rack", _abroad)
    stamp, counted = visits()
    ground, key = _Ground(setup, held, off, dict(abroad), clock), (setup.draft_id, off, abroad)
    found = _kept(held, "checkup", key, clock, lambda: tuple(_look(ground)))
    told = _kept(held, "checkup of visits", (*key, setup.live_id, stamp), clock, lambda: _of_visits(ground, counted))
    return tuple(sorted((_weighed(one, counted) for one in (*found, *told)), key=lambda one: -one.weight))


@dataclass(frozen=True, slots=True)
class _Ground:
    """What is looked at."""

    setup: Setup
    held: Current
    off: frozenset[str]  # attributes that do not serve narrowing
    abroad: dict[str, tuple[str, str]]  # listings of other sites: the rack that each names, and the path of its category
    clock: Clock


def _weighed(one: Finding, counted: Visits) -> Finding:
    met, weight = counted.met(one.found, one.about), counted.weight(one.found, one.about)
    return replace(one, met=met, days=counted.days, weight=weight)


def _kept(held: Current, name: str, key: Hashable, clock: Clock, make: Callable[[], tuple[Finding, ...]]) -> tuple[Finding, ...]:
    """Return what was found last where nothing changed since, else what is found now."""
    last: dict[Hashable, tuple[Finding, ...]] = held.index.remember(name, dict)
    if (found := last.get(key)) is None:
        found = make()
        if not clock.waits:
            last.clear()
            last[key] = found
    return found


_Abroad = tuple[tuple[str, tuple[str, str]], ...]


def _abroad() -> _Abroad:
    """Return the listings of other sites: name, then the rack that it names and the path of its category; one query."""
    embeds = Embed.objects.select_related("category").order_by("-id")
    return tuple((one.name, (one.rack, one.category.path_identity if one.category else "")) for one in embeds)


def _look(ground: _Ground) -> Iterator[Finding]:
    yield from _of_facets(ground)
    yield from (Finding(one.found, one.about, True, "") for one in findings_of_whole(_whole(ground), ground.clock.may_look))


def _of_visits(ground: _Ground, counted: Visits) -> tuple[Finding, ...]:
    """Return what visits tell."""
    if not counted.count or not ground.clock.may_look():
        return ()
    setup, held = ground.setup, ground.held
    draft, live = setup.draft.document, setup.for_shoppers
    seen = live.document if live else {"facets": [], "racks": []}
    kept = [facet["key"] for facet in draft["facets"] if facet in seen["facets"]]
    visited = Visited(
        whole=_whole(ground),
        visits=counted,
        same={rack["key"]: [key for key in rack["facets"] if key in kept] for rack in seen["racks"]},
        finds=lambda text: search(held, text, setup.draft).products,
        say=partial(_said, setup, held),
    )
    return tuple(Finding(one.found, one.about, True, "") for one in findings_of_visits(visited))


def _said(setup: Setup, held: Current, facet: Facet, bin: Bin) -> str:
    look = facet_document(setup.draft.document, facet.spec.key).get("look", {})
    return bin_words(bin, words_of(facet, held.index.unit(facet.spec.source), held.currency, look))


def _of_facets(ground: _Ground) -> Iterator[Finding]:
    """Yield what is found about each facet, on the listing that its first rack is for."""
    setup, document, seen = ground.setup, ground.setup.draft.document, set[str]()
    attributes = {facet["key"]: identity(facet["source"].get("attribute", "")) for facet in document["facets"]}
    known: dict[str, list[Found]] = ground.held.index.remember("found of facets", dict)
    used = set[str]()
    for rack in document["racks"]:
        listing = _listing_of(document, rack["key"], ground.abroad)
        for key in rack["facets"]:
            if key in seen or attributes[key] in ground.off:
                continue
            seen.add(key)
            about = About(FACET, key, rack["key"])
            same = dumps([drawn_document(document, key, rack["key"]), listing])  # what is looked at; it is looked at once
            used.add(same)
            if (found := known.get(same)) is None:
                if not ground.clock.may_look():
                    continue
                pairs = [("rack", rack["key"]), *([("category", listing)] if listing else [])]
                found = known[same] = BenchSight(setup, key, pairs).findings()
            yield from (Finding(one, about, False, listing) for one in found)
    for gone in known.keys() - used:
        known.pop(gone, None)


def _listing_of(document: dict[str, object], rack: str, abroad: dict[str, tuple[str, str]]) -> str:
    """Return the path of the one category that a rack shows on, here or on other sites; empty where it shows elsewhere, too."""
    rules = [rule for rule in rules_of(document) if rule.rack == rack and rule.shown]
    paths = {" > ".join(rule.listing.path) for rule in rules if rule.listing.kind == CATEGORY}
    paths |= {abroad.get(rule.listing.name, ("", ""))[1] for rule in rules if rule.listing.kind == EMBED}
    paths |= {""} if any(rule.listing.kind not in (CATEGORY, EMBED) for rule in rules) else set()
    paths |= {path for named, path in abroad.values() if named == rack}
    return paths.pop() if len(paths) == 1 else ""


def _whole(ground: _Ground) -> Whole:
    setup, held = ground.setup, ground.held
    names = tuple(held.beside("paths", category_paths).values())
    labels = dict(zip(identities_of(names), names, strict=True))
    return Whole(
        index=held.index,
        document=setup.draft.document,
        specs={spec.key: spec for spec in setup.draft.facet_file.facets},
        state_of=lambda specs, query: State(held.rack(tuple(specs)), query),
        paths=tuple(labels),
        name=partial(_name, labels),
        off=ground.off,
        abroad=frozenset(rack for rack, _path in ground.abroad.values()),
    )


def _name(labels: dict[tuple[str, ...], tuple[str, ...]], path: tuple[str, ...]) -> str:
    return labels[path][-1]
