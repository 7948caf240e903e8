"""The category tree: what is in it, and making what is missing."""

from collections.abc import Iterable, Mapping, Sequence
from itertools import count

from binsort.catalog.models import Category, Placement, Product
from binsort.catalog.store.category_paths import category_paths
from binsort.core.values.text import path_identity, slug


def with_ancestors(paths: Iterable[tuple[str, ...]]) -> dict[str, tuple[str, ...]]:
    """Return paths and those above them, by identity, in the spelling that comes first."""
    spelled: dict[str, tuple[str, ...]] = {}
    for path in paths:
        for depth in range(1, len(path) + 1):
            spelled.setdefault(path_identity(path[:depth]), path[:depth])
    return spelled


def known_categories(identities: Iterable[str]) -> dict[str, int]:
    """Return the primary keys of the categories that there are, by the identity of the path."""
    return dict(Category.objects.filter(path_identity__in=list(identities)).values_list("path_identity", "pk"))


def missing_categories(paths: Iterable[tuple[str, ...]]) -> tuple[str, ...]:
    """Return those of some paths, and of what is above them, that are no categories yet."""
    spelled = with_ancestors(paths)
    known = known_categories(spelled)
    return tuple(" > ".join(path) for key, path in spelled.items() if key not in known)


def make_categories(missing: Mapping[str, tuple[str, ...]], known: Mapping[str, int]) -> dict[str, int]:
    """Make categories from the top down; two queries a level.

    Args:
        missing: paths by identity.
        known: the primary keys of those that are there, by identity; everything above a missing one is in either.
    """
    numbers: dict[str, int] = {}
    for depth in range(1, max(map(len, missing.values()), default=0) + 1):
        level = {key: path for key, path in missing.items() if len(path) == depth}
        if level:
            numbers |= _make_level(level, {**known, **numbers})
    return numbers


def _make_level(level: Mapping[str, tuple[str, ...]], known: Mapping[str, int]) -> dict[str, int]:
    """Make the categories of one level, those above being known; two queries."""
    above = {key: known[path_identity(path[:-1])] if len(path) > 1 else None for key, path in level.items()}
    there = (
        Category.objects.filter(parent_id__in=filter(None, above.values())) if any(above.values()) else Category.objects.filter(parent=None)
    )
    taken: dict[int | None, set[str]] = {}
    for parent, name in there.values_list("parent_id", "slug"):
        taken.setdefault(parent, set()).add(name)
    rows = []
    for key, path in level.items():
        slugs = taken.setdefault(above[key], set())
        row = Category(parent_id=above[key], name=path[-1], slug=free_slug(slug(path[-1]), slugs), path_identity=key, place=len(slugs))
        slugs.add(row.slug)
        rows.append(row)
    return {row.path_identity: row.pk for row in Category.objects.bulk_create(rows)}


def free_slug(wanted: str, taken: set[str]) -> str:
    """Return a slug, with the first number that is free behind it where it is taken."""
    return next(name for number in count(1) if (name := wanted if number == 1 else f"{wanted}-{number}") not in taken)


def products_in(branch: Sequence[int]) -> list[str]:
    """Return the identities of the products that are in one of some categories."""
    placed = Placement.objects.filter(category__in=branch).values("product")
    return list(Product.objects.filter(pk__in=placed).values_list("identity", flat=True))


def repath(keys: Iterable[int]) -> None:
    """Bring the paths of categories and of those below them up to date."""
    paths = category_paths()
    for row in Category.objects.filter(pk__in=list(keys)):
        for other in row.descendants(include_self=True):
            Category.objects.filter(pk=other.pk).update(path_identity=path_identity(paths[other.pk]))
