"""Where picks leave nothing: what to leave out, and what that brings back, in words and pictures."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.facets.kinds import MONEY
from binsort.core.insight.ways_out import WayOut, ways_out
from binsort.racks.shown_facet import Swatch

from .asked import Asked
from .glimpses import Glimpse, Glimpses

_PICTURES = 8  # of a way out
_WAYS = 6


@dataclass(frozen=True, slots=True)
class Way:
    """What to leave out, what that gives, and where that is."""

    labels: tuple[tuple[str, Swatch | None], ...]  # of the picks that go
    total: int
    words: str  # what comes back: "in other sizes"
    address: str
    drop: str  # the same as an edit of the form: the facets and picks that are taken out of it
    pictures: tuple[Glimpse, ...]


def ways_of(asked: Asked) -> tuple[Way, ...]:
    """Return what to leave out of an empty result, best first."""
    glimpses = Glimpses(asked)
    found = [(way, way.state.part(0, _PICTURES)) for way in ways_out(asked.state, asked.standing)[:_WAYS]]
    glimpses.read(slot for _way, slots in found for slot in slots)
    return tuple(_way(asked, way, glimpses.of(way.state, way.keys[0], slots)) for way, slots in found)


def _way(asked: Asked, way: WayOut, pictures: tuple[Glimpse, ...]) -> Way:
    gone = [(key, pick) for key in way.keys for pick in asked.state.picks[key].each if way.pick is None or pick == way.pick]
    return Way(
        labels=tuple((asked.said(key, pick), asked.swatch(key, pick)) for key, pick in gone),
        total=way.total,
        words=_comes_back(asked, way.keys, way.total),
        address=asked.address_with(way.state.query.picks),
        drop=" ".join(way.keys) if way.pick is None else "=".join(asked.pair(way.keys[0], way.pick)),
        pictures=pictures,
    )


def _comes_back(asked: Asked, keys: Sequence[str], total: int) -> str:
    """Say of what kind the products are that come back."""
    if len(keys) > 1:
        return ngettext("product", "products", total)
    facet = asked.state.rack.by_key[keys[0]]
    if facet.spec.source.kind == "stock":
        return _("not in stock")
    if asked.words[keys[0]].written == MONEY:
        return _("at other prices")
    return _("with another %(facet)s") % {"facet": facet.spec.label.lower()}
