"""Bringing a file in: a trial run says what it would change; then all of it or nothing; and the last one can be undone."""

import csv
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from django.db import transaction

from binsort.core.catalogue import BrokenLine, read_line, read_product
from binsort.core.collecting import without_collecting
from binsort.core.documents import document_of
from binsort.core.jsontext import BadJson, loads, one_line, walk
from binsort.core.parts import differing
from binsort.core.products import Product
from binsort.core.text import identity

from . import models
from .dictionary import definitions
from .meanings import Column, Known, guessed
from .merging import PriceOfMany, covered, merged
from .recognising import recognised
from .records import batched, products_of
from .revising import Refused, begin, hold, write
from .rows import Group, Refusal, RowReader
from .storing import BATCH
from .tables import Row, Table, Unreadable, open_table

KEEP, HIDE, DELETE = "keep", "hide", "delete"  # what becomes of products that are not in the file
_SAMPLES = 500  # values of a column that its meaning is guessed from
MOST_IN_ONE_PIECE = 64 << 20  # bytes


@dataclass(frozen=True, slots=True)
class Source:
    """A file with its products, read again and again without being held."""

    path: Path
    form: str
    name: str  # as people know it
    table: Table | None = None
    columns: tuple[Column, ...] = ()
    in_one_piece: bool = False  # JSON

    @property
    def has_parents(self) -> bool:
        """Whether a column says of which product a row is a variant."""
        return any(column.kind == "parent" for column in self.columns)

    def size(self) -> int:
        """Return how many lines the file has, about as many as products or a few more; 0 where that is not known."""
        if self.in_one_piece or (self.table and not self.table.encoding):
            return 0
        with self.path.open("rb") as file:
            return sum(piece.count(b"\n") for piece in iter(lambda: file.read(1 << 20), b""))

    def groups(self) -> Iterator[Group]:
        """Yield each product of the file, or why it is refused."""
        if self.table:
            return RowReader(self.table, self.columns, {} if self.has_parents else owners()).groups()
        return _document_groups(self.path) if self.in_one_piece else _line_groups(self.path)


def source_of(path: Path, *, name: str = "") -> Source:
    """Find out what a file is: JSON Lines of schema.org products, CSV, or XLSX.

    Args:
        path: where it is.
        name: what people call it, where that is another name.

    Raises:
        .tables.Unreadable: none of these.
        OSError: it cannot be opened.
    """
    name = name or path.name
    ending = Path(name).suffix.lower()
    if ending in (".jsonl", ".ndjson"):
        return Source(path, "JSON Lines of schema.org products", name)
    if ending in (".json", ".jsonld"):
        return Source(path, "JSON-LD of schema.org products", name, in_one_piece=True)
    table = open_table(path)
    known = {key: Known(row.name, row.kind, row.unit) for key, row in definitions().items()}
    return Source(path, table.form, name, table, meanings_of(table, known))


def meanings_of(table: Table, known: Mapping[str, Known]) -> tuple[Column, ...]:
    """Return what the columns of a table seem to be, ``known`` being the attributes of the dictionary."""
    samples = table.samples(_SAMPLES)
    return recognised(guessed(table.header, samples, known), samples)


def _document_groups(path: Path) -> Iterator[Group]:
    """Yield the products of a JSON file in one piece: an object, a list, or a graph of them; lines are their places in it."""
    if path.stat().st_size > MOST_IN_ONE_PIECE:
        raise Unreadable(f"the file is JSON in one piece of more than {MOST_IN_ONE_PIECE >> 20} MB. Write one product a line (.jsonl).")
    try:
        found = loads(path.read_bytes().decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        raise Unreadable("the file is not UTF-8. Save it as UTF-8.") from error
    except BadJson as error:
        raise Unreadable(f"the file is no JSON: {error}. Is it whole?") from error
    for number, item in enumerate(documents_in(found), 1):
        row = Row(number, (one_line(item),))
        yield _read_group(number, row, lambda item=item: read_product(item))  # type: ignore[misc]


def documents_in(found: Any) -> list[dict[str, Any]]:
    """Return the objects of a JSON-LD document that are products, or may be; others of its graph are left out."""
    listed = found.get("@graph", found.get("itemListElement", [found])) if isinstance(found, dict) else found
    items = [item.get("item", item) if isinstance(item, dict) else {} for item in (listed if isinstance(listed, list) else [listed])]
    products = [item for item in items if isinstance(item, dict) and _may_be_product(item)]
    if not products:
        raise Unreadable("no schema.org Product is in it. The file must hold a Product, a list of them, or a @graph with them.")
    return products


def _may_be_product(item: dict[str, Any]) -> bool:
    kinds = item.get("@type", "Product")
    names = {str(kind).rsplit("/", 1)[-1] for kind in (kinds if isinstance(kinds, list) else [kinds])}
    return bool(names & {"Product", "ProductGroup", "ProductModel", "IndividualProduct", "Vehicle"}) or "sku" in item


def _read_group(number: int, row: Row, read: Callable[[], Product]) -> Group:
    try:
        product = read()
        if any("\0" in str(part) for _, part in walk(document_of(product))):
            raise BrokenLine("holds a character of number 0, which no text may")
    except BrokenLine as error:
        return Group("", [row], refusals=[Refusal(number, "", "", str(error), "Write a schema.org Product with a sku and a name.")])
    return Group(product.id, [row], product)


def _line_groups(path: Path) -> Iterator[Group]:
    with path.open("rb") as lines:
        for number, raw in enumerate(lines, 1):
            line = raw.removeprefix(b"\xef\xbb\xbf") if number == 1 else raw
            if not line.strip():
                continue
            row = Row(number, (line.decode("utf-8", "replace").rstrip("\r\n"),))
            yield _read_group(number, row, lambda line=line: read_line(line))  # type: ignore[misc]


@dataclass(slots=True)
class Trial:
    """What a file would do to the catalogue, or did."""

    new: list[str] = field(default_factory=list)  # identities, as all that follow
    changed: list[str] = field(default_factory=list)
    unchanged: int = 0
    missing: list[str] = field(default_factory=list)  # in the catalogue, not in the file
    refusals: list[Refusal] = field(default_factory=list)
    refused_rows: list[Row] = field(default_factory=list)
    before: int = 0  # products in the catalogue
    gained: Counter[str] = field(default_factory=Counter)  # products that get an attribute, by its identity; or lose it

    def refuse(self, group: Group) -> None:
        """Take a product's rows among those that are refused."""
        self.refusals += group.refusals
        self.refused_rows += group.rows


Progress = Callable[[int, int], None]  # done, of how many (0: not known); raises to stop


def _silent(done: int, total: int) -> None:
    """Tell nobody."""


def owners() -> dict[str, str]:
    """Return the products of variants by the variants' numbers, where one product has that number and no product is called so."""
    rows = models.Variant.objects.filter(is_implicit=False).exclude(sku="").values_list("sku", "product__identity")
    found: dict[str, str] = {}
    twice: set[str] = set()
    for sku, name in rows.iterator():
        if found.setdefault(sku, name) != name:
            twice.add(sku)
    taken = set(models.Product.objects.filter(identity__in=found).values_list("identity", flat=True)) if found else set()
    return {sku: name for sku, name in found.items() if sku not in twice and sku not in taken}


def trial(source: Source, progress: Progress = _silent) -> Trial:
    """Tell what a file would do, writing nothing."""
    found = Trial()
    with without_collecting():
        for _ in _steps(source, found, progress):
            pass
    return found


def _steps(source: Source, found: Trial, progress: Progress) -> Iterator[tuple[dict[str, Product], dict[str, Product]]]:
    """Go through a file; yield what changes, some products at a time: as they become, and as they are where they are known."""
    found.before = models.Product.objects.count()
    parts, total = covered(source.columns), source.size()
    named: set[str] = set()  # all of the file, refused ones too
    new, changed, same = {}, {}, set()
    done = 0
    for groups in batched(source.groups(), BATCH):
        known = products_of({group.key for group in groups if group.key}, hidden=True)
        after: dict[str, Product] = {}
        for group in groups:
            named.add(group.key)
            product = _becomes(group, known.get(group.key), parts, source)
            if product is None:
                found.refuse(group)
            else:
                after[group.key] = product  # of several with a number the last one counts
        for name, product in after.items():
            if name not in known:
                new[name] = None
            elif differing(known[name], product):
                changed[name] = None
            elif name not in new and name not in changed:
                same.add(name)
            found.gained.update(_given(product) - (_given(known[name]) if name in known else frozenset()))
            found.gained.subtract(_given(known[name]) - _given(product) if name in known else ())
        yield {name: product for name, product in after.items() if name not in known or differing(known[name], product)}, known
        done += len(groups)
        progress(done, max(total, done) if total else 0)
    found.new, found.changed, found.unchanged = list(new), [name for name in changed if name not in new], len(same - set(changed))
    everyone = models.Product.objects.order_by("place", "id").values_list("identity", flat=True)
    found.missing = [name for name in everyone if name not in named]


def _becomes(group: Group, known: Product | None, parts: frozenset[str], source: Source) -> Product | None:
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


@transaction.atomic
def bring_in(source: Source, *, missing: str = KEEP, actor: Any = None, progress: Progress = _silent) -> tuple[models.Revision, Trial]:
    """Take the products of a file: new and changed ones are written, unchanged ones left alone, refused rows passed over.

    All of it or nothing: where anything fails, or ``progress`` raises, the catalogue stays as it was.

    Args:
        source: the file.
        missing: what becomes of products that the file does not name: ``keep``, ``hide`` or ``delete``.
        actor: who does it.
        progress: called with how many products are done, of how many.

    Raises:
        Refused: another file is being brought in, or no row of this one can be taken.
    """
    hold(alone=True)
    found = Trial()
    kind = models.Revision.Kind.FILE
    revision = begin(kind, f"Brought in {source.name}", file=source.name, form=source.form, actor=actor, missing=missing)
    with without_collecting():
        for after, before in _steps(source, found, progress):
            if after:
                write(revision, after, before)
    if not found.new and not found.changed and not found.unchanged:
        raise Refused("no row of the file can be taken" + (f"; the first: {found.refusals[0]}" if found.refusals else "; it has none"))
    leaving = found.missing if missing != KEEP else []
    for names in batched(leaving, BATCH):
        known = products_of(names, hidden=True)
        hidden = {name: replace(product, visible=False) for name, product in known.items()}
        write(revision, hidden if missing == HIDE else dict.fromkeys(names), known)
        progress(0, 0)
    revision.new, revision.changed, revision.left = len(found.new), len(found.changed), len(leaving)
    revision.refused = len(found.refused_rows)
    revision.save()
    return revision, found


def refused_file(source: Source, found: Trial, path: Path) -> None:
    """Write the rows that were not taken into a file that can be corrected and brought in again."""
    with path.open("w", encoding="utf-8", newline="") as out:
        if source.table is None:
            out.writelines(f"{row.cells[0]}\n" for row in found.refused_rows)
        else:
            writer = csv.writer(out)
            writer.writerow(source.table.header)
            writer.writerows(row.cells for row in sorted(found.refused_rows, key=lambda row: row.line))
