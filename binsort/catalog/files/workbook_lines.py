"""A sheet of a workbook written as lines, by a process of its own: whatever is wrong with the workbook ends with it.

``python -m binsort.catalog.files.workbook_lines WORKBOOK OUT SHEET`` writes a CSV file of line number and cells, and says as JSON
on standard output what it met: ``sheets``, ``sheet`` (its name), ``uncalculated`` (formulas without a value: how many, and where the
first ones stand); or ``problem`` (a key of ``workbook.PROBLEMS``) and ``about``.
"""

import csv
import json
import resource
import sys
import warnings
import zipfile
from collections.abc import Iterator
from datetime import date, datetime, time
from decimal import Decimal
from pathlib import Path
from typing import Any

MEMORY = 300 << 20  # bytes
SECONDS = 240  # of computing
MOST_ROWS = 1_048_576  # of a sheet, as the format has it
MOST_TEXTS = 50 << 20  # bytes of all texts that cells share
MOST_COLUMNS = 500
_NAMED = 20  # formulas


class Problem(Exception):
    """Why a workbook cannot be read."""

    def __init__(self, key: str, about: str = "") -> None:
        self.key, self.about = key, about
        super().__init__(key)


def main(book: str, out: str, sheet: str) -> None:
    """Write the lines of a sheet: the one named, or the first that is shown and holds something."""
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS + 5))
    warnings.simplefilter("ignore")  # of parts that nobody needs, as styles
    try:
        told = _write(Path(book), Path(out), sheet)
    except Problem as problem:
        told = {"problem": problem.key, "about": problem.about}
    except MemoryError:
        told = {"problem": "memory", "about": ""}
    except Exception as error:  # whatever a broken workbook leads to
        told = {"problem": "broken", "about": f"{type(error).__name__}: {error}"[:200]}
    print(json.dumps(told))


def _write(book: Path, out: Path, wanted: str) -> dict[str, Any]:
    from openpyxl import load_workbook

    _check_parts(book)
    workbook = load_workbook(book.open("rb"), read_only=True, data_only=True)  # by its content, whatever it is called
    sheets = {sheet.title: sheet for sheet in workbook.worksheets}
    shown = [sheet.title for sheet in workbook.worksheets if sheet.sheet_state == "visible"] or list(sheets)
    for title in [wanted] if wanted in sheets else shown:
        uncalculated: list[str] = []
        with out.open("w", encoding="utf-8", newline="") as file:
            writer = csv.writer(file)
            lines = 0
            for line, cells in _lines(sheets[title], uncalculated):
                writer.writerow([line, *cells])
                lines += 1
        if lines:
            break
    return {"sheets": shown, "sheet": title, "uncalculated": [len(uncalculated), uncalculated[:_NAMED]]}


def _check_parts(book: Path) -> None:
    with zipfile.ZipFile(book) as archive:
        sizes = {item.filename: item.file_size for item in archive.infolist()}
    if "[Content_Types].xml" not in sizes:
        raise Problem("archive")
    texts = sum(size for name, size in sizes.items() if name.lower().endswith("sharedstrings.xml"))
    if texts > MOST_TEXTS:
        raise Problem("texts", f"{texts / 2**20:,.0f}")


def _lines(sheet: Any, uncalculated: list[str]) -> Iterator[tuple[int, list[str]]]:
    """Yield line numbers and cells of the rows that hold something."""
    sheet.reset_dimensions()  # what a file says of its size is not to be trusted
    with sheet._get_source() as source:
        reader = _reader(sheet, source, uncalculated)
        for line, cells in reader.parse():
            if line > MOST_ROWS:
                raise Problem("rows", f"{line:,}")
            row = [""] * max((cell["column"] for cell in cells), default=0)
            if len(row) > MOST_COLUMNS and sum(cell["value"] is not None for cell in cells) > MOST_COLUMNS:
                raise Problem("columns", f"{line}|{len(row):,}")
            for cell in cells:
                row[cell["column"] - 1] = _cell_text(cell["value"])
            if any(row):
                yield line, row[:MOST_COLUMNS] if not any(row[MOST_COLUMNS:]) else row


def _reader(sheet: Any, source: Any, uncalculated: list[str]) -> Any:
    from openpyxl.worksheet._reader import WorkSheetParser

    class Parser(WorkSheetParser):
        """Notes formulas whose value the workbook does not keep."""

        def parse_cell(self, element: Any) -> Any:
            """Read one cell."""
            cell = super().parse_cell(element)
            if cell["value"] is None and element.find("{*}f") is not None:
                uncalculated.append(element.get("r") or f"line {cell['row']}")
            return cell

    return Parser(
        source, sheet._shared_strings, data_only=True, epoch=sheet.parent.epoch, date_formats=sheet.parent._date_formats,
        timedelta_formats=sheet.parent._timedelta_formats,
    )  # fmt: skip


def _cell_text(cell: Any) -> str:
    """Return a cell as it would be written."""
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return f"{Decimal(repr(cell) if cell.is_integer() else format(cell, '.15g')):f}"
    if isinstance(cell, datetime):
        return cell.date().isoformat() if cell.time() == time() else cell.isoformat(timespec="seconds")
    return cell.isoformat() if isinstance(cell, date) else str(cell)


if __name__ == "__main__":
    main(*sys.argv[1:])
