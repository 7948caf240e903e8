"""Taking out: the catalogue, or some of it, as a file that comes back in with no difference.

Tables are written, read back and compared: a product that cells cannot say is written whole into a column of its own.
"""

import csv
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from django.utils.translation import gettext as _
from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.store.batches import batched
from binsort.catalog.store.product_rows import products_of, read_products
from binsort.core.products.catalogue_writer import document_of, line_of
from binsort.core.products.fields import BAR, FIELDS
from binsort.core.products.parts import differing
from binsort.core.products.product import Offer, Product, Property
from binsort.core.values.amounts import read_amount
from binsort.core.values.numbers import Unusable, written
from binsort.core.values.strict_json import one_line
from binsort.core.values.text import identity
from binsort.core.values.units import KNOWN

from .columns import LONGEST_UNIT, TEXT_MARK
from .product_file import ProductFile, meanings_of, product_file_of
from .text_lines import MOST_CELL, defused
from .workbook_lines import MOST_COLUMNS

FORMS = {  # what a file can be: in words, and as a media type
    "csv": ("CSV", "text/csv; charset=utf-8"),
    "xlsx": ("XLSX", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
    "jsonl": ("JSON Lines", "application/jsonl"),
    "jsonld": ("JSON-LD", "application/ld+json"),
}
PASSES = {"csv": 3, "xlsx": 3}  # through the products: what there is, writing, reading back; the others are only written
_OWN, _PARENT, _SKU = "Product number", "Parent", "SKU"
_COLUMNS = tuple((field, column) for field in FIELDS for column in field.columns)
_LEADING = (_OWN, _PARENT, _SKU, *(column.label for _field, column in _COLUMNS))
_WHOLE = "Product as JSON"
_LONGEST = {"csv": MOST_CELL, "xlsx": 32_767}  # characters of a cell; a spreadsheet cuts what is longer
_ILLEGAL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")  # what XML 1.0 cannot have (section 2.2)
_WHOLE_ROOM = 60  # columns for products that are written whole
_ROUNDS = 6  # of writing and reading back, each with more products written whole
_TOGETHER = 1000


@dataclass(slots=True)
class _Heading:
    """A column of an attribute."""

    name: str
    unit: str = ""
    is_number: bool = True

    @property
    def title(self) -> str:
        """How it is headed, so that reading it gives the same attribute again."""
        mark = self.unit if self.is_number else TEXT_MARK if self.looks_like_numbers or "(" in self.name or "[" in self.name else ""
        return f"{self.name} ({mark})" if mark else self.name

    looks_like_numbers: bool = False
    count: int = 0  # how often it is given


class CannotWrite(ValueError):
    """Products that no table can say; the text names them."""


@dataclass(slots=True)
class _Plan:
    """The columns of a table, and the products that are written whole, over several cells where one is too short."""

    longest: int  # characters of a cell
    headings: dict[str, _Heading] = field(default_factory=dict)
    has_variants: bool = False
    whole: set[str] = field(default_factory=set)
    pieces: int = 1  # cells for the longest product that is written whole

    def see(self, product: Product) -> None:
        """Take what a product has into account."""
        self.has_variants = self.has_variants or bool(product.variants)
        for given in _all_properties(product):
            heading = self.headings.setdefault(identity(given.name), _Heading(given.name))
            heading.count += 1
            for value in given.values:
                is_text = isinstance(value, str | bool | Unusable)
                heading.is_number = heading.is_number and not is_text
                heading.looks_like_numbers = heading.looks_like_numbers or (isinstance(value, str) and read_amount(value) is not None)
            if not heading.unit and given.unit and (given.unit in KNOWN or len(given.unit) <= LONGEST_UNIT):
                heading.unit = given.unit

    @property
    def header(self) -> list[str]:
        """The names of the columns."""
        leading = [title for title in _LEADING if self.has_variants or title != _PARENT]
        return [*leading, *(heading.title for heading in self.headings.values()), *self._whole_titles()]

    def _whole_titles(self) -> list[str]:
        return [_WHOLE if number == 1 else f"{_WHOLE} {number}" for number in range(1, self.pieces + 1)] if self.whole else []

    def write_whole(self, product: Product) -> None:
        """Have a product written as JSON."""
        self.whole.add(product.id)
        self.pieces = max(self.pieces, len(self._pieces_of(product)))

    def _pieces_of(self, product: Product) -> list[str]:
        text = _ILLEGAL.sub(lambda match: f"\\u{ord(match[0]):04x}", line_of(product).decode())
        pieces = []
        while text:
            end = self.longest - 1  # a mark against formulas may come before each
            while end < len(text) and (text[end - 1].isspace() or text[end].isspace()):
                end -= 1  # blanks at the ends of cells are nothing
            pieces.append(text[:end])
            text = text[end:]
        return pieces

    def settle(self, order: Sequence[str]) -> set[str]:
        """Put the columns into the order of the dictionary, those of most use where there are too many; returns those left out."""
        ranks = {key: rank for rank, key in enumerate(order)}
        room = MOST_COLUMNS - len(_LEADING) - _WHOLE_ROOM
        kept = sorted(self.headings, key=lambda key: -self.headings[key].count)[:room]
        left = set(self.headings) - set(kept)
        self.headings = {key: self.headings[key] for key in sorted(kept, key=lambda key: ranks.get(key, len(ranks)))}
        return left

    def rows(self, product: Product) -> Iterator[list[str]]:
        """Yield the rows of a product, in the order of the header."""
        if product.id in self.whole:
            name = product.name[: self.longest // 2]  # what counts is in the JSON
            yield self._row({_OWN: product.id, "Name": name, **dict(zip(self._whole_titles(), self._pieces_of(product), strict=False))}, {})
            return
        yield self._row({**_of_product(product), **({} if product.variants else _of_offer(product.offer))}, self._given(product.properties))
        for article in product.variants:
            cells = {_OWN: article.sku, _SKU: article.sku, _PARENT: product.id, "Picture": article.image}
            yield self._row({**cells, **_of_offer(article.offer)}, self._given(article.properties))

    def _given(self, properties: Sequence[Property]) -> dict[str, str]:
        texts_by_key: dict[str, list[str]] = {}
        for given in properties:
            key = identity(given.name)
            unit = given.unit if given.unit and given.unit != self.headings[key].unit else ""
            texts_by_key.setdefault(key, []).extend(f"{_plain(value)} {unit}".strip() for value in given.values)
        return {key: BAR.join(texts) for key, texts in texts_by_key.items()}

    def _row(self, cells: dict[str, str], given: dict[str, str]) -> list[str]:
        leading = [cells.get(title, "") for title in _LEADING if self.has_variants or title != _PARENT]
        return [*leading, *(given.get(key, "") for key in self.headings), *(cells.get(title, "") for title in self._whole_titles())]


def _plain(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value if isinstance(value, str) else "" if isinstance(value, Unusable) else written(value)


def _of_product(product: Product) -> dict[str, str]:
    return {_OWN: product.id, **{column.label: column.write(product) for field, column in _COLUMNS if not field.of_offer}}


def _of_offer(offer: Offer) -> dict[str, str]:
    return {column.label: column.write(offer) for field, column in _COLUMNS if field.of_offer}


def take_out(path: Path, form: str, identities: Sequence[str] | None = None, *, progress: Callable[[int], None] | None = None) -> int:
    """Write products into a file; it is there whole or not at all.

    Args:
        path: where to.
        form: of :data:`FORMS`.
        identities: of the products, in their order; None for all, in the order of the catalogue.
        progress: told how many products were gone through; tables are gone through :data:`PASSES` times and sometimes more.

    Returns:
        How many products were written.

    Raises:
        OSError: it cannot be written.
        CannotWrite: a table would not give some products back.
    """
    part = path.with_name(path.name + ".part")

    gone_through = 0

    def products() -> Iterator[Product]:
        nonlocal gone_through
        for product in each():
            yield product
            gone_through += 1
            if progress and gone_through % _TOGETHER == 0:
                progress(gone_through)

    def each() -> Iterator[Product]:
        if identities is None:
            yield from (product for _pk, _place, product in read_products())
            return
        for names in batched(identities, _TOGETHER):
            products_by_name = products_of(names, hidden=True)
            yield from (products_by_name[name] for name in names if name in products_by_name)

    try:
        count = _WRITERS[form](part, products)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
    return count


Products = Callable[[], Iterator[Product]]


def _write_lines(path: Path, products: Products) -> int:
    count = 0
    with path.open("wb") as out:
        for product in products():
            out.write(line_of(product) + b"\n")
            count += 1
    return count


def _write_graph(path: Path, products: Products) -> int:
    count = 0
    with path.open("w", encoding="utf-8") as out:
        out.write('{"@context": "https://schema.org", "@graph": [')
        for product in products():
            out.write((",\n" if count else "\n") + one_line(document_of(product)))
            count += 1
        out.write("\n]}\n")
    return count


def _write_table(path: Path, products: Products, write: Callable[[Path, _Plan, Products], int], longest: int) -> int:
    plan = _Plan(longest)
    for product in products():
        plan.see(product)
    left = plan.settle(list(definitions()))
    for product in products():
        if not _fits(product, longest) or (left and left & {identity(prop.name) for prop in _all_properties(product)}):
            plan.write_whole(product)
    wrong: set[str] = set()
    for round_ in range(_ROUNDS):
        count = write(path, plan, products)
        wrong = _wrong(path, products)
        if not wrong:
            return count
        for product in products():
            if product.id in wrong or round_ == _ROUNDS - 2:
                plan.write_whole(product)
    named = ", ".join(sorted(wrong)[:5])
    raise CannotWrite(_("The table would not give back %(products)s as they are. Take them out as JSON Lines.") % {"products": named})


def _all_properties(product: Product) -> Iterator[Property]:
    yield from product.properties
    for article in product.variants:
        yield from article.properties


def _wrong(path: Path, products: Products) -> set[str]:
    """Return the products that a table does not give back, here or where the dictionary is empty."""
    here = product_file_of(path, name=path.name.removesuffix(".part"))
    wrong = _read_otherwise(here, products)
    elsewhere = replace(here, columns=meanings_of(here.table, {})) if here.table else here
    return wrong | _read_otherwise(elsewhere, products) if here.columns != elsewhere.columns else wrong


def _fits(product: Product, longest: int) -> bool:
    """Tell whether a product can be looked for in a table at all; that cells say all of it is found out by reading them."""
    own = [article.sku for article in product.variants]
    texts = [product.description, product.name, product.image, product.url, *product.tags]
    is_short = max(map(len, texts)) < longest and len(line_of(product)) < MOST_CELL
    return is_short and len(set(own)) == len(own) and all(sku and sku != product.id for sku in own)


def _read_otherwise(source: ProductFile, products: Products) -> set[str]:
    """Return the products that a table does not give back as they are."""
    groups = source.groups()
    wrong = set()
    for product in products():
        back = next((group for group in groups if group.key == product.id), None)
        if back is None or back.product is None or differing(product, back.product):
            wrong.add(product.id)
    return wrong


def _write_csv(path: Path, plan: _Plan, products: Products) -> int:
    count = 0
    with path.open("w", encoding="utf-8-sig", newline="") as out:
        writer = csv.writer(out)
        writer.writerow(map(defused, plan.header))
        for product in products():
            writer.writerows(map(defused, row) for row in plan.rows(product))
            count += 1
    return count


def _write_xlsx(path: Path, plan: _Plan, products: Products) -> int:
    book = Workbook(write_only=True)
    sheet = book.create_sheet("Products")
    count = 0

    def cell(text: str) -> Any:
        if _ILLEGAL.search(text):
            text = _ILLEGAL.sub("\ufffd", text)  # read back, this differs, and the product is written whole
        written_cell = WriteOnlyCell(sheet, defused(text))
        written_cell.data_type = "s"
        return written_cell

    sheet.append([cell(text) for text in plan.header])
    for product in products():
        for row in plan.rows(product):
            sheet.append([cell(text) if text else None for text in row])
        count += 1
    book.save(path)
    return count


_WRITERS: dict[str, Callable[[Path, Products], int]] = {
    "csv": lambda path, products: _write_table(path, products, _write_csv, _LONGEST["csv"]),
    "xlsx": lambda path, products: _write_table(path, products, _write_xlsx, _LONGEST["xlsx"]),
    "jsonl": _write_lines,
    "jsonld": _write_graph,
}
