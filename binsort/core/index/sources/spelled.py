"""What is spelt in several ways: texts, and paths of categories."""

from collections.abc import Iterator

from binsort.core.values.text import identity


def spelled(item: str) -> Iterator[tuple[str, str]]:
    """Yield the identity and the spelling of a text."""
    yield identity(item), item


def spelled_path(item: tuple[str, ...]) -> Iterator[tuple[str, str]]:
    """Yield those of each segment of a path, by the path down to it."""
    keys = list(map(identity, item))
    for depth, label in enumerate(item, 1):
        yield " > ".join(keys[:depth]), label
