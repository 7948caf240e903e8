"""The category tree: adding, renaming, moving and deleting categories. Products follow; each change can be taken back."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction
from django.db.models import Max

from binsort.core.products import Product
from binsort.core.text import category_path, identity, normalise, path_identity, slug

from .definitions import categories_state
from .models import Category, Placement, Revision
from .models import Product as Row
from .records import category_paths
from .revising import Refused, hold, revise_each
from .storing import free_slug


class Gone(Refused):
    """The category is not there any more."""


@transaction.atomic
def add(name: str, parent: int | None, *, actor: Any = None) -> Category:
    """Add a category below another, or at the top. Raises Refused where there is one of that name."""
    hold()
    above = _row(parent) if parent else None
    words = _free_name(name, above, None)
    place = Category.objects.filter(parent=above).aggregate(last=Max("place"))["last"]
    made = Category.objects.create(
        parent=above, name=words, slug=_slug(words, above, None), path_identity=_path_identity(words, above),
        place=0 if place is None else place + 1,
    )  # fmt: skip
    _record(f"New category {words}", {str(made.pk): None}, actor)
    return made


@transaction.atomic
def rename(key: int, name: str, *, actor: Any = None) -> Revision | None:
    """Give a category another name; its address stays. Raises Refused."""
    hold()
    row = _row(key)
    words = _free_name(name, row.parent, row)
    if words == row.name:
        return None
    branch = _branch(row)
    before, old = categories_state(branch), row.name
    row.name = words
    row.save()
    _follow(row)
    return _record(f"Renamed the category {old} to {words}", before, actor)


@transaction.atomic
def move(key: int, parent: int | None, place: int, *, actor: Any = None) -> Revision | None:
    """Put a category below another (None: at the top), at a place among those below it.

    Raises:
        Refused: it would be below itself, or there is one of its name.
    """
    hold()
    row = _row(key)
    above = _row(parent) if parent else None
    branch = _branch(row)
    if above is not None and above.pk in branch:
        raise Refused(f"{row.name} cannot be below itself. Move {above.name} out of it first.")
    if row.parent_id != parent:
        _free_name(row.name, above, row)
    siblings = [other for other in Category.objects.filter(parent=above).order_by("place", "id") if other.pk != row.pk]
    stays = row.parent_id == parent
    before = categories_state([*branch, *(other.pk for other in siblings)])
    siblings.insert(max(0, min(place, len(siblings))), row)
    if not stays:
        row.slug = _slug(row.name, above, row)
        row.parent = above
    for at, other in enumerate(siblings):
        other.place = at
        other.save()
    _follow(row)
    where = "" if stays else f" below {above.name}" if above else " to the top"
    return _record(f"Moved the category {row.name}{where}", before, actor)


@transaction.atomic
def delete(key: int, *, actor: Any = None) -> Revision | None:
    """Delete a category with all below it; products stay, in their other categories. Raises Refused."""
    hold()
    row = _row(key)
    branch = _branch(row)
    before = categories_state(branch)
    path = tuple(map(identity, category_paths()[row.pk]))
    names = products_in(branch)

    def without(_: str, product: Product | None) -> Product | None:
        kept = [found for found in product.categories if tuple(map(identity, found))[: len(path)] != path] if product else ()
        return replace(product, categories=tuple(kept)) if product else None

    revision = revise_each(
        f"Deleted the category {row.name}", names, without, actor=actor, kind=Revision.Kind.CATEGORIES,
        definitions={"categories": {"before": before, "after": dict.fromkeys(before)}},
    )  # fmt: skip
    Category.objects.filter(pk__in=branch).delete()
    return revision


def products_in(branch: Sequence[int]) -> list[str]:
    """Return the identities of the products that are in one of some categories."""
    placed = Placement.objects.filter(category__in=branch).values("product")
    return list(Row.objects.filter(pk__in=placed).values_list("identity", flat=True))


def branch_of(key: int) -> list[int]:
    """Return a category and all below it. Raises Gone."""
    return _branch(_row(key))


def _row(key: int) -> Category:
    found = Category.objects.filter(pk=key).first()
    if found is None:
        raise Gone("that category is gone. Load the page anew.")
    return found


def _branch(row: Category) -> list[int]:
    return list(row.descendants(include_self=True).values_list("pk", flat=True))


def _path_identity(name: str, above: Category | None) -> str:
    return path_identity((*(category_paths()[above.pk] if above else ()), name))


def _free_name(name: str, above: Category | None, row: Category | None) -> str:
    words = normalise(name)
    if not words or category_path(words) != (words,):
        raise Refused("a category needs a name, without “>” in it.")
    there = Category.objects.filter(path_identity=_path_identity(words, above)).exclude(pk=row.pk if row else None)
    if there.exists():
        raise Refused(f"there is a category {words}{f' below {above.name}' if above else ' at the top'} already. Choose another name.")
    return words


def _slug(name: str, above: Category | None, row: Category | None) -> str:
    others = Category.objects.filter(parent=above).exclude(pk=row.pk if row else None)
    return free_slug(slug(name), set(others.values_list("slug", flat=True)))


def _follow(row: Category) -> None:
    """Bring the paths of a category and of those below it up to date."""
    paths = category_paths()
    for other in row.descendants(include_self=True):
        Category.objects.filter(pk=other.pk).update(path_identity=path_identity(paths[other.pk]))


def _record(summary: str, before: dict[str, Any], actor: Any) -> Revision | None:
    after = categories_state(map(int, before))
    if after == before:
        return None
    return revise_each(
        summary, (), lambda name, product: product, actor=actor, kind=Revision.Kind.CATEGORIES,
        definitions={"categories": {"before": before, "after": after}},
    )  # fmt: skip
