"""Defining: attributes that come in with products get a definition in the dictionary, as what is said of them suggests."""

from collections.abc import Sequence

from django.db.models import Max

from binsort.core.numbers import day
from binsort.core.products import Product, Property, Written
from binsort.core.text import identity

from .models import Attribute

_LONG = 40  # characters on average from which words are a text and no choice


def register(products: Sequence[Product]) -> None:
    """Take attributes that the dictionary does not have into it, defined as what the products say suggests."""
    said: dict[str, list[tuple[Property, bool]]] = {}
    for product in products:
        for given in product.properties:
            said.setdefault(given.name, []).append((given, False))
        for article in product.variants:
            for given in article.properties:
                said.setdefault(given.name, []).append((given, True))
    found: dict[str, list[tuple[Property, bool]]] = {}
    for name, rows in said.items():
        found.setdefault(identity(name), []).extend(rows)
    known = set(Attribute.objects.filter(identity__in=found).values_list("identity", flat=True))
    new = {key: rows for key, rows in found.items() if key not in known}
    if new:
        last = Attribute.objects.aggregate(last=Max("place"))["last"]
        start = 0 if last is None else last + 1
        rows = [_defined(key, given, start + place) for place, (key, given) in enumerate(new.items())]
        Attribute.objects.bulk_create(rows, ignore_conflicts=True)


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
