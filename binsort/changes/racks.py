"""Changes of racks: made, copied, called otherwise, deleted, filled with facets of others, and placed on listings."""

from copy import deepcopy

from django.utils.translation import gettext as _

from binsort.core.facets.behaviour import Behaviour, with_behaviour
from binsort.core.facets.place_edits import INHERIT, NOTHING, listing_of, with_place, without_rack
from binsort.core.facets.places import PLACES, SPOTS
from binsort.core.facets.rack_edits import say_of_facet, take_off
from binsort.core.facets.rule_edits import rename_facet
from binsort.core.insight.proposals import free_key
from binsort.core.values.text import category_path, normalise
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import Edition
from binsort.racks.places_in_words import SPOT_WORDS, listing_words, place_words
from binsort.racks.setup import Document, UnknownFacet, facet_document, own_looks, rack_document, said_on_rack, the_setup

from .actors import Actor
from .facets import change

_LONGEST = 80  # characters of a name


class RackRefused(ValueError):
    """A rack cannot be changed like that; the text says why and what to do."""


@needs(Act.DRAFT)
def make_rack(label: str, *, actor: Actor, based_on: int | None = None) -> tuple[Edition, str]:
    """Make a rack without facets; returns the edition and its key. Raises RackRefused."""
    label = _label(label)
    key = _free(the_setup().draft.document, label)

    def edit(document: Document) -> None:
        document["racks"].append({"key": key, "label": label, "facets": []})

    return change(_("Made the rack %(label)s") % {"label": label}, edit, actor=actor, based_on=based_on), key


@needs(Act.DRAFT)
def copy_rack(key: str, label: str, *, own_facets: bool, actor: Actor, based_on: int | None = None) -> tuple[Edition, str]:
    """Make a rack with the facets of another: the same ones, which change together, or copies of its own.

    Args:
        key: of the rack that is copied.
        label: of the new one.
        own_facets: whether it gets copies.
        actor: who does it.
        based_on: the edition that the user saw.

    Raises:
        RackRefused: the label cannot be used.
        UnknownRack: there is no such rack any more.
    """
    label = _label(label)
    new = _free(the_setup().draft.document, label)

    def edit(document: Document) -> None:
        source = rack_document(document, key)
        names = {name: _copied(document, name) for name in source["facets"]} if own_facets else {}
        for copied in names.values():
            rename_facet(facet_document(document, copied), names)
        document["racks"].append({"key": new, "label": label, "facets": [names.get(name, name) for name in source["facets"]]})

    return change(_("Copied a rack as %(label)s") % {"label": label}, edit, actor=actor, based_on=based_on), new


def _copied(document: Document, key: str) -> str:
    """Add a copy of a facet to a document; returns its key."""
    copied = deepcopy(facet_document(document, key))
    copied["key"] = free_key(copied["label"], {facet["key"] for facet in document["facets"]})
    document["facets"].append(copied)
    return str(copied["key"])


@needs(Act.DRAFT)
def rename_rack(key: str, label: str, *, actor: Actor, based_on: int | None = None) -> Edition | None:
    """Call a rack otherwise; None where it is called so. Raises RackRefused, UnknownRack."""
    before, label = rack_document(the_setup().draft.document, key)["label"], _label(label)
    if label == before:
        return None

    def edit(document: Document) -> None:
        rack_document(document, key)["label"] = label

    words = _("Rack %(old)s called %(new)s") % {"old": before, "new": label}
    return change(words, edit, actor=actor, based_on=based_on, only=f"rack {key}")


@needs(Act.DRAFT)
def delete_rack(key: str, *, actor: Actor, based_on: int | None = None) -> Edition:
    """Delete a rack, the places it has, and the facets that no other rack has. Raises RackRefused, UnknownRack."""
    document = the_setup().draft.document
    if len(document["racks"]) == 1:
        raise RackRefused(_("It is the only rack. Make another one first, or take its facets off."))
    label = rack_document(document, key)["label"]

    def edit(document: Document) -> None:
        for name in facets_alone(document, key):
            take_off(document, key, name)
        without_rack(document, key)

    return change(_("Deleted the rack %(label)s") % {"label": label}, edit, actor=actor, based_on=based_on)


def facets_alone(document: Document, key: str) -> list[str]:
    """Return the keys of the facets that a rack has and no other one."""
    shared = {name for rack in document["racks"] if rack["key"] != key for name in rack["facets"]}
    return [name for name in rack_document(document, key)["facets"] if name not in shared]


@needs(Act.DRAFT)
def put_on_rack(
    key: str, rack: str, *, copied: bool = False, moved_from: str = "", actor: Actor, based_on: int | None = None
) -> tuple[str, Edition]:
    """Put a facet on a further rack: the same one, a copy of it, or moved there from another rack. Returns its key there, and the edition.

    Raises:
        RackRefused: the rack has it already.
        UnknownRack, UnknownFacet: it is not there any more.
    """
    document = the_setup().draft.document
    label, name = facet_document(document, key)["label"], rack_document(document, rack)["label"]
    if not copied and key in rack_document(document, rack)["facets"]:
        raise RackRefused(_("%(facet)s is on %(rack)s already.") % {"facet": label, "rack": name})

    there = [key]

    def edit(document: Document) -> None:
        there[0] = _copied(document, key) if copied else key
        rack_document(document, rack)["facets"].append(there[0])
        if moved_from and moved_from != rack:
            take_off(document, moved_from, key)

    words = _("%(facet)s moved to %(rack)s") if moved_from else _("%(facet)s put on %(rack)s, too")
    done = change(
        (_("Copy of %(facet)s put on %(rack)s") if copied else words) % {"facet": label, "rack": name}, edit, actor=actor, based_on=based_on
    )
    return there[0], done


@needs(Act.DRAFT)
def take_off_rack(key: str, rack: str, *, actor: Actor, based_on: int | None = None) -> Edition:
    """Take a facet off a rack; if no other rack has it, it is gone, and so are rules that ask for it. Raises UnknownFacet, UnknownRack."""
    document = the_setup().draft.document
    label = facet_document(document, key)["label"]
    if key not in rack_document(document, rack)["facets"]:
        raise UnknownFacet(key)

    def edit(document: Document) -> None:
        take_off(document, rack, key)

    return change(_("Removed %(facet)s") % {"facet": label}, edit, actor=actor, based_on=based_on, only=key)


@needs(Act.DRAFT)
def place_rack(
    listing: Document, where: str, choice: str, *, below: bool = True, words: str = "", actor: Actor, based_on: int | None = None
) -> Edition:
    """Say what stands at a place of a listing: a rack, nothing, or what the listing above it has.

    Args:
        listing: as a rule of a facet file has it: ``listing``, and ``category`` or ``embed``.
        where: the place on the page.
        choice: the key of a rack, ``nothing`` or ``inherit``.
        below: whether it holds for the listings below, too.
        words: the listing in words.
        actor: who does it.
        based_on: the edition that the user saw.

    Raises:
        RackRefused: there is no such place.
        UnknownRack: the rack is not there any more.
    """
    if where not in PLACES:
        raise RackRefused(_("Choose one of the places of the page."))
    said = {NOTHING: _("nothing"), INHERIT: _("what is above")}.get(choice)
    label = said or rack_document(the_setup().draft.document, choice)["label"]

    def edit(document: Document) -> None:
        if not said:
            rack_document(document, choice)
        document.update(with_place(document, listing, where, choice, below=below))

    told = _("%(listing)s, %(place)s: %(what)s") % {
        "place": place_words(where),
        "listing": words or listing_words(listing_of(listing), (category_path(listing.get("category", "")) or ("",))[-1]),
        "what": label,
    }
    return change(told, edit, actor=actor, based_on=based_on)


@needs(Act.DRAFT)
def set_behaviour(key: str, behaviour: Behaviour, *, actor: Actor, based_on: int | None = None) -> Edition | None:
    """Let a rack behave so; None where it does. Raises UnknownRack."""
    rack = rack_document(the_setup().draft.document, key)
    if with_behaviour(rack, behaviour) == rack:
        return None

    def edit(document: Document) -> None:
        mine = rack_document(document, key)
        changed = with_behaviour(mine, behaviour)
        mine.clear()
        mine.update(changed)

    words = _("%(rack)s behaves otherwise") % {"rack": rack["label"]}
    return change(words, edit, actor=actor, based_on=based_on, only=f"rack {key}")


@needs(Act.DRAFT)
def set_heading(rack: str, key: str, heading: str, *, actor: Actor, based_on: int | None = None) -> Edition | None:
    """Put a heading above a facet of a rack, or take it away; None where it is like that. Raises RackRefused, UnknownRack."""
    heading = normalise(heading)
    if len(heading) > _LONGEST:
        raise RackRefused(_("A heading has 80 characters at most."))
    before = rack_document(the_setup().draft.document, rack)
    if heading == said_on_rack(the_setup().draft.document, rack, "headings").get(key, ""):
        return None

    def edit(document: Document) -> None:
        say_of_facet(rack_document(document, rack), "headings", key, heading or None)

    words = _("%(rack)s: heading %(heading)s") if heading else _("%(rack)s: a heading taken away")
    said = words % {"rack": before["label"], "heading": heading}
    return change(said, edit, actor=actor, based_on=based_on, only=f"rack {rack}")


@needs(Act.DRAFT)
def set_apart(rack: str, key: str, where: str, *, actor: Actor, based_on: int | None = None) -> Edition | None:
    """Put a facet of a rack at a place of its own, or with an empty one where its rack stands; None where it is there.

    Raises RackRefused, UnknownFacet, UnknownRack.
    """
    document = the_setup().draft.document
    before = rack_document(document, rack)
    if where not in ("", *SPOTS):
        raise RackRefused(_("A facet stands above the products, at the side, or below them."))
    if where == said_on_rack(document, rack, "apart").get(key, ""):
        return None

    def edit(document: Document) -> None:
        say_of_facet(rack_document(document, rack), "apart", key, where or None)

    said = {"facet": facet_document(document, key)["label"], "rack": before["label"], "place": SPOT_WORDS.get(where, "")}
    words = _("%(facet)s of %(rack)s stands %(place)s") if where else _("%(facet)s stands where %(rack)s does")
    return change(words % said, edit, actor=actor, based_on=based_on, only=f"rack {rack}")


@needs(Act.DRAFT)
def set_own_look(rack: str, key: str, look: Document | None, *, actor: Actor, based_on: int | None = None) -> Edition | None:
    """Let a rack draw a facet its own way, or with None as elsewhere; None where it does. Raises UnknownFacet, UnknownRack."""
    before = the_setup().draft.document
    if own_looks(before, rack).get(key) == look:
        return None

    def edit(document: Document) -> None:
        say_of_facet(rack_document(document, rack), "looks", key, deepcopy(look))

    words = _("%(facet)s drawn as elsewhere on %(rack)s") if look is None else _("%(facet)s drawn its own way on %(rack)s")
    named = {"facet": facet_document(before, key)["label"], "rack": rack_document(before, rack)["label"]}
    return change(words % named, edit, actor=actor, based_on=based_on, only=f"rack {rack}")


def _label(label: str) -> str:
    label = normalise(label)
    if not label:
        raise RackRefused(_("A rack needs a name."))
    if len(label) > _LONGEST:
        raise RackRefused(_("A rack's name has 80 characters at most."))
    return label


def _free(document: Document, label: str) -> str:
    return free_key(label, {rack["key"] for rack in document["racks"]}, or_else="rack")
