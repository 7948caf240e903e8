"""What the club's site shows of the shop, and the racks for that."""

from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction

from binsort.catalog.models import Category
from binsort.changes.embeds import Wanted, add_embed, save_embed
from binsort.racks.addresses import Pair
from binsort.racks.models import Embed

_FACETS: list[dict[str, Any]] = [
    {
        "key": "use", "label": "Use", "order": "count",
        "source": {"kind": "category"}, "scope": "under", "under": "Rope and cordage > Running rigging",
    },
    {
        "key": "thickness", "label": "Thickness", "order": "value", "empty": "dim", "bins": {"only": [6, 8, 10, 12, 14, 16]},
        "source": {"kind": "attribute", "attribute": "Diameter"}, "look": {"control": "buttons", "columns": 3},
    },
    {"key": "ready", "label": "In stock", "source": {"kind": "stock"}, "bins": {"only": ["in"], "rename": {"in": "In stock"}},
     "look": {"control": "switch"}},
]  # fmt: skip
_RACKS: list[dict[str, Any]] = [
    {"key": "short", "label": "Short rack", "facets": ["use", "thickness", "colour"], "place": {"behaviour": {"per": 8}}},
    {"key": "bar", "label": "Bar", "facets": ["group", "price", "ready"],
     "place": {"shows": [{"where": "above", "listing": "embed", "embed": "safety-afloat"}], "behaviour": {"per": 10}}},
]  # fmt: skip


def with_racks(document: dict[str, Any]) -> dict[str, Any]:
    """Return the demo's set-up with the racks of other sites beside its own, which stays where it is."""
    side = {**document["racks"][0], "place": {"shows": [{"where": "side", "listing": "all"}, _NOT_BESIDE]}}
    return {**document, "facets": [*document["facets"], *_FACETS], "racks": [side, *document["racks"][1:], *_RACKS]}


_NOT_BESIDE = {"where": "side", "listing": "embed", "embed": "safety-afloat", "shown": False}


@transaction.atomic
def load_embeds(owner: str) -> None:
    """Make what the club shows. Raises what the changes raise."""
    actor = get_user_model().objects.get(username=owner)
    lines = (("material", "polyester"),)
    _make("Marram 19", "rope and cordage > running rigging", lines, rack="short", parts=Embed.Parts.RACK, actor=actor)
    _make("Safety afloat", "safety", (), rack=Embed.AS_PLACED, parts=Embed.Parts.TOGETHER, actor=actor)


def _make(label: str, path: str, picks: tuple[Pair, ...], *, rack: str, parts: str, actor: Any) -> None:
    made = add_embed(label, actor=actor)
    category = Category.objects.get(path_identity=path)
    wanted = Wanted(label=label, category=category.pk, picks=picks, rack=rack, parts=parts, look=Embed.Look.THEIRS)
    save_embed(made.name, wanted, version=made.version, actor=actor)
