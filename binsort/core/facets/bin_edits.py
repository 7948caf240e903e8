"""Editing bins: what a facet's document becomes when values are merged, parted, left out, kept alone or bins get other names.

Each function takes a document, never alters it, and returns another. Values are named by their label, categories by their
path; what a document says of values that the catalogue does not hold today stays.
"""

from collections.abc import Collection, Iterable, Sequence
from copy import deepcopy
from typing import Any

from binsort.core.values.text import identity, normalise

from .kinds import kind_of
from .spec import value_identity

Document = dict[str, Any]


def merged(document: Document, values: Sequence[str], into: str, held: Sequence[str]) -> Document:
    """Put values into a bin.

    Args:
        document: of a facet.
        values: names of values.
        into: the label of the bin.
        held: the names of the values that are in it.
    """
    changed, bins = _copied(document)
    _take(changed, [*values, *held])
    _let_in(changed, values)
    merge = next((merge for merge in bins.get("merge", ()) if identity(merge["label"]) == identity(into)), None)
    if merge is None:
        merge = {"label": into, "values": []}
        bins.setdefault("merge", []).append(merge)
    merge["label"] = into
    merge["values"] = _each_once(changed, [*merge["values"], *held, *values])
    return _tidy(changed)


def parted(document: Document, values: Sequence[str]) -> Document:
    """Give each of some values a bin of its own, under its own label; a bin that had that label keeps the others under another."""
    changed, bins = _copied(document)
    _take(changed, values)
    _let_in(changed, values)
    for value in values:
        for merge in bins.get("merge", ()):
            if identity(merge["label"]) == identity(value) and merge["values"]:
                _relabel(changed, merge["label"], str(merge["values"][0]))
                merge["label"] = str(merge["values"][0])
        if "rename" in bins:
            bins["rename"] = {old: new for old, new in bins["rename"].items() if identity(new) != identity(value)}
    return _tidy(changed)


def left_out(document: Document, values: Sequence[str]) -> Document:
    """Leave values out: they are in no bin."""
    changed, bins = _copied(document)
    bins["leave_out"] = _each_once(changed, [*bins.get("leave_out", ()), *values])
    return _tidy(changed)


def put_back(document: Document, values: Sequence[str]) -> Document:
    """Let values that were left out, or that nobody looked at yet, be where they would be without that."""
    changed, _ = _copied(document)
    _let_in(changed, values)
    return _tidy(changed)


def kept_alone(document: Document, values: Sequence[str], everything: Sequence[str]) -> Document:
    """Keep only some values; the others, and those that come later, are in no bin."""
    changed, bins = _copied(document)
    wanted = _identities(changed, values)
    bins["only"] = _each_once(changed, values)
    bins["leave_out"] = [value for value in everything if _identity(changed, value) not in wanted]
    return _tidy(changed)


def new_values_wait(document: Document, everything: Sequence[str], *, wait: bool) -> Document:
    """Let values that come later be in no bin until somebody looks at them, or let each have a bin of its own."""
    changed, bins = _copied(document)
    bins.pop("only", None)
    if wait:
        bins["only"] = list(everything)
    return _tidy(changed)


def waits(document: Document) -> bool:
    """Tell whether values that come later are in no bin until somebody looks at them."""
    return bool(document.get("bins", {}).get("only"))


def not_looked_at(document: Document, everything: Iterable[str]) -> list[str]:
    """Return the values that came later and that nobody looked at yet."""
    bins = document.get("bins", {})
    if not bins.get("only"):
        return []
    known = _identities(document, [*bins["only"], *bins.get("leave_out", ())])
    return [value for value in everything if _identity(document, value) not in known]


def renamed(document: Document, label: str, new: str, held: Sequence[str]) -> Document:
    """Give a bin another label; one that is that of its only value again needs no rename.

    Args:
        document: of a facet.
        label: of the bin.
        new: its label from now on.
        held: the names of the values in it.
    """
    changed, bins = _copied(document)
    new = normalise(new)
    merge = next((merge for merge in bins.get("merge", ()) if identity(merge["label"]) == identity(label)), None)
    if merge is not None:
        merge["label"] = new
        merge["values"] = _each_once(changed, [*merge["values"], *held])  # one of its own label may stand beside it
    elif "groups" in changed["source"]:
        for group in changed["source"]["groups"]:
            group["label"] = new if identity(group["label"]) == identity(label) else group["label"]
    else:
        names = _identities(changed, held)
        kept = {old: name for old, name in bins.get("rename", {}).items() if _identity(changed, old) not in names}
        own = {value: value.rpartition(" > ")[2] if kind_of(changed["source"]["kind"]).is_tree else value for value in held}
        bins["rename"] = kept | {value: new for value in held if own[value] != new}
    _relabel(changed, label, new)
    return _tidy(changed)


def _copied(document: Document) -> tuple[Document, Document]:
    changed = deepcopy(document)
    return changed, changed.setdefault("bins", {})


def _identity(document: Document, value: Any) -> str:
    return value_identity(value, document["source"]["kind"])


def _identities(document: Document, values: Iterable[Any]) -> set[str]:
    return {_identity(document, value) for value in values}


def _each_once(document: Document, values: Iterable[Any]) -> list[Any]:
    return list({_identity(document, value): value for value in values}.values())


def _without(document: Document, values: Collection[Any], gone: set[str]) -> list[Any]:
    return [value for value in values if _identity(document, value) not in gone]


def _take(document: Document, values: Sequence[str]) -> None:
    """Take values out of every merge and rename."""
    bins, gone = document["bins"], _identities(document, values)
    for merge in bins.get("merge", ()):
        merge["values"] = _without(document, merge["values"], gone)
    if "rename" in bins:
        bins["rename"] = {old: new for old, new in bins["rename"].items() if _identity(document, old) not in gone}


def _let_in(document: Document, values: Sequence[str]) -> None:
    bins = document["bins"]
    if "leave_out" in bins:
        bins["leave_out"] = _without(document, bins["leave_out"], _identities(document, values))
    if bins.get("only"):
        bins["only"] = _each_once(document, [*bins["only"], *values])


def _relabel(document: Document, old: str, new: str) -> None:
    """Let what goes by the label of a bin go by another: its place by hand, its swatch."""
    bins, look = document["bins"], document.get("look", {})
    if "order" in bins:
        bins["order"] = list(dict.fromkeys(new if identity(label) == identity(old) else label for label in bins["order"]))
    if isinstance(look.get("swatches"), dict):
        look["swatches"] = {new if identity(label) == identity(old) else label: given for label, given in look["swatches"].items()}


def _tidy(document: Document) -> Document:
    """Drop what says nothing: empty lists, merges of no value."""
    bins = document["bins"]
    if "merge" in bins:
        bins["merge"] = [merge for merge in bins["merge"] if merge["values"]]  # one of one value may say how it is spelt
    for name in ("merge", "rename", "leave_out", "only", "order"):
        if name in bins and not bins[name]:
            del bins[name]
    if not bins:
        del document["bins"]
    return document
