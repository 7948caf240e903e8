"""The index: products and variants numbered densely, and the columns that facets are cut from."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from .bitmaps import bitmap, first_of_each, numbers
from .columns import Column
from .numbers import Number
from .products import Product
from .sources import SourceReader
from .spec import Source
from .text import natural_key

CATEGORY, PRICE, RATING, PUBLISHED = Source("category"), Source("price"), Source("rating"), Source("published")


@dataclass(frozen=True, slots=True)
class Shape:
    """The visible products in the order of the file: identity, name, and where each one's variants start."""

    ids: Sequence[str]
    names: Sequence[str]
    starts: NDArray[np.uint32]  # one more than products; the last is the number of variants


class Index:
    """Everything about a catalogue at one moment that counting needs. Safe to read from several threads."""

    def __init__(self, shape: Shape, load: Callable[[Source], Column], unit: Callable[[Source], str]) -> None:
        self.ids, self.names, self.starts = shape.ids, shape.names, shape.starts
        self.size = len(shape.ids)
        self.unit = unit  # of the numbers of a source, empty where they have none
        self._load = load
        self._columns: dict[tuple[str, ...], Column] = {}
        per_product = np.diff(shape.starts)
        self.product_of = np.repeat(np.arange(self.size, dtype=np.uint32), per_product)
        self.every_product = BitMap(range(self.size))
        self.one_variant_each = bool((per_product == 1).all())

    def column(self, source: Source) -> Column:
        """Return the column of a source, built when first asked for."""
        key = source.column_key
        if key not in self._columns:
            self._columns[key] = self._load(source)
        return self._columns[key]

    # -- listings

    @cached_property
    def _listings(self) -> dict[tuple[str, ...], BitMap]:
        column = self.column(CATEGORY)
        return {value.nodes: column.members(code) for code, value in enumerate(column.values)}

    def has_category(self, path: tuple[str, ...]) -> bool:
        """Tell whether a product of the catalogue is in this category or below it."""
        return path in self._listings

    def listing(self, path: tuple[str, ...] | None) -> BitMap:
        """Return the products of a listing: a category (identities of its segments) with its descendants, or all."""
        return self.every_product if path is None else self._listings.get(path, BitMap())

    # -- products and variants

    def project(self, variants: BitMap) -> BitMap:
        """Return the products that have one of these variants."""
        return variants if self.one_variant_each else bitmap(first_of_each(self.product_of[numbers(variants)]))

    def variants_of(self, products: BitMap, among: BitMap | None = None) -> BitMap:
        """Return the variants of these products, all or those among some."""
        if self.one_variant_each:
            return products if among is None else products & among
        mask = np.zeros(self.size, dtype=bool)
        mask[numbers(products)] = True
        if among is None:
            return bitmap(np.flatnonzero(mask[self.product_of]).astype(np.uint32))
        found = numbers(among)
        return bitmap(found[mask[self.product_of[found]]])

    def count_products(self, variants: BitMap) -> int:
        """Count the products that have one of these variants, without building their bitmap."""
        if self.one_variant_each or len(variants) < 2:
            return len(variants)
        owners = self.product_of[numbers(variants)]
        return 1 + int(np.count_nonzero(owners[1:] != owners[:-1]))

    # -- orders

    @cached_property
    def name_rank(self) -> NDArray[np.int64]:
        """The place of each product by natural order of its name; equal names share one."""
        return _dense([natural_key(name) for name in self.names])

    @cached_property
    def prices(self) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """The ranks of each product's least and greatest price over all its variants."""
        column = self.column(PRICE)
        if not self.size:
            return column.least, column.greatest
        starts = self.starts[:-1].astype(np.int64)
        return np.minimum.reduceat(column.least, starts), np.maximum.reduceat(column.greatest, starts)

    def prices_within(self, variants: BitMap) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """Return the same over some of the variants only; meaningless for products that have none of them."""
        column, found = self.column(PRICE), numbers(variants)
        least = np.full(self.size, len(column.numbers), dtype=np.int32)
        greatest = np.full(self.size, -1, dtype=np.int32)
        if len(found):
            owners = self.product_of[found]
            starts = np.flatnonzero(np.concatenate(([True], owners[1:] != owners[:-1])))
            least[owners[starts]] = np.minimum.reduceat(column.least[found], starts)
            greatest[owners[starts]] = np.maximum.reduceat(column.greatest[found], starts)
        return least, greatest


def _dense(keys: Sequence[object]) -> NDArray[np.int64]:
    places = {key: place for place, key in enumerate(sorted(set(keys)))}  # type: ignore[type-var]
    return np.array([places[key] for key in keys], dtype=np.int64)


def build_index(products: Sequence[Product], now: Number, report: Callable[[str], None] = lambda text: None) -> Index:
    """Build the index of a catalogue as it is at a moment.

    Args:
        products: all of them, invisible ones included, in the order of the file.
        now: seconds since the start of year 1, UTC; decides which sale prices are valid.
        report: called with a sentence for each value that cannot be used.
    """
    reader = SourceReader(products, now, report)
    counts = accumulate((len(product.articles) for product in reader.visible), initial=0)
    shape = Shape(
        ids=[product.id for product in reader.visible],
        names=[product.name for product in reader.visible],
        starts=np.fromiter(counts, dtype=np.uint32),
    )
    return Index(shape, reader.column, reader.unit)


def next_change(products: Sequence[Product], now: Number) -> Number | None:
    """Return the first moment after ``now`` at which some sale price starts or ends, None where none will."""
    offers = (offer for product in products for offer in (product.offer, *(variant.offer for variant in product.variants)))
    moments = (moment for offer in offers for sale in offer.sales for moment in (sale.start, sale.end))
    return min((moment for moment in moments if moment is not None and moment > now), default=None)


def variant_attributes(products: Sequence[Product]) -> list[str]:
    """Return the names of the attributes that some product gives on a variant, as most often written."""
    facts = SourceReader(products, 0).attributes
    return sorted(facts[key].name.of(key) for key in facts if facts[key].on_variants)
