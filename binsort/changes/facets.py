"""Changes of the set-up: each one function, each a new edition, each undone by going back to its base."""

from collections.abc import Callable
from copy import deepcopy

from django.db import transaction
from django.utils.translation import gettext as _

from binsort.core.facets.bin_edits import kept_alone, left_out
from binsort.core.facets.facet_file import FacetFileError, check_document
from binsort.core.facets.rack_edits import rename_on_racks
from binsort.core.facets.rule_edits import rename_facet
from binsort.core.insight.proposals import free_key
from binsort.core.values.strict_json import dumps
from binsort.core.values.text import identity, normalise
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.attribute_use import BY_DICTIONARY
from binsort.racks.differences import said_of
from binsort.racks.models import Edition, Entry, FormerKey, Setup
from binsort.racks.setup import Document, UnknownFacet, UnknownRack, facet_document, rack_document, the_setup

from .actors import Actor, user_of
from .history import take_back_of, tell


class KeptElsewhere(Exception):
    """The set-up is kept in a file: what is changed here would be lost with the next one."""

    def __init__(self, master: str) -> None:
        super().__init__(master)
        self.master = master


class EditedMeanwhile(Exception):
    """Somebody else changed the draft after the page was shown."""

    def __init__(self, newest: Edition) -> None:
        super().__init__(newest.summary)
        self.newest = newest

    @property
    def said(self) -> dict[str, str]:
        """Who did what, for a sentence."""
        by = self.newest.actor
        who = (by.get_full_name() or by.get_username()) if by else _("somebody else")
        return {"who": who, "other": self.newest.summary}


@needs(Act.DRAFT)
@transaction.atomic
def change(
    summary: str, edit: Callable[[Document], None], *, actor: Actor, based_on: int | None = None, only: str = "", by_file: bool = False
) -> Edition:
    """Make the next edition of the draft.

    Args:
        summary: what changed, in words, as the history shows it.
        edit: changes a copy of the document in place.
        actor: who does it.
        based_on: the edition that the user saw; None to change whatever is newest.
        only: the key of the only facet that is changed, or ``rack KEY`` of the only rack; what others became meanwhile then stays.
        by_file: it is the file of the set-up that is brought in.

    Raises:
        KeptElsewhere: the set-up is kept in a file, and this is not it.
        EditedMeanwhile: the draft, or that facet in it, is another by now.
        FacetFileError: the changed set-up would not be valid; nothing is changed.
    """
    setup = locked_setup(based_on, only)
    if not by_file:
        refuse_where_kept_elsewhere(setup)
    document = deepcopy(setup.draft.document)
    edit(document)
    problems = check_document(document)
    if problems:
        raise FacetFileError(problems)
    before = setup.draft
    setup.draft = Edition.objects.create(text=dumps(document), base=before, summary=summary, actor=user_of(actor))
    setup.save(update_fields=["draft"])
    tell(Entry.Kind.SETUP, summary, actor=actor, before=before, after=setup.draft)
    return setup.draft


def refuse_where_kept_elsewhere(setup: Setup) -> None:
    """Raise KeptElsewhere where the set-up is kept in a file."""
    if setup.master:
        raise KeptElsewhere(setup.master)


def locked_setup(based_on: int | None, only: str = "") -> Setup:
    """Hold the set-up until this transaction ends: whoever changes draft or live has it alone. Raises EditedMeanwhile."""
    the_setup()
    # Without joins: a row that was waited for is read anew, what was joined to it is not.
    setup = Setup.objects.select_for_update().get(pk=1)
    if based_on is not None and setup.draft_id != based_on and not (only and _is_as_seen(setup.draft, based_on, only)):
        raise EditedMeanwhile(setup.draft)
    return setup


def _is_as_seen(draft: Edition, based_on: int, key: str) -> bool:
    """Tell whether a facet, or a rack, is still what it was in an edition."""
    seen = Edition.objects.filter(pk=based_on).first()
    rack = key.removeprefix("rack ")

    def part(document: Document) -> Document:
        return facet_document(document, key) if rack == key else rack_document(document, rack)

    try:
        return seen is not None and part(draft.document) == part(seen.document)
    except (UnknownFacet, UnknownRack):
        return False


@needs(Act.DRAFT)
def take_back(number: int, *, actor: Actor, based_on: int | None = None) -> Edition:
    """Take one change of the set-up back, beside whatever was changed since.

    Args:
        number: of its line in the history.
        actor: who does it.
        based_on: the edition that the user saw.

    Raises:
        Entry.DoesNotExist: there is no such line.
        CannotTakeBack: what it changed was changed again.
        FacetFileError: what would be left is not valid.
    """
    entry = Entry.objects.select_related("before", "after").get(pk=number)
    return change(_("Taken back: %(words)s") % {"words": entry.words}, take_back_of(entry), actor=actor, based_on=based_on)


@needs(Act.DRAFT)
def add_facet(facet: Document, *, rack: str, actor: Actor, place: int | None = None, based_on: int | None = None) -> Edition:
    """Add a facet to a rack, at the end or at a place."""

    def edit(document: Document) -> None:
        document["facets"].append(facet)
        keys = rack_document(document, rack)["facets"]
        keys.insert(len(keys) if place is None else place, facet["key"])

    return change(f"Added {facet['label']}", edit, actor=actor, based_on=based_on)


@needs(Act.DRAFT)
def order_facets(rack: str, keys: list[str], *, actor: Actor, based_on: int | None = None) -> Edition:
    """Put the facets of a rack into another order; keys that are not named keep their order at the end."""

    def edit(document: Document) -> None:
        ordered = rack_document(document, rack)
        known = [key for key in dict.fromkeys(keys) if key in ordered["facets"]]
        ordered["facets"] = known + [key for key in ordered["facets"] if key not in known]

    return change("Changed the order of the facets", edit, actor=actor, based_on=based_on, only=f"rack {rack}")


@needs(Act.DRAFT)
@transaction.atomic
def change_facet(key: str, changed: Document, *, actor: Actor, based_on: int | None = None, said: str = "") -> Edition:
    """Put a facet's document in place of the one there is. A new key is followed by racks and rules.

    Args:
        key: of the facet as it is.
        changed: its document from now on.
        actor: who does it.
        based_on: the edition that the user saw.
        said: what is done, in words, as undo and the history name it; found out by comparing where it is empty.
    """
    before = facet_document(the_setup().draft.document, key)

    def edit(document: Document) -> None:
        facet = facet_document(document, key)
        facet.clear()
        facet.update(changed)
        if changed["key"] == key:
            return
        rename_on_racks(document, key, changed["key"])
        for other in document["facets"]:
            rename_facet(other, {key: changed["key"]})

    words = said or said_of(before, changed)
    edition = change(f"{normalise(before['label'])}: {words}", edit, actor=actor, based_on=based_on, only=key)
    if changed["key"] != key:
        FormerKey.objects.get_or_create(old=key, new=changed["key"])
    return edition


@needs(Act.DRAFT)
def split_off(
    key: str, values: list[str], everything: list[str], label: str, *, actor: Actor, based_on: int | None = None
) -> tuple[str, Edition]:
    """Make a facet of its own out of some values of one, behind it on every rack that has it; returns its key, and the edition.

    Args:
        key: of the facet that has them; it leaves them out from then on.
        values: as the catalogue writes them.
        everything: all values there are, so that those that come later stay with the first facet.
        label: what the new one is called.

    Raises:
        UnknownFacet: it is not there any more.
        FacetFileError: nothing would be left of it, or the label is none.
    """
    before = facet_document(the_setup().draft.document, key)
    new = ""

    def edit(document: Document) -> None:
        nonlocal new
        new = free_key(label, {facet["key"] for facet in document["facets"]})
        mine = facet_document(document, key)
        own = {name: part for name, part in kept_alone(mine, values, everything).items() if name not in ("key", "label", "name")}
        rest = left_out(mine, values)
        mine.clear()
        mine.update(rest)
        document["facets"].append({"key": new, "label": normalise(label), **own})
        for rack in document["racks"]:
            if key in rack["facets"]:
                rack["facets"].insert(rack["facets"].index(key) + 1, new)

    words = _("%(label)s made out of %(facet)s") % {"label": normalise(label), "facet": before["label"]}
    done = change(words, edit, actor=actor, based_on=based_on, only=key)
    return new, done


@needs(Act.DRAFT)
def order_bins(key: str, labels: list[str], *, actor: Actor, based_on: int | None = None) -> Edition:
    """Put the bins of a facet into an order by hand; those that are not named keep theirs at the end."""
    before = facet_document(the_setup().draft.document, key)
    known = before.get("bins", {}).get("order", [])
    wanted = list({identity(label): label for label in (*labels, *known)}.values())
    look = {name: value for name, value in before.get("look", {}).items() if name != BY_DICTIONARY}
    changed = {**before, "order": "listed", "bins": {**before.get("bins", {}), "order": wanted}, "look": look}
    return change_facet(key, changed, actor=actor, based_on=based_on, said=_("bins put into order by hand"))


@needs(Act.DRAFT)
@transaction.atomic
def undo(*, actor: Actor = None, based_on: int | None = None) -> Edition | None:
    """Go back by one edition; returns the one undone, None where there is nothing before it."""
    setup = locked_setup(based_on)
    refuse_where_kept_elsewhere(setup)
    undone = setup.draft
    if undone.base is None:
        return None
    setup.draft = undone.base
    setup.save(update_fields=["draft"])
    tell(Entry.Kind.SETUP, _("Undone: %(summary)s") % {"summary": undone.summary}, actor=actor, before=undone, after=setup.draft)
    return undone


@needs(Act.DRAFT)
@transaction.atomic
def redo(*, actor: Actor = None, based_on: int | None = None) -> Edition | None:
    """Go forward to the newest edition made from the present one; returns it, None where there is none."""
    setup = locked_setup(based_on)
    refuse_where_kept_elsewhere(setup)
    again = setup.draft.followers.first()
    if again is not None:
        before, setup.draft = setup.draft, again
        setup.save(update_fields=["draft"])
        tell(Entry.Kind.SETUP, _("Done again: %(summary)s") % {"summary": again.summary}, actor=actor, before=before, after=again)
    return again
