"""Why a product is in a listing: by which values and which article it meets each pick, in words."""

from collections.abc import Sequence
from dataclasses import dataclass

from binsort.catalog.models import Product as Row
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import MONEY
from binsort.core.facets.query import FreeRange
from binsort.core.insight.explanation import explained
from binsort.core.products.product import Product
from binsort.core.values.numbers import exact
from binsort.core.values.text import identity
from binsort.racks.number_words import money

from .asked import Asked
from .cards import matching_articles


@dataclass(frozen=True, slots=True)
class Reason:
    """One pick and what of the product meets it."""

    facet: str
    pick: str
    values: str  # empty where the pick says all


@dataclass(frozen=True, slots=True)
class Why:
    """Why a product is here."""

    reasons: tuple[Reason, ...]
    article: str  # its number, where one of several meets the picks
    search: str  # what was searched for
    is_in: bool  # it meets all picks
    but: tuple[str, ...] = ()  # of one that does not: the picks, each of which alone keeps it out


def why(asked: Asked, product: Product, slot: int | None) -> Why:
    """Return by what a product, in a slot of the index, meets the picks."""
    is_in = slot is not None and slot in asked.state.result
    matching = matching_articles(asked, slot, product) if slot is not None and is_in else ()
    reasons: list[Reason] = []
    if slot is not None and is_in:
        first = int(asked.index.starts[slot])
        at = first + product.variants.index(matching[0]) if matching and product.variants else first
        for facet in asked.state.rack.facets:
            if facet.spec.key in asked.state.picks:
                reasons += _reasons(asked, facet, slot, range(at, at + 1) if product.variants else range(first, first + 1))
    narrowed = bool(product.variants) and len(matching) < len(product.variants)
    return Why(
        reasons=tuple(reasons),
        article=matching[0].sku if narrowed and matching else "",
        search=asked.found.text if asked.found else "",
        is_in=is_in,
        but=_keeping_out(asked, slot) if slot is not None and not is_in else (),
    )


def _keeping_out(asked: Asked, slot: int) -> tuple[str, ...]:
    """Return the picks of each facet without which a product would be in the result."""
    alone = (key for key in asked.state.picks if slot in asked.state.left.without(key).products)
    return tuple(" / ".join(asked.said(key, pick) for pick in asked.state.picks[key].each) for key in alone)


def _reasons(asked: Asked, facet: Facet, slot: int, articles: range) -> list[Reason]:
    picks = asked.state.picks[facet.spec.key]
    found = explained(facet, slot, articles if not facet.spec.matches_all else _all(asked, slot))
    said = []
    for place in found.places:
        if place.bin.key in picks.bins:
            label = asked.said(facet.spec.key, place.bin.key)
            values = ", ".join(text for value in place.values if identity(text := _said(asked, facet, value)) != identity(label))
            said.append(Reason(facet.spec.label, label, values if facet.spec.source.kind != "stock" else ""))
    return said or [_ranged(asked, facet, picked, found.values) for picked in picks.ranges[:1]]


def _ranged(asked: Asked, facet: Facet, picked: FreeRange, values: Sequence[str]) -> Reason:
    return Reason(facet.spec.label, asked.said(facet.spec.key, picked), ", ".join(_said(asked, facet, value) for value in values[:3]))


def _said(asked: Asked, facet: Facet, value: str) -> str:
    """Return a value as people read it: a price with its sign."""
    return money(exact(value), asked.held.currency) if asked.words[facet.spec.key].written == MONEY else value


def _all(asked: Asked, slot: int) -> range:
    return range(int(asked.index.starts[slot]), int(asked.index.starts[slot + 1]))


def slot_of(asked: Asked, product: Product) -> int | None:
    """Return the slot of a product that was read from the database, None where the index does not have it; one query."""
    keys = list(Row.objects.filter(identity=product.id).values_list("pk", flat=True))
    return asked.index.facts.slots(keys)[0] if keys else None
