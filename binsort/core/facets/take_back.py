"""Taking one change of a set-up back, beside whatever was changed since."""

from copy import deepcopy
from typing import Any

Document = dict[str, Any]
_KINDS = (("facet", "facets"), ("rack", "racks"))


def touched(before: Document, after: Document) -> list[tuple[str, str]]:
    """Return the kind and key of the facets and racks that differ between two documents.

    >>> touched({"facets": [{"key": "a"}], "racks": []}, {"facets": [], "racks": [{"key": "r"}]})
    [('facet', 'a'), ('rack', 'r')]
    """
    found = []
    for kind, part in _KINDS:
        old, new = ({one["key"]: one for one in document.get(part, ())} for document in (before, after))
        found += [(kind, key) for key in dict.fromkeys((*old, *new)) if old.get(key) != new.get(key)]
    return found


def without_change(document: Document, before: Document, after: Document) -> tuple[Document, list[str]]:
    """Return a document in which one change is taken back, and the labels of what was changed again since and stays as it is.

    Args:
        document: as it is now; not changed.
        before: the whole before that change.
        after: the whole after it.
    """
    changed, clashes = deepcopy(document), []
    for kind, key in touched(before, after):
        part = dict(_KINDS)[kind]
        old, new, now = (next((one for one in whole[part] if one["key"] == key), None) for whole in (before, after, changed))
        if now is not None and old is not None and new is not None:
            if not _restore(now, old, new):
                clashes.append(str(now["label"]))
        elif new is None and old is not None and now is None:
            changed[part].insert(_place(before[part], changed[part], key), deepcopy(old))
        elif old is None and now is not None and now == new:
            changed[part].remove(now)
        elif now is not None:
            clashes.append(str(now["label"]))
    _tidy(changed)
    return changed, clashes


def _restore(now: Document, old: Document, new: Document) -> bool:
    """Put the properties of a facet or rack back that a change touched, in place; False where one of them was changed again."""
    names = [name for name in {**old, **new} if old.get(name) != new.get(name)]
    lists = [name for name in names if name == "facets"]  # of a rack: others may have come and gone
    if any(now.get(name) != new.get(name) for name in names if name not in lists):
        return False
    for name in names:
        if name in lists:
            now[name] = _list_restored(now[name], old[name], new[name])
        elif name in old:
            now[name] = deepcopy(old[name])
        else:
            now.pop(name, None)
    return True


def _list_restored(now: list[str], old: list[str], new: list[str]) -> list[str]:
    """Return a rack's facets without those that came and with those that went, which stand where they stood."""
    kept = [key for key in now if key in old or key not in new]
    if set(old) == set(new):
        return [key for key in old if key in now] + [key for key in now if key not in old]
    for key in old:
        if key not in kept and key not in new:
            before = [other for other in old[: old.index(key)] if other in kept]
            kept.insert(kept.index(before[-1]) + 1 if before else 0, key)
    return kept


def _place(was: list[Document], now: list[Document], key: str) -> int:
    """Return where something stands again: behind what stood before it."""
    keys = [one["key"] for one in now]
    before = [one["key"] for one in was[: next(place for place, one in enumerate(was) if one["key"] == key)] if one["key"] in keys]
    return keys.index(before[-1]) + 1 if before else 0


def _tidy(document: Document) -> None:
    """Let racks name no facet that is not there."""
    known = {facet["key"] for facet in document["facets"]}
    for rack in document["racks"]:
        rack["facets"] = [key for key in rack["facets"] if key in known]
