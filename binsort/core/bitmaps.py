"""Moving dense numbers between numpy arrays and compressed bitmaps."""

from array import array
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

Numbers = NDArray[np.uint32]


def bitmap(numbers: Numbers) -> BitMap:
    """Make a bitmap of an array; the buffer path is several times faster than iterating."""
    buffer = array("I")
    buffer.frombytes(np.ascontiguousarray(numbers, dtype=np.uint32).tobytes())
    return BitMap(buffer)


def numbers(found: BitMap) -> Numbers:
    """Return the members of a bitmap, rising."""
    return np.frombuffer(found.to_array(), dtype=np.uint32)


def union(parts: Iterable[BitMap]) -> BitMap:
    """Return the union of any number of bitmaps."""
    return BitMap.union(BitMap(), *parts)


def intersection(first: BitMap, *others: BitMap) -> BitMap:
    """Return what all have in common; the first is returned as it is where there are no others."""
    for other in others:
        first = first & other
    return first


def first_of_each(rising: Numbers) -> Numbers:
    """Drop repeats from a rising array."""
    if len(rising) < 2:
        return rising
    keep = np.empty(len(rising), dtype=bool)
    keep[0] = True
    np.not_equal(rising[1:], rising[:-1], out=keep[1:])
    return rising[keep]
