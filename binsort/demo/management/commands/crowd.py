"""Sends a crowd of simulated shoppers into the demo shop."""

from argparse import ArgumentParser
from random import Random
from typing import Any

from django.core.management.base import BaseCommand

from binsort.demo.crowd import sender, visit


class Command(BaseCommand):
    help = "Send simulated shoppers into the shop."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--address", required=True)
        parser.add_argument("--visits", type=int, default=400)
        parser.add_argument("--seed", type=int, default=14)

    def handle(self, *args: Any, **options: Any) -> None:
        chance, ask, seen = Random(options["seed"]), sender(options["address"].rstrip("/")), 0
        for number in range(1, options["visits"] + 1):
            seen += visit(chance, ask)
            if number % 100 == 0:
                self.stdout.write(f"{number} of {options['visits']} visits, {seen:,} pages")
        self.stdout.write("Footfall has them within five seconds.")
