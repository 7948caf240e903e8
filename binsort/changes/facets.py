"""Changes of the set-up: each one function, each a new edition, each undone by going back to its base."""

from collections.abc import Callable
from copy import deepcopy

from django.db import transaction

from binsort.core.facets.facet_file import FacetFileError, check_document
from binsort.core.values.strict_json import dumps
from binsort.core.values.text import identity, normalise
from binsort.racks.attribute_use import BY_DICTIONARY
from binsort.racks.models import Edition, Setup
from binsort.racks.setup import Document, UnknownFacet, facet_document, the_setup

from .actors import Actor, user_of


class EditedMeanwhile(Exception):
    """Somebody else changed the draft after the page was shown."""

    def __init__(self, newest: Edition) -> None:
        super().__init__(newest.summary)
        self.newest = newest


@transaction.atomic
def change(summary: str, edit: Callable[[Document], None], *, actor: Actor, based_on: int | None = None, only: str = "") -> Edition:
    """Make the next edition of the draft.

    Args:
        summary: what changed, in words, as the history shows it.
        edit: changes a copy of the document in place.
        actor: who does it.
        based_on: the edition that the user saw; None to change whatever is newest.
        only: the key of the only facet that is changed; what others became meanwhile then stays.

    Raises:
        EditedMeanwhile: the draft, or that facet in it, is another by now.
        FacetFileError: the changed set-up would not be valid; nothing is changed.
    """
    setup = _locked_setup(based_on, only)
    document = deepcopy(setup.draft.document)
    edit(document)
    problems = check_document(document)
    if problems:
        raise FacetFileError(problems)
    setup.draft = Edition.objects.create(text=dumps(document), base=setup.draft, summary=summary, actor=user_of(actor))
    setup.save(update_fields=["draft"])
    return setup.draft


def _locked_setup(based_on: int | None, only: str = "") -> Setup:
    the_setup()
    # Without joins: a row that was waited for is read anew, what was joined to it is not.
    setup = Setup.objects.select_for_update().get(pk=1)
    if based_on is not None and setup.draft_id != based_on and not (only and _is_as_seen(setup.draft, based_on, only)):
        raise EditedMeanwhile(setup.draft)
    return setup


def _is_as_seen(draft: Edition, based_on: int, key: str) -> bool:
    """Tell whether a facet is still what it was in an edition."""
    seen = Edition.objects.filter(pk=based_on).first()
    try:
        return seen is not None and facet_document(draft.document, key) == facet_document(seen.document, key)
    except UnknownFacet:
        return False


def _rack(document: Document, key: str) -> Document:
    return next(rack for rack in document["racks"] if rack["key"] == key)


def add_facet(facet: Document, *, rack: str, actor: Actor, place: int | None = None, based_on: int | None = None) -> Edition:
    """Add a facet to a rack, at the end or at a place."""

    def edit(document: Document) -> None:
        document["facets"].append(facet)
        keys = _rack(document, rack)["facets"]
        keys.insert(len(keys) if place is None else place, facet["key"])

    return change(f"Added {facet['label']}", edit, actor=actor, based_on=based_on)


def remove_facet(key: str, *, actor: Actor, based_on: int | None = None) -> Edition:
    """Take a facet off every rack. Rules of other facets that ask for it go with it."""
    label = facet_document(the_setup().draft.document, key)["label"]

    def edit(document: Document) -> None:
        document["facets"].remove(facet_document(document, key))
        for rack in document["racks"]:
            rack["facets"] = [name for name in rack["facets"] if name != key]
        for facet in document["facets"]:
            _drop_rules_on(facet, key)

    return change(f"Removed {label}", edit, actor=actor, based_on=based_on, only=key)


def _drop_rules_on(facet: Document, key: str) -> None:
    show_when = facet.get("show_when")
    if show_when is None:
        return
    kept = {mode: [rule for rule in rules if rule["facet"] != key] for mode, rules in show_when.items()}
    facet["show_when"] = {mode: rules for mode, rules in kept.items() if rules}
    if not facet["show_when"]:
        del facet["show_when"]


def order_facets(rack: str, keys: list[str], *, actor: Actor, based_on: int | None = None) -> Edition:
    """Put the facets of a rack into another order; keys that are not named keep their order at the end."""

    def edit(document: Document) -> None:
        ordered = _rack(document, rack)
        known = [key for key in dict.fromkeys(keys) if key in ordered["facets"]]
        ordered["facets"] = known + [key for key in ordered["facets"] if key not in known]

    return change("Changed the order of the facets", edit, actor=actor, based_on=based_on)


def change_facet(key: str, changed: Document, *, actor: Actor, based_on: int | None = None) -> Edition:
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

    return change(f"Changed {normalise(changed['label'])}", edit, actor=actor, based_on=based_on, only=key)


def order_bins(key: str, labels: list[str], *, actor: Actor, based_on: int | None = None) -> Edition:
    """Put the bins of a facet into an order by hand; those that are not named keep theirs at the end."""
    before = facet_document(the_setup().draft.document, key)
    known = before.get("bins", {}).get("order", [])
    wanted = list({identity(label): label for label in (*labels, *known)}.values())
    look = {name: value for name, value in before.get("look", {}).items() if name != BY_DICTIONARY}
    changed = {**before, "order": "listed", "bins": {**before.get("bins", {}), "order": wanted}, "look": look}
    return change_facet(key, changed, actor=actor, based_on=based_on)


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
