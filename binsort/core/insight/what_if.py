"""What if: changes of a rack tried on a copy, and what they do to the clicks that lead to each product (docs/semantics.md, section 8)."""

from collections.abc import Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from binsort.core.answers.answer import State
from binsort.core.facets.rack_edits import take_off

from .clicks import Ints, Reach, Shelf, Walk, at_best, in_order
from .proposals import free_key

OURS, TOP, BEST = "ours", "top", "best"  # how a shopper chooses the next shelf
MOVE, DROP, ADD = "move", "drop", "add"
CLASSES = 6  # one click or none, two, three, four, five or more, never
Document = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Change:
    """One change of a rack."""

    kind: str
    key: str  # of a facet; of one that is added: of its proposal
    place: int = 0  # from 0, among the facets of the rack as they are when its turn comes

    @property
    def text(self) -> str:
        """As an address has it."""
        return f"{self.kind}:{self.key}" + ("" if self.kind == DROP else f":{self.place + 1}")

    @classmethod
    def of(cls, text: str) -> "Change | None":
        """Read a change as an address has it; None where it is none.

        >>> Change.of("move:diameter:1"), Change.of("drop:stock"), Change.of("move:colour:x")
        (Change(kind='move', key='diameter', place=0), Change(kind='drop', key='stock', place=0), None)
        """
        kind, _mark, rest = text.partition(":")
        key, _mark, place = rest.partition(":")
        if kind == DROP and key and not place:
            return cls(DROP, key)
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
            keys.remove(change.key)
            keys.insert(min(change.place, len(keys)), change.key)
    return changed


def reach_of(state: State, shopper: str, use: Mapping[str, int] | None = None) -> Reach:
    """Return the clicks to each product of a listing.

    Args:
        state: the rack on the listing, nothing picked.
        shopper: how she chooses the next shelf.
        use: how often each facet was picked in, for a shopper who does as ours do.
    """
    walk = Walk(state)
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


def classes(reach: Reach) -> Ints:
    """Return the class of clicks of each product: from 0 for one or none to 4 for five or more; 5 where no picks lead to few products."""
    found = np.clip(reach.picks, 1, 5) - 1
    return np.where(reach.left > reach.few, CLASSES - 1, found)
