"""The current index of this process, brought up to date before every answer.

A reader asks for the catalogue's version (one row) and for the edition; where either moved on, what
depends on it is built anew before the answer is given. Nothing is ever rebuilt by hand.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from threading import Lock

from binsort.catalog.records import all_products
from binsort.core.answer import RackIndex
from binsort.core.count import now_in_seconds
from binsort.core.index import Index, build_index, next_change
from binsort.core.numbers import Number
from binsort.core.products import Product
from binsort.core.spec import FacetSpec

from .models import CatalogueVersion

_KEPT_RACKS = 16


@dataclass(slots=True)
class Current:
    """The catalogue as this process knows it."""

    version: int
    products: Sequence[Product]
    index: Index
    now: Number  # the moment whose sale prices the index holds
    currency: str
    until: Number | None  # the next moment at which a sale price starts or ends
    racks: dict[tuple[FacetSpec, ...], RackIndex] = field(default_factory=dict)
    by_id: dict[str, Product] = field(default_factory=dict)

    def is_good(self, version: int, now: Number) -> bool:
        """Tell whether it still holds."""
        return self.version == version and (self.until is None or now < self.until)

    def rack(self, specs: Sequence[FacetSpec]) -> RackIndex:
        """Return the facets cut from this index; columns are shared, so an edited facet re-cuts only itself."""
        key = tuple(specs)
        found = self.racks.get(key)
        if found is None:
            if len(self.racks) >= _KEPT_RACKS:
                self.racks.pop(next(iter(self.racks)), None)
            found = self.racks[key] = RackIndex(self.index, key)
        return found


_lock = Lock()
_current: Current | None = None


def current() -> Current:
    """Return the index of the catalogue as committed before this call; one query where nothing changed."""
    global _current
    held = _current
    if held is None or not held.is_good(_version(), now_in_seconds()):
        with _lock:
            held = _current
            if held is None or not held.is_good(_version(), now_in_seconds()):
                held = _current = _build(held)
    return held


def _build(held: Current | None) -> Current:
    """Build until the version did not move meanwhile, so that a mixture of two states is never kept."""
    while True:
        version, now = _version(), now_in_seconds()
        products = held.products if held and held.version == version else all_products()
        if _version() != version:
            continue
        built = Current(version, products, build_index(products, now), now, _currency(products), next_change(products, now))
        built.by_id = {product.id: product for product in products if product.visible}
        return built


def _currency(products: Sequence[Product]) -> str:
    """Return the currency of the catalogue: the first that an offer names."""
    offers = (article.offer for product in products for article in product.articles)
    return next((offer.currency for offer in offers if offer.currency), "")


def _version() -> int:
    return CatalogueVersion.objects.values_list("number", flat=True).filter(pk=1).first() or 0
