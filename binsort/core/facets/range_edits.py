"""Editing ranges: what a facet's document becomes when its cuts, its ranges or the way they are made change; what can be kept is kept."""

from collections.abc import Sequence
from copy import deepcopy
from itertools import pairwise
from typing import Any

from binsort.core.values.numbers import Number

from .kinds import kind_of
from .spec import bound, facet_spec, written_bound

Document = dict[str, Any]
CUTS, BY_HAND, AT_LEAST, AT_MOST, VALUES, FREE = "cuts", "ranges", "at_least", "at_most", "values", "free"
SHAPES = (CUTS, BY_HAND, AT_LEAST, AT_MOST, VALUES, FREE)
_RANGES = (CUTS, BY_HAND, AT_LEAST, AT_MOST)


def shape_of(document: Document) -> str:
    """Return how a facet's bins are made: one of :data:`SHAPES`.

    >>> shape_of({"cuts": [5], "free": True}), shape_of({"free": True}), shape_of({})
    ('cuts', 'free', 'values')
    """
    return next((shape for shape in _RANGES if shape in document), FREE if document.get("free") else VALUES)


def bounds_of(document: Document) -> list[Number]:
    """Return every boundary that a facet's ranges have, rising."""
    kind = document["source"]["kind"]
    ends = [*document.get(CUTS, ()), *document.get(AT_LEAST, ()), *document.get(AT_MOST, ())]
    ends += [item[end] for item in document.get(BY_HAND, ()) for end in ("from", "to") if end in item]
    return sorted({bound(end, kind) for end in ends})


def written_bounds(document: Document, bounds: Sequence[Number]) -> list[Any]:
    """Write boundaries as a facet's document has them: numbers, or dates."""
    kind = document["source"]["kind"]
    return [written_bound(number, kind) if kind_of(kind).has_dates else number for number in bounds]


def with_bounds(document: Document, bounds: Sequence[Number]) -> Document:
    """Return a facet's document with other cuts, or other ends of what is at least or at most; without any it has no ranges.

    Labels by hand stay with their ranges, also where one cut has moved.
    """
    shape = shape_of(document)
    name = shape if shape in (CUTS, AT_LEAST, AT_MOST) else CUTS
    changed = {**_without_ranges(document), name: written_bounds(document, sorted(set(bounds)))}
    if document.get("ends") == "closed" and len(bounds) > 1 and name == CUTS:
        changed["ends"] = "closed"
    if not bounds:
        del changed[name]
    return _with_labels(document, changed)


def without_free(document: Document) -> Document:
    """Return a facet's document without a range of the shopper's own, and without the ends of that.

    >>> without_free({"key": "a", "free": True, "ends_at": {"low": 0}, "cuts": [5]})
    {'key': 'a', 'cuts': [5]}
    """
    return {name: value for name, value in document.items() if name not in ("free", "ends_at")}


def reshaped(document: Document, shape: str, suggested: Sequence[Number] = ()) -> Document:
    """Return a facet's document with its bins made another way; boundaries are kept, where there are none the suggested ones are taken.

    Args:
        document: of a facet whose source has numbers or dates.
        shape: one of :data:`SHAPES`.
        suggested: boundaries for a facet that has none.
    """
    bounds = written_bounds(document, bounds_of(document) or sorted(suggested))
    changed = _without_ranges(document)
    if shape == VALUES:
        return _without_labels(without_free(changed))
    changed.pop("bins", None)
    if shape == FREE:
        return _without_labels({**changed, "free": True})
    if not bounds:
        return changed
    if shape != BY_HAND:
        return _with_labels(document, {**changed, shape: bounds})
    edges: list[Any] = [None, *bounds, None]
    labels = document.get("look", {}).get("labels", {}) if shape_of(document) == CUTS else {}
    keys = [item.key for item in facet_spec({**document, CUTS: bounds}).ranges] if labels else []
    ranges = []
    for place, (low, high) in enumerate(pairwise(edges)):
        ends = {name: end for name, end in (("from", low), ("to", high)) if end is not None}
        label = labels.get(keys[place]) if place < len(keys) else None
        ranges.append(ends | ({"label": label} if label else {}))
    return _without_labels({**changed, BY_HAND: ranges})


def with_ends(document: Document, *, closed: bool) -> Document:
    """Let the lowest and the highest bin stay open, or end at the first and the last cut."""
    changed = {name: value for name, value in document.items() if name != "ends"}
    return _with_labels(document, {**changed, "ends": "closed"} if closed else changed)


def labelled(document: Document, key: str, label: str) -> Document:
    """Give a range a label by hand; an empty one lets it be said by its ends again.

    Args:
        document: of a facet.
        key: of the range's bin.
        label: what shoppers read.
    """
    changed = deepcopy(document)
    look = changed.setdefault("look", {})
    labels = {name: text for name, text in look.get("labels", {}).items() if name != key} | ({key: label} if label else {})
    look["labels"] = labels
    return _tidy_look(changed)


def _without_ranges(document: Document) -> Document:
    return {name: value for name, value in document.items() if name not in (*_RANGES, "ends")}


def _without_labels(document: Document) -> Document:
    look = {name: value for name, value in document.get("look", {}).items() if name != "labels"}
    return _tidy_look({**document, "look": look})


def _with_labels(before: Document, changed: Document) -> Document:
    """Carry labels by hand over to ranges that are the same, or stand in the same place where one cut has moved."""
    labels = before.get("look", {}).get("labels")
    if not labels:
        return changed
    old, new = (tuple(item.key for item in facet_spec(document).ranges) for document in (before, changed))
    kept = {key: label for key, label in labels.items() if key in new}
    if len(old) == len(new):
        kept = {after: labels[key] for key, after in zip(old, new, strict=True) if key in labels}
    return _tidy_look({**changed, "look": {**changed.get("look", {}), "labels": kept}})


def _tidy_look(document: Document) -> Document:
    look = document.get("look")
    if look is not None and not look.get("labels", True):
        del look["labels"]
    if look == {}:
        del document["look"]
    return document
