"""Many rows, some at a time."""

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import TypeVar

Item = TypeVar("Item")


def batched(items: Iterable[Item], size: int) -> Iterator[list[Item]]:
    """Yield the items in lists of so many."""
    rest = iter(items)
    while batch := list(islice(rest, size)):
        yield batch
