"""Kinds of attributes: what is said of an attribute suggests its definition."""

from collections.abc import Mapping, Sequence

from django.db.models import Max

from binsort.catalog.models import Attribute
from binsort.core.products.product import Product, Property, Written
from binsort.core.values.dates import day
from binsort.core.values.text import identity

_LONG = 40  # characters on average from which words are a text and no choice


def missing_attributes(products: Sequence[Product]) -> dict[str, list[tuple[Property, bool]]]:
    """Return what products say of attributes that the dictionary does not have: each with whether a variant says it, by identity."""
    by_name: dict[str, list[tuple[Property, bool]]] = {}
    for product in products:
        for given in product.properties:
            by_name.setdefault(given.name, []).append((given, False))
        for article in product.variants:
            for given in article.properties:
                by_name.setdefault(given.name, []).append((given, True))
    missing: dict[str, list[tuple[Property, bool]]] = {}
    for name, rows in by_name.items():
        missing.setdefault(identity(name), []).extend(rows)
    known = set(Attribute.objects.filter(identity__in=missing).values_list("identity", flat=True))
    return {key: rows for key, rows in missing.items() if key not in known}


def make_attributes(missing: Mapping[str, Sequence[tuple[Property, bool]]]) -> list[str]:
    """Take attributes into the dictionary, defined as what is said of them suggests; returns their identities."""
    last = Attribute.objects.aggregate(last=Max("place"))["last"]
    start = 0 if last is None else last + 1
    Attribute.objects.bulk_create(_defined(key, given, start + place) for place, (key, given) in enumerate(missing.items()))
    return list(missing)


def _defined(key: str, rows: Sequence[tuple[Property, bool]], place: int) -> Attribute:
    values = [value for given, _ in rows for value in given.values]
    return Attribute(
        identity=key,
        name=rows[0][0].name,
        kind=guessed_kind(values),
        unit=next((given.unit for given, _ in rows if given.unit), ""),
        many=any(len(given.values) > 1 for given, _ in rows),
        on_variants=any(varies for _, varies in rows),
        place=place,
    )


def guessed_kind(values: Sequence[Written]) -> str:
    """Return the kind of attribute that has such values.

    >>> guessed_kind(["Navy", "Red"]), guessed_kind([12, 14]), guessed_kind([True, "no"]), guessed_kind(["2026-01-31"])
    ('choice', 'number', 'yes_no', 'date')
    """
    texts = [value for value in values if isinstance(value, str)]
    flags = sum(isinstance(value, bool) or (isinstance(value, str) and identity(value) in ("yes", "no")) for value in values)
    if flags == len(values):
        return Attribute.Kind.YES_NO if values else Attribute.Kind.CHOICE
    if not texts:
        return Attribute.Kind.NUMBER
    if len(texts) == len(values) and all(day(text) for text in texts):
        return Attribute.Kind.DATE
    is_long = sum(map(len, texts)) > _LONG * len(texts)
    return Attribute.Kind.TEXT if is_long else Attribute.Kind.CHOICE
