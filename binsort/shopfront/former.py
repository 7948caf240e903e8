"""Former names: addresses that people kept name facets and bins as they were once. They lead to those of today, or it is said."""

from collections.abc import Iterator, Sequence

from django.utils.translation import gettext as _

from binsort.core.answers.answer import RackIndex
from binsort.core.answers.matching import Facet
from binsort.core.facets.query import RESERVED, Query
from binsort.core.values.text import normalise, slug
from binsort.racks.addresses import Pair
from binsort.racks.former_keys import keys_now
from binsort.racks.models import Edition

_MOST_SAID = 3
_MOST_BINS = 3_000  # that are looked through
_LONGEST = 40  # letters of a value that is said back


def renamed(pairs: Sequence[Pair], rack: RackIndex, listing: tuple[str, ...] | None) -> list[Pair]:
    """Return a query with the facets and bins that have other keys now by these; no query to the database where all are known."""
    unknown = {name.partition(".")[0] for name, _value in pairs} - rack.by_key.keys() - RESERVED
    keys = keys_now(unknown, rack.by_key) if unknown else {}
    found = []
    for name, value in pairs:
        first, dot, end = name.partition(".")
        name = f"{keys.get(first, first)}{dot}{end}"
        facet = rack.by_key.get(name)
        if facet is not None and value and value not in facet.by_key:
            value = _bin_now(facet, value) or value
        found.append((name, value))
    return found


def _bin_now(facet: Facet, value: str) -> str:
    """Return the key of the bin that holds the value which a bin was made of once, empty where there is none."""
    if facet.spec.ranges or facet.spec.free or len(facet.bins) > _MOST_BINS:
        return ""
    return next((bin.key for bin in facet.bins for held in bin.values if slug(held) == value), "")


def not_offered(query: Query, rack: RackIndex, edition: Edition | None) -> list[str]:
    """Say which picks of an address are not there any more."""
    return list(dict.fromkeys(_sentences(query, rack, edition)))[:_MOST_SAID]


def _sentences(query: Query, rack: RackIndex, edition: Edition | None) -> Iterator[str]:
    labels = {facet["key"]: facet["label"] for facet in edition.document["facets"]} if edition else {}
    for name, value in query.ignored:
        key, dot, _end = name.partition(".")
        facet = rack.by_key.get(key)
        if facet is not None and not dot:
            bin = facet.by_key.get(value)
            said = bin.label if bin else _readable(value)
            words = _("%(pick)s is not offered in this listing.") if bin else _("%(pick)s is no longer offered under %(facet)s.")
            yield words % {"pick": said, "facet": facet.spec.label}
        elif facet is None and key in labels:
            yield _("%(facet)s is nothing to narrow by here.") % {"facet": labels[key]}


def _readable(value: str) -> str:
    text = normalise(value.replace("-", " ")) or value
    text = text[:1].upper() + text[1:]
    return f"{text[:_LONGEST]}…" if len(text) > _LONGEST else text
