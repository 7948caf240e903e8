"""Changes of the set-up: each one function, each a new edition, each undone by going back to its base."""

from collections.abc import Callable
from copy import deepcopy
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from binsort.core.facetfile import FacetFileError, check_document, facet_file
from binsort.core.jsontext import dumps
from binsort.core.text import normalise

from .models import Edition, Setup

Document = dict[str, Any]
EMPTY: Document = {"binsort": 1, "facets": [], "racks": [{"key": "side", "label": "Side rack", "facets": []}]}


class EditedMeanwhile(Exception):
    """Somebody else changed the draft after the page was shown."""

    def __init__(self, newest: Edition) -> None:
        super().__init__(newest.summary)
        self.newest = newest


class UnknownFacet(LookupError):
    """The set-up has no facet of this key."""


def the_setup() -> Setup:
    """Return the set-up, made empty when first asked for; one query."""
    found = Setup.objects.select_related("draft", "live").filter(pk=1).first()
    return found or _first_setup()


def begin_with(document: Document) -> None:
    """Begin with a document, draft and live, where there is no set-up yet. Raises FacetFileError."""
    if not Setup.objects.exists():
        everything = {**EMPTY["racks"][0], "facets": [facet["key"] for facet in document.get("facets", ())]}
        _first_setup(document if document.get("racks") else {**document, "racks": [everything]})


@transaction.atomic
def _first_setup(document: Document = EMPTY) -> Setup:
    facet_file(document)  # raises FacetFileError
    edition = Edition.objects.create(text=dumps(document), summary="The beginning")
    found, made = Setup.objects.get_or_create(pk=1, defaults={"draft": edition, "live": edition})
    if not made:
        edition.delete()
    return found


@transaction.atomic
def change(summary: str, edit: Callable[[Document], None], *, actor: AbstractBaseUser | None, based_on: int | None = None) -> Edition:
    """Make the next edition of the draft.

    Args:
        summary: what changed, in words, as the history shows it.
        edit: changes a copy of the document in place.
        actor: who does it.
        based_on: the edition that the user saw; None to change whatever is newest.

    Raises:
        EditedMeanwhile: the draft is another edition by now.
        FacetFileError: the changed set-up would not be valid; nothing is changed.
    """
    setup = _locked_setup(based_on)
    document = deepcopy(setup.draft.document)
    edit(document)
    problems = check_document(document)
    if problems:
        raise FacetFileError(problems)
    setup.draft = Edition.objects.create(text=dumps(document), base=setup.draft, summary=summary, actor=actor)
    setup.save(update_fields=["draft"])
    return setup.draft


def _locked_setup(based_on: int | None) -> Setup:
    the_setup()
    # Without joins: a row that was waited for is read anew, what was joined to it is not.
    setup = Setup.objects.select_for_update().get(pk=1)
    if based_on is not None and setup.draft_id != based_on:
        raise EditedMeanwhile(setup.draft)
    return setup


def facet_document(document: Document, key: str) -> Document:
    """Return one facet of a document. Raises UnknownFacet."""
    for facet in document["facets"]:
        if facet["key"] == key:
            return facet  # type: ignore[no-any-return]
    raise UnknownFacet(key)


def _rack(document: Document, key: str) -> Document:
    return next(rack for rack in document["racks"] if rack["key"] == key)  # type: ignore[no-any-return]


def add_facet(
    facet: Document, *, rack: str, actor: AbstractBaseUser | None, place: int | None = None, based_on: int | None = None
) -> Edition:
    """Add a facet to a rack, at the end or at a place."""

    def edit(document: Document) -> None:
        document["facets"].append(facet)
        keys = _rack(document, rack)["facets"]
        keys.insert(len(keys) if place is None else place, facet["key"])

    return change(f"Added {facet['label']}", edit, actor=actor, based_on=based_on)


def remove_facet(key: str, *, actor: AbstractBaseUser | None, based_on: int | None = None) -> Edition:
    """Take a facet off every rack. Rules of other facets that ask for it go with it."""
    label = facet_document(the_setup().draft.document, key)["label"]

    def edit(document: Document) -> None:
        document["facets"].remove(facet_document(document, key))
        for rack in document["racks"]:
            rack["facets"] = [name for name in rack["facets"] if name != key]
        for facet in document["facets"]:
            _drop_rules_on(facet, key)

    return change(f"Removed {label}", edit, actor=actor, based_on=based_on)


def _drop_rules_on(facet: Document, key: str) -> None:
    found = facet.get("show_when")
    if found is None:
        return
    kept = {mode: [rule for rule in rules if rule["facet"] != key] for mode, rules in found.items()}
    facet["show_when"] = {mode: rules for mode, rules in kept.items() if rules}
    if not facet["show_when"]:
        del facet["show_when"]


def order_facets(rack: str, keys: list[str], *, actor: AbstractBaseUser | None, based_on: int | None = None) -> Edition:
    """Put the facets of a rack into another order; keys that are not named keep their order at the end."""

    def edit(document: Document) -> None:
        found = _rack(document, rack)
        known = [key for key in dict.fromkeys(keys) if key in found["facets"]]
        found["facets"] = known + [key for key in found["facets"] if key not in known]

    return change("Changed the order of the facets", edit, actor=actor, based_on=based_on)


def change_facet(key: str, changed: Document, *, actor: AbstractBaseUser | None, based_on: int | None = None) -> Edition:
    """Put a facet's document in place of the one there is. A new key is followed by racks and rules."""

    def edit(document: Document) -> None:
        facet = facet_document(document, key)
        facet.clear()
        facet.update(changed)
        if changed["key"] == key:
            return
        for rack in document["racks"]:
            rack["facets"] = [changed["key"] if name == key else name for name in rack["facets"]]
        for other in document["facets"]:
            for rules in other.get("show_when", {}).values():
                for rule in rules:
                    rule["facet"] = changed["key"] if rule["facet"] == key else rule["facet"]

    return change(f"Changed {normalise(changed['label'])}", edit, actor=actor, based_on=based_on)


@transaction.atomic
def undo(*, based_on: int | None = None) -> Edition | None:
    """Go back by one edition; returns the one undone, None where there is nothing before it."""
    setup = _locked_setup(based_on)
    undone = setup.draft
    if undone.base is None:
        return None
    setup.draft = undone.base
    setup.save(update_fields=["draft"])
    return undone


@transaction.atomic
def redo(*, based_on: int | None = None) -> Edition | None:
    """Go forward to the newest edition made from the present one; returns it, None where there is none."""
    setup = _locked_setup(based_on)
    again = setup.draft.followers.first()
    if again is not None:
        setup.draft = again
        setup.save(update_fields=["draft"])
    return again


@transaction.atomic
def put_live(*, based_on: int | None = None) -> Edition:
    """Let shoppers see the draft."""
    setup = _locked_setup(based_on)
    setup.live = setup.draft
    setup.save(update_fields=["live"])
    return setup.draft


def changes_since_live(setup: Setup) -> int:
    """Count the facets and racks that differ between the draft and what is live."""
    if setup.live is None or setup.draft_id == setup.live_id:
        return 0 if setup.live else len(setup.draft.document["facets"])
    draft, live = setup.draft.document, setup.live.document
    old, new = ({facet["key"]: facet for facet in document["facets"]} for document in (live, draft))
    moved = [rack for rack in draft["racks"] if _kept_order(rack, new, old) not in [_kept_order(r, old, new) for r in live["racks"]]]
    return sum(new.get(key) != old.get(key) for key in new.keys() | old.keys()) + len(moved)


def _kept_order(rack: Document, own: Document, other: Document) -> list[str]:
    """Return the order of the facets that both editions have."""
    return [rack["key"], *(key for key in rack["facets"] if key in own and key in other)]


def changed_facets(setup: Setup) -> frozenset[str]:
    """Return the keys of the draft's facets that are not live as they are."""
    live = {facet["key"]: facet for facet in setup.live.document["facets"]} if setup.live else {}
    return frozenset(facet["key"] for facet in setup.draft.document["facets"] if facet != live.get(facet["key"]))
