"""Changes of the dictionary, which carry over to every product and to the facets, draft and live."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import chain
from typing import Any

from django.db.models import Max
from django.utils.translation import gettext as _

from binsort.catalog.dictionary.attributes import definitions, holders, state_mark
from binsort.catalog.dictionary.states import attributes_state
from binsort.catalog.models import Attribute, AttributeValue, Revision
from binsort.core.products.edits import REPLACE, Edit, Field, edited
from binsort.core.products.product import Product, Property
from binsort.core.values.text import identity, normalise
from binsort.racks.attribute_use import dictionary_order

from .followers import follow, of_attribute_renamed, of_values_merged, of_values_ordered, sorts_of_attribute_renamed
from .locks import Refused, change, hold, hold_definitions
from .revisions import Change, begin, note_made, revise_each


class Clash(Refused):
    """The dictionary was changed meanwhile, or a name is taken."""


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


@change
def add_attribute(wanted: Definition, *, actor: Any = None) -> Attribute:
    """Take a new attribute into the dictionary. Raises Clash where there is one of that name."""
    hold()
    hold_definitions()
    key = _free_name(wanted.name)
    last = Attribute.objects.aggregate(last=Max("place"))["last"]
    row = Attribute(identity=key, place=0 if last is None else last + 1)
    _fill(row, wanted)
    row.save()
    revision = begin(Revision.Kind.DICTIONARY, f"New attribute {row.name}", actor=actor)
    note_made(revision, attributes=attributes_state([key]))
    revision.save()
    return row


@change
def change_attribute(row: Attribute, wanted: Definition, *, seen: str = "", actor: Any = None) -> Revision | None:
    """Change a definition; a new name carries over to every product.

    Args:
        row: the attribute.
        wanted: what it is to be.
        seen: the :func:`state_mark` that the user saw; empty to change whatever there is.
        actor: who does it.

    Raises:
        Clash: somebody else changed it meanwhile, or the name is taken.
        Refused: something else is being written.
    """
    row = _locked(row)
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
    revision = _revise(what, renamed, lambda name, product: product and _renamed(product, old_key, row.name), (before, after), actor)
    if key != old_key:
        racks = sorts_of_attribute_renamed(old_name, row.name)
        follow(revision, f"Followed {old_name}, now {row.name}", of_attribute_renamed(old_name, row.name), actor, racks=racks)
    return revision


@change
def remove_attribute(row: Attribute, *, actor: Any = None) -> Revision | None:
    """Take an attribute out of the dictionary and away from every product."""
    row = _locked(row)
    before = attributes_state([row.identity])
    key, name = row.identity, row.name
    row.delete()
    without = lambda _, product: product and _without(product, key)  # noqa: E731
    return _revise(f"Deleted the attribute {name}", holders(key), without, (before, {key: None}), actor)


@change
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
        raise Refused(_("a value cannot be empty. Write what it is to be called."))
    row = _locked(row)
    before = attributes_state([row.identity])
    gone = [normalise(old) for old in olds]
    _merge_definitions(row, gone, target)
    field = Field("attribute", row.name, row.unit)
    edits = [Edit(field, REPLACE, ((target, ""),), (old, "")) for old in gone]

    def becomes(name: str, product: Product | None) -> Product | None:
        for edit in edits if product else ():
            product = product and edited(product, edit)
        return product

    what = f"{'Merged' if len(gone) > 1 else 'Renamed'} {', '.join(gone)} in {row.name} to {target}"
    revision = _revise(what, holders(row.identity), becomes, (before, attributes_state([row.identity])), actor)
    follow(revision, f"Followed {', '.join(gone)}, now {target}", of_values_merged(row.name, gone, target), actor)
    return revision


def _merge_definitions(row: Attribute, gone: Sequence[str], target: str) -> None:
    """Let one definition of a value stand for others."""
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


@change
def describe_value(row: Attribute, text: str, *, colours: Sequence[str] = (), image: str = "", note: str = "", actor: Any = None) -> None:
    """Say how a value looks, or take a new one into the dictionary."""
    word = normalise(text)
    if not word:
        raise Refused(_("a value cannot be empty. Write what it is to be called."))
    row = _locked(row)
    before = attributes_state([row.identity])
    last = row.values.aggregate(last=Max("place"))["last"]
    AttributeValue.objects.update_or_create(
        attribute=row, identity=identity(word),
        defaults={"text": word, "colours": list(colours), "image": image, "note": note},
        create_defaults={"text": word, "colours": list(colours), "image": image, "note": note, "place": 0 if last is None else last + 1},
    )  # fmt: skip
    _record(f"Described {word} in {row.name}", before, actor)


@change
def order_values(row: Attribute, texts: Sequence[str], *, actor: Any = None) -> None:
    """Put the values of a choice into an order; those that the dictionary does not have yet are taken into it."""
    row = _locked(row)
    before = attributes_state([row.identity])
    known = {value.identity: value for value in row.values.all()}
    wanted: dict[str, str] = {}
    for text in texts:
        wanted.setdefault(identity(text), text)
    for place, (key, text) in enumerate(wanted.items()):
        value_row = known.get(key) or AttributeValue(attribute=row, identity=key, text=normalise(text))
        value_row.place = place
        value_row.save()
    what = f"Changed the order of {row.name}"
    follow(_record(what, before, actor), what, of_values_ordered(row.name, dictionary_order(row.name)), actor)


@change
def order_attributes(keys: Sequence[str], *, actor: Any = None) -> None:
    """Put the dictionary into an order; attributes that are not named follow as they were."""
    hold()
    hold_definitions()
    rows = definitions()
    wanted = [rows[key] for key in dict.fromkeys(keys) if key in rows]
    rest = [row for row in rows.values() if row not in wanted]
    before = attributes_state(rows)
    for place, row in enumerate(chain(wanted, rest)):
        row.place = place
    Attribute.objects.bulk_update(rows.values(), ["place"])
    _record("Changed the order of the attributes", before, actor)


def _locked(row: Attribute) -> Attribute:
    """Return a definition as it is now, nobody else changing any. Raises Clash where it is gone."""
    hold()
    hold_definitions()
    locked = Attribute.objects.select_for_update().filter(pk=row.pk).first()
    if locked is None:
        raise Clash(f"somebody else deleted {row.name} meanwhile. Undo that to get it back.")
    return locked


def _revise(
    summary: str, products: Iterable[str], becomes: Change, states: tuple[dict[str, Any], dict[str, Any]], actor: Any
) -> Revision | None:
    before, after = states
    definitions = {"attributes": {"before": before, "after": after}} if before != after else None
    return revise_each(summary, products, becomes, actor=actor, kind=Revision.Kind.DICTIONARY, definitions=definitions)


def _record(summary: str, before: dict[str, Any], actor: Any) -> Revision | None:
    """Remember a change of the dictionary that concerns no product."""
    return _revise(summary, (), lambda name, product: product, (before, attributes_state(before)), actor)


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


def _each(product: Product, becomes: Callable[[tuple[Property, ...]], tuple[Property, ...]]) -> Product:
    variants = tuple(replace(article, properties=becomes(article.properties)) for article in product.variants)
    return replace(product, properties=becomes(product.properties), variants=variants)


def _renamed(product: Product, key: str, name: str) -> Product:
    return _each(product, lambda given: tuple(replace(one, name=name) if identity(one.name) == key else one for one in given))


def _without(product: Product, key: str) -> Product:
    return _each(product, lambda given: tuple(one for one in given if identity(one.name) != key))
