"""Loads Saltmarsh Chandlery: its catalogue through the ordinary import, its rack, its owner."""

from pathlib import Path

from django.contrib.auth import get_user_model
from django.db import transaction

from binsort.catalog.models import Product
from binsort.changes.catalogue import replace_catalogue
from binsort.core.values.strict_json import loads
from binsort.racks.models import ShopFace
from binsort.racks.setup import begin_with

from .abroad import load_embeds, with_racks

_HERE = Path(__file__).parent
CATALOGUE = _HERE / "data" / "saltmarsh.jsonl"
FACETS = _HERE / "data" / "facets.json"
FACE = {
    "name": "Saltmarsh Chandlery", "search": "Search the chandlery", "free_from": 75, "has_mark": True,
    "foot": "Saltmarsh Chandlery, Quay Lane. A made-up shop: its facets are kept with Bin Sort",
}  # fmt: skip
OWNER, PASSWORD = "mara", "sea-campion-and-thrift"


@transaction.atomic
def load_demo(*, abroad: bool = False) -> str:
    """Load the demo into an empty database; returns what was done, empty where there was nothing to do.

    Args:
        abroad: with what the club's site shows, and the racks for that.
    """
    user = get_user_model()
    if not user.objects.exists():
        user.objects.create_user(OWNER, password=PASSWORD, first_name="Mara", is_staff=True)
    if Product.objects.exists():
        return ""
    with CATALOGUE.open("rb") as lines:
        done = replace_catalogue(lines)
    document = loads(FACETS.read_text(encoding="utf-8"))
    ShopFace.objects.update_or_create(pk=1, defaults=FACE)
    begin_with(with_racks(document) if abroad else document)
    if abroad:
        load_embeds(OWNER)
    return f"Loaded Saltmarsh Chandlery: {done.products:,} products, {done.variants:,} variants, {done.categories} categories."
