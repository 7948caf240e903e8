"""Places: on which listings racks show, and where on the page. The nearest rule wins."""

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from binsort.core.values.text import category_path, identity

ABOVE, SIDE, BELOW, DRAWER = "above", "side", "below", "drawer"
PLACES = (ABOVE, SIDE, BELOW, DRAWER)  # on the page, in the order of the page; the drawer is the phone's
ALL, CATEGORY, TAG, SEARCH, EMBED = "all", "category", "tag", "search", "embed"
LISTINGS = (ALL, CATEGORY, TAG, SEARCH, EMBED)
SPOTS = (SIDE, ABOVE, BELOW)  # a facet that two racks of a listing have shows in the first of these


@dataclass(frozen=True, slots=True)
class Listing:
    """A page of products: all of them, those of a category or a tag, what a search found, or one on another site."""

    kind: str = ALL
    path: tuple[str, ...] = ()  # identities, of a category
    name: str = ""  # of an embed; identity of a tag

    @classmethod
    def of(cls, path: Sequence[str] | None) -> "Listing":
        """Return the listing of a category, or of all products."""
        return cls(CATEGORY, tuple(map(identity, path))) if path else cls()

    @property
    def above(self) -> "Listing | None":
        """The listing above it; None above all products."""
        if len(self.path) > 1:
            return Listing(CATEGORY, self.path[:-1])
        return None if self.kind == ALL else Listing()


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """Where a rack shows, or does not show: at one place of one listing, with or without those below it."""

    rack: str
    where: str
    listing: Listing
    below: bool = True
    shown: bool = True


@dataclass(frozen=True, slots=True)
class Placed:
    """What stands at a place of a listing, and by which rule; the rule is None where nothing was ever said."""

    rack: str  # its key; empty for nothing
    rule: Rule | None
    own: bool  # the rule is that of this listing, not of one above it


def rules_of(document: Mapping[str, Any]) -> list[Rule]:
    """Return the rules of a facet file's racks. Where no rack has any, the first one shows at the side of every listing."""
    racks = document.get("racks", ())
    rules = [_rule(rack["key"], said) for rack in racks for said in rack.get("place", {}).get("shows", ())]
    if not rules and racks:
        return [Rule(rack=racks[0]["key"], where=SIDE, listing=Listing())]
    return rules


def _rule(rack: str, said: Mapping[str, Any]) -> Rule:
    kind = said.get("listing", ALL)
    path = tuple(map(identity, category_path(said.get("category", "")))) if kind == CATEGORY else ()
    listing = Listing(kind, path, name_said(said))
    return Rule(rack=rack, where=said["where"], listing=listing, below=said.get("below", True), shown=said.get("shown", True))


def name_said(said: Mapping[str, Any]) -> str:
    """Return the name of the listing that a rule is about: of an embed, or the identity of a tag; empty for the others."""
    kind = said.get("listing", ALL)
    return said.get("embed", "") if kind == EMBED else identity(said.get("tag", "")) if kind == TAG else ""


class Places:
    """What stands at each place of each listing."""

    def __init__(self, rules: Sequence[Rule]) -> None:
        self._rules = {(rule.where, rule.listing): rule for rule in rules}
        self._known: dict[tuple[str, Listing], Rule | None] = {}
        self._with_own = {rule.listing.path for rule in rules if rule.listing.kind == CATEGORY}

    @classmethod
    def of(cls, document: Mapping[str, Any]) -> "Places":
        """Return the places of a facet file's racks."""
        return cls(rules_of(document))

    def at(self, listing: Listing, where: str) -> Placed:
        """Return what stands at a place of a listing: what its own rule says, else the rule of the nearest listing above it.

        >>> house = Rule(rack="house", where="side", listing=Listing())
        >>> paint = Rule(rack="paint", where="side", listing=Listing.of(["Paint"]), below=False)
        >>> [Places([house, paint]).at(Listing.of(path), "side").rack for path in (["Paint"], ["Paint", "Primer"], None)]
        ['paint', 'house', 'house']
        """
        own = self._rules.get((where, listing))
        rule = own or self._passed_down(listing.above, where)
        return Placed(rule.rack if rule.shown else "", rule, own is not None) if rule else Placed("", None, False)

    def racks_at(self, listing: Listing) -> tuple[str, ...]:
        """Return the racks at the places of a listing, in the order of :data:`PLACES`; a drawer of which nothing is said has the side's."""
        rules = [self.at(listing, where).rule for where in PLACES]
        return _racks(rules, followed=True)

    def along(self, paths: Iterable[tuple[str, ...]], *, followed: bool = False) -> Iterator[tuple[str, ...]]:
        """Yield the racks at the places of each category of a tree, in the order of :data:`PLACES`; empty for none.

        Args:
            paths: identities of the categories, each behind the one it is below.
            followed: a drawer of which nothing is said has the rack of the side.
        """
        top = tuple(self._passed_down(Listing(), where) for where in PLACES)
        passed: list[tuple[tuple[Rule | None, ...], tuple[str, ...]]] = [(top, _racks(top, followed=followed))]
        for path in paths:
            above, racks = passed[len(path) - 1]
            del passed[len(path) :]
            if path in self._with_own:
                listing = Listing(CATEGORY, path)
                own = [self._rules.get((where, listing)) for where in PLACES]
                here = _racks([rule or inherited for rule, inherited in zip(own, above, strict=True)], followed=followed)
                down = tuple(rule if rule and rule.below else inherited for rule, inherited in zip(own, above, strict=True))
                passed.append((down, _racks(down, followed=followed)))
                yield here
            else:
                passed.append((above, racks))
                yield racks

    def _passed_down(self, listing: Listing | None, where: str) -> Rule | None:
        """Return the rule that holds for what is below a listing; found once."""
        if listing is None:
            return None
        key = where, listing
        if key not in self._known:
            rule = self._rules.get(key)
            self._known[key] = rule if rule is not None and rule.below else self._passed_down(listing.above, where)
        return self._known[key]


def _racks(rules: Sequence[Rule | None], *, followed: bool = False) -> tuple[str, ...]:
    racks = [rule.rack if rule and rule.shown else "" for rule in rules]
    if followed and rules[PLACES.index(DRAWER)] is None:
        racks[PLACES.index(DRAWER)] = racks[PLACES.index(SIDE)]
    return tuple(racks)


@dataclass(frozen=True, slots=True)
class Plan:
    """The racks of a listing by place, and which of their facets show there."""

    racks: Mapping[str, Placed]
    facets: Mapping[str, tuple[str, ...]]  # by place, the keys of those that show there
    twice: tuple[tuple[str, str], ...]  # facet and place where it does not show because it shows elsewhere
    named: Mapping[str, tuple[str, ...]] = field(default_factory=dict)  # by rack, where a page of another site names several of them

    @property
    def keys(self) -> tuple[str, ...]:
        """The facets of the listing, in the order of the page."""
        return tuple(dict.fromkeys(key for place in PLACES for key in self.facets[place]))

    def owners(self, document: Mapping[str, Any]) -> Iterator[tuple[str, str]]:
        """Yield each facet with the key of the rack that brings it; one that the drawer has from another rack twice, that rack's first."""
        yield from ((key, rack) for rack, keys in self.named.items() for key in keys)
        if self.named:
            return
        yield from ((key, self.racks[DRAWER].rack) for key in self.facets[DRAWER])
        listed = {rack["key"]: tuple(rack["facets"]) for rack in document.get("racks", ())}
        seen: set[str] = set()
        for where in SPOTS:
            own = [key for key in listed.get(self.racks[where].rack, ()) if key not in seen]
            seen.update(own)
            yield from ((key, self.racks[where].rack) for key in own)


def plan(document: Mapping[str, Any], listing: Listing, places: Places | None = None) -> Plan:
    """Return what a listing shows where. A facet shows once on a page: at the side, else above, else below.

    The drawer takes the place of the side on phones; without a rack of its own it holds what stands there.
    """
    places = Places.of(document) if places is None else places
    racks = {where: places.at(listing, where) for where in PLACES}
    if racks[DRAWER].rule is None:
        racks[DRAWER] = Placed(racks[SIDE].rack, None, False)
    facets, twice = facets_of({where: racks[where].rack for where in PLACES}, document)
    return Plan(racks, facets, twice)


def facets_of(racks: Mapping[str, str], document: Mapping[str, Any]) -> tuple[dict[str, tuple[str, ...]], tuple[tuple[str, str], ...]]:
    """Return which facets show at each place of a page, and those that do not because they show elsewhere.

    Args:
        racks: the key of the rack at each place, empty for none.
        document: the facet file.
    """
    listed = {rack["key"]: tuple(rack["facets"]) for rack in document.get("racks", ())}
    apart = {rack["key"]: rack.get("place", {}).get("apart", {}) for rack in document.get("racks", ())}
    spots: dict[str, str] = {}  # by facet, in the order of the page
    twice: list[tuple[str, str]] = []
    for where in SPOTS:
        here = listed.get(racks[where], ())
        twice += [(key, where) for key in here if key in spots]
        spots |= {key: apart[racks[where]].get(key, where) for key in here if key not in spots}
    facets = {where: _of_spot(spots, where, listed.get(racks[where], ())) for where in SPOTS}
    outside = {*facets[ABOVE], *facets[BELOW]}
    moved = [key for key in facets[SIDE] if key not in listed.get(racks[SIDE], ())]
    facets[DRAWER] = tuple(dict.fromkeys(key for key in (*listed.get(racks[DRAWER], ()), *moved) if key not in outside))
    return facets, tuple(twice)


def _of_spot(spots: Mapping[str, str], where: str, own: Sequence[str]) -> tuple[str, ...]:
    """Return the facets that stand at a place: those of its own rack first, then those that others put there."""
    here = [key for key, spot in spots.items() if spot == where]
    return tuple(sorted(here, key=lambda key: key not in own))


def plan_of_named(document: Mapping[str, Any], keys: Sequence[str]) -> Plan:
    """Return the plan of a listing where some racks stand at the side, whatever rules say; a facet of several in the first of them."""
    listed = {rack["key"]: tuple(rack["facets"]) for rack in document.get("racks", ())}
    named: dict[str, tuple[str, ...]] = {}
    for rack in keys:
        taken = {key for other in named.values() for key in other}
        named[rack] = tuple(key for key in listed.get(rack, ()) if key not in taken)
    held = tuple(key for own in named.values() for key in own)
    racks = {where: Placed(keys[0] if keys and where in (SIDE, DRAWER) else "", None, True) for where in PLACES}
    return Plan(racks, {where: held if where in (SIDE, DRAWER) else () for where in PLACES}, (), named)


def shown_on(places: Places, paths: Iterable[tuple[str, ...]]) -> dict[str, dict[str, int]]:
    """Return on how many listings each rack shows, by rack and place: on that of all products, and on those of a tree of categories."""
    found: dict[str, dict[str, int]] = {}
    here = tuple(places.at(Listing(), where).rack for where in PLACES)
    for racks, count in Counter([here, *places.along(paths)]).items():
        for where, rack in zip(PLACES, racks, strict=True):
            if rack:
                counts = found.setdefault(rack, {})
                counts[where] = counts.get(where, 0) + count
    return found
