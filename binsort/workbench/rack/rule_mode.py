"""The rack while it is set when facets show: what of the address says so."""

from urllib.parse import urlsplit

from binsort.core.facets.query import pairs_of
from binsort.racks.addresses import Pair

RULES = "show.when"  # in an address: ``-``, or the key of the facet whose card is open; no key of a facet holds a dot


def pairs_of_address(address: str) -> list[Pair]:
    """Return what an address of this tool asks for."""
    return pairs_of(urlsplit(address).query)
