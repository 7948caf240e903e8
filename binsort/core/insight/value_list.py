"""The raw values of a facet's source on a listing, each with its products and where it goes."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.bin_edits import not_looked_at
from binsort.core.facets.kinds import kind_of
from binsort.core.index.bins import Bin
from binsort.core.index.bitmaps import mask_of
from binsort.core.index.columns import Value

LEFT_OUT, WAITS = "left out", "waits"


@dataclass(frozen=True, slots=True)
class RawValue:
    """A value as the catalogue has it."""

    name: str  # in a facet's document: its label, of a category its path
    label: str
    identity: str
    count: int  # products of the listing that have it
    bin: Bin | None
    state: str  # LEFT_OUT, WAITS (came later, nobody looked at it yet), or empty


def value_name(value: Value) -> str:
    """Return how a facet's document names a value."""
    return " > ".join(value.path) if value.path else value.label


def raw_values(state: State, facet: Facet, document: dict[str, Any]) -> list[RawValue]:
    """Return the values that the catalogue has of a facet's source, in the order of its column, those of no product of the listing too."""
    counts = _counts(state, facet)
    bin_of = {name: bin for bin in facet.bins for name in (bin.values or (" > ".join(bin.nodes),))}
    names = [value_name(value) for value in facet.column.values]
    is_tree = kind_of(facet.spec.source.kind).is_tree
    waiting = set(not_looked_at(document, names))
    values = []
    for value, name, count in zip(facet.column.values, names, counts.tolist(), strict=True):
        key = " > ".join(value.nodes) if is_tree else value.identity
        bin = bin_of.get(key)
        told = "" if bin else WAITS if name in waiting else LEFT_OUT
        values.append(RawValue(name, value.label, key, count, bin, told))
    return values


def _counts(state: State, facet: Facet) -> NDArray[np.intp]:
    """Return how many products of a listing have each value of a column."""
    column, index = facet.column, state.rack.index
    owners, codes = column.owners, column.codes(len(column.values))
    of = index.product_of[owners] if facet.on_variants else owners
    here = mask_of(state.products, index.size)[of]
    size = max(index.size, 1)
    pairs = codes[here].astype(np.int64) * size + of[here].astype(np.int64)
    if facet.on_variants:
        pairs = np.unique(pairs)  # a product has a value once, however many of its variants do
    return np.bincount(pairs // size, minlength=len(column.values))


def most_at_once(state: State, facet: Facet) -> int:
    """Return the largest number of values that one product of a listing has; more than one is what all-of needs."""
    column, index = facet.column, state.rack.index
    owners, codes = column.owners, column.codes(len(column.values))
    of = index.product_of[owners] if facet.on_variants else owners
    here = mask_of(state.products, index.size)[of]
    pairs = np.unique(of[here].astype(np.int64) * max(len(column.values), 1) + codes[here])
    return int(np.bincount(pairs // max(len(column.values), 1)).max(initial=0))


def by_bins(values: Sequence[RawValue], bins: Sequence[Bin]) -> list[tuple[Bin | None, list[RawValue]]]:
    """Return values by the bin they go to, bins in the order given, the most frequent values first; those in none come last."""
    held: dict[str, list[RawValue]] = {}
    for value in values:
        held.setdefault(value.bin.key if value.bin else "", []).append(value)
    order = [(bin, held.get(bin.key, [])) for bin in bins]
    none = sorted(held.get("", []), key=lambda value: (value.state != WAITS, -value.count, value.label))
    grouped = [(bin, sorted(inside, key=lambda value: (-value.count, value.label))) for bin, inside in order]
    return [*grouped, (None, none)]
