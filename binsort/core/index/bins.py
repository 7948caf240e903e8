"""Bins: cutting a column into the choices of a facet, with their keys, labels and order."""

from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from typing import TypeAlias

from pyroaring import BitMap

from binsort.core.facets.kinds import kind_of
from binsort.core.facets.spec import FacetSpec, Range, written_bound
from binsort.core.values.numbers import Number
from binsort.core.values.text import NaturalKey, identity, natural_key, slug

from .bitmaps import bitmap, union
from .columns import Change, Column, Owned, Value


@dataclass(frozen=True, slots=True)
class Bin:
    """One choice of a facet with its members, products or variants by the level of the facet."""

    key: str
    label: str
    members: BitMap
    values: tuple[str, ...] = ()  # identities of the values in it
    least: Number | None = None
    range: Range | None = None
    nodes: tuple[str, ...] = ()  # of a category: the identities of its segments
    place: int = 0  # among the ranges of the file


@dataclass(slots=True)
class _Group:
    """Values whose labels are one value: a bin in the making."""

    codes: list[int] = field(default_factory=list)
    merges: list[int] = field(default_factory=list)
    renames: list[tuple[int, str, Value]] = field(default_factory=list)  # place, new label, value
    own: list[Value] = field(default_factory=list)


_Draft: TypeAlias = tuple[tuple[str, bool, str], str, str, Bin]  # order in which keys are given out, plain key, label, bin without its key


Known: TypeAlias = Mapping[tuple[str, ...], BitMap]  # members by the values that are in a bin


def cut_into_bins(spec: FacetSpec, column: Column, known: Known | None = None) -> list[Bin]:
    """Return every bin of a facet, scope disregarded, in the order their keys are given out.

    Args:
        spec: the facet.
        column: the values of its source.
        known: members that need not be collected again.
    """
    if spec.ranges:
        return _range_bins(spec.ranges, column)
    if spec.free:
        return []
    if spec.source.groups:
        return _word_bins(spec, column)
    drafts = [_draft(spec, column, group, known or {}) for group in _groups(spec, column)]
    drafts.sort(key=lambda draft: draft[0])
    keys = _free_keys(plain_key for _, plain_key, _, _ in drafts)
    return [
        Bin(key, label, bin.members, bin.values, bin.least, None, bin.nodes) for key, (_, _, label, bin) in zip(keys, drafts, strict=True)
    ]


def _range_bins(ranges: Sequence[Range], column: Column) -> list[Bin]:
    keys = _free_keys(item.key for item in ranges)
    bins = []
    for place, (key, item) in enumerate(zip(keys, ranges, strict=True)):
        start, stop = column.ranks(item.low, item.high, inclusive=item.high_inclusive)
        bins.append(Bin(key, item.label or key, column.slice(start, stop), range=item, place=place))
    return bins


def _word_bins(spec: FacetSpec, column: Column) -> list[Bin]:
    """Return a bin for each group of words, also for those that nothing is in."""
    members = {value.identity: column.members(code) for code, value in enumerate(column.values)}
    places = {identity(group.label): place for place, group in enumerate(spec.source.groups)}
    names = sorted(places)
    labels = [spec.source.groups[places[name]].label for name in names]
    keys = _free_keys(map(slug, labels))
    return [
        Bin(key, label, members.get(name, BitMap()), (name,), place=places[name])
        for key, label, name in zip(keys, labels, names, strict=True)
    ]


def _free_keys(plain_keys: Iterable[str]) -> list[str]:
    """Give each its plain key if free, else the first free of ``-2``, ``-3``…"""
    given: dict[str, None] = {}
    last: dict[str, int] = {}
    for plain_key in plain_keys:
        key, number = plain_key, last.get(plain_key, 1)
        while key in given:
            number += 1
            key = f"{plain_key}-{number}"
        last[plain_key] = number
        given[key] = None
    return list(given)


def _groups(spec: FacetSpec, column: Column) -> list[_Group]:
    """Sort the values that are left into groups: by the first merge that names them, their rename, or their own label."""
    merged = {value: place for place, merge in reversed(list(enumerate(spec.bins.merges))) for value in merge.values}
    renamed: dict[str, tuple[int, str]] = {}
    for place, (old, new) in enumerate(spec.bins.renames):
        renamed.setdefault(old, (place, new))
    groups: dict[str, _Group] = {}
    for code, value in enumerate(column.values):
        key = value.identity
        if key in spec.bins.leave_out or (spec.bins.only and key not in spec.bins.only):
            continue
        if key in merged:
            place = merged[key]
            group = groups.setdefault(identity(spec.bins.merges[place].label), _Group())
            group.merges.append(place)
        elif key in renamed:
            place, new = renamed[key]
            group = groups.setdefault(_group_key(value, new), _Group())
            group.renames.append((place, new, value))
        else:
            group = groups.setdefault(_group_key(value, value.label), _Group())
            group.own.append(value)
        group.codes.append(code)
    return list(groups.values())


def _group_key(value: Value, label: str) -> str:
    """Return what labels that share a bin have in common; two categories never share one."""
    return " > ".join(value.nodes) if value.nodes else identity(label)


def _draft(spec: FacetSpec, column: Column, group: _Group, known: Known) -> _Draft:
    values = [column.values[code] for code in group.codes]
    names = dict.fromkeys(value.identity for value in values)
    listed = [value.number for value in values if value.number is not None]
    keyless = Bin(
        key="",
        label="",
        members=known.get(tuple(names)) or union(column.members(code) for code in group.codes),
        values=tuple(names),
        least=min(listed, default=None),
        nodes=values[0].nodes,
    )
    text = _key_text(spec, group, values[0] if len(names) == 1 else None)
    number = len(names) == 1 and bool(listed) and not group.merges
    if number:
        text = written_bound(listed[0], spec.source.kind)
    order, label = " > ".join(values[0].nodes) if values[0].nodes else identity(text), _label(spec, group)
    return (order, not group.merges, identity(label)), text if number else slug(text), label, keyless


def _key_text(spec: FacetSpec, group: _Group, only: Value | None) -> str:
    """Return the text that a bin's key is made of."""
    if only is not None and only.path:
        return " > ".join(only.path)
    if group.merges:
        return spec.bins.merges[min(group.merges)].label
    if group.own:
        return group.own[0].label
    return min((value for _, _, value in group.renames), key=lambda value: value.identity).label


def _label(spec: FacetSpec, group: _Group) -> str:
    if group.merges:
        return spec.bins.merges[min(group.merges)].label
    if group.renames:
        return min(group.renames, key=lambda rename: rename[0])[1]
    return group.own[0].label


def later_bins(spec: FacetSpec, before: tuple[list[Bin], Column], column: Column, change: Change) -> list[Bin]:
    """Return the bins of a facet after its column changed, which costs as much as has changed.

    Args:
        spec: the facet.
        before: its bins, and the column they were cut from.
        column: the column as it is now.
        change: what the one has lost and gained to become the other.
    """
    bins, old_column = before
    moving = union(bitmap(owners) for _, owners in (*change.removed, *change.added))
    if spec.ranges:
        return [_later_range(bin, column, change.now, moving) for bin in bins]
    if spec.free:
        return bins
    if column.values is not old_column.values:  # a value came or went
        touched = {value.identity for value, _ in (*change.removed, *change.added)}
        return cut_into_bins(spec, column, {bin.values: bin.members for bin in bins if touched.isdisjoint(bin.values)})
    coming: dict[str, list[BitMap]] = {}
    for value, owners in change.now:
        coming.setdefault(value.identity, []).append(bitmap(owners))
    leaving = {value.identity for value, _ in change.removed}
    return [_later_values(bin, coming, leaving, moving) for bin in bins]


def _later_values(bin: Bin, coming: Mapping[str, list[BitMap]], leaving: Set[str], moving: BitMap) -> Bin:
    if all(name not in coming and name not in leaving for name in bin.values):
        return bin
    return _with_members(bin, (bin.members - moving) | union(part for name in bin.values for part in coming.get(name, ())))


def _later_range(bin: Bin, column: Column, now: Owned, moving: BitMap) -> Bin:
    start, stop = column.ranks(bin.range.low, bin.range.high, inclusive=bin.range.high_inclusive)  # type: ignore[union-attr]
    coming = [bitmap(owners) for value, owners in now if value.number is not None and start <= column.find(value)[0] < stop]
    return _with_members(bin, (bin.members - moving) | union(coming))


def _with_members(bin: Bin, members: BitMap) -> Bin:
    return bin if members == bin.members else replace(bin, members=members)


# -- order


TREE = "tree"  # the order of categories in the tree of the catalogue


def in_order(spec: FacetSpec, bins: Sequence[Bin], counts: Sequence[int], tree: Mapping[tuple[str, ...], int] | None = None) -> list[int]:
    """Return the places of ``bins`` in the order in which shoppers see them.

    Args:
        spec: the facet.
        bins: its bins in scope.
        counts: the listing's count of each with no picks.
        tree: the place of each category in the tree of the catalogue, needed for the order of that.
    """
    backwards = spec.order.startswith("-")
    name = spec.order.removeprefix("-") or usual_order(spec, bins)
    firsts = [counts[n] if name != TREE else (tree or {}).get(bins[n].nodes, len(tree or ())) for n in range(len(bins))]
    places = sorted(range(len(bins)), key=lambda n: _order_key(spec, name, bins[n], firsts[n]), reverse=backwards)
    return _depth_first(bins, places) if kind_of(spec.source.kind).is_tree else places


def usual_order(spec: FacetSpec, bins: Sequence[Bin]) -> str:
    """Return the order in which bins stand where a facet names none: ``listed``, ``value`` or ``label``."""
    if spec.bins.order or spec.source.groups:
        return "listed"
    if spec.ranges or (bins and all(bin.least is not None for bin in bins)):
        return "value"
    return "label"


_Ordered: TypeAlias = tuple[tuple[bool | Number, ...], NaturalKey | tuple[()], str]


def _order_key(spec: FacetSpec, name: str, bin: Bin, count: int) -> _Ordered:
    by_ends = name == "value" and bin.range is not None  # ranges with equal ends stand in the order of their keys
    return _first_key(spec, name, bin, count), () if by_ends else natural_key(bin.label), bin.key


def _first_key(spec: FacetSpec, name: str, bin: Bin, count: int) -> tuple[bool | Number, ...]:
    if name == "count":
        return (-count,)
    if name == TREE:
        return (count,)
    if name == "value" and bin.range is not None:
        low, high = bin.range.low, bin.range.high
        return (low is not None, low or 0, high is None, high or 0)
    if name == "value":
        return (bin.least is None, bin.least or 0)
    if name == "listed" and (bin.range is not None or (spec.source.groups and not spec.bins.order)):
        return (bin.place,)
    if name == "listed":
        label = identity(bin.label)
        return (spec.bins.order.index(label) if label in spec.bins.order else len(spec.bins.order),)
    return ()


def _depth_first(bins: Sequence[Bin], places: list[int]) -> list[int]:
    """Put each category before its descendants; one whose parent has no bin stands below the nearest ancestor that has."""
    known = {bin.nodes for bin in bins}
    children: dict[tuple[str, ...], list[int]] = {}
    for place in places:
        nodes = bins[place].nodes
        above = next((nodes[:depth] for depth in range(len(nodes) - 1, 0, -1) if nodes[:depth] in known), ())
        children.setdefault(above, []).append(place)
    ordered: list[int] = []
    waiting = list(reversed(children.get((), [])))
    while waiting:
        place = waiting.pop()
        ordered.append(place)
        waiting += reversed(children.get(bins[place].nodes, []))
    return ordered
