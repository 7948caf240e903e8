"""Ordering by the values of a source: numbers by size, then words from A to Z, products without a value last."""

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.facets.spec import Source
from binsort.core.index.bitmaps import numbers
from binsort.core.index.catalogue_index import Index
from binsort.core.index.columns import VARIANT
from binsort.core.values.text import natural_key

from .ordering import smallest


def part_by_value(index: Index, source: Source, result: BitMap, start: int, stop: int, *, down: bool) -> list[int]:
    """Return the slots of a result's products from the ``start``-th to before the ``stop``-th.

    Of several values the least counts, going down the greatest. Those that are alike stand in the order of the catalogue.
    """
    slots = numbers(result)
    if start >= len(slots):
        return []
    ranks = index.remember(("by value", source.column_key, down), lambda: _ranks(index, source, down=down))
    keys = (ranks[slots] << 32) + index.orders.ties(slots)
    by_tie = np.zeros(index.size, dtype=np.int64)
    by_tie[index.orders.ties(slots)] = slots
    return by_tie[smallest(keys, start, min(stop, len(keys))) & 0xFFFFFFFF].tolist()  # type: ignore[no-any-return]


def _ranks(index: Index, source: Source, *, down: bool) -> NDArray[np.int64]:
    """Return the place of each product's value among all values; the count of them where it has none."""
    column = index.column(source)
    values = column.values
    order = sorted(range(len(values)), key=lambda code: _key(values[code].number, values[code].path or (values[code].label,)))
    rank_of = np.empty(len(values), dtype=np.int64)
    rank_of[order] = np.arange(len(values))
    if down:
        rank_of = len(values) - 1 - rank_of
    owners = column.owners[: column.offsets[len(values)]]
    products = index.product_of[owners] if column.level == VARIANT else owners
    ranks = np.full(index.size, len(values), dtype=np.int64)
    np.minimum.at(ranks, products, rank_of[column.codes(len(values))])
    return ranks


def _key(number: object, words: tuple[str, ...]) -> tuple[object, ...]:
    return (number is None, number or 0, tuple(map(natural_key, words)))
