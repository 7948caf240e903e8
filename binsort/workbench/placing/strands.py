"""Strands: from a rack on its own board down to every listing that takes it."""

from collections.abc import Sequence
from dataclasses import dataclass

from binsort.core.facets.places import Listing, Placed, Places

from .tree import Node

STEP, ROW = 11, 31  # pixels from one strand to the next, and of a row


@dataclass(frozen=True, slots=True)
class Strand:
    """A piece of a strand within one row."""

    x: int
    top: int
    bottom: int
    takes: bool  # a stub leads to what stands there
    inked: bool  # it leads to the chosen listing


@dataclass(frozen=True, slots=True)
class Spot:
    """A place of one listing, as a row shows it."""

    placed: Placed
    indent: int  # pixels that its name stands in
    strands: tuple[Strand, ...]


def spots(nodes: Sequence[Node], places: Places, where: str, here: Listing) -> list[Spot]:
    """Return one column of the tree: what stands at a place of each listing, with the strands that lead there."""
    found = [places.at(node.listing, where) for node in nodes]
    rows = {node.listing: row for row, node in enumerate(nodes)}
    origins = [rows.get(one.rule.listing, -1) if one.rule else -1 for one in found]
    last = {origin: row for row, origin in enumerate(origins) if origin >= 0 and row > origin}
    deep = _depths(nodes, rows, origins)
    chosen = rows.get(here, -1)
    result: list[Spot] = []
    for row, one in enumerate(found):
        origin = origins[row]
        passing = [(start, end) for start, end in last.items() if start < row <= end]
        pieces = [
            Strand(_x(deep[start]), 0, ROW // 2 if end == row else ROW, origin == start, start == origins[chosen] and row <= chosen)
            for start, end in passing
        ]
        if row in last:
            pieces.append(Strand(_x(deep[row]), ROW - 5, ROW, False, origins[chosen] == row and chosen > row))
        indent = STEP * deep[row] if one.own or origin < 0 else _x(deep[origin]) + 11
        result.append(Spot(one, indent if origin >= 0 else 18, tuple(pieces)))
    return result


def _x(depth: int) -> int:
    return 7 + STEP * depth


def _depths(nodes: Sequence[Node], rows: dict[Listing, int], origins: Sequence[int]) -> list[int]:
    """Return for each listing how many above it have something of their own: so far its own strand is set in."""
    deep: list[int] = []
    for node in nodes:
        above = node.listing.above
        while above is not None and above not in rows:
            above = above.above
        parent = rows[above] if above is not None else -1
        deep.append(deep[parent] + (origins[parent] == parent) if parent >= 0 else 0)
    return deep
