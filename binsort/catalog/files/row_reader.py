"""Rows into products: one row a product or a variant, put together by the number of the product they belong to."""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from copy import copy
from dataclasses import replace
from typing import Any

from django.utils.translation import gettext as _

from binsort.core.products.catalogue_reader import BrokenLine, read_line, read_product
from binsort.core.products.fields import BY_COLUMN, MONEY, TEXTS
from binsort.core.products.product import Property
from binsort.core.values.amounts import CURRENCIES, KRONE
from binsort.core.values.nothing import SPELLED
from binsort.core.values.numbers import written
from binsort.core.values.text import split_cell

from .cautions import Cautions
from .cells import Unread, category_of, read_attribute, read_choice, read_day, read_moment, read_number, says_nothing
from .columns import WORDED, MappedColumn
from .groups import Group, Refusal, refusals_of_limits, too_many_cells
from .table import Table, TableRow

_KEPT = 50_000  # cells remembered at most
_CUT = 32_767  # characters of a cell at which a spreadsheet ends it
Mends = Mapping[int, Mapping[int, str] | None]  # by line: other texts of cells by place; None leaves the row out


class _Cells:
    """One row by meaning."""

    def __init__(self, row: TableRow, reader: "RowReader", refusals: list[Refusal]) -> None:
        self.row, self._reader, self._refusals = row, reader, refusals
        self._columns, self._places = reader.columns, reader.place_of

    def text(self, kind: str) -> str:
        place = self._places.get(kind)
        return "" if place is None else self.row.cells[place]

    def parts(self, kind: str) -> list[str]:
        text = self.text(kind)
        if not text:
            return []
        column = self._columns[self._places[kind]]
        return [part for part in split_cell(text, column.separator) if not says_nothing(column, part)]

    def categories(self) -> list[str]:
        parts = self.parts("category")
        return [" > ".join(category_of(self._columns[self._places["category"]], part)) for part in parts]

    def number(self, kind: str) -> tuple[str | None, str]:
        """Return a number in its plain form and the sign or letters beside it."""
        read = self._read(kind, read_number)
        if read is None:
            return None, ""
        declared = BY_COLUMN[kind]
        if not declared.takes(read[0]):
            self.refuse(kind, Unread(_("is out of reach"), _("Write a number %(limits)s.") % {"limits": declared.limits}))
            return None, ""
        if declared.kind in (MONEY, "sale") and read[0] < 0:
            self._reader.cautions.add("negative", self.row.line, value=self.text(kind), column=self._columns[self._places[kind]].header)
        return written(read[0]), read[1]

    def date(self, kind: str) -> str | None:
        read = self._read(kind, read_moment if kind != "published" else read_day)
        return None if read is None else str(read)

    def one_of(self, kind: str) -> Any:
        return self._read(kind, read_choice)

    def _read(self, kind: str, read: Any) -> Any:
        text = self.text(kind)
        if not text:
            return None
        try:
            return read(self._columns[self._places[kind]], text)
        except Unread as unread:
            self.refuse(kind, unread)
            return None

    def refuse(self, kind: str, unread: Unread) -> None:
        self._refusals.append(self._reader.refusal(self.row, self._places[kind], unread))

    def offer(self) -> dict[str, Any]:
        price, beside = self.number("price")
        listed, sale = self.number("list_price")[0], self.number("sale_price")[0]
        entries: list[dict[str, Any]] = [{"priceType": "ListPrice", "price": listed}] if listed else []
        if sale:
            times = {"validFrom": self.date("sale_start"), "validThrough": self.date("sale_end")}
            entries.append({"priceType": "SalePrice", "price": sale, **times})
        document = {
            "price": price,
            "priceCurrency": self._currency(beside),
            "inventoryLevel": self.number("level")[0],
            "availability": self.one_of("availability"),
            "priceSpecification": entries or None,
        }
        return {name: value for name, value in document.items() if value}

    def _currency(self, beside: str) -> str:
        own = self.text("currency")
        if beside in KRONE and not own:
            self._reader.cautions.add("krone", self.row.line, value=beside)
            return ""
        currency = CURRENCIES.get(own or beside, own or beside)
        if currency:
            self._reader.met(currency, self.row.line)
        return currency


class RowReader:
    """Reads the products of a table; a table without a column for parents has one row a product."""

    def __init__(
        self,
        table: Table,
        columns: Sequence[MappedColumn],
        owners: Mapping[str, str],
        *,
        mends: Mends | None = None,
        cautions: Cautions | None = None,
        currency: str = "",
    ) -> None:
        """Begin.

        Args:
            table: where the rows come from.
            columns: what its columns are.
            owners: of variants that are known by their numbers, the numbers of their products.
            mends: cells put right by hand.
            cautions: where to note what somebody should be aware of.
            currency: of the catalogue.
        """
        self._table, self.columns, self._owners = table, columns, owners
        self._mends, self.cautions, self._currency = mends or {}, cautions or Cautions(), currency
        self._known: dict[tuple[int, str], tuple[Property, ...]] = {}
        self.place_of = {column.kind: place for place, column in enumerate(columns) if column.kind != "attribute"}
        self._pieces = [place for place, column in enumerate(columns) if column.kind in ("product", "product_more")]
        self._attributes = [place for place, column in enumerate(columns) if column.kind == "attribute" and column.name]
        self._currencies: dict[str, tuple[int, list[int]]] = {}  # how many prices are in each, and the first lines
        self._parent_of: dict[str, str] = {}
        self._variants: set[str] = set()  # numbers of those met

    def apart(self) -> "RowReader":
        """Return the same reader, to be sent to another process."""
        other = copy(self)
        if self._table.sheet:
            other._table = replace(self._table, sheet=replace(self._table.sheet, kept=None))
        return other

    def groups(self) -> Iterator[Group]:
        """Yield each product with its rows, when the last of them has come; rows without a number by themselves."""
        counts, varying = self._looked_through()
        waiting: dict[str, Group] = {}
        for row in self._rows():
            if row.told:
                self._count_nothing(row)
            key = "" if row.problem else self._key(row)
            if not key:
                yield Group("", [row], refusals=self._refusals_of(row))
                continue
            self._look_at(row)
            group = waiting.setdefault(key, Group(key))
            group.rows.append(row)
            group.refusals += too_many_cells(row)
            if len(group.rows) == counts[key]:
                self._make_noted(waiting.pop(key), varying)
                group.product = None if group.refusals else group.product
                yield group
        self._warn_of_currencies()

    def _rows(self) -> Iterator[TableRow]:
        """Yield the rows as they are read: put right by hand, words for nothing left out."""
        for row in self._table.rows():
            mend = self._mends.get(row.line, {}) if self._mends else {}
            if mend is None:
                continue
            cells = row.cells
            if mend:
                cells = tuple(mend.get(place, cell) for place, cell in enumerate(cells))
                row = replace(row, cells=cells, told=row.cells, beyond=(), problem=None)
            if not SPELLED.isdisjoint(cells):
                emptied = tuple("" if says_nothing(c, cell) else cell for c, cell in zip(self.columns, cells, strict=True))
                row = replace(row, cells=emptied, told=cells)
            yield row

    def _count_nothing(self, row: TableRow) -> None:
        for column, cell in zip(self.columns, row.told, strict=True):
            if cell in SPELLED and column.kind not in WORDED:
                self.cautions.add("nothing", row.line, value=cell, column=column.header)

    def _refusals_of(self, row: TableRow) -> list[Refusal]:
        """Return why a row without a number, or one that is broken, is not taken."""
        if row.problem:
            return [Refusal(row.line, "", "", *row.problem)]
        place = next((self.place_of[kind] for kind in ("identity", "sku") if kind in self.place_of), -1)
        told = row.told[place] if row.told else ""
        column = self.columns[place].header if told else ""
        mend = _("Give it one, in a column named SKU or Product number.")
        return [*too_many_cells(row), Refusal(row.line, column, told, _("has no number of a product"), mend, place)]

    def refusal(self, row: TableRow, place: int, unread: Unread) -> Refusal:
        """Return why a row is not taken for one of its cells."""
        return Refusal(row.line, self.columns[place].header, row.cells[place], unread.reason, unread.mend, place, unread.proposal)

    def met(self, currency: str, line: int) -> None:
        """Note the currency of a price."""
        count, lines = self._currencies.get(currency, (0, []))
        self._currencies[currency] = count + 1, lines if len(lines) >= 5 else [*lines, line]

    def _warn_of_currencies(self) -> None:
        usual = self._currency or max(self._currencies, key=lambda code: self._currencies[code][0], default="")
        for code, (count, lines) in self._currencies.items():
            if code != usual:
                self.cautions.add("currency", *lines, count=count, column=code)

    def _look_at(self, row: TableRow) -> None:
        """Note what somebody should be aware of in a row."""
        if self._table.has_stray_bytes and any("\ufffd" in cell for cell in row.cells):
            self.cautions.add("stray", row.line)
        if max(map(len, row.cells)) == _CUT:
            place = next(place for place, cell in enumerate(row.cells) if len(cell) == _CUT)
            self.cautions.add("cut", row.line, column=self.columns[place].header)
        if "parent" in self.place_of and self._is_child(row):
            parent = self._parent(row)
            if self._parent_of.get(parent, parent) != parent:
                self.cautions.add("parents", row.line, value=f"{self._own(row)} of {parent}")
            sku = self._cell(row, "sku") or self._own(row)
            if sku in self._variants:
                self.cautions.add("twice", row.line, value=sku)
            elif sku:
                self._variants.add(sku)

    def _cell(self, row: TableRow, kind: str) -> str:
        return row.cells[self.place_of[kind]] if kind in self.place_of else ""

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
        counts: Counter[str] = Counter()
        first: dict[str, tuple[str, ...]] = {}
        varying: set[int] = set()
        if "parent" not in self.place_of and not self._owners:
            return Counter(self._own(row) for row in self._rows() if not row.problem), varying
        for row in self._rows():
            if row.problem:
                continue
            key = self._key(row)
            counts[key] += 1
            if self._is_child(row):
                self._parent_of[self._own(row)] = key
                given = tuple(row.cells[place] for place in self._attributes)
                other = first.setdefault(key, given)
                varying |= {place for place, one, two in zip(self._attributes, given, other, strict=True) if one != two}
        return counts, varying

    def _make_noted(self, group: Group, varying: set[int]) -> None:
        """Make a product; whatever goes wrong besides names the lines."""
        try:
            self._make(group, varying)
        except Exception as error:
            error.add_note(_("on line %(line)s of the file") % {"line": f"{group.rows[0].line:,}"})
            raise

    def _make(self, group: Group, varying: set[int]) -> None:
        heads = [row for row in group.rows if not self._is_child(row)]
        if heads and self._cell(heads[0], "product"):
            self._make_of_json(group, heads[0], "".join(heads[0].cells[place] for place in self._pieces))
            return
        if len(heads) > 1:
            lines = " and ".join(str(row.line) for row in heads[:3])
            words = _("stands on lines %(lines)s") % {"lines": lines}
            others = tuple(row.line for row in heads[1:])
            group.refusals.append(Refusal(heads[1].line, "", group.key, words, _("Give each product its own number."), leaves=others))
            return
        children = [row for row in group.rows if self._is_child(row)]
        group.only_variants = not heads and "parent" not in self.place_of
        varying = set(self._attributes) if group.only_variants else varying
        document = self._document(group, heads, children)
        group.is_named = bool(document["name"])
        if not group.refusals:
            product = read_product({**document, "name": document["name"] or group.key})
            pairs = zip(product.variants, children, strict=True)
            given = _Given(self, group)
            variants = tuple(replace(article, properties=given([row], sorted(varying))) for article, row in pairs)
            product = replace(product, properties=self._own_given(given, heads, children, varying), variants=variants)
            group.refusals += refusals_of_limits(group.rows[0].line, product)
            group.product = None if group.refusals else product

    def _own_given(self, given: "_Given", heads: list[TableRow], children: list[TableRow], varying: set[int]) -> tuple[Property, ...]:
        """Return the attributes of the product itself: those in which its variants do not differ, and what its own row says."""
        rows = [*heads, *children]
        own = given(rows, [place for place in self._attributes if place not in varying or not children])
        return (*own, *given(heads, sorted(varying))) if children else own

    def property_of(self, place: int, text: str) -> tuple[Property, ...]:
        """Return the attribute that a cell gives; cells that say the same are read once. Raises Unread."""
        properties = self._known.get((place, text))
        if properties is None:
            if len(self._known) > _KEPT:
                self._known.clear()
            properties = self._known[place, text] = read_attribute(self.columns[place], text)
        return properties

    def _make_of_json(self, group: Group, row: TableRow, text: str) -> None:
        """Read a product that cells could not say, out of the one that has all of it."""
        place = self.place_of["product"]
        header = self.columns[place].header
        try:
            product = read_line(text.encode())
        except BrokenLine as error:
            mend = _("Leave the cell empty and fill in the others.")
            group.refusals.append(Refusal(row.line, header, text[:60], str(error), mend, place))
            return
        if product.id != group.key:
            reason = _("is the product %(number)s, its row is of %(key)s") % {"number": product.id, "key": group.key}
            group.refusals.append(Refusal(row.line, header, text[:60], reason, _("Give both the same number."), place))
            return
        group.refusals += refusals_of_limits(group.rows[0].line, product)
        group.product, group.is_whole = product, True

    def _document(self, group: Group, heads: list[TableRow], children: list[TableRow]) -> dict[str, Any]:
        rows = [_Cells(row, self, group.refusals) for row in (*heads, *children)]
        head = rows[0]
        document: dict[str, Any] = {
            "productGroupID": group.key,
            **{name: next((text for cells in rows if (text := cells.text(name))), "") for name in TEXTS},
            "category": head.categories() or next((parts for cells in rows[1:] if (parts := cells.categories())), []),
            "keywords": head.parts("tags"),
            "datePublished": head.date("published"),
            "aggregateRating": {"ratingValue": head.number("rating")[0], "reviewCount": head.number("reviews")[0]},
            "offers": head.offer() if heads else {},
            "isVisible": head.one_of("visible") is not False,
            "hasVariant": [self._variant(cells) for cells in rows[len(heads) :]],
        }
        return document

    def _variant(self, cells: _Cells) -> dict[str, Any]:
        offer = cells.offer()
        document = {"sku": self._cell(cells.row, "sku") or self._own(cells.row), "image": cells.text("image")}
        return {**document, "offers": offer} if offer else document


class _Given:
    """Reads what columns give of attributes, each by the first row that says something; what cannot be read is refused."""

    def __init__(self, reader: RowReader, group: Group) -> None:
        self._reader, self._group = reader, group

    def __call__(self, rows: list[TableRow], places: list[int]) -> tuple[Property, ...]:
        first_rows = ((place, next((row for row in rows if row.cells[place]), None)) for place in places)
        return tuple(prop for place, row in first_rows if row for prop in self._read(place, row))

    def _read(self, place: int, row: TableRow) -> tuple[Property, ...]:
        try:
            properties = self._reader.property_of(place, row.cells[place])
        except Unread as unread:
            self._group.refusals.append(self._reader.refusal(row, place, unread))
            return ()
        column = self._reader.columns[place]
        if column.is_number and any(isinstance(value, str) for prop in properties for value in prop.values):
            self._reader.cautions.add("texts", row.line, value=row.cells[place], column=column.header)
        return properties
