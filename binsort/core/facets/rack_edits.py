"""Edits of racks: what goes with a facet that leaves one. Each changes the set-up that it is given."""

from collections.abc import Collection
from typing import Any

from .rule_edits import drop_rules

OF_FACETS = ("headings", "looks", "apart")  # parts of a rack's place that speak of facets, by their key


def take_off(document: dict[str, Any], rack: str, key: str) -> None:
    """Take a facet off a rack; where no other rack has it, it leaves the set-up, and with it the rules that ask for it.

    >>> setup = {"facets": [{"key": "a"}], "racks": [{"key": "side", "facets": ["a"]}, {"key": "row", "facets": ["a"]}]}
    >>> take_off(setup, "side", "a")
    >>> setup["racks"][0]["facets"], setup["facets"]
    ([], [{'key': 'a'}])
    >>> take_off(setup, "row", "a")
    >>> setup["facets"]
    []
    """
    for one in document["racks"]:
        if one["key"] == rack:
            one["facets"] = [name for name in one["facets"] if name != key]
            for part in OF_FACETS:
                say_of_facet(one, part, key, None)
    if not any(key in one["facets"] for one in document["racks"]):
        document["facets"] = [facet for facet in document["facets"] if facet["key"] != key]
        for facet in document["facets"]:
            drop_rules(facet, key)


def move(document: dict[str, Any], rack: str, key: str, place: int) -> None:
    """Move a facet to a place in a rack, counted from 0 without it; -1 for the end.

    >>> setup = {"facets": [], "racks": [{"key": "side", "facets": ["a", "b", "c"]}]}
    >>> move(setup, "side", "c", 0)
    >>> setup["racks"][0]["facets"]
    ['c', 'a', 'b']
    """
    for one in document["racks"]:
        if one["key"] == rack:
            rest = [name for name in one["facets"] if name != key]
            rest.insert(place if place >= 0 else len(rest), key)
            one["facets"] = rest


def say_of_facet(rack: dict[str, Any], part: str, key: str, value: object) -> None:
    """Set what a rack's place says of a facet, in place; None takes it away, with what is empty then.

    Args:
        rack: of a facet file.
        part: one of OF_FACETS.
        key: of the facet.
        value: what is said.
    """
    place = rack.setdefault("place", {})
    said = place.setdefault(part, {})
    said.pop(key, None)
    if value is not None:
        said[key] = value
    if not said:
        del place[part]
    if not place:
        del rack["place"]


def rename_on_racks(document: dict[str, Any], old: str, new: str) -> None:
    """Let racks name a facet by another key, with all that they say of it.

    >>> setup = {"facets": [], "racks": [{"key": "side", "facets": ["a", "b"], "place": {"headings": {"a": "First"}}}]}
    >>> rename_on_racks(setup, "a", "c")
    >>> setup["racks"][0]["facets"], setup["racks"][0]["place"]["headings"]
    (['c', 'b'], {'c': 'First'})
    """
    for rack in document["racks"]:
        rack["facets"] = [new if name == old else name for name in rack["facets"]]
        said = [rack["place"][part] for part in OF_FACETS if part in rack.get("place", {})]
        for own in [one for one in said if old in one]:
            own[new] = own.pop(old)


def start_open(document: dict[str, Any], rack: str, keys: Collection[str], *, is_open: bool) -> None:
    """Let facets of a rack start open or shut, where the rack draws them in its own way there, too."""
    for one in [facet for facet in document["facets"] if facet["key"] in keys]:
        one["look"] = {**one.get("look", {}), "open": is_open}
    for one in [rack_ for rack_ in document["racks"] if rack_["key"] == rack]:
        for key, look in one.get("place", {}).get("looks", {}).items():
            if key in keys:
                look["open"] = is_open


def stands_open(document: dict[str, Any], rack: str, key: str) -> bool:
    """Tell whether a facet starts open in a rack.

    >>> setup = {"facets": [{"key": "a"}], "racks": [{"key": "side", "facets": ["a"], "place": {"looks": {"a": {"columns": 2}}}}]}
    >>> start_open(setup, "side", ["a"], is_open=False)
    >>> stands_open(setup, "side", "a"), stands_open(setup, "row", "a")
    (False, False)
    """
    own: dict[str, Any] = next((one.get("place", {}).get("looks", {}) for one in document["racks"] if one["key"] == rack), {})
    facet = next(one for one in document["facets"] if one["key"] == key)
    return (own.get(key) or facet.get("look", {})).get("open", True) is not False
