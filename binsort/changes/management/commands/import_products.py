"""Brings in a file of products, or undoes the last one."""

from dataclasses import replace
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from binsort.catalog.files.cautions import said
from binsort.catalog.files.product_file import ProductFile, product_file_of
from binsort.catalog.files.trial import Trial, refused_file, trial
from binsort.catalog.files.unreadable import UnreadableTable
from binsort.catalog.files.uploads import DELETE, HIDE, KEEP, remembered_columns
from binsort.changes.imports import bring_in
from binsort.changes.locks import Refused
from binsort.changes.undo import undo_last

_SHOWN = 20


class Command(BaseCommand):
    help = "Bring in products from JSON Lines of schema.org products, CSV or XLSX: all that can be taken, or nothing."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, nargs="?")
        parser.add_argument("--trial", action="store_true", help="say what would change, and change nothing")
        parser.add_argument("--missing", choices=(KEEP, HIDE, DELETE), default=KEEP, help="products that the file does not name (keep)")
        parser.add_argument("--refused", type=Path, metavar="FILE", help="write the rows that are not taken into this file")
        parser.add_argument("--undo", action="store_true", help="put everything back to what it was before the last file")
        parser.add_argument("--anyway", action="store_true", help="with --undo: also where products were changed since")

    def handle(self, *args: Any, **options: Any) -> None:
        path: Path | None = options["file"]
        try:
            if options["undo"]:
                record = undo_last(anyway=options["anyway"]).revision
                self.stdout.write(f"Undone: {record}, {record.new:,} new, {record.changed:,} changed, {record.left:,} taken away.")
            elif path is None:
                raise CommandError("Name a file, or --undo.")
            else:
                source = product_file_of(path)
                self._bring(replace(source, columns=remembered_columns(source) or source.columns), options)
        except OSError as error:
            raise CommandError(f"{error.filename or path} cannot be read: {error.strerror}. Check its name and rights.") from error
        except UnreadableTable as error:
            raise CommandError(f"{path}: {error}") from error
        except Refused as error:
            raise CommandError(f"Nothing was changed: {error}") from error

    def _bring(self, source: ProductFile, options: dict[str, Any]) -> None:
        self.stdout.write(f"{source.path.name}: {source.form}")
        for column in source.columns:
            meaning = f"attribute {column.name}" if column.kind == "attribute" else column.kind.replace("_", " ")
            self.stdout.write(
                f"  {column.header or '(no name)'}: {meaning}{f' in {column.unit}' if column.unit else ''}, {column.why or 'not used'}"
            )
        result = trial(source) if options["trial"] else bring_in(source, missing=options["missing"], progress=self._progress)[1]
        self._say(result, options)
        if options["refused"] and result.refused_rows:
            refused_file(source, result, options["refused"])
            self.stdout.write(f"The rows that were not taken are in {options['refused']}.")

    def _progress(self, done: int, total: int) -> None:
        if self.stderr.isatty():
            self.stderr.write(f"\r{done:,} of {total:,} products", ending="\n" if done == total else "")

    def _say(self, result: Trial, options: dict[str, Any]) -> None:
        would = "would be " if options["trial"] else ""
        ways = {KEEP: "kept", HIDE: f"{would}hidden", DELETE: f"{would}deleted"}
        self.stdout.write(
            f"{_count(len(result.new), 'product')} {would}new, {len(result.changed):,} {would}changed, {result.unchanged:,} unchanged, "
            f"{len(result.missing):,} not in the file {ways[options['missing']]}, {_count(len(result.refused_rows), 'row')} refused."
        )
        for caution in result.cautions.told():
            self.stderr.write(said(caution))
        for refusal in result.refusals[:_SHOWN]:
            self.stderr.write(str(refusal))
        if len(result.refusals) > _SHOWN:
            self.stderr.write(f"and {len(result.refusals) - _SHOWN:,} more")


def _count(number: int, noun: str) -> str:
    return f"{number:,} {noun}{'' if number == 1 else 's'}"
