"""Writes the catalogue into a file."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from binsort.catalog.records import read_products
from binsort.core.documents import line_of


class Command(BaseCommand):
    help = "Write every product as a line of JSON, a schema.org Product or ProductGroup; what comes out goes back in unchanged."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        path: Path = options["file"]
        part = path.with_name(path.name + ".part")  # the file is there whole or not at all
        count = 0
        try:
            with part.open("wb") as out:
                for _, _, product in read_products():
                    out.write(line_of(product) + b"\n")
                    count += 1
            part.replace(path)
        except OSError as error:
            raise CommandError(f"{path} cannot be written: {error.strerror}. Check its folder and rights.") from error
        self.stdout.write(f"Wrote {count:,} products to {path}.")
