"""Writes the catalogue into a file."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from binsort.catalog.files.export import FORMS, CannotWrite, take_out


class Command(BaseCommand):
    help = "Write every product into a file by its ending: .csv, .xlsx, .jsonl or .jsonld; what comes out goes back in unchanged."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        path: Path = options["file"]
        form = path.suffix.lower().removeprefix(".")
        if form not in FORMS:
            raise CommandError(f"{path} names no form that can be written. End its name in .{', .'.join(FORMS)}.")
        try:
            count = take_out(path, form)
        except OSError as error:
            raise CommandError(f"{path} cannot be written: {error.strerror}. Check its folder and rights.") from error
        except CannotWrite as error:
            raise CommandError(f"{path} was not written: {error}") from error
        self.stdout.write(f"Wrote {count:,} products to {path}.")
