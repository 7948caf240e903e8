"""Lines of a text file: its encoding and its delimiter found out, its records read, none of them swallowed by another."""

import csv
import re
from collections import deque
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import IO

from django.utils.translation import gettext as _

from .unreadable import UnreadableTable

MOST_CELL = 100_000  # characters
DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
_LOOKED_AT = 200  # records for finding the delimiter
_LONGEST = 1_200_000  # characters of one cell that are read before it is given up
_MOST_OPEN = 100  # records that open a quotation mark and do not close it
_NARROW = 3  # columns: in a table of fewer a sentence of several lines looks like rows
_GIVEN = re.compile(r'"?sep=(.)"?')  # a first line that names the delimiter, as spreadsheets write it

csv.field_size_limit(_LONGEST)


@dataclass(frozen=True, slots=True)
class Record:
    """One record: the line it begins on, its cells, and why it cannot be taken, where it cannot."""

    line: int
    cells: list[str]
    problem: tuple[str, str] | None = None  # why, and how to mend it


def encoding_of(path: Path) -> tuple[str, bool]:
    """Return the encoding of a text file, and whether some of its bytes are none of it.

    A file that is UTF-8 but for a stray byte stays UTF-8: it has at least as many lines with letters beyond ASCII that are.

    Raises:
        UnreadableTable: it is no text.
    """
    with path.open("rb") as file:
        start = file.read(4096)
        for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
            if start.startswith(mark):
                return name, False
        if start.startswith(b"PK\x03\x04"):
            raise UnreadableTable(_("the file begins as a workbook, but is broken or cut off. Save it anew, or as CSV."))
        if b"\0" in start:
            raise UnreadableTable(_("the file is no text and no workbook. Save it as CSV or XLSX."))
        file.seek(0)
        good = stray = 0
        for line in file:
            if not line.isascii():
                try:
                    line.decode("utf-8")
                except UnicodeDecodeError:
                    stray += 1
                else:
                    good += 1
    if stray > good:
        return "cp1252", False  # what spreadsheets in Western languages write where they do not write UTF-8
    return "utf-8", bool(stray)


def delimiter_of(path: Path, encoding: str) -> tuple[str, int]:
    """Return the delimiter, and how many lines above the table only name it: the one that most records have as often, or the one named."""
    with path.open(encoding=encoding, errors="replace", newline="") as text:
        named = _GIVEN.fullmatch(text.readline(20).strip())
    if named and named[1] in DELIMITERS:
        return named[1], 1

    def fit(delimiter: str) -> tuple[float, int]:
        widths = [len(record.cells) for record in islice(records(path, encoding, delimiter), _LOOKED_AT) if any(record.cells)]
        usual = max(set(widths), key=widths.count, default=1)
        return (widths.count(usual) / max(len(widths), 1) if usual > 1 else 0, usual)

    return max(DELIMITERS, key=fit), 0


class _Lines:
    """The lines of a file, which can take back those that a record swallowed."""

    def __init__(self, text: IO[str]) -> None:
        self._text, self._again = text, deque[str]()
        self.number, self.record = 0, list[str]()  # lines read; those of the record that is being read

    def __iter__(self) -> Iterator[str]:
        return self

    def __next__(self) -> str:
        line = self._again.popleft() if self._again else next(self._text)
        self.number += 1
        self.record.append(line)
        return line.replace("\0", "\ufffd")

    def take_back(self) -> None:
        """Have all lines of the record but its first one come again."""
        self._again.extendleft(reversed(self.record[1:]))
        self.number -= len(self.record) - 1


def records(path: Path, encoding: str, delimiter: str, width: int = 0) -> Iterator[Record]:
    """Yield the records of a CSV file as RFC 4180 has them.

    A quotation mark that is not closed swallows the rows below it, up to the next one or to the end of the file: such a record is told,
    and the rows below it are read as what they are.

    Args:
        path: the file.
        encoding: of it.
        delimiter: between its cells.
        width: how many columns the table has, where that is known.

    Raises:
        UnreadableTable: more than a hundred records open a quotation mark and do not close it.
    """
    with path.open(encoding=encoding, errors="replace", newline="") as text:
        lines = _Lines(text)
        reader = csv.reader(lines, delimiter=delimiter, strict=False)
        left_open = 0
        while True:
            lines.record.clear()
            first = lines.number + 1
            try:
                cells = next(reader)
            except StopIteration:
                return
            except csv.Error:  # a cell beyond every limit
                cells = []
            if not cells and len(lines.record) == 1 and not lines.record[0].strip():
                yield Record(first, cells)
            elif len(lines.record) > 1 and (not cells or _has_swallowed(lines.record, cells, delimiter, width)):
                left_open += 1
                if left_open > _MOST_OPEN:
                    raise UnreadableTable(_("more than 100 rows open a quotation mark and do not close it. Save the file anew as CSV."))
                yield _open_record(first, lines, delimiter)
            else:
                yield checked(first, cells or lines.record[0].split(delimiter))


def _has_swallowed(record: list[str], cells: list[str], delimiter: str, width: int) -> bool:
    """Tell whether a record of several lines is one row and others that a quotation mark swallowed into one of its cells."""
    try:
        next(csv.reader(iter(record), delimiter=delimiter, strict=True))
    except csv.Error:  # text behind a quotation mark that closes, or the end of the file before one
        return True
    inner = [line for cell in cells for line in cell.splitlines()[1:-1]]
    like_rows = sum(line.count(delimiter) == width - 1 for line in inner)
    return width >= _NARROW and 2 * like_rows > len(inner)


def _open_record(first: int, lines: _Lines, delimiter: str) -> Record:
    lines.take_back()
    cells = [cell.strip().strip('"') for cell in lines.record[0].split(delimiter)]
    return Record(first, cells, (_("opens a quotation mark that is not closed"), _("Close it, or take it out.")))


_DEFUSED = re.compile(r"'+[=+\-@\t\r]")
_DANGEROUS = re.compile(r"'*[=+\-@\t\r]")  # what spreadsheets would calculate
_NUMBER = re.compile(r"-?[0-9]+(\.[0-9]+)?")


def defused(text: str) -> str:
    """Return a cell that no spreadsheet takes for a formula; reading the file takes the mark away again.

    >>> defused("=1+1"), defused("-5"), defused("'=x"), defused("Navy")
    ("'=1+1", '-5', "''=x", 'Navy')
    """
    return f"'{text}" if _DANGEROUS.match(text) and not _NUMBER.fullmatch(text) else text


def checked(line: int, cells: Iterable[str]) -> Record:
    """Return a record without the marks of :func:`defused`, refused where a cell is too long."""
    texts = [cell.strip() for cell in cells]
    if sum(map(len, texts)) > MOST_CELL and (longest := max(map(len, texts))) > MOST_CELL:
        words = {"longest": f"{longest:,}", "most": f"{MOST_CELL:,}"}
        reason = _("has a cell of %(longest)s characters, more than %(most)s") % words
        return Record(line, texts, (reason, _("Shorten it. Is a quotation mark not closed?")))
    return Record(line, [cell[1:] if cell[:1] == "'" and _DEFUSED.match(cell) else cell for cell in texts])
