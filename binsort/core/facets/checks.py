"""Combinations that a JSON Schema cannot forbid: each check returns problems, none stops the others."""

from collections.abc import Iterator
from typing import Any

from binsort.core.values.dates import day
from binsort.core.values.text import category_path, identity, normalise

from .kinds import kind_of, kinds
from .problem import Problem
from .query import RESERVED

RANGES = ("cuts", "at_least", "at_most", "ranges")


def check_facet(facet: dict[str, Any]) -> list[Problem]:
    """Check one facet whose shape is right."""
    checks = (_check_names, _check_source, _check_kinds, _check_bounds, _check_bins, _check_scope, _check_show_when)
    return [
        Problem(id, f"facet {facet['key']}", name, f"facet {facet['key']}: {name} {text}")
        for check in checks
        for id, name, text in check(facet)
    ]


_Found = Iterator[tuple[str, str, str]]


def _check_names(facet: dict[str, Any]) -> _Found:
    if facet["key"] in RESERVED:
        yield "reserved-key", "key", f"is a word that addresses use for themselves ({', '.join(sorted(RESERVED))}). Choose another."
    labels = [("label", facet["label"])]
    labels += [(f"ranges.{n}.label", item["label"]) for n, item in enumerate(facet.get("ranges", ())) if "label" in item]
    bins = facet.get("bins", {})
    labels += [(f"bins.merge.{n}.label", item["label"]) for n, item in enumerate(bins.get("merge", ()))]
    labels += [(f"bins.rename.{old}", new) for old, new in bins.get("rename", {}).items()]
    labels += [(f"source.groups.{n}.label", item["label"]) for n, item in enumerate(facet["source"].get("groups", ()))]
    for name, label in labels:
        if not normalise(label):
            yield "empty-label", name, "is empty. Give it a name that shoppers can read."


def _check_source(facet: dict[str, Any]) -> _Found:
    source, kind = facet["source"], facet["source"]["kind"]
    needs = kind == "attribute" or (kind == "number_from" and source.get("from") == "attribute")
    if needs and not normalise(source.get("attribute", "")):
        yield "source-attribute", "source.attribute", "is missing. Name the attribute whose values are meant."
    if not needs and "attribute" in source and not (kind == "number_from" and "from" not in source):
        yield "source-attribute-extra", "source.attribute", "has no meaning here. Take it out."
    if kind == "number_from" and "from" not in source:
        yield "source-from", "source.from", "is missing. Say whether the numbers are in a tag or an attribute."
    for name in ("from", "prefix", "in", "groups"):
        if name not in kind_of(kind).properties and name in source:
            owner = next(other.name for other in kinds() if name in other.properties)
            yield "source-extra", f"source.{name}", f"belongs to the kind {owner} only. Take it out."
    if "unit" not in kind_of(kind).properties and "unit" in source:
        yield "source-unit", "source.unit", "belongs to attributes and number_from only. Take it out."
    if kind_of(kind).is_in_groups:
        yield from _check_groups(source)
    if "prefix" in source and not normalise(source["prefix"]):
        yield "source-prefix", "source.prefix", "is empty. Write what stands before the number, or take it out."


def _check_groups(source: dict[str, Any]) -> _Found:
    if "in" not in source:
        yield "words-in", "source.in", "is missing. Say where the words are looked for: name, description, sku or tag."
    if "groups" not in source:
        yield "words-groups", "source.groups", "is missing. Give it one group at least: a label, and the words that belong to it."
    seen: set[str] = set()
    for place, group in enumerate(source.get("groups", ())):
        if any(not normalise(text) for text in group["texts"]):
            yield "words-empty", f"source.groups.{place}.texts", "holds an empty text. Write a word, or take it out."
        label = identity(group["label"])
        if label in seen:
            yield "words-label-twice", f"source.groups.{place}.label", f"is used twice: {group['label']!r}. Give each group its own."
        seen.add(label)


def _check_kinds(facet: dict[str, Any]) -> _Found:
    kind = facet["source"]["kind"]
    ranges = [name for name in RANGES if name in facet]
    for name in ranges[1:]:
        yield "two-ranges", name, f"stands beside {ranges[0]}. Keep one of the two."
    if ranges and "bins" in facet:
        yield "ranges-and-bins", "bins", f"stands beside {ranges[0]}. A facet has bins of values or ranges: keep one of the two."
    if kind_of(kind).is_in_groups:
        for name in facet.get("bins", {}):
            if name != "order":
                yield "words-bins", f"bins.{name}", "has no meaning for groups of words. Change the groups instead."
    if facet.get("free") and "bins" in facet:
        yield "free-and-bins", "bins", "stands beside free. Take one of the two out."
    for name in (*ranges, *(["free"] if facet.get("free") else [])):
        if not kind_of(kind).has_ranges:
            yield "kind-without-ranges", name, f"needs numbers or dates, and {kind} has none. Take it out."
    yield from _check_ends(facet)


def _check_ends(facet: dict[str, Any]) -> _Found:
    kind = facet["source"]["kind"]
    if "ends_at" in facet and not facet.get("free"):
        yield "ends-at-without-free", "ends_at", "needs free, as only a range of the shopper's own has ends. Add that, or take it out."
    if facet.get("order", "").removeprefix("-") == "tree" and not kind_of(kind).is_tree:
        yield "order-tree", "order", f"tree is an order of categories, and the source is {kind}. Choose another order."
    if facet.get("ends") == "closed" and "cuts" not in facet:
        yield "ends-without-cuts", "ends", "needs cuts. Add cuts, or take it out."
    elif facet.get("ends") == "closed" and len(facet["cuts"]) < 2:
        yield "closed-one-cut", "ends", "closed needs two cuts or more. Add a cut, or leave the ends open."


def _check_bounds(facet: dict[str, Any]) -> _Found:
    dates = kind_of(facet["source"]["kind"]).has_dates
    for name in ("cuts", "at_least", "at_most"):
        wrong = [value for value in facet.get(name, ()) if not _is_bound(value, dates)]
        if wrong:
            yield "wrong-bound", name, f"holds {wrong[0]!r}, which is no {'date (YYYY-MM-DD)' if dates else 'number'}. Write one."
            continue
        values = [_comparable(value, dates) for value in facet.get(name, ())]
        if len(set(values)) < len(values):
            yield "repeated-bound", name, "holds the same boundary twice. Keep one."
        elif name == "cuts" and values != sorted(values):
            yield "cuts-not-rising", name, "do not rise. Write them from low to high."
    for place, item in enumerate(facet.get("ranges", ())):
        yield from _check_range(f"ranges.{place}", item, dates)
    yield from _check_ends_at(facet.get("ends_at", {}), dates)


def _check_ends_at(ends: dict[str, Any], dates: bool) -> _Found:
    wrong = [value for value in ends.values() if not _is_bound(value, dates)]
    if wrong:
        yield "wrong-bound", "ends_at", f"holds {wrong[0]!r}, which is no {'date (YYYY-MM-DD)' if dates else 'number'}. Write one."
    elif len(ends) == 2 and _comparable(ends["low"], dates) > _comparable(ends["high"], dates):
        yield "ends-at-backwards", "ends_at", "has low above high. Swap them."


def _check_range(name: str, item: dict[str, Any], dates: bool) -> _Found:
    ends = [item[end] for end in ("from", "to") if end in item]
    if not ends:
        yield "range-without-ends", name, "has neither from nor to. Give it one of them at least."
    wrong = [value for value in ends if not _is_bound(value, dates)]
    if wrong:
        yield "wrong-bound", name, f"holds {wrong[0]!r}, which is no {'date (YYYY-MM-DD)' if dates else 'number'}. Write one."
    elif len(ends) == 2 and _comparable(ends[0], dates) >= _comparable(ends[1], dates):
        yield "range-backwards", name, "does not begin below its end. Swap from and to, or widen it."


def _is_bound(value: Any, dates: bool) -> bool:
    return (day(value) is not None if isinstance(value, str) else False) if dates else not isinstance(value, str)


def _comparable(value: Any, dates: bool) -> Any:
    return day(value) if dates else value


def _check_bins(facet: dict[str, Any]) -> _Found:
    if kind_of(facet["source"]["kind"]).is_tree and facet.get("bins", {}).get("merge"):
        yield "category-merge", "bins.merge", "cannot be used with categories. Take it out."


def _check_scope(facet: dict[str, Any]) -> _Found:
    if not kind_of(facet["source"]["kind"]).is_tree:
        for name in ("scope", "under", "deep"):
            if name in facet:
                yield "scope-kind", name, "belongs to categories only. Take it out."
        return
    if facet.get("scope") == "under":
        if "under" not in facet:
            yield "under-missing", "under", "is missing. Name the category below which it shows, or write listing."
        elif not category_path(facet["under"]):
            yield "under-empty", "under", "names no category. Write its path, or listing."
        return
    for name in ("under", "deep"):
        if name in facet:
            yield "under-without-scope", name, 'needs "scope": "under". Add that, or take it out.'


def _check_show_when(facet: dict[str, Any]) -> _Found:
    for mode, rules in facet.get("show_when", {}).items():
        for place, rule in enumerate(rules):
            yield from _check_rule(f"show_when.{mode}.{place}", rule)


def _check_rule(name: str, rule: dict[str, Any]) -> _Found:
    """Check one rule: on a facet, on the listing, or on days."""
    days = [rule[end] for end in ("from", "to") if end in rule]
    said = [what for what, is_said in (("facet", "facet" in rule), ("listing", "listing" in rule), ("from and to", bool(days))) if is_said]
    if len(said) != 1:
        yield "rule-shape", name, "needs exactly one of facet, listing, and from or to. Keep one."
    elif said != ["facet"] and ("picked" in rule or "bins" in rule):
        yield "rule-shape", name, f"says picked or bins beside {said[0]}; these belong to a facet. Take them out."
    elif said == ["facet"] and ("picked" in rule) == ("bins" in rule):
        yield "rule-shape", name, "needs exactly one of picked and bins. Keep one."
    elif said == ["listing"] and not category_path(rule["listing"]):
        yield "rule-listing", name, "names no category. Write its path."
    elif wrong := [value for value in days if day(value) is None]:
        yield "wrong-bound", name, f"holds {wrong[0]!r}, which is no date (YYYY-MM-DD). Write one."
    elif len(days) == 2 and _comparable(days[0], True) > _comparable(days[1], True):
        yield "rule-days-backwards", name, "ends before it begins. Swap from and to."


def check_rules(facets: list[dict[str, Any]]) -> list[Problem]:
    """Check keys and rules between facets: equal keys, unknown facets, circles."""
    problems = []
    keys: dict[str, list[str]] = {}
    for facet in facets:
        if facet["key"] in keys:
            problems.append(_named(facet["key"], "equal-keys", "key", "is used twice. Give each facet a key of its own."))
        keys.setdefault(facet["key"], []).extend(_rule_facets(facet))
    for key, targets in keys.items():
        for target in dict.fromkeys(targets):
            if target not in keys:
                problems.append(
                    _named(key, "rule-unknown-facet", "show_when", f"asks for facet {target!r}, which does not exist. Name one that does.")
                )
        circle = _circle(key, keys)
        if circle and key == min(circle):
            path = " → ".join([*circle, circle[0]])
            problems.append(_named(key, "rule-circle", "show_when", f"goes in a circle: {path}. Take one of these rules out."))
    return problems


def _rule_facets(facet: dict[str, Any]) -> list[str]:
    show_when = facet.get("show_when")
    rules = [rule for part in show_when.values() if isinstance(part, list) for rule in part] if isinstance(show_when, dict) else []
    return [rule["facet"] for rule in rules if isinstance(rule, dict) and isinstance(rule.get("facet"), str)]


def _circle(start: str, keys: dict[str, list[str]]) -> list[str]:
    """Return the shortest way from a facet back to itself through rules."""
    ways, seen = [[start]], set()
    while ways:
        way = ways.pop(0)
        for target in keys.get(way[-1], ()):
            if target == start:
                return way
            if target not in seen:
                seen.add(target)
                ways.append([*way, target])
    return []


def _named(key: str, id: str, name: str, text: str) -> Problem:
    return Problem(id, f"facet {key}", name, f"facet {key}: {name} {text}")


def check_racks(document: dict[str, Any]) -> list[Problem]:
    """Check that racks have keys of their own and name facets that exist."""
    problems, seen = [], set()
    known = {facet.get("key") for facet in document["facets"] if isinstance(facet, dict)}
    racks = document.get("racks", [])
    for rack in racks if isinstance(racks, list) else []:
        if not isinstance(rack, dict) or not isinstance(rack.get("key"), str):
            continue
        key, names = rack["key"], rack.get("facets")
        if key in seen:
            problems.append(Problem("equal-rack-keys", f"rack {key}", "key", f"rack {key}: key is used twice. Give each rack its own."))
        seen.add(key)
        if isinstance(rack.get("label"), str) and not normalise(rack["label"]):
            problems.append(Problem("empty-label", f"rack {key}", "label", f"rack {key}: label is empty. Give it a name."))
        for name in names if isinstance(names, list) else []:
            if isinstance(name, str) and name not in known:
                text = f"rack {key}: facets names {name!r}, which does not exist. Name one that does."
                problems.append(Problem("rack-unknown-facet", f"rack {key}", "facets", text))
    return problems + _check_places(racks if isinstance(racks, list) else [])


def _check_places(racks: list[Any]) -> list[Problem]:
    """Check that rules name what they are about, and that no two say something else of one place."""
    problems: list[Problem] = []
    taken: dict[tuple[str, ...], str] = {}
    for rack, rule in _place_rules(racks):
        key, listing, where = rack["key"], rule.get("listing"), rule.get("where")
        needed = str(listing) if listing in ("category", "tag", "embed") else ""
        said = {
            "category": " > ".join(map(identity, category_path(str(rule.get("category", ""))))),
            "tag": identity(str(rule.get("tag", ""))),
            "embed": normalise(str(rule.get("embed", ""))),
        }
        for name, text in said.items():
            if name == needed and not text:
                problems.append(_of_place(key, "place-unnamed", f"says no {name} for a place of a listing of that kind. Name it."))
            if name != needed and name in rule:
                problems.append(_of_place(key, "place-named", f"names {name} beside the listing {listing!r}. Take it out."))
        spot = (str(where), str(listing), said.get(needed, ""))
        if spot in taken:
            other = f"rack {taken[spot]}" if taken[spot] != key else "itself"
            words = f"{where} on the listing {said.get(needed) or listing}"
            problems.append(_of_place(key, "place-taken", f"names the place {words}, which {other} has a rule for. Keep one of them."))
        taken.setdefault(spot, key)
    return problems


def _place_rules(racks: list[Any]) -> Iterator[tuple[dict[str, Any], dict[str, Any]]]:
    for rack in racks:
        place = rack.get("place") if isinstance(rack, dict) and isinstance(rack.get("key"), str) else None
        rules = place.get("shows") if isinstance(place, dict) else None
        for rule in rules if isinstance(rules, list) else []:
            if isinstance(rule, dict):
                yield rack, rule


def _of_place(key: str, id: str, text: str) -> Problem:
    return Problem(id, f"rack {key}", "place", f"rack {key}: place {text}")
