"""Parts: a product taken apart into what can be changed by itself, compared and put together again."""

from collections.abc import Iterable, Mapping
from dataclasses import fields
from typing import Any, TypeAlias

from binsort.core.values.text import identity, path_identity

from .fields import FIELDS
from .product import Offer, Product, Property

Parts: TypeAlias = dict[str, Any]  # by name: a field of a product, "offer.price", "attribute:colour", "variants"

OFFER, ATTRIBUTE = "offer.", "attribute:"
_WHOLE = tuple(item.name for item in fields(Product) if item.name not in ("id", "properties", "offer"))
_OF_OFFER = tuple(item.name for item in fields(Offer))


class Conflict(ValueError):
    """Parts of a product that were changed twice; the text names them."""

    def __init__(self, names: Iterable[str]) -> None:
        self.names = tuple(names)
        super().__init__(", ".join(map(part_words, self.names)))


def parts_of(product: Product) -> Parts:
    """Take a product apart. Where it has variants its own offer is not kept, for theirs go before it.

    >>> [name for name, value in parts_of(Product("A", "Cleat", offer=Offer(price=3))).items() if value]
    ['name', 'visible', 'offer.price']
    """
    parts: Parts = {name: getattr(product, name) for name in _WHOLE}
    offer = Offer() if product.variants else product.offer
    parts |= {OFFER + name: getattr(offer, name) for name in _OF_OFFER}
    for given in product.properties:
        name = ATTRIBUTE + identity(given.name)
        parts[name] = (*parts.get(name, ()), given)
    return parts


def put_together(key: str, parts: Parts) -> Product:
    """Return the product that these parts make."""
    given = [prop for name, value in parts.items() if name.startswith(ATTRIBUTE) for prop in value]
    offer = Offer(**{name: parts[OFFER + name] for name in _OF_OFFER})
    return Product(id=key, properties=tuple(given), offer=offer, **{name: parts[name] for name in _WHOLE})


def differing(one: Product, other: Product) -> list[str]:
    """Return the names of the parts in which two products differ, in the order of the first.

    >>> differing(Product("A", "Cleat", brand="Orrin"), Product("A", "Cleat", tags=("new",)))
    ['brand', 'tags']
    """
    if one == other and _kinds(one) == _kinds(other):
        return []
    mine, others = parts_of(one), parts_of(other)
    return [name for name in dict.fromkeys((*mine, *others)) if not _same(name, mine, others)]


def taken_back(before: Product, after: Product, now: Product, *, anyway: bool = False) -> Product:
    """Return a product with one change taken back and all that was changed besides kept.

    Args:
        before: what the change found.
        after: what it left.
        now: the product as it is.
        anyway: also where that loses a later change.

    Raises:
        Conflict: parts that the change concerns were changed again since.
    """
    old, left, present = parts_of(before), parts_of(after), parts_of(now)
    changed = differing(before, after)
    again = [name for name in changed if not _same(name, left, present) and not _same(name, old, present)]
    if bool(left["variants"]) != bool(present["variants"]):  # its price and stock stand elsewhere by now
        again += [name for name in changed if name.startswith(OFFER) and name not in again]
    if again and not anyway:
        raise Conflict(again)
    return put_together(now.id, {**present, **{name: old.get(name, ()) for name in changed}})


def _same(name: str, one: Mapping[str, Any], other: Mapping[str, Any]) -> bool:
    first, second = one.get(name, ()), other.get(name, ())
    if name == "categories":
        return list(dict.fromkeys(map(path_identity, first))) == list(dict.fromkeys(map(path_identity, second)))
    if name.startswith(ATTRIBUTE):
        return bool(first == second) and _types(first) == _types(second)
    if name == "variants":
        return bool(first == second) and [_types(a.properties) for a in first] == [_types(b.properties) for b in second]
    return bool(first == second)


def _kinds(product: Product) -> list[list[type]]:
    return [_types(given) for given in (product.properties, *(article.properties for article in product.variants))]


def _types(properties: Iterable[Property]) -> list[type]:
    """Return the types of all values, for True equals 1."""
    return [type(value) for given in properties for value in given.values]


_WORDS = {part: field.label.lower() for field in FIELDS for part in field.parts}


def part_words(name: str) -> str:
    """Return what people call a part.

    >>> part_words("offer.level"), part_words("attribute:breaking load"), part_words("brand")
    ('stock', 'breaking load', 'brand')
    """
    return _WORDS.get(name) or name.removeprefix(ATTRIBUTE).removeprefix(OFFER)
