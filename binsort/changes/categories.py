"""Changes of the category tree: adding, renaming, moving and deleting. Products and facets follow."""

from dataclasses import replace
from typing import Any

from django.db.models import Max
from django.utils.translation import gettext as _

from binsort.catalog.dictionary.categories import free_slug, products_in, repath
from binsort.catalog.dictionary.states import State, categories_state
from binsort.catalog.models import Category, Revision
from binsort.catalog.store.category_paths import category_paths
from binsort.core.products.product import Product
from binsort.core.values.text import category_path, identity, normalise, path_identity, slug

from .followers import follow, of_category_moved, places_of_category_moved
from .locks import Refused, change, hold
from .revisions import begin, note_made, revise_each


class Gone(Refused):
    """The category is not there any more."""


@change
def add(name: str, parent: int | None, *, actor: Any = None) -> Category:
    """Add a category below another, or at the top. Raises Refused where there is one of that name."""
    hold(alone=True)
    above = _row(parent) if parent else None
    words = _free_name(name, above, None)
    place = Category.objects.filter(parent=above).aggregate(last=Max("place"))["last"]
    category: Category = Category.objects.create(
        parent=above, name=words, slug=_slug(words, above, None), path_identity=_path_identity(words, above),
        place=0 if place is None else place + 1,
    )  # fmt: skip
    revision = begin(Revision.Kind.CATEGORIES, f"New category {words}", actor=actor)
    note_made(revision, categories=categories_state([category.pk]))
    revision.save()
    return category


@change
def rename(key: int, name: str, *, seen: str = "", actor: Any = None) -> Revision | None:
    """Give a category another name; its address stays, facets follow.

    Args:
        key: of the category.
        name: the new one.
        seen: the name that the user saw; empty to rename it whatever it is called.
        actor: who does it.

    Raises:
        Refused: there is one of that name, or somebody else renamed it meanwhile.
    """
    hold(alone=True)
    row = _row(key)
    if seen and seen != row.name:
        raise Refused(
            _("somebody else renamed %(seen)s to %(name)s meanwhile. Do yours again if it is still right.")
            % {"seen": seen, "name": row.name}
        )
    words = _free_name(name, row.parent, row)
    if words == row.name:
        return None
    branch = _branch(row)
    before, old, path = categories_state(branch), row.name, _path(row)
    row.name = words
    row.save()
    repath([row.pk])
    revision = _record(f"Renamed the category {old} to {words}", before, actor)
    follow(
        revision,
        f"Followed {old}, now {words}",
        of_category_moved(path, _path(row)),
        actor,
        racks=places_of_category_moved(path, _path(row)),
    )
    return revision


@change
def move(key: int, parent: int | None, place: int, *, actor: Any = None) -> Revision | None:
    """Put a category below another (None: at the top), at a place among those below it.

    Raises:
        Refused: it would be below itself, or there is one of its name.
    """
    hold(alone=True)
    row = _row(key)
    above = _row(parent) if parent else None
    branch, path = _branch(row), _path(row)
    if above is not None and above.pk in branch:
        raise Refused(_("%(name)s cannot be below itself. Move %(name_2)s out of it first.") % {"name": row.name, "name_2": above.name})
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
    repath([row.pk])
    where = "" if stays else f" below {above.name}" if above else " to the top"
    revision = _record(f"Moved the category {row.name}{where}", before, actor)
    if not stays:
        edits = of_category_moved(path, _path(row)), places_of_category_moved(path, _path(row))
        follow(revision, f"Followed {row.name}{where}", edits[0], actor, racks=edits[1])
    return revision


@change
def delete(key: int, *, actor: Any = None) -> Revision | None:
    """Delete a category with all below it; products stay, in their other categories. Raises Refused."""
    hold(alone=True)
    row = _row(key)
    branch = _branch(row)
    before = categories_state(branch)
    path = tuple(map(identity, category_paths()[row.pk]))
    names = products_in(branch)

    def without(_: str, product: Product | None) -> Product | None:
        kept = [path_kept for path_kept in product.categories if tuple(map(identity, path_kept))[: len(path)] != path] if product else ()
        return replace(product, categories=tuple(kept)) if product else None

    revision = revise_each(
        f"Deleted the category {row.name}", names, without, actor=actor, kind=Revision.Kind.CATEGORIES,
        definitions={"categories": {"before": before, "after": dict.fromkeys(before)}},
    )  # fmt: skip
    Category.objects.filter(pk__in=branch).delete()
    return revision


def branch_of(key: int) -> list[int]:
    """Return a category and all below it. Raises Gone."""
    return _branch(_row(key))


def _row(key: int) -> Category:
    category: Category | None = Category.objects.filter(pk=key).first()
    if category is None:
        raise Gone(_("that category is gone. Load the page anew."))
    return category


def _branch(row: Category) -> list[int]:
    return list(row.descendants(include_self=True).values_list("pk", flat=True))


def _path(row: Category) -> str:
    return " > ".join(category_paths()[row.pk])


def _path_identity(name: str, above: Category | None) -> str:
    return path_identity((*(category_paths()[above.pk] if above else ()), name))


def _free_name(name: str, above: Category | None, row: Category | None) -> str:
    words = normalise(name)
    if not words or category_path(words) != (words,):
        raise Refused(_("a category needs a name, without “>” in it."))
    there = Category.objects.filter(path_identity=_path_identity(words, above)).exclude(pk=row.pk if row else None)
    if there.exists():
        raise Refused(
            _("there is a category %(words)s%(top)s already. Choose another name.")
            % {"words": words, "top": f" below {above.name}" if above else " at the top"}
        )
    return words


def _slug(name: str, above: Category | None, row: Category | None) -> str:
    others = Category.objects.filter(parent=above).exclude(pk=row.pk if row else None)
    return free_slug(slug(name), set(others.values_list("slug", flat=True)))


def _record(summary: str, before: State, actor: Any) -> Revision | None:
    """Remember a change of the tree that concerns no product by itself; None where nothing changed."""
    after = categories_state(map(int, before))
    changed = [key for key in before if before[key] != after[key]]
    if not changed:
        return None
    states = {"before": {key: before[key] for key in changed}, "after": {key: after[key] for key in changed}}
    return revise_each(
        summary, (), lambda name, product: product, actor=actor, kind=Revision.Kind.CATEGORIES, definitions={"categories": states}
    )
