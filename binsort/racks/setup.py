"""The set-up as it stands: the draft, what is live, and how they differ."""

from typing import Any

from django.db import transaction

from binsort.core.facets.facet_file import facet_file
from binsort.core.values.strict_json import dumps

from .models import Edition, Setup

Document = dict[str, Any]
EMPTY: Document = {"binsort": 1, "facets": [], "racks": [{"key": "side", "label": "Side rack", "facets": []}]}


class UnknownFacet(LookupError):
    """The set-up has no facet of this key."""


def the_setup() -> Setup:
    """Return the set-up, made empty when first asked for; one query."""
    setup = Setup.objects.select_related("draft", "live").filter(pk=1).first()
    return setup or _first_setup()


def begin_with(document: Document) -> None:
    """Begin with a document, draft and live, where there is no set-up yet. Raises FacetFileError."""
    if not Setup.objects.exists():
        everything = {**EMPTY["racks"][0], "facets": [facet["key"] for facet in document.get("facets", ())]}
        _first_setup(document if document.get("racks") else {**document, "racks": [everything]})


@transaction.atomic
def _first_setup(document: Document = EMPTY) -> Setup:
    facet_file(document)  # raises FacetFileError
    edition = Edition.objects.create(text=dumps(document), summary="The beginning")
    setup, is_new = Setup.objects.get_or_create(pk=1, defaults={"draft": edition, "live": edition})
    if not is_new:
        edition.delete()
    return setup


def facet_document(document: Document, key: str) -> Document:
    """Return one facet of a document. Raises UnknownFacet."""
    for facet in document["facets"]:
        if facet["key"] == key:
            return facet  # type: ignore[no-any-return]
    raise UnknownFacet(key)


def _by_key(document: Document) -> dict[str, Document]:
    return {facet["key"]: facet for facet in document["facets"]}


def changes_since_live(setup: Setup) -> int:
    """Count the facets and racks that differ between the draft and what is live."""
    if setup.live is None or setup.draft_id == setup.live_id:
        return 0 if setup.live else len(_by_key(setup.draft.document))
    draft, live = setup.draft.document, setup.live.document
    old, new = _by_key(live), _by_key(draft)
    moved = [rack for rack in draft["racks"] if _kept_order(rack, new, old) not in [_kept_order(r, old, new) for r in live["racks"]]]
    return sum(new.get(key) != old.get(key) for key in new.keys() | old.keys()) + len(moved)


def _kept_order(rack: Document, own: Document, other: Document) -> list[str]:
    """Return the order of the facets that both editions have."""
    return [rack["key"], *(key for key in rack["facets"] if key in own and key in other)]


def changed_facets(setup: Setup) -> frozenset[str]:
    """Return the keys of the draft's facets that are not live as they are."""
    live = {facet["key"]: facet for facet in setup.live.document["facets"]} if setup.live else {}
    return frozenset(facet["key"] for facet in setup.draft.document["facets"] if facet != live.get(facet["key"]))


def rack_key() -> str:
    """Return the key of the rack that is worked on."""
    return str(the_setup().draft.document["racks"][0]["key"])
