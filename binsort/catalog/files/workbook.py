"""Workbooks: a sheet is read by a process with limits, and kept as lines; what is wrong with it is said in words."""

import json
import subprocess
import sys
import tempfile
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from .unreadable import UnreadableTable
from .workbook_lines import MEMORY, MOST_COLUMNS, MOST_ROWS, MOST_TEXTS

_MOST_UNPACKED = 2 << 30  # bytes
_MOST_TIMES = 200  # that a workbook may unpack to
_SMALL = 1_000_000  # bytes that may unpack to many times as much
_SECONDS = 300
_ROOT = Path(__file__).resolve().parents[3]

PROBLEMS = {
    "archive": gettext_lazy("the file is an archive, but no workbook. Unpack it first."),
    "texts": gettext_lazy("the workbook holds %(about)s MB of texts, more than %(texts)s. Save the sheet as CSV instead."),
    "rows": gettext_lazy("the sheet has a row %(about)s, beyond the %(rows)s that a sheet can have. Save it anew, or as CSV."),
    "columns": gettext_lazy("line %(line)s has %(about)s columns, more than %(columns)s. Leave out those that are not needed."),
    "memory": gettext_lazy("the workbook takes more than %(memory)s MB to read. Save the sheet as CSV instead."),
    "time": gettext_lazy("the workbook takes more than %(seconds)s seconds to read. Save the sheet as CSV instead."),
    "broken": gettext_lazy("the workbook cannot be read (%(about)s). Save it anew, or as CSV."),
    "unpacked": gettext_lazy("the workbook would unpack to %(about)s MB. Save the sheet as CSV instead."),
}


@dataclass(frozen=True, slots=True)
class Sheet:
    """One sheet of a workbook as lines."""

    lines: Path  # a CSV file: line number, cells
    name: str
    sheets: tuple[str, ...] = ()  # of the workbook, those that are shown
    uncalculated: tuple[int, tuple[str, ...]] = (0, ())  # formulas without a value, and where the first ones stand
    kept: Any = None  # what has the file go when nobody needs it any more

    def told(self) -> dict[str, Any]:
        """Return what is to be remembered of it beside its lines."""
        return {"name": self.name, "sheets": list(self.sheets), "uncalculated": [self.uncalculated[0], list(self.uncalculated[1])]}


def sheet_told(lines: Path, told: Mapping[str, Any]) -> Sheet:
    """Return a sheet whose lines were kept, with what was remembered of it."""
    count, places = told["uncalculated"]
    return Sheet(lines, told["name"], tuple(told["sheets"]), (count, tuple(places)))


def read_sheet(path: Path, name: str = "") -> Sheet:
    """Read a sheet of a workbook: the one of a name, else the first that holds something.

    Raises:
        UnreadableTable: it is broken, or beyond the limits.
    """
    _check_unpacked(path)
    lines = tempfile.NamedTemporaryFile("r", encoding="utf-8")  # noqa: SIM115  # lives as long as the sheet
    command = [sys.executable, "-m", "binsort.catalog.files.workbook_lines", str(path), lines.name, name]
    environment = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "PYTHONHASHSEED": "0", "PYTHONIOENCODING": "utf-8"}
    try:
        done = subprocess.run(command, cwd=_ROOT, env=environment, capture_output=True, timeout=_SECONDS, check=False)
    except subprocess.TimeoutExpired as error:
        raise _unreadable("time") from error
    if done.returncode < 0:
        raise _unreadable("time")
    try:
        told = json.loads(done.stdout)
    except ValueError as error:
        raise _unreadable("memory") from error  # not even that could be written
    if "problem" in told:
        raise _unreadable(told["problem"], told["about"])
    return Sheet(Path(lines.name), told["sheet"], tuple(told["sheets"]), (told["uncalculated"][0], tuple(told["uncalculated"][1])), lines)


def _unreadable(key: str, about: str = "") -> UnreadableTable:
    line, _bar, columns = about.partition("|")
    words = {
        "about": columns or about, "line": line, "texts": MOST_TEXTS >> 20, "rows": f"{MOST_ROWS:,}", "columns": MOST_COLUMNS,
        "memory": MEMORY >> 20, "seconds": _SECONDS,
    }  # fmt: skip
    return UnreadableTable(PROBLEMS[key] % words)


def _check_unpacked(path: Path) -> None:
    """Refuse an archive that would unpack to far more than any catalogue."""
    try:
        with zipfile.ZipFile(path) as archive:
            size = sum(item.file_size for item in archive.infolist())
    except zipfile.BadZipFile as error:
        raise UnreadableTable(_("the file begins as a workbook, but is broken or cut off. Save it anew, or as CSV.")) from error
    if size > _MOST_UNPACKED or size > _MOST_TIMES * max(path.stat().st_size, _SMALL):
        raise _unreadable("unpacked", f"{size / 2**20:,.0f}")
