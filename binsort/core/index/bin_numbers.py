"""Bins as numbers: of a facet whose owners are in one bin each, which one; all its bins are then counted at once."""

from collections.abc import Sequence
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from .bins import Bin
from .bitmaps import bitmap, numbers, union
from .columns import Change

BinOf: TypeAlias = NDArray[np.unsignedinteger[Any]]  # by owner; the number of bins stands for none


def bin_of_each(bins: Sequence[Bin], size: int) -> BinOf | None:
    """Return the place of the bin that each owner is in, None where an owner is in several.

    Args:
        bins: of a facet.
        size: of the owners' numbers.
    """
    places = np.full(size, len(bins), dtype=np.min_scalar_type(len(bins)))
    for place, bin in enumerate(bins):
        members = numbers(bin.members)
        if (places[members] != len(bins)).any():
            return None
        places[members] = place
    return places


def bin_of_followed(before: BinOf, bins: Sequence[Bin], size: int, change: Change) -> BinOf | None:
    """Return the same after some owners moved between the same bins, at the cost of what moved."""
    places = np.full(size, len(bins), dtype=before.dtype)
    places[: len(before)] = before
    moving = union(bitmap(owners) for _, owners in (*change.removed, *change.added))
    places[numbers(moving)] = len(bins)
    for place, bin in enumerate(bins):
        members = numbers(bin.members & moving)
        if (places[members] != len(bins)).any():
            return None
        places[members] = place
    return places
