"""Edits of places: what a document says after a rack, nothing, or what is above was put at a place of a listing."""

from collections.abc import Callable
from copy import deepcopy
from typing import Any

from binsort.core.values.text import category_path, identity

from .places import ALL, CATEGORY, EMBED, SIDE, TAG, Listing, Places, name_said, rules_of

INHERIT, NOTHING = "inherit", "nothing"


def with_place(document: dict[str, Any], listing: dict[str, Any], where: str, choice: str, *, below: bool = True) -> dict[str, Any]:
    """Return a document in which a place of a listing has a rack, nothing, or what the listing above it has.

    Args:
        document: a facet file; not changed.
        listing: as a rule has it: ``listing``, and ``category``, ``tag`` or ``embed``.
        where: the place.
        choice: the key of a rack, :data:`NOTHING` or :data:`INHERIT`.
        below: whether it holds for the listings below, too.

    Raises:
        KeyError: there is no rack of this key.
    """
    changed = {**document, "racks": deepcopy(document["racks"])}
    write_down(changed)
    for rack in changed["racks"]:
        drop_rules(rack, lambda rule: rule["where"] == where and listing_of(rule) == listing_of(listing))
    if choice == INHERIT:
        return changed
    rule = {"where": where, **listing, **({} if below else {"below": False}), **({"shown": False} if choice == NOTHING else {})}
    owner = choice
    if choice == NOTHING:
        owner = Places.of(changed).at(listing_of(listing), where).rack or changed["racks"][0]["key"]
    racks = {rack["key"]: rack for rack in changed["racks"]}
    racks[owner].setdefault("place", {}).setdefault("shows", []).append(rule)
    return changed


def listing_of(said: dict[str, Any]) -> Listing:
    """Return the listing that a rule names."""
    if said["listing"] == CATEGORY:
        return Listing(CATEGORY, tuple(map(identity, category_path(said["category"]))))
    return Listing(said["listing"], (), name_said(said))


def said_of_listing(listing: str, name: str = "") -> dict[str, Any]:
    """Return how a rule names a listing; the name is the path of a category, a tag, or the name of an embed."""
    return {"listing": listing, **({listing: name} if listing in (CATEGORY, TAG, EMBED) else {})}


def write_down(document: dict[str, Any]) -> None:
    """Say in a document, in place, what holds where no rack says anything."""
    if document["racks"] and not any(rack.get("place", {}).get("shows") for rack in document["racks"]):
        document["racks"][0].setdefault("place", {})["shows"] = [{"where": SIDE, "listing": ALL}]


def without_rack(document: dict[str, Any], key: str) -> None:
    """Take a rack out of a document, in place. What it had, the nearest rule that is left has; never the first rack by default."""
    rules = rules_of(document)
    document["racks"] = [rack for rack in document["racks"] if rack["key"] != key]
    if all(rule.rack == key for rule in rules) and document["racks"]:
        document["racks"][0].setdefault("place", {})["shows"] = [{"where": SIDE, "listing": ALL, "shown": False}]


def drop_rules(rack: dict[str, Any], is_meant: Callable[[dict[str, Any]], bool]) -> None:
    """Take the rules that are meant out of a rack, in place."""
    place = rack.get("place", {})
    kept = [rule for rule in place.get("shows", ()) if not is_meant(rule)]
    if kept:
        place["shows"] = kept
    else:
        place.pop("shows", None)
    if "place" in rack and not place:
        del rack["place"]


def rename_categories(document: dict[str, Any], moved: Callable[[str], str]) -> None:
    """Let the rules of racks name categories by other paths, in place; of several that then say the same place the first stays."""
    seen: set[tuple[str, Listing]] = set()
    for rack in document["racks"]:
        shows = rack.get("place", {}).get("shows")
        if not shows:
            continue
        kept = []
        for rule in shows:
            renamed = {**rule, "category": moved(rule["category"])} if rule["listing"] == CATEGORY else rule
            spot = rule["where"], listing_of(renamed)
            if spot not in seen:
                kept.append(renamed)
            seen.add(spot)
        rack["place"]["shows"] = kept
