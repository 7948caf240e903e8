"""Explaining: which bins of a facet a product is in and why, or why it is in none."""

from dataclasses import dataclass

import numpy as np

from binsort.core.answers.matching import Facet
from binsort.core.facets.spec import Range
from binsort.core.index.bins import Bin
from binsort.core.index.columns import Column, Value
from binsort.core.values.numbers import Number


@dataclass(frozen=True, slots=True)
class Place:
    """A bin that a product is in, with the values that put it there."""

    bin: Bin
    values: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Explained:
    """Where a product stands in a facet. Without places ``values`` are those that no bin takes."""

    places: tuple[Place, ...]
    values: tuple[str, ...]


def explained(facet: Facet, slot: int, articles: range) -> Explained:
    """Return the bins of a facet that a product is in and the values that do it.

    Args:
        facet: cut from the index.
        slot: of the product.
        articles: the numbers of its variants.
    """
    column = facet.column
    owners = articles if facet.on_variants else range(slot, slot + 1)
    values = _values(column, owners)
    places = []
    for bin in facet.bins:
        if any(owner in bin.members for owner in owners):
            places.append(Place(bin, _reasons(bin, values)))
    return Explained(tuple(places), tuple(value.label for value in values))


def _values(column: Column, owners: range) -> list[Value]:
    """Return the values that some owners next to each other have, as the column has them in order."""
    at = np.flatnonzero((column.owners >= owners.start) & (column.owners < owners.stop))
    codes = np.unique(np.searchsorted(column.offsets, at, "right") - 1)
    return [column.values[code] for code in codes.tolist()]


def _reasons(bin: Bin, values: list[Value]) -> tuple[str, ...]:
    if bin.range is not None:
        return tuple(value.label for value in values if value.number is not None and _is_within(bin.range, value.number))
    if bin.nodes:
        paths = [value.path for value in values if value.nodes[: len(bin.nodes)] == bin.nodes]
        return tuple(" > ".join(path) for path in paths if not any(other[: len(path)] == path and other != path for other in paths))
    return tuple(value.label for value in values if value.identity in bin.values)


def _is_within(bounds: Range, number: Number) -> bool:
    if bounds.low is not None and number < bounds.low:
        return False
    return bounds.high is None or (number <= bounds.high if bounds.high_inclusive else number < bounds.high)
