"""Moving dense numbers between numpy arrays and compressed bitmaps."""

from array import array
from collections.abc import Iterable
from itertools import accumulate, pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

Numbers = NDArray[np.uint32]


_CONTAINER = 1 << 16  # numbers in one container of a compressed bitmap
_ARRAY = 4096  # numbers up to which a container is kept as an array
_COOKIE = 12346  # of a bitmap without run containers
_DENSE = 64  # one number in so many makes the way by a mask the faster one


def bitmap(numbers: Numbers) -> BitMap:
    """Make a bitmap of an array; faster than iterating, several times where the numbers lie close together."""
    if len(numbers) > _ARRAY and len(numbers) * _DENSE > (top := int(numbers.max())):
        mask = np.zeros(top + 1, dtype=bool)
        mask[numbers] = True
        return bitmap_of_mask(mask)
    buffer = array("I")
    buffer.frombytes(np.ascontiguousarray(numbers, dtype=np.uint32).tobytes())
    return BitMap(buffer)


def bitmap_of_rising(numbers: NDArray[np.integer]) -> BitMap:
    """Make a bitmap of a rising array without repeats; the fastest way there is."""
    if not len(numbers):
        return BitMap()
    low = numbers.astype("<u2")  # their last 16 bits
    ends = np.searchsorted(numbers, np.arange(1, (int(numbers[-1]) >> 16) + 2) << 16).tolist()
    parts = [low[start:end] for start, end in pairwise([0, *ends])]
    return _of_containers([part.tobytes() if len(part) <= _ARRAY else _bits(part) for part in parts], list(map(len, parts)))


def _bits(low: NDArray[np.integer]) -> bytes:
    mask = np.zeros(_CONTAINER, dtype=bool)
    mask[low] = True
    return np.packbits(mask, bitorder="little").tobytes()


def bitmap_of_mask(mask: NDArray[np.bool_]) -> BitMap:
    """Make a bitmap of the places where a mask is true."""
    padded = len(mask) + -len(mask) % _CONTAINER
    packed = np.packbits(mask, bitorder="little")
    bits = np.concatenate((packed, np.zeros(padded // 8 - len(packed), dtype=np.uint8))).reshape(-1, _CONTAINER // 8)
    counts = np.bitwise_count(bits.view(np.uint64)).sum(axis=1, dtype=np.int64).tolist()
    parts = [
        bits[key].tobytes() if count > _ARRAY else np.flatnonzero(mask[key * _CONTAINER : (key + 1) * _CONTAINER]).astype("<u2").tobytes()
        for key, count in enumerate(counts)
    ]
    return _of_containers(parts, counts)


def _of_containers(parts: list[bytes], counts: list[int]) -> BitMap:
    """Read a bitmap written in its portable format, from its containers in order and how many numbers each holds.

    The format: "Roaring bitmap format specification", https://github.com/RoaringBitmap/RoaringFormatSpec (cookie, number of
    containers, key and cardinality of each, offsets, containers).
    """
    keys = [key for key, count in enumerate(counts) if count]
    parts = [parts[key] for key in keys]
    heads = np.array([(key, counts[key] - 1) for key in keys], dtype="<u2").tobytes()
    first = 8 + len(heads) + 4 * len(keys)
    offsets = np.array(list(accumulate(map(len, parts), initial=first))[:-1], dtype="<u4").tobytes()
    start = np.array([_COOKIE, len(keys)], dtype="<u4").tobytes()
    return BitMap.deserialize(b"".join((start, heads, offsets, *parts)))


def numbers(members: BitMap) -> Numbers:
    """Return the members of a bitmap, rising."""
    return np.frombuffer(members.to_array(), dtype=np.uint32)


def mask_of(members: BitMap, size: int) -> NDArray[np.bool_]:
    """Return whether each number below ``size`` is a member."""
    mask = np.zeros(size, dtype=bool)
    mask[numbers(members)] = True
    return mask


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


_FEW = 64


def spliced(array: NDArray[Any], gone: NDArray[np.integer], at: NDArray[np.integer], new: NDArray[Any]) -> NDArray[Any]:
    """Return an array without the items at some places (rising) and with new ones before others (rising), places as they were before.

    >>> spliced(np.array([1, 2, 4]), np.array([1]), np.array([2, 3]), np.array([3, 5])).tolist()
    [1, 3, 4, 5]
    """
    if len(gone) + len(at) > _FEW:
        return np.insert(np.delete(array, gone), at - np.searchsorted(gone, at), new)
    parts, done, taken = [], 0, 0
    for place in sorted({*gone.tolist(), *at.tolist()}):
        until = int(np.searchsorted(at, place, "right"))
        parts += [array[done:place], new[taken:until]]
        done, taken = place, until
        if place in gone:
            done += 1
    return np.concatenate((*parts, array[done:]))


def repeated_ranges(starts: NDArray[np.integer], counts: NDArray[np.integer]) -> NDArray[np.int64]:
    """Return the numbers ``starts[0]``, ``starts[0] + 1``… ``counts[0]`` of them, then those from ``starts[1]``, and so on.

    >>> repeated_ranges(np.array([5, 1]), np.array([2, 3])).tolist()
    [5, 6, 1, 2, 3]
    """
    counts = counts.astype(np.int64)
    before = np.cumsum(counts) - counts
    ranges: NDArray[np.int64] = np.arange(int(counts.sum()), dtype=np.int64) + np.repeat(starts.astype(np.int64) - before, counts)
    return ranges
