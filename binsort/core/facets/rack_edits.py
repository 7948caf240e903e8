"""Edits of racks: what goes with a facet that leaves one. Each changes the set-up that it is given."""

from typing import Any

from .rule_edits import drop_rules


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
    if not any(key in one["facets"] for one in document["racks"]):
        document["facets"] = [facet for facet in document["facets"] if facet["key"] != key]
        for facet in document["facets"]:
            drop_rules(facet, key)
