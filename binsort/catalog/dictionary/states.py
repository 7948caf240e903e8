"""States of the dictionary and of the category tree, kept in revisions so that changes of them can be taken back."""

from collections.abc import Iterable
from typing import Any

from django.forms.models import model_to_dict

from binsort.catalog import models

ATTRIBUTE = ("identity", "name", "kind", "unit", "many", "on_variants", "narrowing", "on_pages", "note", "place")
_VALUE = ("identity", "text", "place", "colours", "image", "note")
CATEGORY = ("name", "slug", "path_identity", "place")
State = dict[str, Any]  # attributes by identity, categories by number; None: not there


def attributes_state(identities: Iterable[str]) -> State:
    """Return how some attributes stand in the dictionary."""
    wanted = list(dict.fromkeys(identities))
    rows = models.Attribute.objects.filter(identity__in=wanted).prefetch_related("values")
    states = {
        row.identity: {**model_to_dict(row, ATTRIBUTE), "values": [model_to_dict(value, _VALUE) for value in row.values.all()]}
        for row in rows
    }
    return {name: states.get(name) for name in wanted}


def categories_state(keys: Iterable[int]) -> State:
    """Return how some categories stand in the tree; ``above`` are number and name of those above each, the nearest first."""
    wanted = list(dict.fromkeys(keys))
    rows = {row.pk: row for row in models.Category.objects.all()}

    def above(row: models.Category) -> list[list[Any]]:
        if not row.parent_id:
            return []
        parent = rows[row.parent_id]
        return [[parent.pk, parent.name], *above(parent)]

    def state(row: models.Category) -> dict[str, Any]:
        return {**model_to_dict(row, CATEGORY), "parent": row.parent_id, "above": above(row)}

    return {str(key): state(rows[key]) if key in rows else None for key in wanted}


def same_category(one: dict[str, Any] | None, other: dict[str, Any] | None) -> bool:
    """Tell whether a category stands in one place by one name in two states; what is above it is another's matter."""
    if one is None or other is None:
        return one is other
    return {**one, "above": []} == {**other, "above": []}
