"""Tables: rows of cells out of a CSV or XLSX file, with the number of each line, whatever its encoding and delimiter."""

import csv
import re
import tempfile
import zipfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import date, datetime, time
from itertools import islice
from pathlib import Path
from typing import Any

from django.utils.translation import gettext
from openpyxl import load_workbook

MOST_COLUMNS = 500
MOST_CELL = 100_000  # characters
_MOST_UNPACKED = 2 << 30  # bytes of a workbook
_DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
_LOOKED_AT = 200  # lines for finding the delimiter

csv.field_size_limit(MOST_CELL * 4)


class UnreadableTable(ValueError):
    """A file that is no table; the text says why and what to do."""


@dataclass(frozen=True, slots=True)
class TableRow:
    """One row: the line it stands on, and its cells, as many as the header has."""

    line: int
    cells: tuple[str, ...]
    beyond: tuple[str, ...] = ()  # cells for which the header has no name


@dataclass(frozen=True, slots=True)
class Table:
    """A file read as a table."""

    path: Path
    header: tuple[str, ...]
    form: str  # as found, in words: "CSV, comma, UTF-8"
    encoding: str = ""  # of CSV
    delimiter: str = ""
    copy: Any = None  # of a workbook: a file of its lines, for they are read several times

    def rows(self) -> Iterator[TableRow]:
        """Yield the rows below the header, empty ones left out. Raises UnreadableTable."""
        width = len(self.header)
        for line, cells in islice(self._lines(), 1, None):
            if any(cells):
                beyond = tuple(cells[width:]) if any(cells[width:]) else ()
                yield TableRow(line, tuple([*cells, *[""] * (width - len(cells))][:width]), beyond)

    def samples(self, most: int) -> list[list[str]]:
        """Return up to so many values of each column, looking at as many rows as it takes. Raises UnreadableTable."""
        by_column: list[list[str]] = [[] for _ in self.header]
        waiting = set(range(len(self.header)))
        for row in self.rows():
            for place in list(waiting):
                if row.cells[place]:
                    by_column[place].append(row.cells[place])
                    if len(by_column[place]) == most:
                        waiting.discard(place)
            if not waiting:
                break
        return by_column

    def _lines(self) -> Iterator[tuple[int, list[str]]]:
        return _csv_lines(self.path, self.encoding, self.delimiter) if self.encoding else _copied_lines(self.copy)


def open_table(path: Path) -> Table:
    """Find out how a file is written and read its header.

    Raises:
        UnreadableTable: no table, or one beyond the limits (500 columns, 100,000 characters a cell).
        OSError: it cannot be opened.
    """
    if zipfile.is_zipfile(path):
        _check_unpacked(path)
        table = Table(path, (), "XLSX", copy=_copy_of(path))
    else:
        encoding = _encoding(path)
        delimiter = _delimiter(path, encoding)
        words = f"CSV, {_DELIMITERS[delimiter]}, {encoding.removesuffix('-sig').upper()}"
        table = Table(path, (), words, encoding, delimiter)
    first = next(table._lines(), None)
    if first is None or not any(first[1]):
        raise UnreadableTable(gettext("the file is empty. Its first line must name the columns."))
    header = tuple(first[1])
    while header and not header[-1]:
        header = header[:-1]
    if len(header) > MOST_COLUMNS:
        raise UnreadableTable(
            gettext("the file has %(header)s columns, more than %(MOST_COLUMNS)s. Leave out those that are not needed.")
            % {"header": f"{len(header):,}", "MOST_COLUMNS": MOST_COLUMNS}
        )
    return replace(table, header=header)


def _encoding(path: Path) -> str:
    with path.open("rb") as file:
        start = file.read(4096)
    for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if start.startswith(mark):
            return name
    if start.startswith(b"PK\x03\x04"):
        raise UnreadableTable(gettext("the file begins as a workbook, but is broken or cut off. Save it anew, or as CSV."))
    if b"\0" in start:
        raise UnreadableTable(gettext("the file is no text and no workbook. Save it as CSV or XLSX."))
    try:
        with path.open(encoding="utf-8") as text:
            for _ in text:
                pass
    except UnicodeDecodeError:
        return "cp1252"  # what spreadsheets in Western languages write where they do not write UTF-8
    return "utf-8"


def _delimiter(path: Path, encoding: str) -> str:
    """Return the delimiter that parts most lines into the same number of cells, more than one."""

    def fit(delimiter: str) -> tuple[float, int]:
        widths = [len(cells) for _, cells in islice(_csv_lines(path, encoding, delimiter), _LOOKED_AT) if any(cells)]
        usual = max(set(widths), key=widths.count, default=1)
        return (widths.count(usual) / max(len(widths), 1) if usual > 1 else 0, usual)

    return max(_DELIMITERS, key=fit)


def _csv_lines(path: Path, encoding: str, delimiter: str) -> Iterator[tuple[int, list[str]]]:
    """Yield lines of a CSV file as RFC 4180 has it; a record stands on the line it begins on."""
    with path.open(encoding=encoding, errors="replace", newline="") as text:
        reader = csv.reader((line.replace("\0", "\ufffd") for line in text), delimiter=delimiter, strict=False)
        line = 1
        try:
            for cells in reader:
                yield line, _checked(cells, line)
                line = reader.line_num + 1
        except csv.Error as error:
            what = f"has a cell of more than {MOST_CELL:,} characters" if "field limit" in str(error) else f"cannot be read ({error})"
            raise UnreadableTable(
                gettext("line %(line)s %(what)s. Is a quotation mark not closed?") % {"line": line, "what": what}
            ) from error


_DEFUSED = re.compile(r"'+[=+\-@\t\r]")


def _checked(cells: Iterable[str], line: int) -> list[str]:
    """Return cells without the mark that keeps spreadsheets from calculating them (see taking_out.py). Raises UnreadableTable."""
    texts = [cell.strip() for cell in cells]
    longest = max(map(len, texts), default=0)
    if longest > MOST_CELL:
        raise UnreadableTable(
            gettext("line %(line)s has a cell of %(longest)s characters, more than %(MOST_CELL)s. Is a quotation mark not closed?")
            % {"line": line, "longest": f"{longest:,}", "MOST_CELL": f"{MOST_CELL:,}"}
        )
    return [cell[1:] if cell[:1] == "'" and _DEFUSED.match(cell) else cell for cell in texts]


def _check_unpacked(path: Path) -> None:
    """Refuse an archive that would unpack to far more than any catalogue."""
    with zipfile.ZipFile(path) as archive:
        size = sum(item.file_size for item in archive.infolist())
        if "[Content_Types].xml" not in archive.namelist():
            raise UnreadableTable(gettext("the file is an archive, but no workbook. Unpack it first."))
    if size > _MOST_UNPACKED or size > 200 * max(path.stat().st_size, 1_000_000):
        raise UnreadableTable(
            gettext("the workbook would unpack to %(size)s MB. Save it as CSV instead.") % {"size": f"{size / 2**20:,.0f}"}
        )


def _sheet_lines(path: Path) -> Iterator[tuple[int, list[str]]]:
    try:
        book = load_workbook(path.open("rb"), read_only=True, data_only=True)  # by its content, whatever it is called
        sheet = book.worksheets[0]
        sheet.reset_dimensions()  # what a file says of its size is not to be trusted
    except Exception as error:
        raise UnreadableTable(gettext("the workbook cannot be read (%(error)s). Save it anew, or as CSV.") % {"error": error}) from error
    for line, cells in enumerate(sheet.iter_rows(values_only=True), 1):
        if len(cells) > MOST_COLUMNS:
            raise UnreadableTable(
                gettext("line %(line)s has %(cells)s columns, more than %(MOST_COLUMNS)s. Leave out those that are not needed.")
                % {"line": line, "cells": f"{len(cells):,}", "MOST_COLUMNS": MOST_COLUMNS}
            )
        yield line, _checked(map(_cell_text, cells), line)


def _copy_of(path: Path) -> Any:
    """Return a file of the lines of a workbook that goes when nobody needs it any more. Raises UnreadableTable."""
    copy = tempfile.NamedTemporaryFile("w", encoding="utf-8", newline="")  # noqa: SIM115
    writer = csv.writer(copy)
    for line, cells in _sheet_lines(path):
        writer.writerow([line, *cells])
    copy.flush()
    return copy


def _copied_lines(copy: Any) -> Iterator[tuple[int, list[str]]]:
    with Path(copy.name).open(encoding="utf-8", newline="") as text:
        for line, *cells in csv.reader(text):
            yield int(line), cells


def _cell_text(cell: Any) -> str:
    """Return a cell of a workbook as it would be written."""
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return format(cell, ".15g") if "e" not in format(cell, ".15g") else format(cell, "f")
    if isinstance(cell, datetime):
        return cell.date().isoformat() if cell.time() == time() else cell.isoformat(timespec="seconds")
    return cell.isoformat() if isinstance(cell, date) else str(cell)
