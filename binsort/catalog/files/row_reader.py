"""Rows into products: one row a product or a variant, put together by the number of the product they belong to."""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from binsort.core.products.availability import STATE_OF
from binsort.core.products.catalogue_reader import BrokenLine, read_line, read_product, read_properties
from binsort.core.products.fields import BY_COLUMN, TEXTS
from binsort.core.products.product import Product, Property
from binsort.core.values.amounts import read_amount
from binsort.core.values.dates import day, instant
from binsort.core.values.numbers import written
from binsort.core.values.text import split_cell
from binsort.core.values.yes_no import YES_NO

from .columns import MappedColumn
from .table import Table, TableRow

_SIGNS = {"£": "GBP", "$": "USD", "€": "EUR", "¥": "JPY"}
_DAY_FIRST = re.compile(r"([0-9]{1,2})([./])([0-9]{1,2})\2([0-9]{4})")
_KEPT = 50_000  # cells remembered at most


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why a row is not taken: where, what, why, and how to mend it."""

    line: int
    column: str
    value: str
    reason: str
    mend: str

    def __str__(self) -> str:
        where = f"line {self.line}, {self.column}" if self.column else f"line {self.line}"
        return f"{where}: {f'{self.value!r} ' if self.value else ''}{self.reason}. {self.mend}"


@dataclass(slots=True)
class Group:
    """The rows of one product, and the product that they make."""

    key: str
    rows: list[TableRow] = field(default_factory=list)
    product: Product | None = None
    is_named: bool = True  # else the product has its number for a name, and can only be one that is known
    is_whole: bool = False  # a cell has all of the product
    only_variants: bool = False  # its rows are of variants of a product that is known
    refusals: list[Refusal] = field(default_factory=list)


class _Cells:
    """One row by meaning."""

    def __init__(self, row: TableRow, columns: Sequence[MappedColumn], places: Mapping[str, int], refusals: list[Refusal]) -> None:
        self.row, self.columns, self._places, self._refusals = row, columns, places, refusals

    def text(self, kind: str) -> str:
        place = self._places.get(kind)
        return "" if place is None else self.row.cells[place]

    def parts(self, kind: str) -> list[str]:
        text = self.text(kind)
        return split_cell(text, self.columns[self._places[kind]].separator) if text else []

    def number(self, kind: str) -> tuple[str | None, str]:
        """Return a number in its plain form and the sign or letters beside it."""
        text = self.text(kind)
        read = read_amount(text, self.columns[self._places[kind]].decimal) if text else None
        if text and read is None:
            self.refuse(kind, *_why_no_number(text, self.columns[self._places[kind]]))
        if read and not BY_COLUMN[kind].takes(read[0]):
            self.refuse(kind, "is out of reach", f"Write a number {BY_COLUMN[kind].limits}.")
            return None, ""
        return (written(read[0]), read[1]) if read else (None, "")

    def date(self, kind: str) -> str | None:
        text = self.text(kind)
        match = _DAY_FIRST.fullmatch(text)
        if match and (match[2] == "." or int(match[1]) > 12):
            text = f"{match[4]}-{int(match[3]):02}-{int(match[1]):02}"
        text = text.replace(" ", "T") if re.fullmatch(r"\d{4}-\d\d-\d\d \d\d:\d\d.*", text) else text
        if text and (day(text) is None if kind == "published" else instant(text) is None):
            self.refuse(kind, "is no date that can be read in one way only", "Write it as 2026-12-31.")
            return None
        return text or None

    def one_of(self, kind: str, choices: dict[str, Any]) -> Any:
        text = self.text(kind)
        if not text:
            return None
        choice = choices.get(re.sub(r"[\s_-]+", " ", text.rsplit("/", 1)[-1]).strip().lower())
        if choice is None:
            self.refuse(kind, "is not understood", f"Write one of: {', '.join(dict.fromkeys(choices))}.")
        return choice

    def refuse(self, kind: str, reason: str, mend: str) -> None:
        self._refusals.append(Refusal(self.row.line, self.columns[self._places[kind]].header, self.text(kind), reason, mend))

    def offer(self) -> dict[str, Any]:
        price, beside = self.number("price")
        listed, sale = self.number("list_price")[0], self.number("sale_price")[0]
        entries: list[dict[str, Any]] = [{"priceType": "ListPrice", "price": listed}] if listed else []
        if sale:
            times = {"validFrom": self.date("sale_start"), "validThrough": self.date("sale_end")}
            entries.append({"priceType": "SalePrice", "price": sale, **times})
        document = {
            "price": price,
            "priceCurrency": self.text("currency") or _SIGNS.get(beside, beside),
            "inventoryLevel": self.number("level")[0],
            "availability": self.one_of("availability", STATE_OF),
            "priceSpecification": entries or None,
        }
        return {name: value for name, value in document.items() if value}


class RowReader:
    """Reads the products of a table; a table without a column for parents has one row a product."""

    def __init__(self, table: Table, columns: Sequence[MappedColumn], owners: Mapping[str, str]) -> None:
        """``owners``: of variants that are known by their numbers, the numbers of their products."""
        self._table, self.columns, self._owners = table, columns, owners
        self._known: dict[tuple[int, str], tuple[Property, ...]] = {}
        self._place = {column.kind: place for place, column in enumerate(columns) if column.kind != "attribute"}
        self._attributes = [place for place, column in enumerate(columns) if column.kind == "attribute" and column.name]

    def groups(self) -> Iterator[Group]:
        """Yield each product with its rows, when the last of them has come; rows without a number by themselves."""
        counts, varying = self._looked_through()
        waiting: dict[str, Group] = {}
        for row in self._table.rows():
            key = self._key(row)
            if not key:
                reason = Refusal(row.line, "", "", "has no number of a product", "Give it one, in a column named SKU or Product number.")
                yield Group("", [row], refusals=[*_too_many_cells(row), reason])
                continue
            group = waiting.setdefault(key, Group(key))
            group.rows.append(row)
            group.refusals += _too_many_cells(row)
            if len(group.rows) == counts[key]:
                self._make(waiting.pop(key), varying)
                group.product = None if group.refusals else group.product
                yield group

    def _cell(self, row: TableRow, kind: str) -> str:
        return row.cells[self._place[kind]] if kind in self._place else ""

    def _own(self, row: TableRow) -> str:
        return self._cell(row, "identity") or self._cell(row, "sku")

    def _key(self, row: TableRow) -> str:
        return self._parent(row) or self._own(row)

    def _parent(self, row: TableRow) -> str:
        return self._cell(row, "parent") or self._owners.get(self._own(row), "")

    def _is_child(self, row: TableRow) -> bool:
        parent = self._parent(row)
        return bool(parent) and parent != self._own(row)

    def _looked_through(self) -> tuple[dict[str, int], set[int]]:
        """Return how many rows each product has, and the attributes in which variants of one product differ."""
        counts: dict[str, int] = {}
        first: dict[str, tuple[str, ...]] = {}
        varying: set[int] = set()
        for row in self._table.rows():
            key = self._key(row)
            counts[key] = counts.get(key, 0) + 1
            if self._is_child(row):
                given = tuple(row.cells[place] for place in self._attributes)
                other = first.setdefault(key, given)
                varying |= {place for place, one, two in zip(self._attributes, given, other, strict=True) if one != two}
        return counts, varying

    def _make(self, group: Group, varying: set[int]) -> None:
        heads = [row for row in group.rows if not self._is_child(row)]
        if heads and (whole := self._cell(heads[0], "product")):
            self._make_of_json(group, heads[0], whole)
            return
        if len(heads) > 1:
            lines = " and ".join(str(row.line) for row in heads[:3])
            group.refusals.append(Refusal(heads[1].line, "", group.key, f"stands on lines {lines}", "Give each product its own number."))
            return
        children = [row for row in group.rows if self._is_child(row)]
        group.only_variants = not heads and "parent" not in self._place
        varying = set(self._attributes) if group.only_variants else varying
        document = self._document(group, heads, children)
        group.is_named = bool(document["name"])
        if not group.refusals:
            product = read_product({**document, "name": document["name"] or group.key})
            pairs = zip(product.variants, children, strict=True)
            given = _Given(self, group)
            variants = tuple(replace(article, properties=given([row], sorted(varying))) for article, row in pairs)
            product = replace(product, properties=self._own_given(given, heads, children, varying), variants=variants)
            group.product = None if group.refusals else product

    def _own_given(self, given: "_Given", heads: list[TableRow], children: list[TableRow], varying: set[int]) -> tuple[Property, ...]:
        """Return the attributes of the product itself: those in which its variants do not differ, and what its own row says."""
        rows = [*heads, *children]
        own = given(rows, [place for place in self._attributes if place not in varying or not children])
        return (*own, *given(heads, sorted(varying))) if children else own

    def property_of(self, place: int, text: str) -> tuple[Property, ...]:
        """Return the attribute that a cell gives; cells that say the same are read once."""
        properties = self._known.get((place, text))
        if properties is None:
            if len(self._known) > _KEPT:
                self._known.clear()
            properties = self._known[place, text] = _property_of(self.columns[place], text)
        return properties

    def _make_of_json(self, group: Group, row: TableRow, text: str) -> None:
        """Read a product that cells could not say, out of the one that has all of it."""
        try:
            group.product, group.is_whole = read_line(text.encode()), True
        except BrokenLine as error:
            header = self.columns[self._place["product"]].header
            group.refusals.append(Refusal(row.line, header, text[:60], str(error), "Leave the cell empty and fill in the others."))

    def _document(self, group: Group, heads: list[TableRow], children: list[TableRow]) -> dict[str, Any]:
        rows = [_Cells(row, self.columns, self._place, group.refusals) for row in (*heads, *children)]
        head = rows[0]
        document: dict[str, Any] = {
            "productGroupID": group.key,
            **{name: next((text for cells in rows if (text := cells.text(name))), "") for name in TEXTS},
            "category": head.parts("category") or next((parts for cells in rows if (parts := cells.parts("category"))), []),
            "keywords": head.parts("tags"),
            "datePublished": head.date("published"),
            "aggregateRating": {"ratingValue": head.number("rating")[0], "reviewCount": head.number("reviews")[0]},
            "offers": head.offer() if heads else {},
            "isVisible": head.one_of("visible", YES_NO) is not False,
            "hasVariant": [self._variant(cells) for cells in rows[len(heads) :]],
        }
        return document

    def _variant(self, cells: _Cells) -> dict[str, Any]:
        offer = cells.offer()
        document = {"sku": self._cell(cells.row, "sku") or self._own(cells.row), "image": cells.text("image")}
        return {**document, "offers": offer} if offer else document


def _too_many_cells(row: TableRow) -> list[Refusal]:
    """Return why a row with more cells than the header has names is not taken: nobody knows which of them is which."""
    if not row.beyond:
        return []
    reason = f"has {len(row.cells) + len(row.beyond)} cells, the header has {len(row.cells)}"
    return [Refusal(row.line, "", "", reason, "Put a cell with a delimiter in it in quotes.")]


class _Given:
    """Reads what columns give of attributes, each by the first row that says something; what cannot be read is refused."""

    def __init__(self, reader: RowReader, group: Group) -> None:
        self._reader, self._group = reader, group

    def __call__(self, rows: list[TableRow], places: list[int]) -> tuple[Property, ...]:
        first_rows = ((place, next((row for row in rows if row.cells[place]), None)) for place in places)
        return tuple(prop for place, row in first_rows if row for prop in self._read(place, row))

    def _read(self, place: int, row: TableRow) -> tuple[Property, ...]:
        try:
            return self._reader.property_of(place, row.cells[place])
        except _OtherSigns as error:
            column = self._reader.columns[place]
            reason, mend = _why_no_number(str(error), column)
            self._group.refusals.append(Refusal(row.line, column.header, row.cells[place], reason, mend))
            return ()


class _OtherSigns(ValueError):
    """A number with other signs than the rest of its column."""


def _why_no_number(text: str, column: MappedColumn) -> tuple[str, str]:
    """Return why a cell of a column of numbers cannot be read, and how to mend it."""
    if read_amount(text) is None:
        return "is no number", "Write it in digits, as 12.50."
    sign = "comma" if column.decimal == "," else "point"
    return f"has other signs than the rest of the column, where a {sign} parts decimals", f"Write it with a decimal {sign}."


def _property_of(column: MappedColumn, text: str) -> tuple[Property, ...]:
    """Return the attribute that a cell gives. Raises _OtherSigns."""
    values: list[Any] = []
    unit = column.unit
    for part in split_cell(text, column.separator):
        read = read_amount(part, column.decimal) if column.is_number else None
        if read is None and column.is_number and read_amount(part) is not None:
            raise _OtherSigns(part)
        if read is None or (read[1] and values and read[1] != unit):
            values.append(part)
        else:
            unit = read[1] or unit
            values.append(read[0])
    return read_properties([{"name": column.name, "value": values, "unitText": unit}]) if values else ()
