"""Edits of rules: what a facet waits for before it is shown, and the circles that are refused."""

from collections.abc import Callable, Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

PICKED, NONE, BINS = "picked", "none", "bins"  # of a facet: it has a pick, has none, particular bins
LISTING, DAYS = "listing", "days"  # of no facet: the category that is listed, the day
HOWS = (PICKED, NONE, BINS)


@dataclass(frozen=True, slots=True)
class Line:
    """One line of a rule: what of another facet is waited for, on which listing, or on which days."""

    facet: str = ""  # empty for listings and days
    how: str = PICKED
    bins: tuple[str, ...] = ()  # keys
    listing: str = ""  # the path of a category
    days: tuple[str, str] = ("", "")  # the first and the last one, empty for open


def lines_of(facet: Mapping[str, Any]) -> tuple[Line, ...]:
    """Return the lines of a facet's rule.

    >>> lines = lines_of({"show_when": {"any": [{"facet": "use", "bins": ["deck"]}, {"listing": "Paint"}, {"from": "2026-12-01"}]}})
    >>> [(line.how, line.facet, line.bins, line.listing, line.days[0]) for line in lines]
    [('bins', 'use', ('deck',), '', ''), ('listing', '', (), 'Paint', ''), ('days', '', (), '', '2026-12-01')]
    """
    return tuple(_line(rule) for rules in facet.get("show_when", {}).values() for rule in rules)


def _line(rule: Mapping[str, Any]) -> Line:
    if "listing" in rule:
        return Line(how=LISTING, listing=rule["listing"])
    if "facet" not in rule:
        return Line(how=DAYS, days=(rule.get("from", ""), rule.get("to", "")))
    if "bins" in rule:
        return Line(rule["facet"], BINS, tuple(rule["bins"]))
    return Line(rule["facet"], PICKED if rule["picked"] else NONE)


def needs_every(facet: Mapping[str, Any]) -> bool:
    """Tell whether all lines must hold, rather than any."""
    return "all" in facet.get("show_when", {})


def with_lines(facet: Mapping[str, Any], lines: Sequence[Line], *, every: bool) -> dict[str, Any]:
    """Return a facet that waits for these lines; equal ones stay once, those of particular bins without any wait for any pick.

    Lines that say neither a listing nor a day yet are left out.
    """
    rules = [rule for line in dict.fromkeys(lines) if (rule := rule_document(line))]
    kept = {name: deepcopy(value) for name, value in facet.items() if name != "show_when"}
    return {**kept, "show_when": {"all" if every else "any": rules}} if rules else kept


def drop_rules(facet: dict[str, Any], key: str) -> None:
    """Take the rules that ask for another facet out of a facet, in place.

    >>> facet = {"key": "length", "show_when": {"all": [{"facet": "type", "picked": True}]}}
    >>> drop_rules(facet, "type")
    >>> facet
    {'key': 'length'}
    """
    kept = {mode: [rule for rule in rules if rule.get("facet") != key] for mode, rules in facet.pop("show_when", {}).items()}
    if left := {mode: rules for mode, rules in kept.items() if rules}:
        facet["show_when"] = left


def rename_facet(facet: dict[str, Any], names: Mapping[str, str]) -> None:
    """Let the rules of a facet ask for others by their new keys, in place.

    >>> facet = {"show_when": {"any": [{"facet": "a", "picked": True}, {"listing": "Paint"}]}}
    >>> rename_facet(facet, {"a": "b"})
    >>> facet["show_when"]["any"][0]["facet"]
    'b'
    """
    for rules in facet.get("show_when", {}).values():
        for rule in rules:
            if "facet" in rule:
                rule["facet"] = names.get(rule["facet"], rule["facet"])


def move_categories(document: Mapping[str, Any], moved: Callable[[str], str], keys: Mapping[str, str]) -> None:
    """Let the rules of a set-up name categories by their new paths, in place.

    Args:
        document: the set-up.
        moved: gives the new path of a category for the one it had.
        keys: of the bins of those that moved: the new key for each old one.
    """
    trees = {facet["key"] for facet in document["facets"] if facet["source"]["kind"] == "category"}
    for rule in (rule for facet in document["facets"] for rules in facet.get("show_when", {}).values() for rule in rules):
        if "listing" in rule:
            rule["listing"] = moved(rule["listing"])
        elif rule.get("facet") in trees and "bins" in rule:
            rule["bins"] = [keys.get(key, key) for key in rule["bins"]]


def rule_document(line: Line) -> dict[str, Any]:
    """Return a line as a facet file has it; empty for one that says neither a listing nor a day yet."""
    if line.how == LISTING:
        return {"listing": line.listing} if line.listing else {}
    if line.how == DAYS:
        return {name: day for name, day in zip(("from", "to"), line.days, strict=True) if day}
    if line.how == BINS and line.bins:
        return {"facet": line.facet, "bins": list(line.bins)}
    return {"facet": line.facet, "picked": line.how != NONE}


def circle_with(facets: Sequence[Mapping[str, Any]], key: str, lines: Sequence[Line]) -> list[str]:
    """Return the circle that a facet would be in with these lines, as the keys that wait for each other in turn; empty for none.

    >>> diameter = {"key": "diameter", "show_when": {"all": [{"facet": "colour", "picked": True}]}}
    >>> circle_with([{"key": "colour"}, diameter], "colour", [Line("diameter")])
    ['colour', 'diameter']
    """
    waits = {facet["key"]: [line.facet for line in lines_of(facet) if line.facet] for facet in facets}
    waits[key] = [line.facet for line in lines if line.facet]
    ways, seen = [[key]], set()
    while ways:
        way = ways.pop(0)
        for target in waits.get(way[-1], ()):
            if target == key:
                return way
            if target not in seen:
                seen.add(target)
                ways.append([*way, target])
    return []


def untied(facet: Mapping[str, Any], other: str) -> dict[str, Any]:
    """Return a facet that no longer waits for another one."""
    return with_lines(facet, [line for line in lines_of(facet) if line.facet != other], every=needs_every(facet))


def below_it(facet: Mapping[str, Any], key: str, label: str, tops: Sequence[str]) -> dict[str, Any]:
    """Return a facet of the categories below those at the top, shown once a facet of categories has a pick.

    Bins without products under the picks are hidden, so that of all of them those below the pick are left.

    Args:
        facet: the facet of categories that it waits for.
        key: of the new one.
        label: of the new one.
        tops: the categories at the top.
    """
    look = {name: value for name, value in facet.get("look", {}).items() if name != "levels"}
    return {
        "key": key,
        "label": label,
        "source": {"kind": "category"},
        "bins": {"leave_out": list(tops)},
        "show_when": {"all": [{"facet": facet["key"], "picked": True}]},
        **({"look": look} if look else {}),
    }
