"""The dictionary: what attributes there are, and changes of them that carry over to every product."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import chain
from typing import Any

from django.db import connection, transaction
from django.db.models import Max, Q

from binsort.core.edits import REPLACE, Edit, Field, edited
from binsort.core.products import Product
from binsort.core.text import identity, normalise

from . import models
from .definitions import attributes_state
from .models import Attribute, AttributeValue, Revision
from .revising import Refused, revise_each


class Clash(Refused):
    """The dictionary was changed meanwhile, or a name is taken."""


def definitions() -> dict[str, Attribute]:
    """Return every definition by the identity of its name, in the order of the dictionary."""
    return {row.identity: row for row in Attribute.objects.all()}


# -- what an attribute touches


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
    found: dict[str, int] = {}
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT name, count(DISTINCT product) FROM ("
            " SELECT id AS product, given->>'name' AS name FROM catalog_product, jsonb_array_elements(properties) given"
            " UNION ALL"
            " SELECT product_id, given->>'name' FROM catalog_variant, jsonb_array_elements(properties) given) said GROUP BY name"
        )
        for name, count in cursor.fetchall():
            found[identity(name)] = found.get(identity(name), 0) + count
    return found


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


# -- changes


@dataclass(frozen=True, slots=True)
class Definition:
    """What the owner says of an attribute."""

    name: str
    kind: str
    unit: str = ""
    many: bool = False
    on_variants: bool = False
    narrowing: bool = True
    on_pages: bool = True
    note: str = ""


@transaction.atomic
def add_attribute(wanted: Definition, *, actor: Any = None) -> Attribute:
    """Take a new attribute into the dictionary. Raises Clash where there is one of that name."""
    key = _free_name(wanted.name)
    last = Attribute.objects.aggregate(last=Max("place"))["last"]
    row = Attribute(identity=key, place=0 if last is None else last + 1)
    _fill(row, wanted)
    row.save()
    _record(f"New attribute {row.name}", {key: None}, actor)
    return row


@transaction.atomic
def change_attribute(row: Attribute, wanted: Definition, *, seen: str = "", actor: Any = None) -> Revision | None:
    """Change a definition; a new name carries over to every product.

    Args:
        row: the attribute.
        wanted: what it is to be.
        seen: the :func:`state_mark` that the user saw; empty to change whatever there is.
        actor: who does it.

    Raises:
        Clash: somebody else changed it meanwhile, or the name is taken.
        Refused: a file is being brought in.
    """
    row = Attribute.objects.select_for_update().get(pk=row.pk)
    if seen and seen != state_mark(row):
        raise Clash(f"Somebody else changed {row.name} meanwhile. You see it as it is now; make your change again.")
    old_key, old_name, key = row.identity, row.name, identity(wanted.name)
    if key != old_key:
        _free_name(wanted.name)
    before = attributes_state({old_key, key})
    _fill(row, wanted)
    row.identity = key
    row.save()
    after = attributes_state(before)
    if before == after:
        return None
    what = f"Renamed {old_name} to {row.name}" if old_name != row.name else f"Changed the attribute {row.name}"
    renamed = holders(old_key) if old_name != row.name else []
    return revise_each(
        what, renamed, lambda name, product: product and _renamed(product, old_key, row.name), actor=actor,
        kind=Revision.Kind.DICTIONARY, definitions={"attributes": {"before": before, "after": after}},
    )  # fmt: skip


@transaction.atomic
def remove_attribute(row: Attribute, *, actor: Any = None) -> Revision | None:
    """Take an attribute out of the dictionary and away from every product."""
    before = attributes_state([row.identity])
    key, name = row.identity, row.name
    row.delete()
    return revise_each(
        f"Deleted the attribute {name}", holders(key), lambda _, product: product and _without(product, key), actor=actor,
        kind=Revision.Kind.DICTIONARY, definitions={"attributes": {"before": before, "after": {key: None}}},
    )  # fmt: skip


@transaction.atomic
def merge_values(row: Attribute, olds: Iterable[str], new: str, *, actor: Any = None) -> Revision | None:
    """Put one value in place of others, on every product; a single other one is thereby renamed.

    Args:
        row: the attribute.
        olds: the values that go, as written anywhere.
        new: the value that stays; it may be new.
        actor: who does it.

    Raises:
        Refused: the new value is empty, or a file is being brought in.
    """
    target = normalise(new)
    if not target:
        raise Refused("a value cannot be empty. Write what it is to be called.")
    before = attributes_state([row.identity])
    gone = [normalise(old) for old in olds]
    kept = row.values.filter(identity=identity(target)).first()
    for old in row.values.filter(identity__in=[identity(text) for text in gone]).exclude(identity=identity(target)):
        if kept is None:
            old.text, old.identity = target, identity(target)
            old.save()
            kept = old
        else:
            old.delete()
    if kept is not None and kept.text != target:
        kept.text = target
        kept.save()
    field = Field("attribute", row.name, row.unit)
    edits = [Edit(field, REPLACE, ((target, ""),), (old, "")) for old in gone]

    def change(name: str, product: Product | None) -> Product | None:
        for edit in edits if product else ():
            product = edited(product, edit)  # type: ignore[arg-type]
        return product

    listed = ", ".join(gone)
    after = attributes_state([row.identity])
    return revise_each(
        f"{'Merged' if len(gone) > 1 else 'Renamed'} {listed} in {row.name} to {target}", holders(row.identity), change, actor=actor,
        kind=Revision.Kind.DICTIONARY, definitions={"attributes": {"before": before, "after": after}} if before != after else None,
    )  # fmt: skip


@transaction.atomic
def describe_value(row: Attribute, text: str, *, colours: Sequence[str] = (), image: str = "", note: str = "", actor: Any = None) -> None:
    """Say how a value looks, or take a new one into the dictionary."""
    word = normalise(text)
    if not word:
        raise Refused("a value cannot be empty. Write what it is to be called.")
    before = attributes_state([row.identity])
    last = row.values.aggregate(last=Max("place"))["last"]
    AttributeValue.objects.update_or_create(
        attribute=row, identity=identity(word),
        defaults={"text": word, "colours": list(colours), "image": image, "note": note},
        create_defaults={"text": word, "colours": list(colours), "image": image, "note": note, "place": 0 if last is None else last + 1},
    )  # fmt: skip
    _record(f"Described {word} in {row.name}", before, actor)


@transaction.atomic
def order_values(row: Attribute, texts: Sequence[str], *, actor: Any = None) -> None:
    """Put the values of a choice into an order; those that the dictionary does not have yet are taken into it."""
    before = attributes_state([row.identity])
    known = {value.identity: value for value in row.values.all()}
    wanted: dict[str, str] = {}
    for text in texts:
        wanted.setdefault(identity(text), text)
    for place, (key, text) in enumerate(wanted.items()):
        found = known.get(key) or AttributeValue(attribute=row, identity=key, text=normalise(text))
        found.place = place
        found.save()
    _record(f"Changed the order of {row.name}", before, actor)


@transaction.atomic
def order_attributes(keys: Sequence[str], *, actor: Any = None) -> None:
    """Put the dictionary into an order; attributes that are not named follow as they were."""
    rows = definitions()
    wanted = [rows[key] for key in dict.fromkeys(keys) if key in rows]
    rest = [row for row in rows.values() if row not in wanted]
    before = attributes_state(rows)
    for place, row in enumerate(chain(wanted, rest)):
        row.place = place
    Attribute.objects.bulk_update(rows.values(), ["place"])
    _record("Changed the order of the attributes", before, actor)


def state_mark(row: Attribute) -> str:
    """Return a text that changes whenever a definition does."""
    plain = (row.name, row.kind, row.unit, row.many, row.on_variants, row.narrowing, row.on_pages, row.note)
    return "|".join(map(str, plain))


def _record(summary: str, before: dict[str, Any], actor: Any) -> None:
    """Remember a change of the dictionary that concerns no product."""
    after = attributes_state(before)
    if after != before:
        revise_each(
            summary, (), lambda name, product: product, actor=actor, kind=Revision.Kind.DICTIONARY,
            definitions={"attributes": {"before": before, "after": after}},
        )  # fmt: skip


def _free_name(name: str) -> str:
    if not normalise(name):
        raise Clash("An attribute needs a name.")
    if Attribute.objects.filter(identity=identity(name)).exists():
        raise Clash(f"There is an attribute {normalise(name)} already. Choose another name, or use that one.")
    return identity(name)


def _fill(row: Attribute, wanted: Definition) -> None:
    row.name, row.kind, row.unit = (
        normalise(wanted.name),
        wanted.kind,
        normalise(wanted.unit) if wanted.kind == Attribute.Kind.NUMBER else "",
    )
    row.many, row.on_variants, row.note = wanted.many, wanted.on_variants, wanted.note
    row.narrowing, row.on_pages = wanted.narrowing, wanted.on_pages


def _each(product: Product, change: Any) -> Product:
    variants = tuple(replace(article, properties=change(article.properties)) for article in product.variants)
    return replace(product, properties=change(product.properties), variants=variants)


def _renamed(product: Product, key: str, name: str) -> Product:
    return _each(product, lambda given: tuple(replace(one, name=name) if identity(one.name) == key else one for one in given))


def _without(product: Product, key: str) -> Product:
    return _each(product, lambda given: tuple(one for one in given if identity(one.name) != key))
