"""Brings a database up to date and loads the demo shop into an empty one."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from binsort.demo.loader import load_demo


class Command(BaseCommand):
    help = "Migrate, collect static files, then load the demo shop where there is no catalogue yet."
    requires_system_checks: list[str] = []

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0)
        call_command("collectstatic", verbosity=0, interactive=False, clear=True)
        done = load_demo(abroad=True)
        if done:
            self.stdout.write(done)
