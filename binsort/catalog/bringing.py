"""Bringing a file in: a trial run says what it would change; then all of it or nothing; and the last one can be undone."""

import csv
import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from hashlib import blake2b
from itertools import islice
from pathlib import Path
from typing import Any

from django.db import transaction

from binsort.core.catalogue import BrokenLine, read_line
from binsort.core.documents import document_of
from binsort.core.jsontext import walk
from binsort.core.parts import alike
from binsort.core.products import Product
from binsort.core.text import path_identity

from . import models
from .meanings import Column, guessed
from .records import batched, products_of, read_products
from .revising import Refused, begin, hold, write
from .rows import Group, Refusal, RowReader
from .storing import BATCH
from .tables import Row, Table, Unreadable, open_table

KEEP, HIDE, DELETE = "keep", "hide", "delete"  # what becomes of products that are not in the file
_SAMPLES = 500


@dataclass(frozen=True, slots=True)
class Source:
    """A file with its products, read again and again without being held."""

    path: Path
    form: str
    name: str  # as people know it
    table: Table | None = None
    columns: tuple[Column, ...] = ()

    def groups(self) -> Iterator[Group]:
        """Yield each product of the file, or why it is refused."""
        return RowReader(self.table, self.columns).groups() if self.table else _line_groups(self.path)


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
        raise Unreadable("the file is JSON in one piece. Write one product a line and name the file .jsonl.")
    table = open_table(path)
    columns = guessed(table.header, [row.cells for row in islice(table.rows(), _SAMPLES)])
    return Source(path, table.form, name, table, columns)


def _line_groups(path: Path) -> Iterator[Group]:
    with path.open("rb") as lines:
        for number, raw in enumerate(lines, 1):
            line = raw.removeprefix(b"\xef\xbb\xbf") if number == 1 else raw
            if not line.strip():
                continue
            row = Row(number, (line.decode("utf-8", "replace").rstrip("\r\n"),))
            try:
                product = read_line(line)
                if b"\\u0000" in line and any("\0" in str(part) for _, part in walk(document_of(product))):
                    raise BrokenLine("holds a character of number 0, which no text may")
            except BrokenLine as error:
                yield Group("", [row], refusals=[Refusal(number, "", "", str(error), "Write one schema.org Product a line.")])
            else:
                yield Group(product.id, [row], product)


@dataclass(slots=True)
class Trial:
    """What a file would do to the catalogue."""

    new: list[str] = field(default_factory=list)  # identities, as all that follow
    changed: list[str] = field(default_factory=list)
    unchanged: int = 0
    missing: list[str] = field(default_factory=list)  # in the catalogue, not in the file
    refusals: list[Refusal] = field(default_factory=list)
    refused_rows: list[Row] = field(default_factory=list)
    _refused: set[str] = field(default_factory=set)

    def taken(self, source: Source) -> Iterator[Product]:
        """Yield the products of a file that can be taken, keeping those that cannot."""
        for group in source.groups():
            if group.product is not None:
                yield group.product
            else:
                self.refusals += group.refusals
                self.refused_rows += group.rows
                self._refused.add(group.key)

    def compare(self, known: dict[str, bytes], incoming: dict[str, bytes]) -> None:
        """Sort what comes in by what it is to what is there."""
        self.new = [name for name in incoming if name not in known]
        self.changed = [name for name, digest in incoming.items() if name in known and known[name] != digest]
        self.unchanged = len(incoming) - len(self.new) - len(self.changed)
        self.missing = [name for name in known if name not in incoming and name not in self._refused]


Progress = Callable[[int, int], None]  # done, of how many (0: not known); raises to stop


def _silent(done: int, total: int) -> None:
    """Tell nobody."""


def _digest(product: Product) -> bytes:
    """Return what products share that are stored alike: variants' offers go before their product's, paths count by identity."""
    paths = tuple(dict.fromkeys(map(path_identity, product.categories)))
    text = json.dumps([{**document_of(alike(product)), "category": paths}], default=lambda number: {"n": str(number)})
    return blake2b(text.encode(), digest_size=16).digest()


def trial(source: Source, progress: Progress = _silent) -> Trial:
    """Tell what a file would do, writing nothing."""
    found = Trial()
    known = {product.id: _digest(product) for _, _, product in read_products()}
    incoming: dict[str, bytes] = {}
    for number, product in enumerate(found.taken(source), 1):
        incoming[product.id] = _digest(product)  # of several with a number the last one counts
        progress(number, 0)
    found.compare(known, incoming)
    return found


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
    found = trial(source)
    if not found.new and not found.changed and not found.unchanged:
        raise Refused("no row of the file can be taken" + (f"; the first: {found.refusals[0]}" if found.refusals else "; it has none"))
    leaving = found.missing if missing != KEEP else []
    wanted, total = {*found.new, *found.changed}, len(found.new) + len(found.changed) + len(leaving)
    revision = begin(
        models.Revision.Kind.FILE, f"Brought in {source.name}", file=source.name, form=source.form, actor=actor, missing=missing,
        new=len(found.new), changed=len(found.changed), left=len(leaving), refused=len(found.refused_rows),
    )  # fmt: skip
    done = 0
    for batch in batched((product for product in Trial().taken(source) if product.id in wanted), BATCH):
        after = {product.id: product for product in batch}
        write(revision, after, products_of(after, hidden=True))
        done += len(batch)
        progress(done, total)
    for names in batched(leaving, BATCH):
        before = products_of(names, hidden=True)
        hidden = {name: replace(product, visible=False) for name, product in before.items()}
        write(revision, hidden if missing == HIDE else dict.fromkeys(names), before)
        done += len(names)
        progress(done, total)
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
