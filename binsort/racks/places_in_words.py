"""Places and listings in words."""

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets.places import ABOVE, BELOW, CATEGORY, DRAWER, EMBED, SEARCH, SIDE, TAG, Listing

_PLACES = {ABOVE: _l("above"), SIDE: _l("at the side"), BELOW: _l("below"), DRAWER: _l("in the drawer")}

SPOT_WORDS = {ABOVE: _l("above the products"), SIDE: _l("at the side"), BELOW: _l("below the products")}


def place_words(where: str) -> str:
    """Return a place on the page in words."""
    return str(_PLACES[where])


def listing_words(listing: Listing, name: str = "") -> str:
    """Return a listing in words; ``name`` is that of a category as written."""
    if listing.kind == CATEGORY:
        return name or listing.path[-1]
    tagged = _("Tag: %(tag)s") % {"tag": listing.name}
    return {SEARCH: _("Search results"), TAG: tagged, EMBED: listing.name}.get(listing.kind, _("All products"))
