"""Tables: rows of cells out of a CSV or XLSX file, with the number of each line, whatever its form and what stands above it."""

import csv
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import islice
from pathlib import Path

from django.utils.translation import gettext as _

from .text_lines import DELIMITERS, Record, checked, delimiter_of, encoding_of, records
from .unreadable import UnreadableTable
from .workbook import Sheet, read_sheet
from .workbook_lines import MOST_COLUMNS

_LOOKED_AT = 200  # records for finding the header
_HEADER = 0.6  # of the usual number of columns must have a name for a line to be the header


@dataclass(frozen=True, slots=True)
class TableRow:
    """One row: the line it stands on, and its cells, as many as the header has."""

    line: int
    cells: tuple[str, ...]
    beyond: tuple[str, ...] = ()  # cells for which the header has no name
    problem: tuple[str, str] | None = None  # why it cannot be taken, and how to mend it
    told: tuple[str, ...] = ()  # its cells as the file has them, where they are read otherwise


@dataclass(frozen=True, slots=True)
class Table:
    """A file read as a table."""

    path: Path
    header: tuple[str, ...]
    form: str  # as found, in words: "CSV, comma, UTF-8"
    encoding: str = ""  # of CSV
    delimiter: str = ""
    sheet: Sheet | None = None  # of a workbook
    first: int = 1  # the line that the header stands on
    has_stray_bytes: bool = False  # that are none of its encoding

    def rows(self) -> Iterator[TableRow]:
        """Yield the rows below the header, empty ones left out. Raises UnreadableTable."""
        width = len(self.header)
        for record in self._records(width):
            cells = record.cells
            if record.line > self.first and any(cells):
                beyond = tuple(cells[width:]) if any(cells[width:]) else ()
                yield TableRow(record.line, tuple([*cells, *[""] * (width - len(cells))][:width]), beyond, record.problem)

    def samples(self, most: int) -> list[list[str]]:
        """Return up to so many values of each column, looking at as many rows as it takes. Raises UnreadableTable."""
        by_column: list[list[str]] = [[] for _ in self.header]
        waiting = set(range(len(self.header)))
        for row in self.rows():
            if row.problem is not None:
                continue
            for place in list(waiting):
                if row.cells[place]:
                    by_column[place].append(row.cells[place])
                    if len(by_column[place]) == most:
                        waiting.discard(place)
            if not waiting:
                break
        return by_column

    def notes(self) -> list[str]:
        """Return in words what was passed over or read in some way while the table was found in its file."""
        notes = []
        if self.first > 1:
            words = {"first": f"{self.first:,}"}
            notes.append(_("What stands above the names of the columns, on line %(first)s, was passed over.") % words)
        if self.has_stray_bytes:
            notes.append(_("Some bytes are no UTF-8; “\ufffd” stands for them."))
        if self.sheet and self.sheet.uncalculated[0]:
            count, places = self.sheet.uncalculated
            named = ", ".join(places[:5]) + (_(" and more") if count > 5 else "")
            formulas = {"count": f"{count:,}", "places": named}
            notes.append(_("%(count)s formulas have no value in the file (%(places)s): open it in a spreadsheet and save it.") % formulas)
        return notes

    def _records(self, width: int) -> Iterator[Record]:
        return _sheet_records(self.sheet.lines) if self.sheet else records(self.path, self.encoding, self.delimiter, width)


def _sheet_records(lines: Path) -> Iterator[Record]:
    with lines.open(encoding="utf-8", newline="") as text:
        for line, *cells in csv.reader(text):
            yield checked(int(line), cells)


def is_workbook(path: Path) -> bool:
    """Tell whether a file is one, or another archive."""
    return zipfile.is_zipfile(path)


def open_table(path: Path, *, sheet: Sheet | str = "") -> Table:
    """Find out how a file is written and read its header.

    Args:
        path: of the file.
        sheet: of a workbook, the one to be read by its name, or as it was read before; else the first that holds something.

    Raises:
        UnreadableTable: no table, or one beyond the limits (500 columns).
        OSError: it cannot be opened.
    """
    named_above = 0
    if isinstance(sheet, Sheet) or is_workbook(path):
        read = sheet if isinstance(sheet, Sheet) else read_sheet(path, sheet)
        table = Table(path, (), f"XLSX, {read.name}" if len(read.sheets) > 1 else "XLSX", sheet=read)
    else:
        encoding, has_stray = encoding_of(path)
        delimiter, named_above = delimiter_of(path, encoding)
        words = f"CSV, {DELIMITERS[delimiter]}, {encoding.removesuffix('-sig').upper()}"
        table = Table(path, (), words, encoding, delimiter, has_stray_bytes=has_stray)
    first, header = _header([record for record in islice(table._records(0), _LOOKED_AT) if record.line > named_above])
    if len(header) > MOST_COLUMNS:
        limit = {"header": f"{len(header):,}", "most": MOST_COLUMNS}
        raise UnreadableTable(_("the file has %(header)s columns, more than %(most)s. Leave out those that are not needed.") % limit)
    return replace(table, header=header, first=first)


def _header(top: Sequence[Record]) -> tuple[int, tuple[str, ...]]:
    """Return the line of the header and its names: the first line with about as many cells as most have. Raises UnreadableTable."""
    filled = [(record, _trimmed(record.cells)) for record in top if any(record.cells)]
    if not filled:
        raise UnreadableTable(_("the file is empty. Its first line must name the columns."))
    widths = [len(cells) for _, cells in filled]
    usual = max(set(widths), key=lambda width: (widths.count(width), width))
    for record, cells in filled:
        if sum(map(bool, cells)) >= max(2, _HEADER * usual):
            return record.line, cells
    record, cells = filled[0]
    return record.line, cells


def _trimmed(cells: Sequence[str]) -> tuple[str, ...]:
    """Return cells without the empty ones behind them."""
    last = max((place for place, cell in enumerate(cells, 1) if cell), default=0)
    return tuple(cells[:last])
