"""Bringing a file in: a trial run says what it would change; then all of it or nothing; and the last one can be undone."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from django.conf import settings
from django.utils.translation import gettext as _

from binsort.catalog import models
from binsort.catalog.dictionary.attributes import definitions
from binsort.core.products.catalogue_reader import BrokenLine, document_in, read_product
from binsort.core.products.catalogue_writer import document_of
from binsort.core.values.strict_json import BadJson, loads, one_line, walk

from .cautions import Cautions
from .column_recognition import recognised
from .columns import KnownAttribute, MappedColumn, guessed
from .groups import Group, Refusal, refusals_of_limits
from .row_reader import Mends, RowReader
from .schema_org import as_ours
from .table import Table, TableRow, open_table
from .unreadable import UnreadableTable
from .workbook import Sheet

_SAMPLES = 500  # values of a column that its meaning is guessed from
MOST_IN_ONE_PIECE = 64 << 20  # bytes


@dataclass(frozen=True, slots=True)
class ProductFile:
    """A file with its products, read again and again without being held."""

    path: Path
    form: str
    name: str  # as people know it
    table: Table | None = None
    columns: tuple[MappedColumn, ...] = ()
    in_one_piece: bool = False  # JSON
    mends: Mends = field(default_factory=dict)  # rows of the table put right by hand

    @property
    def has_parents(self) -> bool:
        """Whether a column says of which product a row is a variant."""
        return any(column.kind == "parent" for column in self.columns)

    def size(self) -> int:
        """Return how many lines the file has below its header, about as many as products or a few more; 0 where that is not known."""
        if self.in_one_piece:
            return 0
        with (self.table.sheet.lines if self.table and self.table.sheet else self.path).open("rb") as file:
            lines = sum(piece.count(b"\n") for piece in iter(lambda: file.read(1 << 20), b""))
        return max(0, lines - (self.table.first if self.table and not self.table.sheet else 0))

    def row_reader(self, cautions: Cautions) -> RowReader:
        """Return what reads the rows of a table, with all that it has to know; it asks the database nothing."""
        if self.table is None:
            raise TypeError("the file is no table")
        known = {} if self.has_parents else owners()
        return RowReader(self.table, self.columns, known, mends=self.mends, cautions=cautions, currency=usual_currency())

    def groups(self, cautions: Cautions | None = None) -> Iterator[Group]:
        """Yield each product of the file, or why it is refused; ``cautions`` get what somebody should be aware of."""
        cautions = Cautions() if cautions is None else cautions
        if self.table:
            return self.row_reader(cautions).groups()
        return _document_groups(self.path, cautions) if self.in_one_piece else _line_groups(self.path, cautions)


def usual_currency() -> str:
    """Return the currency in which pages show the catalogue: the first that an offer names; empty where there is no price."""
    named = models.Variant.objects.exclude(currency="").order_by("product__place", "place").values_list("currency", flat=True)
    return named.first() or (settings.CURRENCY if models.Variant.objects.exclude(price=None).exists() else "")


def product_file_of(path: Path, *, name: str = "", sheet: Sheet | str = "") -> ProductFile:
    """Find out what a file is: JSON Lines of schema.org products, CSV, or XLSX.

    Args:
        path: where it is.
        name: what people call it, where that is another name.
        sheet: of a workbook, see :func:`.table.open_table`.

    Raises:
        UnreadableTable: none of these.
        OSError: it cannot be opened.
    """
    name = name or path.name
    ending = Path(name).suffix.lower()
    if ending in (".jsonl", ".ndjson"):
        return ProductFile(path, "JSON Lines of schema.org products", name)
    if ending in (".json", ".jsonld"):
        return ProductFile(path, "JSON-LD of schema.org products", name, in_one_piece=True)
    table = open_table(path, sheet=sheet)
    known = {key: KnownAttribute(row.name, row.kind, row.unit) for key, row in definitions().items()}
    return ProductFile(path, table.form, name, table, meanings_of(table, known))


def meanings_of(table: Table, known: Mapping[str, KnownAttribute]) -> tuple[MappedColumn, ...]:
    """Return what the columns of a table seem to be, ``known`` being the attributes of the dictionary."""
    samples = table.samples(_SAMPLES)
    return recognised(guessed(table.header, samples, known), samples)


def _document_groups(path: Path, cautions: Cautions) -> Iterator[Group]:
    """Yield the products of a JSON file in one piece: an object, a list, or a graph of them; lines are their places in it."""
    if path.stat().st_size > MOST_IN_ONE_PIECE:
        raise UnreadableTable(
            _("the file is JSON in one piece of more than %(MOST_IN_ONE_PIECE)s MB. Write one product a line (.jsonl).")
            % {"MOST_IN_ONE_PIECE": MOST_IN_ONE_PIECE >> 20}
        )
    try:
        document = loads(path.read_bytes().decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        raise UnreadableTable(_("the file is not UTF-8. Save it as UTF-8.")) from error
    except BadJson as error:
        raise UnreadableTable(_("the file is no JSON: %(error)s. Is it whole?") % {"error": error}) from error
    for number, item in enumerate(documents_in(document), 1):
        row = TableRow(number, (one_line(item),))
        yield _read_group(number, row, lambda item=item: item, cautions)  # type: ignore[misc]


def documents_in(document: Any) -> list[dict[str, Any]]:
    """Return the objects of a JSON-LD document that are products, or may be; others of its graph are left out."""
    listed = document.get("@graph", document.get("itemListElement", [document])) if isinstance(document, dict) else document
    items = [item.get("item", item) if isinstance(item, dict) else {} for item in (listed if isinstance(listed, list) else [listed])]
    products = [item for item in items if isinstance(item, dict) and _may_be_product(item)]
    if not products:
        raise UnreadableTable(_("no schema.org Product is in it. The file must hold a Product, a list of them, or a @graph with them."))
    return products


def _may_be_product(item: dict[str, Any]) -> bool:
    kinds = item.get("@type", "Product")
    names = {str(kind).rsplit("/", 1)[-1] for kind in (kinds if isinstance(kinds, list) else [kinds])}
    return bool(names & {"Product", "ProductGroup", "ProductModel", "IndividualProduct", "Vehicle"}) or "sku" in item


def _read_group(number: int, row: TableRow, document: Callable[[], dict[str, Any]], cautions: Cautions) -> Group:
    def note(kind: str, of: str) -> None:
        cautions.add(kind, number, column=of)

    try:
        product = read_product(as_ours(document(), note))
        if any("\0" in str(part) for _key, part in walk(document_of(product))):
            raise BrokenLine(_("holds a character of number 0, which no text may"))
    except BrokenLine as error:
        return Group("", [row], refusals=[Refusal(number, "", "", str(error), _("Write a schema.org Product with a sku and a name."))])
    except Exception as error:
        error.add_note(_("on line %(line)s of the file") % {"line": f"{number:,}"})
        raise
    refusals = refusals_of_limits(number, product)
    return Group(product.id, [row], None if refusals else product, refusals=refusals)


def _line_groups(path: Path, cautions: Cautions) -> Iterator[Group]:
    with path.open("rb") as lines:
        for number, raw in enumerate(lines, 1):
            line = raw.removeprefix(b"\xef\xbb\xbf") if number == 1 else raw
            if not line.strip():
                continue
            row = TableRow(number, (line.decode("utf-8", "replace").rstrip("\r\n"),))
            yield _read_group(number, row, lambda line=line: document_in(line), cautions)  # type: ignore[misc]


def owners() -> dict[str, str]:
    """Return the products of variants by the variants' numbers, where one product has that number and no product is called so."""
    rows = models.Variant.objects.filter(is_implicit=False).exclude(sku="").values_list("sku", "product__identity")
    owner_of: dict[str, str] = {}
    twice: set[str] = set()
    for sku, name in rows.iterator():
        if owner_of.setdefault(sku, name) != name:
            twice.add(sku)
    taken = set(models.Product.objects.filter(identity__in=owner_of).values_list("identity", flat=True)) if owner_of else set()
    return {sku: name for sku, name in owner_of.items() if sku not in twice and sku not in taken}
