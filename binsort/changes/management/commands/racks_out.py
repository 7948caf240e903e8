"""Writes the set-up into a facet file."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from binsort.changes.setup_files import setup_text
from binsort.racks.setup import the_setup


class Command(BaseCommand):
    help = "Write facets, racks, places and looks into a facet file: the draft, or what is live; what comes out goes back in unchanged."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--live", action="store_true", help="what shoppers see, in place of the draft")

    def handle(self, *args: Any, **options: Any) -> None:
        setup = the_setup()
        edition = setup.for_shoppers if options["live"] else setup.draft
        if edition is None:
            raise CommandError("Nothing is live yet. Put the draft live first, or leave --live out.")
        path: Path = options["file"]
        try:
            path.write_text(setup_text(edition), encoding="utf-8")
        except OSError as error:
            raise CommandError(f"{path} cannot be written: {error.strerror}. Check its folder and rights.") from error
        self.stdout.write(f"Wrote {len(edition.document['facets'])} facets on {len(edition.document['racks'])} racks to {path}.")
