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

from .columns import MEANINGS, KnownAttribute, MappedColumn, column_of
from .product_file import ProductFile, product_file_of
from .row_reader import Refusal
from .table import UnreadableTable
from .trial import Progress, refused_file, silent, trial

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
    """Keep a file to be looked through. Those of last week go.

    Raises:
        .tables.Unreadable: it is empty or too large, or nothing that can be read.
    """
    Upload.objects.filter(at__lt=timezone.now() - _KEPT).delete()
    upload = Upload.objects.create(name=Path(name).name[:200] or "file", actor=actor)
    waiting, place = b"", 0
    for piece in pieces:
        waiting += piece
        upload.size += len(piece)
        if upload.size > MOST:
            raise UnreadableTable(_("the file is larger than %(MOST)s MB. Part it into several.") % {"MOST": MOST >> 20})
        while len(waiting) >= _PIECE:
            UploadPart.objects.create(upload=upload, place=place, content=waiting[:_PIECE])
            waiting, place = waiting[_PIECE:], place + 1
    if waiting:
        UploadPart.objects.create(upload=upload, place=place, content=waiting)
    if not upload.size:
        raise UnreadableTable(_("the file is empty. Its first line must name the columns."))
    with unpacked(upload) as source:
        upload.form = source.form
        shape = Shape.objects.filter(header=header_mark(source)).first() if source.table else None
        upload.columns, upload.remembered = (shape.columns, True) if shape else (_stored(source.columns), False)
    upload.save()
    return upload


@contextmanager
def unpacked(upload: Upload) -> Iterator[ProductFile]:
    """Give the file of an upload as a source, its columns read as was chosen, while it is needed."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "file"
        with path.open("wb") as out:
            for content in upload.parts.order_by("place").values_list("content", flat=True).iterator(8):
                out.write(content)
        source = product_file_of(path, name=upload.name)
        yield replace(source, columns=_columns(upload.columns)) if source.table and upload.columns else source


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
    if is_same and (unit, separator) == (old.unit, old.separator):
        return old
    if not is_same and "unit" in wish and unit == old.unit:
        unit = column.unit  # the field still shows what the other meaning had
    return replace(column, unit=unit if kind == "attribute" else "", separator=separator)


def try_out(upload: Upload, progress: Progress = silent) -> None:
    """Find out what the file would do, and keep it as the upload's report; a file that cannot be read is said so."""
    try:
        with unpacked(upload) as source:
            if source.table and not {"identity", "sku"} & {column.kind for column in source.columns}:
                raise UnreadableTable(_("no column says which product a row is. Choose the one that means Product number, or SKU."))
            result = trial(source, progress)
            samples = source.table.samples(_SHOWN) if source.table else []
            with tempfile.NamedTemporaryFile() as out:
                refused_file(source, result, Path(out.name))
                upload.refused = Path(out.name).read_bytes() if result.refused_rows else b""
    except UnreadableTable as error:
        upload.problem, upload.report = f"{str(error)[:1].upper()}{str(error)[1:]}", {}
    else:
        new = {identity(column["name"]): column["name"] for column in upload.columns if column["kind"] == "attribute"}
        names = {**new, **{key: row.name for key, row in definitions().items()}}
        moved = sorted(result.gained.items(), key=lambda item: -abs(item[1]))[:_COVERED]
        counts = attribute_counts()
        upload.problem = ""
        upload.report = {
            "new": len(result.new), "changed": len(result.changed), "unchanged": result.unchanged, "missing": len(result.missing),
            "refused": len(result.refused_rows), "before": result.before, "samples": samples,
            "refusals": [_told(refusal) for refusal in result.refusals[:_LISTED]], "more": max(0, len(result.refusals) - _LISTED),
            "coverage": [[names.get(key, key), counts.get(key, 0), counts.get(key, 0) + more] for key, more in moved if more],
        }  # fmt: skip
    upload.state = Upload.State.TRIED
    upload.save(update_fields=["problem", "report", "refused", "state"])


def _told(refusal: Refusal) -> dict[str, Any]:
    return {**asdict(refusal), "value": refusal.value[:120]}
