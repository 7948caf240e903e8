"""The set-up as it stands: the draft, what is live, and how they differ."""

from datetime import datetime
from functools import lru_cache
from typing import Any, NamedTuple

from django.db import transaction
from django.utils import timezone

from binsort.core.facets.facet_file import facet_file
from binsort.core.values.strict_json import dumps

from .differences import differences
from .models import Edition, Entry, PutLive, Setup

Document = dict[str, Any]
EMPTY: Document = {"binsort": 1, "facets": [], "racks": [{"key": "side", "label": "Side rack", "facets": []}]}


class UnknownFacet(LookupError):
    """The set-up has no facet of this key."""


def the_setup() -> Setup:
    """Return the set-up, made empty when first asked for; one query."""
    setup = Setup.objects.select_related("draft", "live").filter(pk=1).first()
    return setup or _first_setup()


class States(NamedTuple):
    """Which editions the set-up stands at, and when each was made."""

    draft: int
    draft_made: datetime
    live: int | None
    live_made: datetime | None
    goes_live_at: datetime | None


def states() -> States:
    """Return where the set-up stands, made empty when first asked for; one query."""
    rows = Setup.objects.filter(pk=1).values_list("draft", "draft__created_at", "live", "live__created_at", "goes_live_at")
    row = rows.first()
    if row is None:
        _first_setup()
        return states()
    return States(*row)


def edition_shown(known: States, *, draft: bool = False) -> Edition | None:
    """Return the set-up that shoppers see at this moment, or the draft; no query once an edition was read, but for what is due."""
    if draft:
        return _edition(known.draft, known.draft_made)
    if known.goes_live_at is not None and known.goes_live_at <= timezone.now():
        return the_setup().for_shoppers
    return _edition(known.live, known.live_made) if known.live is not None and known.live_made is not None else None


@lru_cache(maxsize=8)
def _edition(key: int, made: datetime) -> Edition:
    """Read an edition once; they never change."""
    return Edition.objects.get(pk=key, created_at=made)


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
    row = PutLive.objects.create(edition=edition)
    Entry.objects.create(kind=Entry.Kind.LIVE, words="The beginning", after=edition, live=row)
    return setup


class UnknownRack(LookupError):
    """The set-up has no rack of this key."""


def rack_document(document: Document, key: str) -> Document:
    """Return one rack of a document. Raises UnknownRack."""
    for rack in document["racks"]:
        if rack["key"] == key:
            return rack  # type: ignore[no-any-return]
    raise UnknownRack(key)


def rack_of(document: Document, key: str, wanted: str = "") -> str:
    """Return the key of a rack that has a facet: the wanted one if it does, else the first. Raises UnknownFacet."""
    having = [str(rack["key"]) for rack in document["racks"] if key in rack["facets"]]
    if not having:
        raise UnknownFacet(key)
    return wanted if wanted in having else having[0]


def facet_document(document: Document, key: str) -> Document:
    """Return one facet of a document. Raises UnknownFacet."""
    for facet in document["facets"]:
        if facet["key"] == key:
            return facet  # type: ignore[no-any-return]
    raise UnknownFacet(key)


def said_on_rack(document: Document, rack: str, part: str) -> Document:
    """Return what a rack says of its facets, by their key. Raises UnknownRack.

    Args:
        document: a facet file.
        rack: its key.
        part: one of OF_FACETS of :mod:`binsort.core.facets.rack_edits`.
    """
    return rack_document(document, rack).get("place", {}).get(part, {})  # type: ignore[no-any-return]


def own_looks(document: Document, rack: str) -> Document:
    """Return how a rack draws facets its own way, by their key."""
    return said_on_rack(document, rack, "looks")


def drawn_document(document: Document, key: str, rack: str) -> Document:
    """Return a facet of a document as a rack draws it. Raises UnknownFacet, UnknownRack."""
    facet, looks = facet_document(document, key), own_looks(document, rack)
    return {**facet, "look": looks[key]} if key in looks else facet


def changes_since_live(setup: Setup) -> int:
    """Count the facets and racks that differ between the draft and what is live."""
    if setup.draft_id == setup.live_id:
        return 0
    before = setup.live.document if setup.live else {"facets": [], "racks": setup.draft.document["racks"]}
    return len(differences(before, setup.draft.document))


def changed_facets(setup: Setup) -> frozenset[str]:
    """Return the keys of the draft's facets that are not live as they are."""
    live = {facet["key"]: facet for facet in setup.live.document["facets"]} if setup.live else {}
    return frozenset(facet["key"] for facet in setup.draft.document["facets"] if facet != live.get(facet["key"]))
