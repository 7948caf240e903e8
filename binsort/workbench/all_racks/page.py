"""All racks: what each holds and where it shows."""

from dataclasses import dataclass

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.catalog.store.category_paths import category_identities
from binsort.changes.racks import facets_alone
from binsort.core.facets.places import Places, shown_on
from binsort.racks.models import Setup
from binsort.racks.places_in_words import place_words
from binsort.racks.setup import Document, facet_document
from binsort.workbench.rack.page import rack_address

_NAMED = 8  # facets of a rack


@dataclass(frozen=True, slots=True)
class RackRow:
    """A rack, with its facets and where it shows."""

    key: str
    label: str
    address: str
    facets: tuple[tuple[str, str], ...]  # key and label of the first ones
    more: int
    count: int
    shows: str
    alone: tuple[str, ...]  # labels of the facets that no other rack has


def all_racks(setup: Setup) -> tuple[RackRow, ...]:
    """Return every rack of the draft."""
    document = setup.draft.document
    shows = shown_on(Places.of(document), category_identities())
    return tuple(_row(document, rack, shows.get(rack["key"], {})) for rack in document["racks"])


def rack_row(setup: Setup, key: str) -> RackRow | None:
    """Return one rack of the draft, None where there is none of this key."""
    return next((row for row in all_racks(setup) if row.key == key), None)


def _row(document: Document, rack: Document, shows: dict[str, int]) -> RackRow:
    labels = {facet["key"]: facet["label"] for facet in document["facets"]}
    return RackRow(
        key=rack["key"],
        label=rack["label"],
        address=rack_address(document, rack["key"]),
        facets=tuple((key, labels[key]) for key in rack["facets"][:_NAMED]),
        more=max(0, len(rack["facets"]) - _NAMED),
        count=len(rack["facets"]),
        shows=_shows(shows),
        alone=tuple(facet_document(document, key)["label"] for key in facets_alone(document, rack["key"])),
    )


def _shows(counts: dict[str, int]) -> str:
    """Return in words on how many listings a rack shows at which place."""
    parts = [
        ngettext("%(place)s on %(count)s listing", "%(place)s on %(count)s listings", count)
        % {"place": place_words(where), "count": f"{count:,}"}
        for where, count in counts.items()
    ]
    return _(", ").join(parts) or _("nowhere yet")
