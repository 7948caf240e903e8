"""What search engines may list, as the sitemap protocol says it (sitemaps.org, 0.9): listings, bins opened to them, products."""

from collections.abc import Iterator

from django.contrib.sitemaps import Sitemap
from django.core.paginator import Paginator
from django.urls import reverse

from binsort.catalog.models import Category
from binsort.core.index.bitmaps import numbers
from binsort.racks.addresses import query_string
from binsort.racks.attribute_use import is_open_to_search_engines
from binsort.tally.current import current

from .addresses import address_of, product_address
from .asked import Asked, asked


class _Addresses(Sitemap):  # type: ignore[type-arg]
    """Pages by their addresses."""

    limit = 10_000  # of the protocol's 50,000

    def location(self, item: str) -> str:
        """Return an address as it is."""
        return item

    @property
    def paginator(self) -> Paginator:  # type: ignore[type-arg]
        """The parts of the map; what it holds is worked out once a request."""
        if "_pages" not in self.__dict__:
            self._pages = Paginator(list(self.items()), self.limit)
        return self._pages


class Listings(_Addresses):
    """All products, every category that has some, and the bins of facets that the owner opened to search engines."""

    def items(self) -> list[str]:
        """Return the addresses."""
        rows = {tuple(row.path_identity.split(" > ")): row for row in Category.objects.order_by("path_identity")}
        found, index = [reverse("shop"), *_bins(asked([], reverse("shop")))], current().index
        for path in filter(index.has_category, rows):
            address = address_of(tuple(rows[path[:length]] for length in range(1, len(path) + 1)))
            found += [address, *_bins(asked([("category", " > ".join(path))], address))]
        return found


def _bins(listing: Asked) -> Iterator[str]:
    for facet in listing.state.rack.facets:
        if is_open_to_search_engines(listing.looks.get(facet.spec.key, {})):
            answer = listing.state.facet(facet)
            offered = (bin.key for bin in answer.bins if answer.shown and bin.shown and bin.count)
            yield from (f"{listing.path}{query_string([(answer.key, key)])}" for key in offered)


class Products(_Addresses):
    """Every product that shoppers see."""

    def items(self) -> list[str]:
        """Return the addresses."""
        index = current().index
        return [product_address(identity) for identity in index.ids.many(numbers(index.every_product).tolist())]


SITEMAPS = {"listings": Listings, "products": Products}
