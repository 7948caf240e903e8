"""The face of the shop: its name and its own words, read once while nothing is committed."""

from .models import ShopFace


def the_face() -> ShopFace:
    """Return what the shop calls itself; a nameless one where nobody said."""
    return ShopFace.objects.first() or ShopFace()
