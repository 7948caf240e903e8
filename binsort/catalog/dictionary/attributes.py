"""The dictionary of attributes: what there is, and which products give it."""

from django.db import connection
from django.db.models import Q

from binsort.catalog import models
from binsort.catalog.models import Attribute
from binsort.core.values.text import identity


def definitions() -> dict[str, Attribute]:
    """Return every definition by the identity of its name, in the order of the dictionary."""
    return {row.identity: row for row in Attribute.objects.all()}


def spellings(key: str) -> list[str]:
    """Return the ways in which products write an attribute's name."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT DISTINCT given->>'name' FROM catalog_product, jsonb_array_elements(properties) given"
            " UNION SELECT DISTINCT given->>'name' FROM catalog_variant, jsonb_array_elements(properties) given"
        )
        return [name for (name,) in cursor.fetchall() if identity(name) == key]


def attribute_counts() -> dict[str, int]:
    """Return how many products have each attribute, by the identity of its name."""
    counts: dict[str, int] = {}
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT name, count(DISTINCT product) FROM ("
            " SELECT id AS product, given->>'name' AS name FROM catalog_product, jsonb_array_elements(properties) given"
            " UNION ALL"
            " SELECT product_id, given->>'name' FROM catalog_variant, jsonb_array_elements(properties) given) said GROUP BY name"
        )
        for name, count in cursor.fetchall():
            counts[identity(name)] = counts.get(identity(name), 0) + count
    return counts


def holders(key: str) -> list[str]:
    """Return the identities of the products that give an attribute, themselves or by a variant, in the order of the catalogue."""
    wanted = Q()
    names = spellings(key)
    if not names:
        return []
    for name in names:
        given = [{"name": name}]
        wanted |= Q(properties__contains=given) | Q(pk__in=models.Variant.objects.filter(properties__contains=given).values("product"))
    return list(models.Product.objects.filter(wanted).values_list("identity", flat=True))


def state_mark(row: Attribute) -> str:
    """Return a text that changes whenever a definition does."""
    plain = (row.name, row.kind, row.unit, row.many, row.on_variants, row.narrowing, row.on_pages, row.note)
    return "|".join(map(str, plain))
