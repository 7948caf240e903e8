"""The index: products and variants numbered densely, and the columns that facets are cut from."""

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from threading import RLock
from typing import Any, TypeAlias, TypeVar

import numpy as np
from pyroaring import BitMap

from binsort.core.facets.spec import Source
from binsort.core.products.product import Product
from binsort.core.values.dates import SECONDS_OF_DAY
from binsort.core.values.numbers import Number
from binsort.core.values.text import identity

from .bitmaps import bitmap_of_mask, bitmap_of_rising, first_of_each, mask_of, numbers
from .codes import CATEGORIES
from .columns import Change, Column
from .facts import Facts, build_facts
from .orders import Orders
from .reading import Reading, Step, column_from, follow, reader_of, reading_of
from .sources.attribute_fields import on_variants

Remembered = TypeVar("Remembered")
CATEGORY = Source("category")
_MANY = 4  # where fewer than one variant in so many is asked for, looking at these alone is faster
_DENSE = 16  # one variant for so many products makes the way by a mask the faster one

Tree: TypeAlias = Mapping[tuple[str, ...], int]  # the place of each category, by the identities of its path
Listing: TypeAlias = tuple[str, ...] | None  # identities of a category's path, None for all products
Changes: TypeAlias = Mapping[tuple[str, ...], Change | None]  # by column; None where all of it was made anew


def unchanged(changes: Changes, source: Source) -> bool:
    """Tell whether a source's column is the same as before."""
    change = changes.get(source.column_key)
    return change is not None and not change


@dataclass(frozen=True, slots=True)
class GivenAttribute:
    """An attribute that the catalogue gives."""

    identity: str
    name: str  # as most often written
    has_numbers: bool
    on_variants: bool


class Index:
    """Everything about a catalogue at one moment that counting needs. Safe to use from several threads."""

    def __init__(self, facts: Facts, now: Number, report: Callable[[str], None] | None = None) -> None:
        self.facts, self.now = facts, now
        self.ids, self.starts, self.size = facts.ids, facts.starts, facts.size
        self.every_product = facts.every_product
        self.one_variant_each = facts.variants == facts.size and bool((np.diff(facts.starts) == 1).all())
        self.most_variants = int(np.diff(facts.starts).max(initial=1))
        self.orders = Orders(facts, self.column)
        self._report = report
        self._lock = RLock()
        self._columns: dict[tuple[str, ...], tuple[Reading, Column]] = {}
        self._memory: dict[Hashable, Any] = {}
        self._tree: Tree | None = None
        self.day: int | None = None  # the ordinal of the shop's own day

    @property
    def today(self) -> int:
        """The ordinal of the day: the shop's own, else that of the moment in UTC."""
        return int(self.now // SECONDS_OF_DAY) if self.day is None else self.day

    @property
    def tree(self) -> Tree:
        """The order of categories: that of the catalogue's own tree, else that in which their paths first occur."""
        return self.remember("tree", self._tree_as_written) if self._tree is None else self._tree

    @tree.setter
    def tree(self, tree: Tree) -> None:
        if tree != self._tree:
            self._tree = tree

    def _tree_as_written(self) -> Tree:
        coded, paths, rank = self.facts.field(CATEGORIES), self.facts.items(CATEGORIES), self.facts.rank
        codes = coded.codes if rank is None else coded.codes[np.argsort(rank[coded.owners], kind="stable")]
        said, firsts = np.unique(codes, return_index=True)
        tree: dict[tuple[str, ...], int] = {}
        for code in said[np.argsort(firsts)].tolist():
            nodes = tuple(map(identity, paths[code]))
            for depth in range(1, len(nodes) + 1):
                tree.setdefault(nodes[:depth], len(tree))
        return tree

    def column(self, source: Source) -> Column:
        """Return the column of a source, made when first asked for."""
        key = source.column_key
        known = self._columns.get(key)
        if known is None:
            with self._lock:
                if key not in self._columns:
                    self._columns[key] = self._made(source)
                known = self._columns[key]
        return known[1]

    def _made(self, source: Source) -> tuple[Reading, Column]:
        reading = reading_of(self.facts, source, self.now)
        if self._report:
            for number, text in reading.refused(self.facts):
                self._report(f"product {self.facts.ids[number]}: {text}")
        return reading, column_from(reading, self.facts)

    def remember(self, key: Hashable, make: Callable[[], Remembered]) -> Remembered:
        """Return what was worked out of this index before under a key, else what ``make`` gives."""
        if key not in self._memory:
            self._memory[key] = make()
        return self._memory[key]  # type: ignore[no-any-return]

    def refused(self, source: Source) -> list[tuple[int, str]]:
        """Return the visible products with a value of a source that cannot be read, each with a sentence."""
        self.column(source)
        return self._columns[source.column_key][0].refused(self.facts)

    def unit(self, source: Source) -> str:
        """Return the unit in which a source's numbers are read, empty where they have none."""
        known = self._columns.get(source.column_key)
        return known[0].units[0] if known else reader_of(source.kind).units(self.facts, source)[0]

    @cached_property
    def product_of(self) -> np.ndarray[tuple[int], np.dtype[np.intp]]:
        """The product of each variant, rising."""
        return self.facts.product_of

    # -- in time

    @property
    def until(self) -> Number | None:
        """The next moment at which a sale price starts or ends in a column that was made."""
        with self._lock:
            moments = [reading.until for reading, _ in self._columns.values() if reading.until is not None]
        return min(moments, default=None)

    def later(self, facts: Facts, touched: np.ndarray[tuple[int], np.dtype[np.uint32]], now: Number) -> tuple["Index", Changes]:
        """Return the index of later facts at a later moment, with what changed in each column.

        Args:
            facts: what :meth:`.facts.Facts.changed` made of this index's.
            touched: the slots that it touched.
            now: seconds since the start of year 1, UTC.
        """
        index = Index(facts, now)
        step = Step(self.facts, facts, touched, now)
        changes: dict[tuple[str, ...], Change | None] = {}
        with self._lock:
            held = dict(self._columns)
        for key, (reading, column) in held.items():
            later, new_column, changes[key] = follow(reading, column, step)
            index._columns[key] = later, new_column
        index.orders.follow(self.orders, touched)
        return index, changes

    # -- listings

    @cached_property
    def _listings(self) -> dict[tuple[str, ...], BitMap]:
        column = self.column(CATEGORY)
        return {value.nodes: column.members(code) for code, value in enumerate(column.values)}

    def has_category(self, path: tuple[str, ...]) -> bool:
        """Tell whether a product of the catalogue is in this category or below it."""
        return path in self._listings

    def variants_of_listing(self, path: Listing) -> BitMap:
        """Return the variants of a listing's products; found once."""
        return self.remember(("variants of listing", path), lambda: self.variants_of(self.listing(path)))

    def listing(self, path: Listing) -> BitMap:
        """Return the products of a listing: a category (identities of its segments) with its descendants, or all."""
        return self.every_product if path is None else self._listings.get(path, BitMap())

    # -- products and variants

    def project(self, variants: BitMap) -> BitMap:
        """Return the products that have one of these variants."""
        return variants if self.one_variant_each else self.of_owners(self.product_of[numbers(variants)])

    def of_owners(self, owners: "np.ndarray[tuple[int], np.dtype[np.intp]]") -> BitMap:
        """Return the products whose numbers are given, rising, with repeats."""
        if len(owners) * _DENSE < self.size:
            return bitmap_of_rising(first_of_each(owners.astype(np.uint32)))
        mask = np.zeros(self.size, dtype=bool)
        mask[owners] = True
        return bitmap_of_mask(mask)

    def variants_of(self, products: BitMap, among: BitMap | None = None) -> BitMap:
        """Return the variants of these products, all or those among some."""
        if self.one_variant_each:
            return products if among is None else products & among
        mask = mask_of(products, self.size)
        if among is not None and len(among) * _MANY < len(self.product_of):
            listed = numbers(among)
            return bitmap_of_rising(listed[mask[self.product_of[listed]]])
        variants = bitmap_of_mask(mask.take(self.product_of, mode="clip"))  # no check of bounds, which hold
        return variants if among is None else variants & among

    def several(self, variants: BitMap) -> BitMap:
        """Return those of some variants whose product has another one among them."""
        if self.one_variant_each:
            return BitMap()
        listed = numbers(variants)
        owners = self.product_of[listed]
        twice = np.append(False, owners[1:] == owners[:-1])  # with the one before
        return bitmap_of_rising(listed[twice | np.append(twice[1:], False)]) if len(listed) else BitMap()

    def count_products(self, variants: BitMap) -> int:
        """Count the products that have one of these variants, without building their bitmap."""
        if self.one_variant_each or len(variants) < 2:
            return len(variants)
        owners = self.product_of[numbers(variants)]
        return 1 + int(np.count_nonzero(owners[1:] != owners[:-1]))

    # -- what there is

    def attributes(self) -> list[GivenAttribute]:
        """Return every attribute that a product of the catalogue has, by the identity of its name."""
        return self.remember("attributes", self._attributes)

    def _attributes(self) -> list[GivenAttribute]:
        names: dict[str, dict[str, int]] = {}
        with_numbers = set()
        for key, coded in self.facts.fields.items():
            if key[0] != "attribute":
                continue
            items = self.facts.items(key)
            for code in np.flatnonzero(coded.counts).tolist():
                spelled = names.setdefault(key[1], {})
                spelled[items[code].name] = spelled.get(items[code].name, 0) + int(coded.counts[code])
                if any(not isinstance(value, str | bool) and hasattr(value, "numerator") for value in items[code].values):
                    with_numbers.add(key[1])
        return [
            GivenAttribute(
                name, min(names[name].items(), key=lambda item: (-item[1], item[0]))[0], name in with_numbers, on_variants(self.facts, name)
            )
            for name in sorted(names)
        ]


def build_index(products: Sequence[Product], now: Number, report: Callable[[str], None] | None = None) -> Index:
    """Build the index of a catalogue as it is at a moment.

    Args:
        products: all of them, invisible ones included, in the order of the file.
        now: seconds since the start of year 1, UTC; decides which sale prices are valid.
        report: called with a sentence for each value that cannot be used.
    """
    return Index(build_facts((place, place, product) for place, product in enumerate(products)), now, report)
