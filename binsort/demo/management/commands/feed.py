"""Plays a shop that sells: sends price and stock changes to the API, so that live counts can be watched."""

import random
import time
from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand, CommandError, CommandParser

from binsort.catalog.api.client import Client
from binsort.catalog.store.product_rows import all_products
from binsort.changes import tokens
from binsort.demo.feed import sales


class Command(BaseCommand):
    help = "Send invented sales, deliveries and prices to the running application until stopped."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--address", default="http://127.0.0.1:8000")
        parser.add_argument("--every", type=float, default=1.0, help="seconds between two changes (1)")
        parser.add_argument("--count", type=int, default=0, help="how many changes (0: until stopped)")
        parser.add_argument("--seed", type=int, default=None, help="for the same sales again")

    def handle(self, *args: Any, **options: Any) -> None:
        actor = get_user_model().objects.filter(is_active=True).order_by("pk").first()
        if actor is None:
            raise CommandError("There is nobody who could give the feed a token. Start ./run demo first.")
        token, text = tokens.give("Simulated shop feed", actor=actor)
        try:
            self._send(options, text)
        except KeyboardInterrupt:
            self.stdout.write("Stopped.")
        except OSError as error:
            raise CommandError(f"{options['address']} does not take the change: {error}. Is ./run demo running?") from error
        finally:
            tokens.end(token.pk)

    def _send(self, options: dict[str, Any], text: str) -> None:
        chance, client = random.Random(options["seed"]), Client(options["address"], text, tries=3)
        for number, items in enumerate(sales(all_products(), chance), 1):
            done = client.set_offers(items)
            lines = ", ".join(f"{item['sku']}: {item['level']} left{' at ' + item['price'] if 'price' in item else ''}" for item in items)
            self.stdout.write(f"{done['changed']} changed: {lines}")
            if number == options["count"]:
                return
            time.sleep(options["every"])
