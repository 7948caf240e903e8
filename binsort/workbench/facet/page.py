"""The page of one facet, and the products it leaves out."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.translation import gettext as _

from binsort.catalog.store.product_rows import products_of
from binsort.core.index.bins import usual_order
from binsort.core.index.bitmaps import numbers
from binsort.core.insight.vessels import unbinned_products
from binsort.racks.addresses import Pair
from binsort.racks.attribute_use import BY_DICTIONARY, dictionary_order
from binsort.racks.models import Setup
from binsort.racks.presentation import bin_words
from binsort.workbench.rack.page import PreviewFacet, Sight, listing_query, listings, still_preview
from binsort.workbench.shelf.view import ShelfView

from .form import Facts

UNBINNED_SHOWN = 200


@dataclass(frozen=True, slots=True)
class FacetView:
    """All that the page of a facet shows."""

    key: str
    label: str
    edition_id: int
    shelf: ShelfView
    preview: PreviewFacet | None
    listing_path: str
    listings: tuple[tuple[str, str], ...]
    total: int
    place: int
    places: int
    bins: tuple[tuple[str, str, int], ...]  # label, in words, products
    by_hand: bool  # they are put into order by hand

    @property
    def listing_query(self) -> str:
        """What keeps the listing in an address of another page."""
        return listing_query(self.listing_path)


def facet_page(setup: Setup, key: str, pairs: Sequence[Pair]) -> FacetView:
    """Build the page of a facet on a listing."""
    sight = Sight(setup, [pair for pair in pairs if pair[0] == "category"])
    keys = [facet.spec.key for facet in sight.state.rack.facets]
    facet = sight.state.rack.by_key[key]
    shelf = sight.shelf(facet)
    counts = zip(sight.state.rack.on_listing(facet, sight.state.listing).bins, sight.state.facet(facet).bins, strict=True)
    words = sight.words(facet)
    return FacetView(
        key=key,
        label=facet.spec.label,
        edition_id=sight.edition.pk,
        shelf=shelf,
        preview=still_preview(sight.preview(facet)),
        listing_path=sight.listing_path,
        listings=listings(),
        total=len(sight.state.products),
        place=keys.index(key) + 1,
        places=len(keys),
        bins=tuple((bin.label, bin_words(bin, words), counted.count) for bin, counted in counts),
        by_hand=bool(facet.spec.bins.order) and facet.spec.order in ("", "listed") and not sight.look(key).get(BY_DICTIONARY),
    )


def facts_of(setup: Setup, key: str) -> Facts:
    """Return what decides what can be chosen for a facet."""
    state = Sight(setup, []).state
    facet = state.rack.by_key.get(key)
    if facet is None:
        return Facts()
    return Facts(
        usual_order=usual_order(facet.spec, facet.bins),
        labels=tuple(bin.label for bin in state.rack.on_listing(facet, None).bins),
        in_dictionary=tuple(dictionary_order(facet.spec.source.attribute)) if facet.spec.source.kind == "attribute" else (),
        has_numbers=bool(facet.column.numbers),
    )


@dataclass(frozen=True, slots=True)
class UnbinnedView:
    """Products that are in no bin of a facet."""

    label: str
    listing_name: str
    total: int
    products: tuple[tuple[str, str, str], ...]  # identity, name, brand


def unbinned_page(setup: Setup, key: str, pairs: Sequence[Pair]) -> UnbinnedView:
    """Build the list of the products of a listing that a facet leaves out."""
    sight = Sight(setup, [pair for pair in pairs if pair[0] == "category"])
    facet = sight.state.rack.by_key[key]
    slots = numbers(unbinned_products(sight.state, facet))
    ids = [sight.state.rack.index.ids[number] for number in slots[:UNBINNED_SHOWN]]
    products = products_of(ids)
    return UnbinnedView(
        label=facet.spec.label,
        listing_name=sight.listing_path.rpartition(" > ")[2] or _("All products"),
        total=len(slots),
        products=tuple((product.id, product.name, product.brand) for product in (products[id] for id in ids if id in products)),
    )
