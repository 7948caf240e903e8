"""Answers of the API, built of what the shop's own pages are built of."""

from collections.abc import Iterable
from typing import Any

from binsort.catalog.store.category_paths import category_paths
from binsort.core.products.product import Product
from binsort.core.values.text import identity
from binsort.racks.addresses import toggled
from binsort.racks.shown_facet import Choice, Shown
from binsort.racks.sort_words import sort_words
from binsort.shopfront.asked import Asked
from binsort.shopfront.cards import Card
from binsort.shopfront.linked_data import Absolute
from binsort.shopfront.listings import ListingPage
from binsort.shopfront.products import ProductView
from binsort.shopfront.suggestions import suggestions
from binsort.tally.current import Current

Document = dict[str, Any]


_ADDRESSES = ("image", "address")


def with_hosts(node: Any, absolute: Absolute) -> Any:
    """Return an answer in which the addresses of this shop have their scheme and host."""
    if isinstance(node, list):
        return [with_hosts(one, absolute) for one in node]
    if not isinstance(node, dict):
        return node
    return {name: absolute(value) if name in _ADDRESSES and value else with_hosts(value, absolute) for name, value in node.items()}


def listing_document(page: ListingPage) -> Document:
    """Return a listing."""
    asked = page.asked
    facets = [(where, placed.facet) for where in ("above", "side", "below") for placed in getattr(page, where)]
    return {
        "title": page.title,
        "category": " > ".join(category.name for category in page.trail) or None,
        "query": _query(page.address),
        "address": asked.shop_address,
        "total": page.total,
        "whole": page.listing,
        "search": page.search,
        "forgiven": list(page.forgiven),
        "said": [*page.notices, *(wrong[1] for ends in asked.typed.wrong.values() for wrong in ends.values())],
        "currency": asked.held.currency,
        "sorts": [{"key": sort.key, "words": sort_words(sort), "chosen": sort.key == page.sort} for sort in asked.sorts],
        "facets": [_facet(asked, where, facet) for where, facet in facets],
        "picks": [
            {"facet": pick.key, "key": pick.value, "label": pick.label, "facet_label": pill.label, "query": _query(pick.without)}
            for pill in page.pills
            for pick in pill.picks
        ],
        "clear": _query(page.clear),
        "page": page.page,
        "pages": page.pages,
        "per": asked.per,
        "products": _cards(asked, page.slots, page.cards),
        "following": _query(page.next),
        "ways_out": [
            {"labels": [label for label, _ in way.labels], "total": way.total, "words": way.words, "query": _query(way.address)}
            for way in (page.ways_out if not page.total else ())
        ],
    }


def suggestions_document(asked: Asked) -> Document:
    """Return suggestions for what is searched for."""
    found = suggestions(asked)
    if found is None:
        return {"text": "", "total": 0, "bins": [], "products": [], "forgiven": []}
    return {
        "text": found.text,
        "total": found.total,
        "bins": [{"label": bin.label, "facet": bin.facet, "total": bin.total, "query": _query(bin.address)} for bin in found.bins],
        "products": _cards(asked, asked.part(0, len(found.products)), found.products),
        "forgiven": list(found.forgiven),
    }


def product_document(page: ProductView, product: Product) -> Document:
    """Return a product."""
    return {
        "id": page.id,
        "name": page.name,
        "brand": page.brand,
        "description": page.description,
        "image": page.image,
        "url": product.url,
        "address": page.address,
        "price": page.price,
        "was": page.was,
        "stock": page.stock,
        "stock_words": page.stock_words,
        "rating": page.rating,
        "reviews": page.review_count,
        "facts": dict(page.facts),
        "articles": [
            {
                "sku": article.sku,
                "options": dict(zip(page.option_names, article.options, strict=True)),
                **{name: getattr(article, name) for name in ("price", "was", "stock", "stock_words", "image", "matches", "chosen")},
            }
            for article in page.articles
        ],
        "reasons": [{"facet": one.facet, "pick": one.pick, "values": one.values} for one in (page.why.reasons if page.why else ())],
        "kept_out_by": list(page.why.but) if page.why else [],
    }


def categories_document(held: Current) -> list[Document]:
    """Return the categories that have products, depth first in the order of the tree."""
    found = []
    for path in held.beside("paths", category_paths).values():
        products = held.index.listing(tuple(map(identity, path)))
        if products:
            found.append({"name": path[-1], "category": " > ".join(path), "level": len(path) - 1, "total": len(products)})
    return found


def _query(address: str) -> str:
    return address.partition("?")[2]


def _facet(asked: Asked, where: str, facet: Shown) -> Document:
    bounds = facet.range
    names = ("low", "high", "start", "end", "prefix", "suffix")
    return {
        "key": facet.key,
        "label": facet.label,
        "help": facet.style.help,
        "place": where,
        "control": facet.control.key,
        "one": facet.one,
        "counts": facet.counts,
        "open": facet.open,
        "choices": [_choice(asked, facet.key, choice) for choice in facet.choices],
        "range": {name: getattr(bounds, name) for name in names} if bounds else None,
    }


def _choice(asked: Asked, key: str, choice: Choice) -> Document:
    return {
        "key": choice.key,
        "label": choice.label,
        "count": choice.count,
        "picked": choice.picked,
        "enabled": choice.enabled,
        "level": choice.indent,
        "colours": list(choice.swatch.colours) if choice.swatch else [],
        "image": choice.image,
        "query": _query(asked.address(toggled(asked.state, key, choice.key))),
    }


def _cards(asked: Asked, slots: Iterable[int], cards: Iterable[Card]) -> list[Document]:
    """Return cards with their prices as numbers; a product that went since the counting is passed over."""
    places, shown = list(slots), list(cards)
    slot_of = dict(zip(asked.index.ids.many(places), places, strict=True))
    products = asked.held.products_of(card.id for card in shown)
    return [_card(asked, slot_of[card.id], card, products[card.id]) for card in shown if card.id in products]


def _card(asked: Asked, slot: int, card: Card, product: Product) -> Document:
    lowest, highest = asked.state.prices(slot) or (None, None)
    return {
        "id": card.id,
        "name": card.name,
        "brand": card.brand,
        "image": card.image,
        "url": product.url,
        "address": card.address,
        "price": card.price,
        "lowest": lowest,
        "highest": highest,
        "was": card.was,
        "stock": card.stock,
        "stock_words": card.stock_words,
        "rating": card.rating,
        "reviews": card.review_count,
        "article": card.article,
    }
