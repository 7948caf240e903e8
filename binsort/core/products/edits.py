"""Edits: setting, adding, removing and replacing values of one field of a product, whatever kind it is."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeAlias

from binsort.core.values.dates import moment_text
from binsort.core.values.numbers import Unusable, written
from binsort.core.values.text import identity, path_identity
from binsort.core.values.units import convert

from .fields import FIELDS, OF_OFFERS
from .product import Offer, Product, Property, Sale, Variant, Written

SET, ADD, REMOVE, REPLACE, EMPTY = "set", "add", "remove", "replace", "empty"
WAYS = (SET, ADD, REMOVE, REPLACE, EMPTY)  # of changing many; emptying is setting to nothing, and never what a forgotten value does
LISTS = frozenset(
    {"attribute", *(field.key for field in FIELDS if field.many and not field.of_offer)}
)  # kinds that may hold several values
OF_OFFER = frozenset(OF_OFFERS)
Held: TypeAlias = tuple[Any, str]  # a value and its unit; of categories a path


class Varies(ValueError):
    """The variants of a product differ in a field, so that one value for all of them would lose something."""


@dataclass(frozen=True, slots=True)
class Field:
    """What is edited: a kind (a field of a product or its offer, or an attribute), and the attribute's name and unit."""

    kind: str
    name: str = ""
    unit: str = ""

    @property
    def key(self) -> str:
        """How pages name it."""
        return f"attribute:{identity(self.name)}" if self.kind == "attribute" else self.kind


@dataclass(frozen=True, slots=True)
class Edit:
    """One change of a field. ``old`` is what :data:`REPLACE` looks for."""

    field: Field
    way: str
    values: tuple[Held, ...]
    old: Held | None = None


def held_and_varies(product: Product, field: Field) -> tuple[tuple[Held, ...], bool]:
    """Return the values of a field as :func:`held` does, and whether its variants differ, in one go."""
    holders = _holders(product, field)
    if len(holders) == 1:
        return _each_once(holders), False
    return _each_once(holders), any(not _all_same(values, holders[0]) for values in holders[1:])


def held(product: Product, field: Field) -> tuple[Held, ...]:
    """Return the values of a field, each once; those of variants behind those of the product.

    >>> held(Product("A", "Cleat", properties=(Property("Length", (12,), "mm"),)), Field("attribute", "length", "mm"))
    ((12, 'mm'),)
    """
    return _each_once(_holders(product, field))


def _each_once(holders: Sequence[tuple[Held, ...]]) -> tuple[Held, ...]:
    if len(holders) == 1 and len(holders[0]) < 2:
        return holders[0]
    once: list[Held] = []
    for values in holders:
        once += [value for value in values if not any(is_same(value, other) for other in once)]
    return tuple(once)


def varies(product: Product, field: Field) -> bool:
    """Tell whether the variants of a product differ in a field."""
    holders = _holders(product, field)
    return any(not _all_same(values, holders[0]) for values in holders[1:])


def edited(product: Product, edit: Edit) -> Product:
    """Return the product with one field edited.

    Raises:
        Varies: a value is to be set for variants that have different ones.
    """
    field = edit.field
    if edit.way == SET and varies(product, field):
        raise Varies
    return _with(product, field, lambda values: _changed(values, edit))


def _changed(values: tuple[Held, ...], edit: Edit) -> tuple[Held, ...]:
    if edit.way == SET:
        return edit.values
    if edit.way == ADD:
        return (*values, *(new for new in edit.values if not any(is_same(new, old) for old in values)))
    if edit.way == REMOVE:
        return tuple(old for old in values if not any(is_same(old, gone) for gone in edit.values))
    if edit.old is None or not any(is_same(value, edit.old) for value in values):
        return values
    kept: list[Held] = []
    for value in values:
        for new in edit.values if is_same(value, edit.old) else (value,):
            if not any(is_same(new, other) for other in kept):
                kept.append(new)
    return tuple(kept)


def is_same(one: Held, other: Held) -> bool:
    """Tell whether two values are one: texts by value identity, numbers exactly, in whatever unit."""
    first, second = one[0], other[0]
    if isinstance(first, Sale) or isinstance(second, Sale):
        return bool(first == second)
    if isinstance(first, tuple) or isinstance(second, tuple):
        return isinstance(first, tuple) and isinstance(second, tuple) and path_identity(first) == path_identity(second)
    if _is_number(first) and _is_number(second):
        here = first if not one[1] or not other[1] or one[1] == other[1] else convert(first, one[1], other[1])
        return bool(here == second)
    return not _is_number(first) and not _is_number(second) and identity(plain_text(first)) == identity(plain_text(second))


def _is_number(value: Any) -> bool:
    return not isinstance(value, bool | str | Unusable | tuple | Sale)


def plain_text(value: Any) -> str:
    """Write a value without its unit."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Unusable):
        return value.reason
    if isinstance(value, tuple):
        return " > ".join(value)
    if isinstance(value, Sale):
        return sale_text(value)
    return value if isinstance(value, str) else written(value)


def sale_text(sale: Sale) -> str:
    """Write a sale price with its window, as it is typed.

    >>> sale_text(Sale(9)), sale_text(Sale(9, 63_854_006_400, 63_854_092_800))
    ('9', '9 from 2024-06-14 to 2024-06-14')
    """
    start = f" from {moment_text(sale.start)}" if sale.start is not None else ""
    return f"{written(sale.price)}{start}{f' to {moment_text(sale.end, end=True)}' if sale.end is not None else ''}"


def value_text(value: Held, field: Field) -> str:
    """Write a value as it is typed into a field; the unit only where it is another than the field's.

    >>> value_text((12, "mm"), Field("attribute", "Length", "mm")), value_text((12, "cm"), Field("attribute", "Length", "mm"))
    ('12', '12 cm')
    """
    text = plain_text(value[0])
    return f"{text} {value[1]}" if value[1] and value[1] != field.unit else text


# -- where the values of a field are


def _holders(product: Product, field: Field) -> list[tuple[Held, ...]]:
    """Return the values of each holder of a field: the product, or each of its variants."""
    if field.kind in OF_OFFER:
        return [_of_offer(article.offer, field.kind) for article in product.articles]
    if field.kind != "attribute":
        held_value = getattr(product, field.kind)
        return [tuple((value, "") for value in held_value)] if field.kind in LISTS else [_one(held_value)]
    own = _given(product.properties, field.name)
    if not any(_given(article.properties, field.name) for article in product.variants):
        return [own]
    return [_given(article.properties, field.name) or own for article in product.variants]


def _one(value: Any) -> tuple[Held, ...]:
    return () if value is None or value == "" else ((value, ""),)


def _of_offer(offer: Offer, kind: str) -> tuple[Held, ...]:
    return tuple((sale, "") for sale in offer.sales) if kind == "sales" else _one(getattr(offer, kind))


def _given(properties: Sequence[Property], name: str) -> tuple[Held, ...]:
    wanted = identity(name)
    return tuple((value, given.unit or "") for given in properties if identity(given.name) == wanted for value in given.values)


def _all_same(one: tuple[Held, ...], other: tuple[Held, ...]) -> bool:
    return len(one) == len(other) and all(map(is_same, one, other))


def _with(product: Product, field: Field, change: Callable[[tuple[Held, ...]], tuple[Held, ...]]) -> Product:
    if field.kind in OF_OFFER:
        return _with_offers(product, field.kind, change)
    if field.kind != "attribute":
        values = change(_holders(product, field)[0])
        plain = tuple(value for value, _ in values) if field.kind in LISTS else _single(values, getattr(product, field.kind))
        changed: dict[str, Any] = {field.kind: plain}
        return replace(product, **changed)
    if not any(_given(article.properties, field.name) for article in product.variants):
        return replace(product, properties=_with_given(product.properties, field, change))
    own = _given(product.properties, field.name)
    return replace(
        product,
        properties=_with_given(product.properties, field, lambda values: ()),
        variants=tuple(_of_variant(article, field, own, change) for article in product.variants),
    )


def _of_variant(article: Variant, field: Field, own: tuple[Held, ...], change: Callable[[tuple[Held, ...]], tuple[Held, ...]]) -> Variant:
    return replace(article, properties=_with_given(article.properties, field, lambda values: change(values or own)))


def _single(values: tuple[Held, ...], like: Any) -> Any:
    if values:
        return values[-1][0]
    return "" if isinstance(like, str) else None


def _with_offers(product: Product, kind: str, change: Callable[[tuple[Held, ...]], tuple[Held, ...]]) -> Product:
    def changed(offer: Offer) -> Offer:
        values = change(_of_offer(offer, kind))
        if kind == "sales":
            return replace(offer, sales=tuple(sale for sale, _ in values), has_sale_entry=bool(values))
        single: dict[str, Any] = {kind: _single(values, "" if kind == "availability" else None)}
        return replace(offer, **single)

    if not product.variants:
        return replace(product, offer=changed(product.offer))
    return replace(product, variants=tuple(replace(article, offer=changed(article.offer)) for article in product.variants))


def _with_given(
    properties: tuple[Property, ...], field: Field, change: Callable[[tuple[Held, ...]], tuple[Held, ...]]
) -> tuple[Property, ...]:
    """Return properties with the values of one attribute changed, where it first stood, else at the end."""
    wanted = identity(field.name)
    mine = [given for given in properties if identity(given.name) == wanted]
    before = _given(properties, field.name)
    after = change(before)
    if before == after and list(map(type, before)) == list(map(type, after)):
        return properties
    replaced = _properties(mine[0].name if mine else field.name, after)
    place = properties.index(mine[0]) if mine else len(properties)
    others = [(at, given) for at, given in enumerate(properties) if identity(given.name) != wanted]
    return (*(given for at, given in others if at < place), *replaced, *(given for at, given in others if at > place))


def _properties(name: str, values: tuple[Held, ...]) -> list[Property]:
    """Return values as properties: one for each run of values of one unit."""
    runs: list[tuple[str, list[Written]]] = []
    for value, unit in values:
        if runs and runs[-1][0] == unit:
            runs[-1][1].append(value)
        else:
            runs.append((unit, [value]))
    return [Property(name, tuple(run), unit or None) for unit, run in runs]
