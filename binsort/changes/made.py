"""What a revision made beside its products, attributes and categories: it goes again only where nothing uses it."""

from collections import Counter
from typing import Any

from django.db.models import Count
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.catalog import models
from binsort.catalog.dictionary.attributes import attribute_counts, holders
from binsort.catalog.dictionary.states import ATTRIBUTE, CATEGORY
from binsort.catalog.store.category_paths import category_paths
from binsort.racks.facet_use import facets_by_attribute, facets_by_category

Made = dict[str, dict[str, Any]]  # "attributes" by identity, "categories" by number: their states


def take_made_back(made: Made) -> list[str]:
    """Delete what a revision made and nothing uses; returns in words what stays, and who uses it."""
    return [*_take_categories(list(made.get("categories", {}))), *_take_attributes(list(made.get("attributes", {})))]


def _take_categories(keys: list[str]) -> list[str]:
    paths = category_paths()
    numbers = sorted((int(key) for key in keys if int(key) in paths), key=lambda key: -len(paths[key]))  # from the bottom up
    rows = models.Category.objects.annotate(placed=Count("placements")).in_bulk(numbers)
    below = Counter(models.Category.objects.values_list("parent", flat=True))
    facets = facets_by_category([" > ".join(paths[number]) for number in numbers])
    gone, kept = [], []
    for number in numbers:
        row = rows[number]
        use = _use_of_category(row.placed, below[number], facets[" > ".join(paths[number])])
        if use:
            kept.append(_("the category %(name)s (%(use)s)") % {"name": row.name, "use": use})
        else:
            below[row.parent_id] -= 1
            gone.append(number)
    models.Category.objects.filter(pk__in=gone).delete()
    return kept


def _use_of_category(products: int, below: int, facets: list[tuple[str, str]]) -> str:
    if products:
        return _products_words(products)
    if below:
        return ngettext("%(count)s category below it", "%(count)s categories below it", below) % {"count": f"{below:,}"}
    return _facet_words(facets)


def _take_attributes(keys: list[str]) -> list[str]:
    facets, given, kept, gone = facets_by_attribute(), attribute_counts(), [], []
    for row in models.Attribute.objects.filter(identity__in=keys):
        use = _facet_words(facets.get(row.identity, []))
        if row.identity in given:
            use = _products_words(len(holders(row.identity)))
        if use:
            kept.append(_("the attribute %(name)s (%(use)s)") % {"name": row.name, "use": use})
        else:
            gone.append(row.pk)
    models.Attribute.objects.filter(pk__in=gone).delete()
    return kept


def _products_words(count: int) -> str:
    return ngettext("%(count)s product", "%(count)s products", count) % {"count": f"{count:,}"}


def _facet_words(facets: list[tuple[str, str]]) -> str:
    return _("the facet %(label)s") % {"label": facets[0][1]} if facets else ""


def make_again(made: Made) -> None:
    """Make again what a revision made and taking it back deleted."""
    rows = {int(key): row for key, row in made.get("categories", {}).items() if row}
    there = set(models.Category.objects.values_list("pk", flat=True))
    paths = set(models.Category.objects.values_list("path_identity", flat=True))
    for key, row in sorted(rows.items(), key=lambda item: item[1]["path_identity"].count(" > ")):
        if key not in there and row["path_identity"] not in paths and (row["parent"] is None or row["parent"] in there):
            models.Category.objects.create(pk=key, parent_id=row["parent"], **{name: row[name] for name in CATEGORY})
            there.add(key)
    for identity, row in made.get("attributes", {}).items():
        if row and not models.Attribute.objects.filter(identity=identity).exists():
            models.Attribute.objects.create(**{name: row[name] for name in ATTRIBUTE})
