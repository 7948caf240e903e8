"""A rack to start with, proposed from the catalogue alone: the shelves that save shoppers most clicks, and why the others are left off."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from binsort.core.answers.answer import RackIndex, State
from binsort.core.answers.matching import Facet
from binsort.core.facets.bin_edits import left_out, merged
from binsort.core.facets.kinds import AVAILABILITY, kind_of
from binsort.core.facets.query import Query
from binsort.core.facets.spec import FacetSpec, facet_spec
from binsort.core.index.catalogue_index import Index
from binsort.core.values.sizes import are_sizes, by_size
from binsort.core.values.text import identity

from .clicks import FEW, Reach, Shelf, Walk, Way
from .findings.alike import JUNK
from .homes import AT_HOME, Homes, Waits
from .likeness import Likeness, is_finer, likeness
from .look_alikes import look_alikes
from .proposals import Proposal, proposals

MOST, MOST_WAITING = 8, 3  # shelves for all, and besides for one department
_SAVES = 0.05  # clicks on average: less is not worth a shelf
_FEW_HAVE = 0.3  # share of products below which a facet hides most of the catalogue
_SAME = 0.6  # share of what a facet says that another one tells
_FILLED, _PARTS = 5, 0.5  # shelves that a small shop gets; what a pick leaves of it at most
_IN_ONE = 0.95  # share of all products in one bin from which on a facet does not part them
_TOO_MANY = 300  # bins: a list that nobody reads
# Kinds that are seldom what shoppers go by; common practice of the trade.
_SELDOM = frozenset({"initial", "published", "age", "words", "level", "number_from", "tag"})
_COMPARED = 1_500  # values that are compared with each other for spelling

FIRST, SAVES, WAITS, ASKED = "first", "saves", "waits", "asked"  # why a facet is on the rack
# why it is left off
SAME, EXACT, RARE, NARROW, ONE_BIN, MANY, SELDOM, ENOUGH = "same", "exact", "rare", "narrow", "one bin", "many", "seldom", "enough"


@dataclass(frozen=True)
class Candidate:
    """A facet that could be on the rack."""

    document: dict[str, Any]
    spec: FacetSpec
    facet: Facet
    shelves: tuple[Shelf, ...]  # of a tree several
    binned: int  # products of the catalogue
    spellings: int  # values before those that are one were merged; 0 where none were
    homes: tuple[str, ...] = ()  # labels of the departments it waits for
    at_home: float = 1.0  # share of their products that have it
    counts: tuple[int, ...] = ()
    reach: float = 1.0  # share of all products that stand where it shows

    @property
    def key(self) -> str:
        """Of the facet."""
        return self.spec.key


@dataclass(frozen=True, slots=True)
class OnRack:
    """A facet on the proposed rack."""

    candidate: Candidate
    why: str
    leaves: float  # products that one pick leaves, on average over those that have it
    saves: float  # clicks on average: by itself behind the departments, these against the menu


@dataclass(frozen=True, slots=True)
class LeftOff:
    """A facet that is not on the proposed rack."""

    candidate: Candidate
    why: str
    other: Candidate | None = None  # that says the same
    likeness: Likeness | None = None


@dataclass(frozen=True, slots=True)
class Figures:
    """What a rack of some of the candidates is worth."""

    shelves: tuple[OnRack, ...]
    reach: Reach


@dataclass(frozen=True)
class Start:
    """A proposal, to be looked at with any of its shelves left out."""

    total: int
    candidates: tuple[Candidate, ...]
    proposed: tuple[str, ...]  # keys of the facets, in order
    whys: dict[str, str]
    left_off: tuple[LeftOff, ...]
    without: Reach  # by the menu of categories alone, then page after page
    tree: str  # the key of the facet of categories; empty without
    _walk: Walk = field(repr=False)
    _worth: dict[str, OnRack] = field(default_factory=dict, repr=False)
    _ways: dict[tuple[str, ...], Way] = field(default_factory=dict, repr=False)

    def figures(self, keys: Sequence[str]) -> Figures:
        """Return what the rack is worth with these facets, in the order of the proposal; those left off come behind."""
        known = {candidate.key: candidate for candidate in self.candidates}
        order = [key for key in (*self.proposed, *(one.candidate.key for one in self.left_off)) if key in set(keys)]
        way = self._way(tuple(order), known)
        return Figures(tuple(self._on_rack(known[key]) for key in order), way.reach)

    def _way(self, order: tuple[str, ...], known: dict[str, Candidate]) -> Way:
        """Go down some shelves; how far that led is kept for racks that begin alike, while they are those of the proposal."""
        kept = max((length for length in range(len(order) + 1) if order[:length] in self._ways), default=0)
        way = self._ways[order[:kept]].copy() if order[:kept] in self._ways else self._walk.begin()
        for length in range(kept, len(order)):
            way.go_down(known[order[length]].shelves)
            if order[: length + 1] == self.proposed[: length + 1]:
                self._ways[order[: length + 1]] = way.copy()
        return way

    def _on_rack(self, candidate: Candidate) -> OnRack:
        if candidate.key not in self._worth:
            why = self.whys.get(candidate.key, WAITS if candidate.homes else SAVES)
            self._worth[candidate.key] = OnRack(candidate, why, _one_pick(self._walk, candidate), self._saves(candidate))
        return self._worth[candidate.key]

    def _saves(self, candidate: Candidate) -> float:
        """Return the clicks that a shelf saves by itself behind the departments; of these what they save beside the menu."""
        known = {one.key: one for one in self.candidates}
        way = self._way((self.tree,) if self.tree in known else (), known).copy()
        before = way.reach.average
        if candidate.key == self.tree:
            return self.without.average - before
        way.go_down(candidate.shelves)
        return before - way.reach.average


def start(index: Index, allowed: Callable[[FacetSpec], bool] = lambda spec: True) -> Start:
    """Propose a rack for a catalogue.

    Args:
        index: the catalogue.
        allowed: tells whether a facet may be proposed at all.
    """
    return _Proposing(index, allowed).start()


def _one_pick(walk: Walk, candidate: Candidate) -> float:
    """Return how many products one pick leaves, on average over the products that have something to pick, wherever the facet shows."""
    bins, left = walk.begin().offers(replace(candidate.shelves[0], rule=None))
    has = bins >= 0
    return float(left[has].mean()) if has.any() else float(walk.products.size)


class _Proposing:
    def __init__(self, index: Index, allowed: Callable[[FacetSpec], bool]) -> None:
        self._index = index
        offered = [one for one in proposals(index, None, ()) if allowed(one.spec)]
        proposed = [one for one in offered if len(one.bins) > 1 or one.spec.source.kind in AVAILABILITY]
        documents = [_tuned(one) for one in proposed]
        tree = next((one for one in proposed if kind_of(one.spec.source.kind).is_tree), None)
        self._homes = Homes(index, tree.state.rack.facets[0] if tree else None)
        waits = [self._homes.of(facet_spec(document)) for document, _spellings in documents]
        documents = [({**document, **one.document}, spellings) for (document, spellings), one in zip(documents, waits, strict=True)]
        specs = [facet_spec(document) for document, _spellings in documents]
        rack = RackIndex(index, specs)
        self._state = State(rack, Query())
        self._walk = Walk(self._state)
        self._candidates = [
            self._candidate(document, spec, facet, spellings, one)
            for (document, spellings), spec, facet, one in zip(documents, specs, rack.facets, waits, strict=True)
        ]
        self._tree = next((one for one in self._candidates if one.key == self._homes.key), None)

    def _candidate(self, document: dict[str, Any], spec: FacetSpec, facet: Facet, spellings: int, waits: Waits) -> Candidate:
        here = self._state.rack.on_listing(facet, None)
        binned = len(self._state.products) - here.unbinned
        counts = tuple(count for count in here.counts if count)
        return Candidate(
            document, spec, facet, self._walk.shelves(facet), binned, spellings, waits.homes, waits.at_home, counts, waits.reach
        )

    # -- choosing

    def start(self) -> Start:
        left_off = dict(self._not_worth_it())
        open_to = [one for one in self._candidates if one.key not in left_off]
        chosen = self._choose(open_to, left_off)
        whys = {one.key: FIRST if one is self._tree else WAITS if one.homes else SAVES for one in chosen}
        self._as_asked(chosen, whys, left_off)
        order = tuple(one.key for one in chosen)
        return Start(
            total=len(self._state.products),
            candidates=tuple(self._candidates),
            proposed=order,
            whys=whys,
            left_off=tuple(left_off.values()),
            without=self._by_menu(),
            tree=self._homes.key,
            _walk=self._walk,
        )

    def _not_worth_it(self) -> Iterator[tuple[str, LeftOff]]:
        total = len(self._state.products)
        for one in self._candidates:
            if one.spec.source.kind == "stock" and _hardly_splits(one, total):
                yield one.key, LeftOff(one, ONE_BIN)
            elif one.spec.source.kind == "stock":
                continue
            elif one.spec.source.kind in _SELDOM:
                yield one.key, LeftOff(one, SELDOM)
            elif len(one.counts) > _TOO_MANY or (len(one.counts) > FEW and 2 * len(one.counts) > one.binned):
                yield one.key, LeftOff(one, MANY)
            elif one.binned < _FEW_HAVE * total and not one.homes:
                yield one.key, LeftOff(one, RARE)
            elif _hardly_splits(one, total):
                yield one.key, LeftOff(one, ONE_BIN)

    def _choose(self, open_to: list[Candidate], left_off: dict[str, LeftOff]) -> list[Candidate]:
        """Take the facets that save most, each by itself behind the pick of a department; none that another one tells.

        What waits for a department has to be worth it to those who are there, and does not count among the shelves of all others.
        """
        chosen = [self._tree] if self._tree in open_to and self._tree is not None else []
        way = self._walk.begin()
        for candidate in chosen:
            way.go_down(candidate.shelves[:1])
        saved = {one.key: self._saved(way, one) for one in open_to if one not in chosen and one.spec.source.kind not in AVAILABILITY}
        for one in sorted((one for one in open_to if one.key in saved), key=lambda one: -saved[one.key]):
            if saved[one.key] < _SAVES * one.reach:
                left_off[one.key] = LeftOff(one, self._weak(one))
            elif _is_enough(one, chosen):
                left_off[one.key] = LeftOff(one, ENOUGH)
            elif (coarse := self._coarse(one, open_to)) is not None:
                left_off[one.key] = LeftOff(one, EXACT, coarse, likeness(one.shelves[0], coarse.shelves[0]))
            elif (same := self._same(one, chosen)) is not None:
                left_off[one.key] = LeftOff(one, SAME, *same)
            else:
                chosen.append(one)
        self._fill_up(chosen, left_off, saved)
        return chosen

    def _fill_up(self, chosen: list[Candidate], left_off: dict[str, LeftOff], saved: Mapping[str, float]) -> None:
        """Where there are so few products that no shelf saves clicks, take some that part them well: shoppers look for them all the same.

        What is taken leaves those that are left off.
        """
        total = len(self._state.products)
        narrow = [one for one in self._candidates if one.key in saved and left_off.get(one.key, LeftOff(one, "")).why == NARROW]
        parting = [(leaves, one) for one in narrow if (leaves := _one_pick(self._walk, one)) <= _PARTS * total and 2 * one.binned >= total]
        for _leaves, one in sorted(parting, key=lambda each: each[0]):
            if len(chosen) < _FILLED and self._same(one, chosen) is None:
                chosen.append(one)
                del left_off[one.key]

    def _coarse(self, exact: Candidate, open_to: Sequence[Candidate]) -> Candidate | None:
        """Return the facet that says the same in few, full bins, None where there is none."""
        if exact.spec.source.kind != "attribute":
            return None
        others = (one for one in open_to if one is not exact and one.spec.source.kind == "attribute" and not one.spec.ranges)
        return next((one for one in others if is_finer(exact.shelves[0], one.shelves[0])), None)

    def _weak(self, candidate: Candidate) -> str:
        """Return why a facet saves next to nothing."""
        return RARE if candidate.binned < _FEW_HAVE * len(self._state.products) and not candidate.homes else NARROW

    def _saved(self, way: Way, candidate: Candidate) -> float:
        """Return how many clicks one more shelf saves on average."""
        bins, left = way.offers(candidate.shelves[0])
        reach = way.reach
        return reach.average - replace(reach, picks=reach.picks + (bins >= 0), left=left).average

    def _same(self, candidate: Candidate, chosen: Sequence[Candidate]) -> tuple[Candidate, Likeness] | None:
        """Return the facet on the rack that says most of what another one says, None where none says enough."""
        for one in chosen:
            if one is self._tree:
                continue
            alike = likeness(one.shelves[0], candidate.shelves[0])
            if alike.covered >= AT_HOME and alike.told >= _SAME:
                return one, alike
        return None

    def _as_asked(self, chosen: list[Candidate], whys: dict[str, str], left_off: dict[str, LeftOff]) -> None:
        """Put stock at the end as a switch: it hardly narrows, but it is asked for."""
        for place, one in enumerate(self._candidates):
            if one.spec.source.kind != "stock" or one.key in left_off:
                continue
            names = one.document["bins"]["rename"]
            document = {**one.document, "bins": {"only": ["in"], "rename": {"in": names["in"]}}, "look": {"control": "switch"}}
            spec = facet_spec(document)
            facet = Facet.cut(spec, self._index)
            rack = RackIndex(self._index, [spec], [facet])
            here = rack.on_listing(facet, None)
            [shelf] = one.shelves
            kept = [number for number, key in enumerate(shelf.keys) if key in {bin.key for bin in facet.bins}]
            candidate = replace(one, document=document, spec=spec, facet=facet, shelves=(_only(shelf, kept),), counts=tuple(here.counts))
            self._candidates[place] = candidate
            chosen.append(candidate)
            whys[candidate.key] = ASKED
            left_off.pop(candidate.key, None)

    def _by_menu(self) -> Reach:
        """Return what it takes down the menu of categories, then page after page."""
        size = self._walk.products.size
        picks, left = np.zeros(size, dtype=np.int64), np.full(size, size, dtype=np.int64)
        chosen = np.full(size, -1, dtype=np.int64)
        bins = self._homes.categories if self._tree is not None else []
        for place, bin in enumerate(bins):
            here = bin.members & self._state.products
            members = np.searchsorted(self._walk.products, np.asarray(here.to_array(), dtype=np.int64))
            count, depth = len(here), len(bin.nodes)
            now = picks[members] + np.maximum(-(-(left[members] - FEW) // FEW), 0)
            better = members[depth + max(0, -(-(count - FEW) // FEW)) < now]
            picks[better], left[better], chosen[better] = depth, count, place
        sizes = {bin.nodes: len(bin.members & self._state.products) for bin in bins}
        after = [np.full(size, size, dtype=np.int64)]
        for depth in range(1, int(picks.max(initial=0)) + 1):
            on_the_way = np.array([size, *(sizes[bin.nodes[:depth]] for bin in bins)], dtype=np.int64)
            after.append(on_the_way[chosen + 1])
        return Reach(picks, left, tuple(after))


def _is_enough(one: Candidate, chosen: Sequence[Candidate]) -> bool:
    """Tell whether those who would meet a facet have as many already as they will read."""
    if not one.homes:
        return sum(not other.homes for other in chosen) >= MOST
    return sum(not set(one.homes).isdisjoint(other.homes) for other in chosen) >= MOST_WAITING


def _hardly_splits(candidate: Candidate, total: int) -> bool:
    """Tell whether a facet has one bin only, or nearly all products in one."""
    return len(candidate.counts) < 2 or max(candidate.counts) > _IN_ONE * total


def _only(shelf: Shelf, kept: Sequence[int]) -> Shelf:
    """Return a shelf with some of its bins."""
    number = np.full(len(shelf.keys), -1, dtype=np.int64)
    number[list(kept)] = np.arange(len(kept))
    bins = number[shelf.bins]
    starts = np.concatenate(([0], np.cumsum(bins >= 0)))[shelf.starts]
    return Shelf(shelf.key, starts, bins[bins >= 0], tuple(shelf.keys[place] for place in kept), shelf.rule)


def _tuned(proposal: Proposal) -> tuple[dict[str, Any], int]:
    """Return a proposal with what says nothing left out, values that are one merged, and sizes in their order; and its spellings."""
    document, kind = dict(proposal.document), kind_of(proposal.spec.source.kind)
    if proposal.spec.ranges or proposal.spec.free or kind.is_tree or kind.labels or kind.is_in_groups or kind.is_initial:
        return document, 0
    [facet] = proposal.state.rack.facets
    counts = {bin.label: len(facet.products(bin)) for bin in facet.bins if bin.least is None}
    if len(counts) > _COMPARED or not counts:
        return document, 0
    junk = [label for label in counts if JUNK.fullmatch(identity(label))]
    if junk:
        document = left_out(document, junk)
    groups = [group for group in look_alikes(counts) if group.sure and group.keep not in junk]
    for group in groups:
        document = merged(document, list(group.others), group.keep, [group.keep])
    labels = [label for label in counts if label not in junk]
    if are_sizes(labels):
        kept = [label for label in labels if not any(label in group.others for group in groups)]
        document = {**document, "bins": {**document.get("bins", {}), "order": by_size(kept)}}
        document.pop("order", None)
    return document, len(counts) if groups else 0
