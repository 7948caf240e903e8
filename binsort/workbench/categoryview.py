"""The category tree as a page: every category with its products, and what a change of it would touch."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction

from binsort.catalog import categories
from binsort.catalog.models import Category, Revision
from binsort.catalog.records import category_paths
from binsort.core.text import identity
from binsort.racks import following
from binsort.tally.current import current

from .attributeview import Touched


@dataclass(frozen=True, slots=True)
class Node:
    """A category with those below it."""

    key: int
    name: str
    path: str
    count: int
    below: tuple["Node", ...]


def tree() -> tuple[Node, ...]:
    """Return the whole tree."""
    index, paths = current().index, category_paths()
    below: dict[int | None, list[Category]] = {}
    for row in Category.objects.order_by("place", "id"):
        below.setdefault(row.parent_id, []).append(row)

    def nodes(parent: int | None) -> tuple[Node, ...]:
        return tuple(
            Node(
                row.pk, row.name, " > ".join(paths[row.pk]), len(index.listing(tuple(map(identity, paths[row.pk])))),
                nodes(row.pk),
            )
            for row in below.get(parent, ())
        )  # fmt: skip

    return nodes(None)


def touched(key: int) -> Touched:
    """Return what deleting a category touches. Raises Gone."""
    branch = categories.branch_of(key)
    facets = following.facets_of_category(" > ".join(category_paths()[key]))
    return Touched(tuple(facets), tuple(following.racks_of({name for name, _ in facets})), len(categories.products_in(branch)))


@transaction.atomic
def renamed(key: int, name: str, *, actor: Any) -> Revision | None:
    """Rename a category; facets follow. Raises Refused."""
    old = _path(key)
    revision = categories.rename(key, name, actor=actor)
    return _followed(key, old, revision, actor)


@transaction.atomic
def moved(key: int, parent: int | None, place: int, *, actor: Any) -> Revision | None:
    """Move a category; facets follow. Raises Refused."""
    old = _path(key)
    revision = categories.move(key, parent, place, actor=actor)
    return _followed(key, old, revision, actor)


def _path(key: int) -> str:
    return " > ".join(category_paths().get(key, ()))


def _followed(key: int, old: str, revision: Revision | None, actor: Any) -> Revision | None:
    new = _path(key)
    if old and new != old:
        following.category_moved(old, new, actor=actor)
    return revision


def step(key: int, way: str) -> tuple[int | None, int]:
    """Return where a category goes by one step: ``up``, ``down``, ``in`` (below the one before it), ``out``. Raises Gone."""
    row = Category.objects.select_related("parent").filter(pk=key).first()
    if row is None:
        raise categories.Gone("that category is gone. Load the page anew.")
    siblings = list(Category.objects.filter(parent=row.parent_id).order_by("place", "id").values_list("pk", flat=True))
    at = siblings.index(key)
    if way == "in" and at > 0:
        return siblings[at - 1], Category.objects.filter(parent=siblings[at - 1]).count()
    if way == "out" and row.parent is not None:
        above = list(Category.objects.filter(parent=row.parent.parent_id).order_by("place", "id").values_list("pk", flat=True))
        return row.parent.parent_id, above.index(row.parent_id) + 1
    return row.parent_id, max(0, at + {"up": -1, "down": 1}.get(way, 0))
