"""What a listing shows where: the facets of its racks, how they are drawn, and how the page behaves."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Self

from django.utils.translation import gettext as _

from binsort.core.facets.behaviour import Behaviour, Sort
from binsort.core.facets.places import DRAWER, EMBED, SIDE, SPOTS, Listing, Plan, plan, plan_of_named
from binsort.core.facets.spec import FacetSpec
from binsort.racks.hosted import Hosted
from binsort.racks.models import Edition
from binsort.racks.shown_facet import Shown

WIDE, PHONE = "wide", "phone"
MATCH = "match"  # the order of a search: best match first


@dataclass(frozen=True, slots=True)
class Placed:
    """A facet in its place, with the heading above it."""

    facet: Shown
    heading: str
    where: str  # "wide" or "phone" where it shows on that alone


@dataclass(frozen=True)
class Planned:
    """A listing before anything is counted."""

    plan: Plan
    specs: tuple[FacetSpec, ...]
    looks: dict[str, dict[str, Any]]
    headings: Mapping[str, str]  # by the key of the facet below it
    behaviour: Behaviour

    @classmethod
    def of(cls, edition: Edition | None, listing: Listing, hosted: Hosted | None = None) -> Self:
        """Return what an edition of the set-up has for a listing, here or on another site."""
        return cls._of(edition.text if edition else "", edition, Listing(EMBED, (), hosted.name) if hosted else listing, hosted)

    @classmethod
    @lru_cache(maxsize=256)
    def _of(cls, text: str, edition: Edition | None, listing: Listing, hosted: Hosted | None) -> Self:
        """Plan a listing once: an edition's text is never another one's."""
        document = edition.document if edition else {"racks": [], "facets": []}
        named = hosted.racks if hosted else None
        planned = plan(document, listing) if named is None else plan_of_named(document, named)
        places = {rack["key"]: rack.get("place", {}) for rack in document["racks"]}
        specs = {spec.key: spec for spec in edition.facet_file.facets} if edition else {}
        facets = {facet["key"]: facet for facet in document["facets"]}
        standing = hosted.specs(edition) if hosted else ()
        keys = tuple(key for key in planned.keys if key not in {spec.key for spec in standing})
        looks = {key: facets[key].get("look", {}) for key in (*(spec.key for spec in standing), *keys)}
        headings: dict[str, str] = {}
        for key, rack in planned.owners(document):
            place = places.get(rack, {})
            looks |= {key: place["looks"][key]} if key in place.get("looks", {}) else {}
            headings |= {key: place["headings"][key]} if key in place.get("headings", {}) else {}
        leading = next((rack for rack in (planned.racks[where].rack for where in SPOTS) if rack), "")
        behaviour = Behaviour.of({"place": places.get(leading, {})})
        return cls(planned, (*standing, *(specs[key] for key in keys)), looks, headings, behaviour)

    def sorts(self, *, searching: bool) -> tuple[Sort, ...]:
        """Return the choices of order, the one that shoppers start with first; what was searched for comes best match first."""
        return (Sort(MATCH, label=_("Best match first")), *self.behaviour.sorts) if searching else self.behaviour.sorts

    def placed(self, where: str, drawn: Mapping[str, Shown]) -> Iterator[Placed]:
        """Yield the facets of a place that are shown; those of the side and of the drawer stand in one column."""
        side, drawer = self.plan.facets[SIDE], self.plan.facets[DRAWER]
        keys = tuple(dict.fromkeys((*side, *drawer))) if where == SIDE else self.plan.facets[where]
        for key in keys:
            if key in drawn:
                only = WIDE if where == SIDE and key not in drawer else PHONE if where == SIDE and key not in side else ""
                yield Placed(drawn[key], self.headings.get(key, ""), only)
