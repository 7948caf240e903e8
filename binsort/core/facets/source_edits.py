"""Another source for a facet: what can be kept is kept, what cannot is said."""

from collections.abc import Collection
from typing import Any

from .kinds import kind_of
from .spec import value_identity

Document = dict[str, Any]
_RANGES = ("cuts", "ranges", "at_least", "at_most")


def resourced(document: Document, source: Document, known: Collection[str]) -> tuple[Document, list[str]]:
    """Return a facet's document made of another source, and in words what of it has no meaning there.

    Args:
        document: of the facet.
        source: the other source, as a facet file has it.
        known: the identities of the values that source has.

    >>> facet = {"key": "f", "label": "F", "source": {"kind": "price"}, "cuts": [5, 10], "match": "any"}
    >>> resourced(facet, {"kind": "brand"}, [])
    ({'key': 'f', 'label': 'F', 'source': {'kind': 'brand'}, 'match': 'any'}, ['2 cuts'])
    """
    before, after = kind_of(document["source"]["kind"]), kind_of(source["kind"])
    changed = {**document, "source": source}
    lost: list[str] = []
    if not after.has_ranges or before.has_dates != after.has_dates:
        lost += [_many(len(changed.pop(name)), "cut" if name == "cuts" else "range") for name in _RANGES if name in changed]
        changed.pop("ends", None)
        lost += ["the ends of the range"] if changed.pop("ends_at", None) else []
        if not after.has_ranges and changed.pop("free", False):
            lost.append("the free range")
    if "bins" in changed:
        bins, gone = _bins_kept(changed["bins"], source["kind"], set(known))
        if after.is_in_groups or after.is_tree != before.is_tree:
            bins, gone = {}, gone or ["changes to bins"]
        lost += gone
        changed = {name: value for name, value in changed.items() if name != "bins"} | ({"bins": bins} if bins else {})
    if not after.is_tree:
        lost += ["which categories show"] if any(changed.pop(name, None) is not None for name in ("scope", "under", "deep")) else []
    if not after.is_tree and str(changed.get("order", "")).endswith("tree"):
        del changed["order"]
    if not after.has_ranges and str(changed.get("order", "")).endswith("value"):
        del changed["order"]
    return changed, lost


def _bins_kept(bins: Document, kind: str, known: set[str]) -> tuple[Document, list[str]]:
    """Return the changes of bins that name values which the source has, and in words what names others."""

    def there(value: Any) -> bool:
        return value_identity(value, kind) in known

    kept: Document = {}
    lost = []
    merges = [{**merge, "values": [value for value in merge["values"] if there(value)]} for merge in bins.get("merge", ())]
    kept["merge"] = [merge for merge in merges if merge["values"]]
    kept["rename"] = {old: new for old, new in bins.get("rename", {}).items() if there(old)}
    for name in ("only", "leave_out"):
        kept[name] = [value for value in bins.get(name, ()) if there(value)]
    kept["order"] = bins.get("order", [])
    for name, word in (("merge", "merge"), ("rename", "new name"), ("only", "kept value"), ("leave_out", "left-out value")):
        gone = len(bins.get(name, ())) - len(kept[name])
        lost += [_many(gone, word)] if gone else []
    if lost and not any(kept[name] for name in ("merge", "rename", "only", "leave_out")):
        kept["order"] = []
    return {name: value for name, value in kept.items() if value}, lost


def _many(count: int, word: str) -> str:
    return f"{count} {word}{'' if count == 1 else 's'}"
