"""The parts of a listing on another site, as HTML that its elements place: drawn with what the shop's own pages are drawn with."""

from dataclasses import replace
from typing import Any

from django.template.loader import render_to_string
from django.utils.html import strip_tags

from binsort.racks.addresses import Pair, query_string
from binsort.shopfront.asked import asked
from binsort.shopfront.cards import Card
from binsort.shopfront.listings import ListingPage, listing_page

PARTS = ("above", "rack", "picks", "count", "sort", "products", "more", "below")  # in the order of the page
RACK = "_rack"  # in a query: the rack that the host names; no key of a facet begins with a line
_WEB = ("https://", "http://")
_PATH = ""  # of addresses in the parts: only their queries are looked at


def parts_of(page: ListingPage) -> dict[str, str]:
    """Return the HTML of each part; of those that have nothing to show it is empty."""
    known = {"listing": page, "cards": [_linked(page, card) for card in page.cards]}
    return {part: _drawn(part, known) for part in PARTS}


def _drawn(part: str, known: dict[str, Any]) -> str:
    return render_to_string(f"shopfront/embed/_{part}.html", known).strip()


def _linked(page: ListingPage, card: Card) -> Card:
    """Return a card that leads to the product's own page where the catalogue names one on the web, else to that of this shop."""
    product = page.asked.held.products_of([card.id]).get(card.id)
    return replace(card, address=product.url) if product and product.url.startswith(_WEB) else card


def embed_document(name: str, pairs: list[Pair]) -> dict[str, Any]:
    """Return a listing of another site under a query. Raises NotThere, NotReady."""
    racks = [value for key, value in pairs if key == RACK]
    own = [pair for pair in pairs if pair[0] not in (RACK, "category", "q")]
    page = listing_page(asked(own, _PATH, host=(name, racks[-1] if racks else None)))
    parts = parts_of(page)
    return {
        "label": page.title,
        "query": query_string([*page.asked.picks, *page.asked.kept]).removeprefix("?"),
        "total": page.total,
        "listing": page.listing,
        "said": strip_tags(parts["count"]),
        "shown": page.seen,
        "parts": parts,
    }
