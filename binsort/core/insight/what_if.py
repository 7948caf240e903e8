"""What if: changes of a rack tried on a copy, and what they do to the clicks that lead to each product (docs/semantics.md, section 8)."""

from collections.abc import Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.rack_edits import move, take_off
from binsort.core.facets.range_edits import with_bounds
from binsort.core.values.numbers import Number, plain, written

from .clicks import FEW, Ints, Reach, Shelf, Walk, at_best, in_order
from .proposals import free_key

OURS, TOP, BEST = "ours", "top", "best"  # how a shopper chooses the next shelf
MOVE, DROP, ADD, CUT = "move", "drop", "add", "cut"
_OFFERED = 10  # facets that are tried of those that can be added
CLASSES = 6  # one click or none, two, three, four, five or more, never
Document = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Change:
    """One change of a rack."""

    kind: str
    key: str  # of a facet; of one that is added: of its proposal
    place: int = 0  # from 0, among the facets of the rack as they are when its turn comes
    at: Number | None = None  # of a further cut: where

    @property
    def text(self) -> str:
        """As an address has it."""
        if self.at is not None:
            return f"{self.kind}:{self.key}:{written(self.at)}"
        return f"{self.kind}:{self.key}" + ("" if self.kind == DROP else f":{self.place + 1}")

    @classmethod
    def of(cls, text: str) -> "Change | None":
        """Read a change as an address has it; None where it is none.

        >>> Change.of("move:diameter:1"), Change.of("drop:stock"), Change.of("move:colour:x")
        (Change(kind='move', key='diameter', place=0, at=None), Change(kind='drop', key='stock', place=0, at=None), None)
        >>> Change.of("cut:diameter:10.5").text, Change.of("cut:diameter:wide")
        ('cut:diameter:10.5', None)
        """
        kind, _mark, rest = text.partition(":")
        key, _mark, place = rest.partition(":")
        if kind == DROP and key and not place:
            return cls(DROP, key)
        if kind == CUT and key and len(place) < 40 and (at := plain(place)) is not None:
            return cls(CUT, key, at=at)
        if kind in (MOVE, ADD) and key and place.isascii() and place.isdigit() and 0 < int(place[:4]) <= 999:
            return cls(kind, key, int(place[:4]) - 1)
        return None


def tried(document: Document, rack: str, changes: Sequence[Change], offered: Mapping[str, Document]) -> Document:
    """Return a set-up with some changes of a rack; what cannot be done is passed over.

    Args:
        document: the set-up; not changed.
        rack: the key of the rack.
        changes: in the order in which they are made.
        offered: documents of facets that can be added, by the keys of their proposals.
    """
    changed = deepcopy(document)
    mine = next(one for one in changed["racks"] if one["key"] == rack)
    for change in changes:
        keys = mine["facets"]
        if change.kind == ADD and change.key in offered:
            key = free_key(offered[change.key]["label"], {facet["key"] for facet in changed["facets"]})
            changed["facets"].append({**offered[change.key], "key": key})
            keys.insert(min(change.place, len(keys)), key)
        elif change.kind == DROP and change.key in keys and len(keys) > 1:
            take_off(changed, rack, change.key)
        elif change.kind == MOVE and change.key in keys:
            move(changed, rack, change.key, change.place)
        elif change.kind == CUT and change.key in keys and change.at is not None:
            changed["facets"] = [_cut(facet, change.at) if facet["key"] == change.key else facet for facet in changed["facets"]]
    return changed


def cuts_of(document: Document) -> list[Number]:
    """Return where a facet is cut, in numbers; nothing where its bins are made otherwise, or by dates."""
    return [] if kind_of(document["source"]["kind"]).has_dates else list(document.get("cuts", ()))


def _cut(document: Document, at: Number) -> Document:
    cuts = cuts_of(document)
    return with_bounds(document, [*cuts, at]) if cuts else document


def reach_of(state: State, shopper: str, use: Mapping[str, int] | None = None, among: BitMap | None = None) -> Reach:
    """Return the clicks to each product of a listing.

    Args:
        state: the rack on the listing, nothing picked.
        shopper: how she chooses the next shelf.
        use: how often each facet was picked in, for a shopper who does as ours do.
        among: some products, for a first guess: the listing as if there were no others, and as much smaller the few that are looked at.
    """
    share = len(state.products & among) / max(len(state.products), 1) if among is not None else 1
    walk = Walk(state, max(1, round(FEW * share)), among)
    facets = list(state.rack.facets)
    if shopper == OURS and use:
        facets.sort(key=lambda facet: -use.get(facet.spec.key, 0))
    shelves: list[Shelf] = [shelf for facet in facets for shelf in walk.shelves(facet)]
    return at_best(walk, shelves) if shopper == BEST else in_order(walk, shelves)


@dataclass(frozen=True, slots=True)
class Compared:
    """Two ways of a rack, product by product."""

    before: Reach
    after: Reach

    @property
    def fewer(self) -> int:
        """Products that take fewer clicks."""
        return int((self.after.clicks < self.before.clicks).sum())

    @property
    def more(self) -> int:
        """Products that take more clicks."""
        return int((self.after.clicks > self.before.clicks).sum())

    @property
    def same(self) -> int:
        """Products that take as many clicks."""
        return int((self.after.clicks == self.before.clicks).sum())

    @property
    def table(self) -> NDArray[np.int64]:
        """How many products go from each class of clicks, down, to each, across."""
        table = np.zeros((CLASSES, CLASSES), dtype=np.int64)
        np.add.at(table, (classes(self.before), classes(self.after)), 1)
        return table

    def harder(self, most: int) -> list[int]:
        """Return the places of the products that take more clicks, those first that take most more."""
        lost = self.after.clicks - self.before.clicks
        order = np.argsort(-lost, kind="stable")
        return [int(place) for place in order[:most] if lost[place] > 0]


def options(document: Document, rack: str, offered: Mapping[str, Document], cuts: Mapping[str, Number]) -> list[Change]:
    """Return what could be tried next: a facet higher up, one that the catalogue offers, a further cut.

    Args:
        document: the set-up with what is tried already.
        rack: the key of the rack.
        offered: documents of facets that can be added, by the keys of their proposals.
        cuts: where a facet of the rack could be cut further, by facet.
    """
    keys = next(one for one in document["racks"] if one["key"] == rack)["facets"]
    found = [Change(MOVE, key, place) for key in keys for place in range(min(3, len(keys))) if keys.index(key) > place]
    found += [Change(ADD, key, place) for key in list(offered)[:_OFFERED] for place in (0, 2) if place <= len(keys)]
    return found + [Change(CUT, key, at=at) for key, at in cuts.items() if key in keys]


def classes(reach: Reach) -> Ints:
    """Return the class of clicks of each product: from 0 for one or none to 4 for five or more; 5 where no picks lead to few products."""
    found = np.clip(reach.picks, 1, 5) - 1
    return np.where(reach.left > reach.few, CLASSES - 1, found)
