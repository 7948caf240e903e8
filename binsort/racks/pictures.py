"""Pictures of choices: what a bin shows where shoppers choose by picture."""

from collections.abc import Mapping
from typing import Any

from binsort.catalog.models import Product as Row
from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet

from .controls import control_of

_MOST = 200  # bins that get a picture
_LOOKED_AT = 4  # products of a bin in which a picture is looked for


def pictures_of(state: State, facet: Facet, look: Mapping[str, Any], *, always: bool = False) -> dict[str, str]:
    """Return the address of a picture by the key of each bin: the one set by hand, else that of its first product; one query.

    Args:
        state: of the rack.
        facet: of it.
        look: of the facet.
        always: whether its control shows no pictures, and they are wanted nevertheless.
    """
    has_pictures = always or control_of(look).has_pictures
    if not has_pictures and not any(isinstance(given, dict) for given in look.get("swatches", {}).values()):
        return {}
    by_hand = look.get("swatches", {})
    here = state.rack.on_listing(facet, state.listing)
    pictures: dict[str, str] = {}
    wanted: dict[str, list[str]] = {}
    for bin, products in list(zip(here.bins, here.products, strict=True))[:_MOST]:
        own = by_hand.get(bin.label)
        if isinstance(own, dict) and own.get("image"):
            pictures[bin.key] = str(own["image"])
        elif has_pictures:
            slots = (products & state.products)[:_LOOKED_AT]
            wanted[bin.key] = [state.rack.index.ids[slot] for slot in slots]
    ids = [identity for listed in wanted.values() for identity in listed]
    images = dict(Row.objects.filter(identity__in=ids).exclude(image="").values_list("identity", "image")) if ids else {}
    for key, listed in wanted.items():
        pictures[key] = next((images[identity] for identity in listed if identity in images), "")
    return {key: address for key, address in pictures.items() if address}
