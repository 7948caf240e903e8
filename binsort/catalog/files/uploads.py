"""Uploads: files kept while their columns are looked through and tried, until they are brought in."""

import tempfile
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import asdict, replace
from datetime import timedelta
from hashlib import blake2b
from pathlib import Path
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext as _

from binsort.catalog.dictionary.attributes import attribute_counts, definitions
from binsort.catalog.models import Shape, Upload, UploadPart
from binsort.core.values.text import identity

from .cautions import Cautions
from .cells import said_cell
from .columns import MEANINGS, KnownAttribute, MappedColumn, column_of
from .groups import Refusal
from .product_file import ProductFile, product_file_of
from .questions import ANSWERS, questions_of
from .row_reader import Mends
from .table import is_workbook
from .trial import Progress, Trial, refused_file, silent, trial
from .unreadable import UnreadableTable
from .workbook import read_sheet, sheet_told

KEEP, HIDE, DELETE = WAYS = ("keep", "hide", "delete")  # what becomes of products that a file does not name
MOST = 512 << 20  # bytes of a file
_PIECE = 1 << 20
_LISTED = 200  # refusals shown on the page
_COVERED = 5
_SHOWN = 3  # samples of a column
_LOOKED_AT = 500
_KEPT = timedelta(days=7)


@transaction.atomic
def keep(pieces: Iterable[bytes], name: str, *, actor: Any = None) -> Upload:
    """Keep a file to be looked through; a workbook is only looked into by whoever tries it. Files of last week go.

    Raises:
        UnreadableTable: it is empty or too large, or nothing that can be read.
    """
    Upload.objects.filter(at__lt=timezone.now() - _KEPT).delete()
    upload = Upload.objects.create(name=Path(name).name[:200] or "file", actor=actor)
    with tempfile.NamedTemporaryFile() as file:
        for piece in pieces:
            upload.size += len(piece)
            if upload.size > MOST:
                raise UnreadableTable(_("the file is larger than %(MOST)s MB. Part it into several.") % {"MOST": MOST >> 20})
            file.write(piece)
        file.flush()
        if not upload.size:
            raise UnreadableTable(_("the file is empty. Its first line must name the columns."))
        path = Path(file.name)
        _keep_parts(upload, path, of_sheet=False)
        if is_workbook(path):
            upload.form = "XLSX"
        else:
            _take_columns(upload, product_file_of(path, name=upload.name))
    upload.save()
    return upload


def _keep_parts(upload: Upload, path: Path, *, of_sheet: bool) -> None:
    with path.open("rb") as file:
        for place, content in enumerate(iter(lambda: file.read(_PIECE), b"")):
            UploadPart.objects.create(upload=upload, place=place, content=content, of_sheet=of_sheet)


def _take_columns(upload: Upload, source: ProductFile) -> None:
    """Take over what the columns of a file seem to be, or how one like it was read."""
    columns = remembered_columns(source)
    upload.form, upload.remembered = source.form, columns is not None
    upload.columns = _stored(source.columns if columns is None else columns)


def remembered_columns(source: ProductFile) -> tuple[MappedColumn, ...] | None:
    """Return how the columns of a file like this one were read before, None where none was remembered."""
    shape = Shape.objects.filter(header=header_mark(source)).first() if source.table else None
    return _columns(shape.columns) if shape else None


def look_into(upload: Upload) -> None:
    """Read the sheet of a workbook that was chosen, or the first that holds something, and keep its lines; nothing for other files.

    Raises:
        UnreadableTable: it is broken, or beyond the limits.
    """
    if upload.columns or upload.workbook:
        return
    with _written(upload, of_sheet=False) as path:
        if is_workbook(path):
            sheet = read_sheet(path, upload.sheet)
            with transaction.atomic():
                upload.parts.filter(of_sheet=True).delete()
                _keep_parts(upload, sheet.lines, of_sheet=True)
                upload.workbook, upload.sheet = sheet.told(), sheet.name
                _take_columns(upload, product_file_of(path, name=upload.name, sheet=sheet))
                upload.save(update_fields=["workbook", "sheet", "form", "columns", "remembered"])


def choose_sheet(upload: Upload, name: str) -> bool:
    """Have another sheet of a workbook read; tells whether that was in time and is another one."""
    others = [sheet for sheet in upload.workbook.get("sheets", []) if sheet != upload.sheet]
    if name not in others:
        return False
    in_time = Upload.objects.filter(pk=upload.pk).exclude(state__in=(Upload.State.BRINGING, Upload.State.DONE))
    changed = in_time.update(sheet=name, workbook={}, columns=[], report={}, mends={}, refused=b"")
    upload.refresh_from_db()
    return bool(changed)


@contextmanager
def _written(upload: Upload, *, of_sheet: bool) -> Iterator[Path]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "file"
        with path.open("wb") as out:
            for content in upload.parts.filter(of_sheet=of_sheet).order_by("place").values_list("content", flat=True).iterator(8):
                out.write(content)
        yield path


@contextmanager
def unpacked(upload: Upload) -> Iterator[ProductFile]:
    """Give the file of an upload as a source, its columns read as was chosen, while it is needed."""
    with _written(upload, of_sheet=bool(upload.workbook)) as path:
        sheet = sheet_told(path, upload.workbook) if upload.workbook else ""
        source = product_file_of(path, name=upload.name, sheet=sheet)
        columns = _columns(upload.columns) if source.table and upload.columns else source.columns
        yield replace(source, columns=columns, mends=_mends(upload.mends))


def _mends(stored: Mapping[str, Any]) -> Mends:
    """Return rows put right by hand, as they are kept: by line, texts by the place of the column, or None."""
    return {int(line): None if cells is None else {int(place): text for place, text in cells.items()} for line, cells in stored.items()}


def _stored(columns: Iterable[MappedColumn]) -> list[dict[str, Any]]:
    return [asdict(column) for column in columns]


def _columns(stored: Iterable[Mapping[str, Any]]) -> tuple[MappedColumn, ...]:
    return tuple(MappedColumn(**column) for column in stored)


def header_mark(source: ProductFile) -> str:
    """Return what files of the same columns share."""
    names = "\0".join(source.table.header) if source.table else source.form
    return blake2b(names.encode(), digest_size=16).hexdigest()


def choose(upload: Upload, chosen: Mapping[int, Mapping[str, str]], **more: Any) -> bool:
    """Read columns as somebody chose; tells whether that was in time: what is being brought in is not changed any more.

    Args:
        upload: the file.
        chosen: by the place of a column: ``meaning`` (a kind, or ``attribute:`` and a name), ``unit``, ``separator``.
        more: fields of the upload that are chosen besides.
    """
    known = {key: KnownAttribute(row.name, row.kind, row.unit) for key, row in definitions().items()}
    with unpacked(upload) as source:
        if source.table is not None:
            samples = source.table.samples(_LOOKED_AT)
            columns = list(source.columns)
            for place, wish in chosen.items():
                if place < len(columns):
                    columns[place] = _chosen(columns[place], wish, samples[place], known)
            more["columns"] = _stored(columns)
    in_time = Upload.objects.filter(pk=upload.pk).exclude(state__in=(Upload.State.BRINGING, Upload.State.DONE))
    if more and not in_time.update(**more):
        return False
    upload.refresh_from_db(fields=list(more))
    return True


def _chosen(old: MappedColumn, wish: Mapping[str, str], samples: list[str], known: Mapping[str, KnownAttribute]) -> MappedColumn:
    now = f"attribute:{old.name}" if old.kind == "attribute" else old.kind
    kind, _, name = wish.get("meaning", now).partition(":")
    if kind != "attribute" and kind not in MEANINGS:
        return old
    is_same = kind == old.kind and (kind != "attribute" or not name or name == old.name)
    column = old if is_same else replace(column_of(old.header, kind, samples, known, name), why="Chosen by hand")
    unit, separator = wish.get("unit", column.unit).strip(), wish.get("separator", column.separator)
    separator = separator if separator in ("", "|", ";", ",", "/") else column.separator
    answered: dict[str, Any] = {name: wish[name] for name, answers in ANSWERS.items() if wish.get(name) in answers}
    if answered:
        column = replace(column, settled=tuple(sorted({*column.settled, *answered})), **answered)
    if is_same and not answered and (unit, separator) == (old.unit, old.separator):
        return old
    if not is_same and "unit" in wish and unit == old.unit:
        unit = column.unit  # the field still shows what the other meaning had
    return replace(column, unit=unit if kind == "attribute" else "", separator=separator)


def mend(upload: Upload, mends: Mapping[int, Mapping[int, str] | None]) -> bool:
    """Put refused rows right; tells whether that was in time and anything changed.

    Args:
        upload: the file.
        mends: by line: other texts of cells by place; None leaves the row out.
    """
    now = {**upload.mends}
    for line, cells in mends.items():
        before = now.get(str(line)) or {}
        now[str(line)] = None if cells is None else {**before, **{str(place): text for place, text in cells.items()}}
    if now == upload.mends:
        return False
    in_time = Upload.objects.filter(pk=upload.pk).exclude(state__in=(Upload.State.BRINGING, Upload.State.DONE))
    changed = in_time.update(mends=now)
    upload.refresh_from_db(fields=["mends"])
    return bool(changed)


def try_out(upload: Upload, progress: Progress = silent) -> None:
    """Find out what the file would do, and keep it as the upload's report; a file that cannot be read is said so."""
    try:
        look_into(upload)
        with unpacked(upload) as source:
            if source.table and not {"identity", "sku"} & {column.kind for column in source.columns}:
                raise UnreadableTable(_("no column says which product a row is. Choose the one that means Product number, or SKU."))
            result = trial(source, progress)
            report = _report(source, result)
            with tempfile.NamedTemporaryFile() as out:
                refused_file(source, result, Path(out.name))
                upload.refused = Path(out.name).read_bytes() if result.refused_rows else b""
    except UnreadableTable as error:
        upload.problem, upload.report = f"{str(error)[:1].upper()}{str(error)[1:]}", _samples_alone(upload)
    else:
        upload.problem, upload.report = "", report
    upload.state = Upload.State.TRIED
    upload.save(update_fields=["problem", "report", "refused", "state"])


def _report(source: ProductFile, result: Trial) -> dict[str, Any]:
    """Return what is kept of a trial run for the page."""
    new = {identity(column.name): column.name for column in source.columns if column.kind == "attribute"}
    names = {**new, **{key: row.name for key, row in definitions().items()}}
    moved = sorted(result.gained.items(), key=lambda item: -abs(item[1]))[:_COVERED]
    counts = attribute_counts()
    return {
        "new": len(result.new), "changed": len(result.changed), "unchanged": result.unchanged, "missing": len(result.missing),
        "refused": len(result.refused_rows), "before": result.before, **_samples(source, result.cautions),
        "refusals": [_told(refusal) for refusal in result.refusals[:_LISTED]], "more": max(0, len(result.refusals) - _LISTED),
        "coverage": [[names.get(key, key), counts.get(key, 0), counts.get(key, 0) + more] for key, more in moved if more],
        "notes": source.table.notes() if source.table else [], "cautions": result.cautions.told(),
    }  # fmt: skip


def _samples(source: ProductFile, cautions: Cautions | None = None) -> dict[str, Any]:
    """Return values of each column with how they are read, and what is asked of it."""
    if source.table is None:
        return {"samples": [], "questions": []}
    values = source.table.samples(_LOOKED_AT)
    shown = [[[text[:200], said_cell(column, text)[:80]] for text in texts[:_SHOWN]]
             for column, texts in zip(source.columns, values, strict=True)]  # fmt: skip
    asked = [questions_of(column, texts, cautions or Cautions()) for column, texts in zip(source.columns, values, strict=True)]
    return {"samples": shown, "questions": asked}


def _samples_alone(upload: Upload) -> dict[str, Any]:
    """Return what can be shown of a file that cannot be tried."""
    try:
        with unpacked(upload) as source:
            return {**_samples(source), "notes": source.table.notes() if source.table else []}
    except UnreadableTable:
        return {}


def _told(refusal: Refusal) -> dict[str, Any]:
    return {**asdict(refusal), "value": refusal.value[:120]}
