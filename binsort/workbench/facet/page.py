"""The page of one facet, and the products it leaves out."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.translation import gettext as _

from binsort.catalog.store.product_rows import products_of
from binsort.core.index.bins import usual_order
from binsort.core.index.bitmaps import numbers
from binsort.core.insight.vessels import unbinned_products
from binsort.racks.addresses import Pair
from binsort.racks.models import Setup
from binsort.racks.presentation import bin_words
from binsort.workbench.rack.page import PreviewFacet, Sight, listing_query, listings, still_preview
from binsort.workbench.shelf.view import ShelfView

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
    bins: tuple[tuple[str, int], ...]

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
        bins=tuple((bin_words(bin, words), counted.count) for bin, counted in counts),
    )


def usual_order_of(setup: Setup, key: str) -> str:
    """Return the order in which the bins of a facet stand while it names none."""
    facet = Sight(setup, []).state.rack.by_key.get(key)
    return usual_order(facet.spec, facet.bins) if facet else ""


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
