"""Addresses of the shop's pages."""

from collections.abc import Sequence

from django.urls import reverse
from rapidfuzz.fuzz import WRatio
from rapidfuzz.process import extract

from binsort.catalog.models import Category
from binsort.core.values.text import path_identity
from binsort.tally.current import Current

_MOST_NEAR, _ALIKE, _LONGEST = 4, 70, 80  # categories that are named, how like they are in hundredths, letters compared


class UnknownCategory(LookupError):
    """There is no category at an address."""


def find_category(slugs: Sequence[str]) -> Category:
    """Return the category of an address; one query for each part of it. Raises UnknownCategory."""
    category: Category | None = None
    for slug in slugs if "\0" not in "".join(slugs) else ():  # which the database cannot even be asked for
        category = Category.objects.filter(parent=category, slug=slug).first()
        if category is None:
            break
    if category is None:
        raise UnknownCategory("/".join(slugs))
    return category


def category_address(category: Category) -> str:
    """Return the address of a category's listing; one query where it is not at the top."""
    return address_of(trail_of(tuple(category.path_identity.split(" > ")))) if category.parent_id else address_of((category,))


def address_of(trail: tuple[Category, ...]) -> str:
    """Return the address of the listing to which a way through the tree leads."""
    return reverse("shop-category", kwargs={"slugs": "/".join(category.slug for category in trail)})


def product_address(identity: str) -> str:
    """Return the address of a product's page, whatever led to it."""
    return reverse("shop-product", kwargs={"identity": identity})


def trail_of(path: tuple[str, ...] | None) -> tuple[Category, ...]:
    """Return the categories on the way to one, from the top down; none where one of them is not there; one query.

    Args:
        path: its identities; None for all products.
    """
    names = [path_identity(path[: length + 1]) for length in range(len(path or ()))] if path else []
    if not names or "\0" in names[-1]:
        return ()
    rows = {row.path_identity: row for row in Category.objects.filter(path_identity__in=names)}
    return tuple(rows[name] for name in names) if len(rows) == len(names) else ()


def departments_of(held: Current) -> tuple[Category, ...]:
    """Return the top categories that have products to show."""
    rows = held.beside("departments", lambda: tuple(Category.objects.filter(parent=None)))
    return tuple(row for row in rows if held.index.has_category((row.path_identity,)))


def near_addresses(path: str) -> list[tuple[str, str]]:
    """Return name and address of the categories whose own are most like one that leads nowhere; one query and one each."""
    wanted = [part for part in path.split("/") if part][-1:]
    if not wanted or "\0" in path or "/c/" not in path:
        return []
    by_slug = {category.slug: category for category in Category.objects.order_by("-id")}
    met = extract(wanted[0][:_LONGEST], by_slug.keys(), scorer=WRatio, limit=_MOST_NEAR, score_cutoff=_ALIKE)
    return [(by_slug[slug].name, category_address(by_slug[slug])) for slug, _score, _place in met]
