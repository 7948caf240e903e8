"""Many rows, some at a time."""

from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import islice
from typing import TypeVar

Item = TypeVar("Item")


def batched(items: Iterable[Item], size: int) -> Iterator[list[Item]]:
    """Yield the items in lists of so many."""
    rest = iter(items)
    while batch := list(islice(rest, size)):
        yield batch


def batched_ahead(items: Iterable[Item], size: int) -> Iterator[list[Item]]:
    """Yield the items in lists of so many; the next list is made while whoever asked does something with this one.

    It is made in another thread, so what makes the items must not ask the database.
    """
    batches = batched(items, size)
    with ThreadPoolExecutor(1) as ahead:
        coming = ahead.submit(next, batches, None)
        while (batch := coming.result()) is not None:
            coming = ahead.submit(next, batches, None)
            yield batch
