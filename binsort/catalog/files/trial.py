"""A trial run: what a file would do to the catalogue, writing nothing."""

import csv
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

from binsort.catalog import models
from binsort.catalog.store.product_rows import products_of
from binsort.catalog.store.product_writer import BATCH
from binsort.core.index.collector import without_collecting
from binsort.core.products.parts import differing
from binsort.core.products.product import Product
from binsort.core.values.text import identity

from .cautions import Cautions
from .groups import Group, Refusal
from .merge import Covered, PriceOfMany, covered, merged
from .product_file import ProductFile
from .read_ahead import groups_ahead
from .table import TableRow
from .text_lines import defused


@dataclass(slots=True)
class Trial:
    """What a file would do to the catalogue, or did."""

    new: list[str] = field(default_factory=list)  # identities, as all that follow
    changed: list[str] = field(default_factory=list)
    unchanged: int = 0
    missing: list[str] = field(default_factory=list)  # in the catalogue, not in the file
    refusals: list[Refusal] = field(default_factory=list)
    refused_rows: list[TableRow] = field(default_factory=list)
    before: int = 0  # products in the catalogue
    cautions: Cautions = field(default_factory=Cautions)
    gained: Counter[str] = field(default_factory=Counter)  # products that get an attribute, by its identity; or lose it

    def refuse(self, group: Group) -> None:
        """Take a product's rows among those that are refused."""
        self.refusals += group.refusals
        self.refused_rows += group.rows


Progress = Callable[[int, int], None]  # done, of how many (0: not known); raises to stop


def silent(done: int, total: int) -> None:
    """Tell nobody."""


def trial(source: ProductFile, progress: Progress = silent) -> Trial:
    """Tell what a file would do, writing nothing."""
    result = Trial()
    with without_collecting():
        for _ in steps(source, result, progress):
            pass
    return result


def steps(source: ProductFile, result: Trial, progress: Progress) -> Iterator[tuple[dict[str, Product], dict[str, Product]]]:
    """Go through a file; yield what changes, some products at a time: as they become, and as they are where they are known."""
    result.before = models.Product.objects.count()
    parts, total = covered(source.columns), source.size()
    named: set[str] = set()  # all of the file, refused ones too
    new: dict[str, None] = {}
    changed: dict[str, None] = {}
    same: set[str] = set()
    done = 0
    is_first = not result.before and source.table is not None  # nothing can be known: each product of a table comes once
    for groups in groups_ahead(source, result.cautions, BATCH):
        known = {} if is_first else products_of({group.key for group in groups if group.key}, hidden=True)
        after: dict[str, Product] = {}
        for group in groups:
            named.add(group.key)
            product = _becomes(group, known.get(group.key), parts, source)
            if product is None:
                result.refuse(group)
            else:
                after[group.key] = product  # of several with a number the last one counts
        for name, product in after.items():
            if name not in known:
                new[name] = None
            elif differing(known[name], product):
                changed[name] = None
            elif name not in new and name not in changed:
                same.add(name)
            result.gained.update(_given(product) - (_given(known[name]) if name in known else frozenset()))
            result.gained.subtract(_given(known[name]) - _given(product) if name in known else ())
        yield {name: product for name, product in after.items() if name not in known or differing(known[name], product)}, known
        done += len(groups)
        progress(done, max(total, done) if total else 0)
    result.new, result.changed, result.unchanged = list(new), [name for name in changed if name not in new], len(same - set(changed))
    everyone = models.Product.objects.order_by("place", "id").values_list("identity", flat=True)
    result.missing = [name for name in everyone if name not in named]


def _becomes(group: Group, known: Product | None, parts: Covered, source: ProductFile) -> Product | None:
    """Return what a product becomes, None where its rows are refused; why is then said of them."""
    if group.product is None:
        return None
    if known is None and not group.is_named:
        mend = "Give the product a name in a column named Name."
        group.refusals.append(Refusal(group.rows[0].line, "", group.key, "has no name, and no product of yours has this number", mend))
        return None
    if known is None or source.table is None or group.is_whole:
        return group.product
    try:
        return merged(known, group.product, parts, has_parents=source.has_parents, only_variants=group.only_variants)
    except PriceOfMany:
        mend = "Give price and stock on rows of the variants, by their own numbers."
        group.refusals.append(Refusal(group.rows[0].line, "", group.key, "has variants with prices of their own", mend))
        return None


def _given(product: Product) -> frozenset[str]:
    """Return the attributes that a product has."""
    names = {identity(prop.name) for prop in product.properties if prop.values}
    return frozenset(names | {identity(prop.name) for article in product.variants for prop in article.properties if prop.values})


def refused_file(source: ProductFile, result: Trial, path: Path) -> None:
    """Write the rows that were not taken into a file that can be corrected and brought in again."""
    if source.table is None:
        with path.open("w", encoding="utf-8", newline="") as out:
            out.writelines(f"{row.cells[0]}\n" for row in result.refused_rows)
        return
    with path.open("w", encoding="utf-8-sig", newline="") as out:
        writer = csv.writer(out)
        writer.writerow(map(defused, source.table.header))
        for row in sorted(result.refused_rows, key=lambda row: row.line):
            writer.writerow(map(defused, (*(row.told or row.cells), *row.beyond)))
