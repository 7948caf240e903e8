"""States of the dictionary and of the category tree, kept in revisions so that changes of them can be taken back."""

from collections.abc import Iterable
from typing import Any

from django.forms.models import model_to_dict

from . import models

_ATTRIBUTE = ("identity", "name", "kind", "unit", "many", "on_variants", "narrowing", "on_pages", "note", "place")
_VALUE = ("identity", "text", "place", "colours", "image", "note")
_CATEGORY = ("name", "slug", "path_identity", "place")
State = dict[str, dict[str, Any]]  # "attributes" by identity, "categories" by number; None: not there


def attributes_state(identities: Iterable[str]) -> dict[str, Any]:
    """Return how some attributes stand in the dictionary."""
    wanted = list(dict.fromkeys(identities))
    rows = models.Attribute.objects.filter(identity__in=wanted).prefetch_related("values")
    found = {
        row.identity: {**model_to_dict(row, _ATTRIBUTE), "values": [model_to_dict(value, _VALUE) for value in row.values.all()]}
        for row in rows
    }
    return {name: found.get(name) for name in wanted}


def categories_state(keys: Iterable[int]) -> dict[str, Any]:
    """Return how some categories stand in the tree."""
    wanted = list(dict.fromkeys(keys))
    rows = {row.pk: row for row in models.Category.objects.filter(pk__in=wanted)}
    return {str(key): {**model_to_dict(rows[key], _CATEGORY), "parent": rows[key].parent_id} if key in rows else None for key in wanted}


def put_back(kept: dict[str, Any], *, anyway: bool, clashes: list[str]) -> None:
    """Put definitions back to what they were; what was changed since goes into ``clashes``."""
    attributes = kept.get("attributes")
    if attributes:
        now = attributes_state(attributes["after"])
        clashes += [
            f"the attribute {(row or attributes['before'][key])['name']}" for key, row in attributes["after"].items() if now[key] != row
        ]
        for key, row in attributes["before"].items():
            _put_attribute(key, row)
    categories = kept.get("categories")
    if categories:
        now = categories_state(map(int, categories["after"]))
        clashes += [
            f"the category {(row or categories['before'][key])['name']}" for key, row in categories["after"].items() if now[key] != row
        ]
        if anyway or not clashes:
            _put_categories(categories["before"])


def _put_attribute(key: str, row: dict[str, Any] | None) -> None:
    if row is None:
        models.Attribute.objects.filter(identity=key).delete()
        return
    plain = {name: row[name] for name in _ATTRIBUTE}
    attribute, _ = models.Attribute.objects.update_or_create(identity=key, defaults=plain)
    attribute.values.all().delete()
    models.AttributeValue.objects.bulk_create(models.AttributeValue(attribute=attribute, **value) for value in row["values"])


def _put_categories(rows: dict[str, Any]) -> None:
    """Put categories back, those above first; what they were called meanwhile is out of the way first."""
    there = models.Category.objects.filter(pk__in=list(map(int, rows)))
    for row in there:
        models.Category.objects.filter(pk=row.pk).update(path_identity=f"\x01{row.pk}", slug=f"\x01{row.pk}")
    waiting = {int(key): row for key, row in rows.items() if row is not None}
    while waiting:
        ready = [key for key, row in waiting.items() if row["parent"] not in waiting]
        for key in ready:
            row = waiting.pop(key)
            models.Category.objects.update_or_create(
                pk=key, defaults={**{name: row[name] for name in _CATEGORY}, "parent_id": row["parent"]}
            )
    models.Category.objects.filter(pk__in=[int(key) for key, row in rows.items() if row is None]).delete()
