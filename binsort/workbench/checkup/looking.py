"""Looking: every finding of the draft, of single facets and of the whole; looked for once while neither draft nor catalogue changes."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

from binsort.catalog.store.category_paths import category_paths, identities_of
from binsort.core.answers.answer import State
from binsort.core.facets.places import CATEGORY, EMBED, rules_of
from binsort.core.insight.findings import About, Found, Mend, Whole, findings_of_whole
from binsort.core.insight.findings.whole import FACET
from binsort.core.values.text import identity
from binsort.racks.attribute_use import not_narrowing
from binsort.racks.models import Embed, Setup
from binsort.tally.current import Current, current
from binsort.workbench.facet.page import BenchSight


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing found, and where."""

    found: Found
    about: About
    is_whole: bool  # its mends change the set-up, not one facet
    listing: str  # path of the listing it was looked at on; empty for all products

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


def look(setup: Setup) -> tuple[Finding, ...]:
    """Return everything that is found, the weightiest first. Raises NotReady."""
    held = current()
    off = held.beside("not narrowing", not_narrowing)
    abroad = held.beside("embeds by rack", _abroad)
    return held.index.remember(("checkup", setup.draft_id, off, abroad), lambda: tuple(_look(setup, held, off, dict(abroad))))


def _abroad() -> tuple[tuple[str, tuple[str, str]], ...]:
    """Return the listings of other sites: name, then the rack that it names and the path of its category; one query."""
    embeds = Embed.objects.select_related("category").order_by("-id")
    return tuple((one.name, (one.rack, one.category.path_identity if one.category else "")) for one in embeds)


def _look(setup: Setup, held: Current, off: frozenset[str], abroad: dict[str, tuple[str, str]]) -> list[Finding]:
    found = [*_of_facets(setup, off, abroad), *_of_whole(setup, held, off, abroad)]
    return sorted(found, key=lambda one: -one.found.weight)


def _of_facets(setup: Setup, off: frozenset[str], abroad: dict[str, tuple[str, str]]) -> Iterator[Finding]:
    """Yield what is found about each facet, on the listing that its first rack is for."""
    document, seen = setup.draft.document, set[str]()
    attributes = {facet["key"]: identity(facet["source"].get("attribute", "")) for facet in document["facets"]}
    for rack in document["racks"]:
        listing = _listing_of(document, rack["key"], abroad)
        for key in rack["facets"]:
            if key in seen or attributes[key] in off:
                continue
            seen.add(key)
            pairs = [("rack", rack["key"]), *([("category", listing)] if listing else [])]
            about = About(FACET, key, rack["key"])
            yield from (Finding(one, about, False, listing) for one in BenchSight(setup, key, pairs).findings())


def _listing_of(document: dict[str, object], rack: str, abroad: dict[str, tuple[str, str]]) -> str:
    """Return the path of the one category that a rack shows on, here or on other sites; empty where it shows elsewhere, too."""
    rules = [rule for rule in rules_of(document) if rule.rack == rack and rule.shown]
    paths = {" > ".join(rule.listing.path) for rule in rules if rule.listing.kind == CATEGORY}
    paths |= {abroad.get(rule.listing.name, ("", ""))[1] for rule in rules if rule.listing.kind == EMBED}
    paths |= {""} if any(rule.listing.kind not in (CATEGORY, EMBED) for rule in rules) else set()
    paths |= {path for named, path in abroad.values() if named == rack}
    return paths.pop() if len(paths) == 1 else ""


def _of_whole(setup: Setup, held: Current, off: frozenset[str], abroad: dict[str, tuple[str, str]]) -> Iterator[Finding]:
    names = tuple(held.beside("paths", category_paths).values())
    labels = dict(zip(identities_of(names), names, strict=True))
    whole = Whole(
        index=held.index,
        document=setup.draft.document,
        specs={spec.key: spec for spec in setup.draft.facet_file.facets},
        state_of=lambda specs, query: State(held.rack(tuple(specs)), query),
        paths=tuple(labels),
        name=partial(_name, labels),
        off=off,
        abroad=frozenset(rack for rack, _path in abroad.values()),
    )
    yield from (Finding(one.found, one.about, True, "") for one in findings_of_whole(whole))


def _name(labels: dict[tuple[str, ...], tuple[str, ...]], path: tuple[str, ...]) -> str:
    return labels[path][-1]
