"""Jumping: from a few letters to a facet, a bin, a listing, a product or a page."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from urllib.parse import urlencode

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.core.index.catalogue_index import Index
from binsort.core.values.text import identity
from binsort.racks.models import Setup
from binsort.racks.setup import rack_of
from binsort.workbench.rack.page import EVERY, Sight, listings, rack_address, rack_links

MOST = 9
_PRODUCTS = 200  # products looked at for those that begin with the letters
_PAGES = (
    (_l("Rack"), "rack"),
    (_l("Add a facet"), "rack-add"),
    (_l("Catalogue"), "catalogue"),
    (_l("Bring in a file"), "bring-in"),
    (_l("Attributes"), "attributes"),
    (_l("Categories"), "categories"),
    (_l("API"), "api"),
    (_l("All racks"), "racks"),
    (_l("Listings"), "placing"),
    (_l("Review"), "review"),
    (_l("History"), "history"),
    (_l("The set-up as a file"), "setup-file"),
    (_l("People"), "people"),
    (_l("Your password"), "account"),
    (_l("Activity"), "activity"),
    (_l("Shop"), "shop"),
)


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
    targets = [target for target in _all(setup, wanted) if wanted in identity(target.text)]
    targets.sort(key=lambda target: not identity(target.text).startswith(wanted))
    return list(islice(targets, MOST))


def _all(setup: Setup, wanted: str) -> Iterator[Target]:
    sight, document = Sight(setup, [], rack=EVERY), setup.draft.document

    def fits(text: str) -> bool:
        return wanted in text.lower() or (not text.isascii() and wanted in identity(text))

    for rack in rack_links(document, "", ""):
        yield Target("rack", rack.label, rack.address)
    for facet in sight.state.rack.facets:
        yield Target("facet", facet.spec.label, reverse("facet", kwargs={"key": facet.spec.key}))
    for words, name in _PAGES:
        yield Target("page", str(words), reverse(name))
    for path, text in listings()[1:]:
        if fits(text):
            yield Target("listing", text.strip("\u2003"), f"{reverse('rack')}?{urlencode({'category': path})}")
    in_facet = _("%(bin)s in %(facet)s")
    for facet in sight.state.rack.facets:
        for bin in facet.bins:
            text = in_facet % {"bin": bin.label, "facet": facet.spec.label}
            if fits(text):
                on = rack_address(document, rack_of(document, facet.spec.key))
                yield Target("bin", text, f"{on}?{urlencode({facet.spec.key: bin.key})}")
    yield from _products(sight.state.rack.index, wanted)


def _products(index: Index, wanted: str) -> Iterator[Target]:
    """Find products by their name or identity; as many as could be shown."""
    facts, met = index.facts, 0
    for slot in index.every_product:
        text = f"{facts.names[slot]}, {facts.ids[slot]}"
        if wanted in text.lower() or (not text.isascii() and wanted in identity(text)):
            yield Target("product", text, reverse("product", kwargs={"identity": facts.ids[slot]}))
            met += 1
            if met == _PRODUCTS:
                return
