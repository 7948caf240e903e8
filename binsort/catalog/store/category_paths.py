"""Paths of categories."""

from functools import lru_cache

from binsort.catalog import models
from binsort.core.values.text import identity


def category_paths() -> dict[int, tuple[str, ...]]:
    """Return the path of names of every category by its primary key, depth first in the order of the tree; one query."""
    below: dict[int | None, list[tuple[int, str]]] = {}
    for key, parent, name in models.Category.objects.order_by("place", "id").values_list("pk", "parent_id", "name"):
        below.setdefault(parent, []).append((key, name))
    paths: dict[int, tuple[str, ...]] = {}
    waiting: list[tuple[int, tuple[str, ...]]] = [(key, (name,)) for key, name in reversed(below.get(None, []))]
    while waiting:
        number, path = waiting.pop()
        paths[number] = path
        waiting += [(key, (*path, name)) for key, name in reversed(below.get(number, []))]
    return paths


def category_identities() -> tuple[tuple[str, ...], ...]:
    """Return the paths of all categories as identities, depth first in the order of the tree; one query."""
    return identities_of(tuple(category_paths().values()))


@lru_cache(maxsize=8)
def identities_of(paths: tuple[tuple[str, ...], ...]) -> tuple[tuple[str, ...], ...]:
    """Return paths as identities; a tree is worked out once."""
    return tuple(tuple(map(identity, path)) for path in paths)
