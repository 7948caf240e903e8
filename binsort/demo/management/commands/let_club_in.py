"""Lets the club's site show listings, wherever it is served this time."""

from argparse import ArgumentParser
from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from binsort.changes.sites import let_in
from binsort.demo.loader import OWNER


class Command(BaseCommand):
    help = "Let the demo's other site show listings."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("site")

    def handle(self, *args: Any, **options: Any) -> None:
        owner = get_user_model().objects.filter(username=OWNER).first()
        if owner is not None:
            let_in(options["site"], actor=owner)
