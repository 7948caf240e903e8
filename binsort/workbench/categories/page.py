"""The category tree as a page: every category with its products, and what a change of it would touch."""

from dataclasses import dataclass

from django.utils.translation import gettext as _

from binsort.catalog.dictionary.categories import products_in
from binsort.catalog.models import Category
from binsort.catalog.store.category_paths import category_paths
from binsort.changes.categories import Gone, branch_of
from binsort.core.values.text import identity
from binsort.racks import facet_use
from binsort.racks.facet_use import Touched
from binsort.tally.current import current


@dataclass(frozen=True, slots=True)
class Node:
    """A category with those below it."""

    key: int
    name: str
    path: str
    count: int
    below: tuple["Node", ...]

    @property
    def grip(self) -> str:
        """The name of its handle on the page."""
        return f"cat-{self.key}"


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
    branch = branch_of(key)
    path = " > ".join(category_paths()[key])
    facets = facet_use.facets_of_category(path)
    racks = dict.fromkeys((*facet_use.racks_of({name for name, _ in facets}), *facet_use.racks_on_category(path)))
    return Touched(tuple(facets), tuple(racks), len(products_in(branch)))


def step(key: int, way: str) -> tuple[int | None, int]:
    """Return where a category goes by one step: ``up``, ``down``, ``in`` (below the one before it), ``out``. Raises Gone."""
    row = Category.objects.select_related("parent").filter(pk=key).first()
    if row is None:
        raise Gone(_("that category is gone. Load the page anew."))
    siblings = list(Category.objects.filter(parent=row.parent_id).order_by("place", "id").values_list("pk", flat=True))
    at = siblings.index(key)
    if way == "in" and at > 0:
        return siblings[at - 1], Category.objects.filter(parent=siblings[at - 1]).count()
    if way == "out" and row.parent is not None:
        above = list(Category.objects.filter(parent=row.parent.parent_id).order_by("place", "id").values_list("pk", flat=True))
        return row.parent.parent_id, above.index(row.parent_id) + 1
    return row.parent_id, max(0, at + {"up": -1, "down": 1}.get(way, 0))
