"""Paths of categories."""

from binsort.catalog import models


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
