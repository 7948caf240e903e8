"""Brings in a catalogue file."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from binsort.catalog.importing import replace_catalogue
from binsort.catalog.models import Product


class Command(BaseCommand):
    help = "Load a catalogue file: JSON Lines of schema.org products. All of it or nothing."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--replace", action="store_true", help="take the place of the products there are")

    def handle(self, *args: Any, **options: Any) -> None:
        there = Product.objects.count()
        if there and not options["replace"]:
            raise CommandError(f"There are {there:,} products already. With --replace the file takes their place.")
        try:
            with options["file"].open("rb") as lines:
                done = replace_catalogue(lines)
        except OSError as error:
            raise CommandError(f"{options['file']} cannot be read: {error.strerror}. Check its name and rights.") from error
        for line, reason in done.catalogue.broken:
            self.stderr.write(f"line {line} skipped: {reason}")
        for report in done.catalogue.reports:
            self.stderr.write(report)
        self.stdout.write(f"Loaded {done.products:,} products, {done.variants:,} variants, {done.categories:,} categories.")
