"""Writes the demo catalogue, or checks that the committed one is what the script makes."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from binsort.demo.generator import catalogue_lines
from binsort.demo.loader import CATALOGUE


class Command(BaseCommand):
    help = "Write the made-up catalogue of Saltmarsh Chandlery."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--check", action="store_true", help="only tell whether the committed file is fresh")

    def handle(self, *args: Any, **options: Any) -> None:
        text = "".join(line + "\n" for line in catalogue_lines())
        if not options["check"]:
            CATALOGUE.write_text(text, encoding="utf-8")
        elif CATALOGUE.read_text(encoding="utf-8") != text:
            raise CommandError("The demo catalogue is not what the script makes: ./run manage make_demo")
