"""Compared: a facet as it is and as it would be, with the products that move between its bins."""

from collections.abc import Sequence
from dataclasses import dataclass

from pyroaring import BitMap

from binsort.core.answers.answer import OnListing, State
from binsort.core.answers.matching import Facet
from binsort.core.index.bins import Bin
from binsort.core.index.bitmaps import union


@dataclass(frozen=True, slots=True)
class Side:
    """A facet before or afterwards: its bins on a listing that hold something, with their products."""

    bins: tuple[Bin, ...]
    members: tuple[BitMap, ...]
    unbinned: BitMap


@dataclass(frozen=True, slots=True)
class Ribbon:
    """Products that are in one bin before and in one afterwards; None for those in no bin."""

    start: int | None  # places among the bins of the two sides
    end: int | None
    count: int
    moved: bool


@dataclass(frozen=True, slots=True)
class Compared:
    """A facet before and afterwards."""

    before: Side
    after: Side
    ribbons: tuple[Ribbon, ...]
    moved: int  # products
    left: int  # of them, those that are in no bin any more

    @property
    def touched(self) -> tuple[frozenset[int], frozenset[int]]:
        """The places of the bins that products leave or come to, of each side."""
        moves = [ribbon for ribbon in self.ribbons if ribbon.moved]
        starts = frozenset(ribbon.start for ribbon in moves if ribbon.start is not None)
        return starts, frozenset(ribbon.end for ribbon in moves if ribbon.end is not None)


def side_of(state: State, facet: Facet | None) -> Side:
    """Return a facet on the listing of a state; one that is not there has no bins."""
    products = state.products
    if facet is None:
        return Side((), (), BitMap(products))
    here: OnListing = state.rack.on_listing(facet, state.listing)
    held = [(bin, inside) for bin, members in zip(here.bins, here.products, strict=True) if (inside := members & products)]
    return Side(tuple(bin for bin, _ in held), tuple(inside for _, inside in held), products - union([inside for _, inside in held]))


def compared(before: Side, after: Side) -> Compared:
    """Return what moves between two sides of a facet on one listing.

    Bins go on as others in pairs, those that share most products first; of several equal ones that of the same key, else the first. A
    product moves where it leaves a bin and does not go on with it, and comes to another that it did not come from.
    """
    pairs = {
        (start, end): common
        for start, mine in enumerate(before.members)
        for end, theirs in enumerate(after.members)
        if (common := mine.intersection_cardinality(theirs))
    }
    heirs = _heirs(pairs, before.bins, after.bins)
    ancestors = {end: start for start, end in heirs.items()}
    ribbons: list[Ribbon] = []
    moved, left = BitMap(), BitMap()
    for start, end in pairs:
        mine, theirs = before.members[start], after.members[end]
        goes = mine & theirs
        stays = heirs.get(start) == end
        if not stays:
            goes -= after.members[heirs[start]] if start in heirs else BitMap()
            goes -= before.members[ancestors[end]] if end in ancestors else BitMap()
            moved |= goes
        if goes:
            ribbons.append(Ribbon(start, end, len(goes), not stays))
    for start, mine in enumerate(before.members):
        if lost := mine & after.unbinned:
            ribbons.append(Ribbon(start, None, len(lost), moved=True))
            moved, left = moved | lost, left | lost
    for end, theirs in enumerate(after.members):
        if found := theirs & before.unbinned:
            ribbons.append(Ribbon(None, end, len(found), moved=True))
            moved |= found
    if never := before.unbinned & after.unbinned:
        ribbons.append(Ribbon(None, None, len(never), moved=False))
    return Compared(before, after, tuple(ribbons), len(moved), len(left))


def _heirs(pairs: dict[tuple[int, int], int], before: Sequence[Bin], after: Sequence[Bin]) -> dict[int, int]:
    """Return which bin goes on as which: the pairs that share most first, each bin once."""

    def weight(pair: tuple[int, int]) -> tuple[int, bool, int, int]:
        return -pairs[pair], before[pair[0]].key != after[pair[1]].key, *pair

    heirs: dict[int, int] = {}
    taken: set[int] = set()
    for start, end in sorted(pairs, key=weight):
        if start not in heirs and end not in taken:
            heirs[start] = end
            taken.add(end)
    return heirs
