"""Ordering: which products of a result stand on a page, found without sorting the whole result."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.index.bitmaps import mask_of, numbers
from binsort.core.index.orders import Order, Orders, SortSource

_SPARSE = 16  # a result of fewer than one product in so many is sorted; a fuller one is met by walking the order


def ordered_part(
    orders: Orders, sort: str, result: BitMap, start: int, stop: int, *, same_variant: Callable[[], BitMap] | None = None
) -> list[int]:
    """Return part of a result in the order asked for.

    Args:
        orders: of the index.
        sort: ``listed``, ``name``, ``-name``, or one that :meth:`Orders.source` knows.
        result: the result.
        start: the first product's place in the result.
        stop: the place after the last one's.
        same_variant: the variants of the result whose numbers count, None for all of them.
    """
    if sort in ("name", "-name"):
        return part_in_order(orders.name if sort == "name" else orders.name_down, result, start, stop)
    by = orders.source(sort)
    if by is None:
        return _as_listed(orders, result, start, stop)
    if same_variant is not None and orders.is_on_variants(by):
        return _by_variants(orders, by, same_variant(), (start, stop))
    return part_in_order(orders.by_number(by), result, start, stop)


def part_in_order(order: Order, result: BitMap, start: int, stop: int) -> list[int]:
    """Return the products of a result from the ``start``-th to before the ``stop``-th, of one order."""
    stop = min(stop, len(result))
    if start >= stop:
        return []
    slots = order.slots
    if len(result) * _SPARSE < len(slots):
        return slots[smallest(order.rank[numbers(result)], start, stop)].tolist()  # type: ignore[no-any-return]
    mask = mask_of(result, len(slots))
    met, place, taken = 0, 0, []
    step = 64 + 2 * stop * len(slots) // len(result)
    while met < stop:
        chunk = slots[place : place + step]
        here = chunk[mask[chunk]]
        taken.append(here[max(0, start - met) : stop - met])
        met, place = met + len(here), place + step
    return np.concatenate(taken).tolist()  # type: ignore[no-any-return]


def _as_listed(orders: Orders, result: BitMap, start: int, stop: int) -> list[int]:
    if orders.listed is not None:
        return part_in_order(Order(orders.listed), result, start, stop)
    return list(result[start:stop]) if start < len(result) else []


def _by_variants(orders: Orders, by: SortSource, variants: BitMap, places: tuple[int, int]) -> list[int]:
    products, least, greatest = orders.ends_within(by.source, numbers(variants))
    keys = (-greatest if by.down else least).astype(np.int64)
    start, stop = places
    chosen = smallest((keys << 32) + orders.ties(products), start, min(stop, len(keys))) if start < len(keys) else keys[:0]
    slots = chosen & 0xFFFFFFFF
    return slots.tolist() if orders.listed is None else orders.listed[slots].tolist()  # type: ignore[no-any-return]


def smallest(keys: NDArray[np.integer], start: int, stop: int) -> NDArray[np.integer]:
    """Return the ``start``-th to before the ``stop``-th smallest of some distinct numbers, rising; only they are sorted.

    >>> smallest(np.array([5, 1, 4, 2]), 1, 3).tolist()
    [2, 4]
    """
    if stop < len(keys):
        keys = np.partition(keys, stop - 1)[:stop]
    if start:
        keys = np.partition(keys, start)[start:]
    return np.sort(keys)
