"""The parts of a listing on another site, as HTML that its elements place: drawn with what the shop's own pages are drawn with."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.template.loader import render_to_string
from django.utils.html import strip_tags

from binsort.racks.addresses import Pair, query_string
from binsort.shopfront.asked import asked
from binsort.shopfront.cards import Card
from binsort.shopfront.face import face_now
from binsort.shopfront.listings import ListingPage, listing_page
from binsort.shopfront.planned import Placed

PARTS = ("above", "rack", "apply", "search", "picks", "count", "sort", "products", "more", "below")  # in the order of the page
RACK, FACET, ONLY = "_rack", "_facet", "_only"  # in a query; no key of a facet begins with a line
MEANT = {  # of the host, none of them a pick
    RACK: "the key of a rack in place of what Listings says, once for each rack of the page; `-` for none",
    FACET: "the key of a facet that stands by itself, once for each: its rack leaves it out",
    ONLY: "`total` for the number of products alone, and the words of the button that applies picks",
}
_WEB = ("https://", "http://")
_PATH = ""  # of addresses in the parts: only their queries are looked at


@dataclass(frozen=True, slots=True)
class _Drawing:
    """What the parts are drawn from."""

    page: ListingPage
    alone: Collection[str]  # keys of facets that stand by themselves

    def parts(self) -> Iterator[tuple[str, str]]:
        """Yield each part with its HTML; of those that have nothing to show it is empty."""
        page = self.page
        rows = {"above": self._together(page.above), "below": self._together(page.below)}
        known = {"listing": page, "cards": [_linked(page, card) for card in page.cards], "facets": self._together(page.side)}
        for part in PARTS:
            yield part, _drawn(part, {**known, "facets": rows.get(part, known["facets"])})
        for rack, keys in page.asked.planned.plan.named.items():
            own = [placed for placed in self._together(page.side) if placed.facet.key in keys]
            yield f"rack:{rack}", _drawn("rack", {"listing": page, "facets": own})
        for placed in (*page.above, *page.side, *page.below):
            if placed.facet.key in self.alone:
                yield f"facet:{placed.facet.key}", _drawn("facet", {"placed": placed})

    def _together(self, places: Sequence[Placed]) -> list[Placed]:
        return [placed for placed in places if placed.facet.key not in self.alone]


def _drawn(part: str, known: dict[str, Any]) -> str:
    return render_to_string(f"shopfront/embed/_{part}.html", known).strip()


def _linked(page: ListingPage, card: Card) -> Card:
    """Return a card that leads to the product's own page where the catalogue names one on the web, else to that of this shop."""
    product = page.asked.held.products_of([card.id]).get(card.id)
    return replace(card, address=product.url) if product and product.url.startswith(_WEB) else card


def embed_document(name: str, pairs: list[Pair]) -> dict[str, Any]:
    """Return a listing of another site under a query. Raises NotThere, NotReady."""
    meant = {key: [value for name, value in pairs if name == key] for key in MEANT}
    own = [pair for pair in pairs if pair[0] not in (*MEANT, "category")]
    page = listing_page(asked(own, _PATH, host=(name, meant[RACK])))
    behaves, ask, the_theme = page.behaviour, page.asked, face_now().themed
    parts = {} if meant[ONLY] else dict(_Drawing(page, meant[FACET]).parts())
    return {
        "label": page.title,
        "query": query_string([*ask.fixed, *ask.picks, *ask.kept]).removeprefix("?"),
        "total": page.total,
        "listing": page.listing,
        "said": strip_tags(parts.get("count", "")),
        "shown": page.seen,
        "theme": {"colours": the_theme.tokens(), "measures": the_theme.tokens(colours=False)},
        "applies": {"wide": behaves.applies, "phone": behaves.applies_on_phones},
        "words": page.total_words,
        "parts": parts,
    }
