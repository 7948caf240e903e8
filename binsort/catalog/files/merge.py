"""Merging: what a table says of a product into what is known of it; what the table has no column for stays."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import fields, replace

from binsort.core.products.fields import FIELDS
from binsort.core.products.parts import ATTRIBUTE, OFFER, Parts, parts_of, put_together
from binsort.core.products.product import Offer, Product, Variant
from binsort.core.values.text import identity

from .columns import MappedColumn

_PARTS = {field.columns[0].kind: field.parts for field in FIELDS}


class PriceOfMany(ValueError):
    """A table gives one price or stock for a product whose variants have their own."""


Covered = Mapping[str, None]  # names of parts, in the order of the columns


def covered(columns: Iterable[MappedColumn]) -> Covered:
    """Return the parts of a product that a table has columns for."""
    parts: dict[str, None] = {}
    for column in columns:
        names = (ATTRIBUTE + identity(column.name),) if column.kind == "attribute" and column.name else _PARTS.get(column.kind, ())
        parts.update(dict.fromkeys(names))
    return parts


def merged(known: Product, told: Product, parts: Covered, *, has_parents: bool, only_variants: bool) -> Product:
    """Return a product with what a table says of it.

    Args:
        known: what it is.
        told: what the table makes of its rows.
        parts: what the table has columns for.
        has_parents: the table lists variants, so that those it leaves out go.
        only_variants: its rows are of some variants; the product itself and its others stay.

    Raises:
        PriceOfMany: one price or stock is given for several variants.
    """
    product = known if only_variants else _product(known, told, parts)
    if not has_parents and not only_variants and known.variants and told.offer != Offer():
        raise PriceOfMany
    if not told.variants:
        return replace(product, variants=(), offer=_offer(known.offer, told.offer, parts)) if has_parents else product
    by_sku = {article.sku: article for article in known.variants}
    listed = {article.sku: _variant(by_sku.get(article.sku), article, parts) for article in told.variants}
    if not has_parents:
        return replace(product, variants=tuple(listed.get(article.sku, article) for article in known.variants))
    same = len(listed) == len(told.variants)
    variants = tuple(listed.values()) if same else tuple(_variant(by_sku.get(article.sku), article, parts) for article in told.variants)
    return replace(product, variants=variants)


def _product(known: Product, told: Product, parts: Covered) -> Product:
    old, new = parts_of(known), parts_of(told)
    if known.variants:
        new = {name: value for name, value in new.items() if not name.startswith(OFFER)}
    return put_together(known.id, _overlaid(old, new, parts))


def _overlaid(old: Parts, new: Parts, parts: Covered) -> Parts:
    return {**old, **{name: new.get(name, ()) for name in parts if name in new or name.startswith(ATTRIBUTE)}}


def _variant(known: Variant | None, told: Variant, parts: Covered) -> Variant:
    if known is None:
        return told
    kept = tuple(given for given in known.properties if ATTRIBUTE + identity(given.name) not in parts)
    image = told.image if "image" in parts else known.image
    return Variant(known.sku, _offer(known.offer, told.offer, parts), _in_order(known, (*kept, *told.properties)), image)


def _in_order(known: Variant, given: Sequence) -> tuple:  # type: ignore[type-arg]
    """Return properties in the order in which they stood before, new ones behind."""
    places = {identity(prop.name): place for place, prop in reversed(list(enumerate(known.properties)))}
    return tuple(sorted(given, key=lambda prop: places.get(identity(prop.name), len(places))))


def _offer(known: Offer, told: Offer, parts: Covered) -> Offer:
    changed = {item.name: getattr(told, item.name) for item in fields(Offer) if OFFER + item.name in parts}
    return replace(known, **changed)
