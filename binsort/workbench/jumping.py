"""Jumping: from a few letters to a facet, a bin, a listing, a product or a page."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from urllib.parse import urlencode

from django.urls import reverse

from binsort.core.text import identity
from binsort.racks.models import Setup

from .rackview import Sight, listings

MOST = 9
_PAGES = (("Rack", "rack"), ("Add a facet", "rack-add"), ("Shop", "shop"))


@dataclass(frozen=True, slots=True)
class Target:
    """Where a jump can lead."""

    sort: str
    text: str
    address: str


def jump_targets(setup: Setup, find: str) -> list[Target]:
    """Return the first places whose names hold these letters; those that begin with them first."""
    wanted = identity(find)
    if not wanted:
        return []
    found = [target for target in _all(setup) if wanted in identity(target.text)]
    found.sort(key=lambda target: not identity(target.text).startswith(wanted))
    return list(islice(found, MOST))


def _all(setup: Setup) -> Iterator[Target]:
    sight = Sight(setup, [])
    for facet in sight.state.rack.facets:
        yield Target("facet", facet.spec.label, reverse("facet", kwargs={"key": facet.spec.key}))
    for text, name in _PAGES:
        yield Target("page", text, reverse(name))
    for path, text in listings()[1:]:
        yield Target("listing", text.strip("\u2003"), f"{reverse('rack')}?{urlencode({'category': path})}")
    for facet in sight.state.rack.facets:
        for made in facet.bins:
            address = f"{reverse('rack')}?{urlencode({facet.spec.key: made.key})}"
            yield Target("bin", f"{made.label} in {facet.spec.label}", address)
    for product in sight.held.by_id.values():
        yield Target("product", f"{product.name}, {product.id}", reverse("shop-product", kwargs={"identity": product.id}))
