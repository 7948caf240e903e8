"""Differences: what became of a facet, in words, as undo and the history name it."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.values.numbers import Number, written

from .controls import control_of

Document = dict[str, Any]
_RANGES = ("cuts", "ranges", "at_least", "at_most", "ends")


def plain_bound(value: Number | str) -> str:
    """Write a bound as it stands in a facet file."""
    return value if isinstance(value, str) else written(value)


def said_of(before: Document, after: Document, number: Callable[[Any], str] = plain_bound) -> str:
    """Return how a facet's documents differ, in words.

    Args:
        before: what it was.
        after: what it is.
        number: writes a cut.
    """
    return "; ".join(_said(before, after, number)) or _("changed")


def _said(before: Document, after: Document, number: Callable[[Any], str]) -> Iterator[str]:
    if before["label"] != after["label"]:
        yield _("called %(label)s") % {"label": after["label"]}
    if before["key"] != after["key"]:
        yield _("key %(key)s") % {"key": after["key"]}
    if before["source"] != after["source"]:
        yield _("made of another source") if before["source"]["kind"] != after["source"]["kind"] else _("source changed")
    if before.get("cuts") != after.get("cuts") and after.get("cuts"):
        yield cuts_said(before.get("cuts", ()), after["cuts"], number)
    elif any(before.get(name) != after.get(name) for name in _RANGES):
        yield _("ranges changed") if any(name in after for name in _RANGES) else _("ranges taken away")
    if before.get("bins") != after.get("bins"):
        yield _bins_said(before.get("bins", {}), after.get("bins", {}))
    if before.get("match", "any") != after.get("match", "any"):
        yield _("any of became all of") if after.get("match") == "all" else _("all of became any of")
    for name, words in _SETTINGS.items():
        if before.get(name) != after.get(name):
            yield words()
    yield from _of_look(before.get("look", {}), after.get("look", {}))


def _bins_said(before: Document, after: Document) -> str:
    """Say what became of bins of values.

    >>> _bins_said({}, {"merge": [{"label": "Navy", "values": ["navy blue", "Marine"]}], "leave_out": ["Default"]})
    'navy blue, Marine went into Navy; Default left out'
    """
    parts = []
    was = {merge["label"]: merge["values"] for merge in before.get("merge", ())}
    for merge in after.get("merge", ()):
        new = [_value(value) for value in merge["values"] if value not in was.get(merge["label"], ())]
        new = [value for value in new if value != merge["label"]]
        if new:
            parts.append(_("%(values)s went into %(label)s") % {"values": _named(new), "label": merge["label"]})
    gone = [label for label in was if label not in {merge["label"] for merge in after.get("merge", ())}]
    if gone:
        parts.append(_("%(labels)s parted") % {"labels": _named(gone)})
    for old, new_name in after.get("rename", {}).items():
        if before.get("rename", {}).get(old) != new_name:
            parts.append(_("%(old)s called %(new)s") % {"old": old, "new": new_name})
    for name, words, gone_words in (
        ("leave_out", _("%(values)s left out"), _("%(values)s no longer left out")),
        ("only", _("%(values)s let in"), _("%(values)s no longer let in")),
    ):
        for one, other, said in ((after, before, words), (before, after, gone_words)):
            differ = [_value(value) for value in one.get(name, ()) if value not in other.get(name, ())]
            parts += [said % {"values": _named(differ)}] if differ else []
    if not parts and before.get("order") != after.get("order"):
        parts.append(_("bins in another order"))
    return "; ".join(parts) or _("bins changed")


def _value(value: Any) -> str:
    return value if isinstance(value, str) else ("yes" if value else "no") if isinstance(value, bool) else written(value)


def _named(names: Sequence[str]) -> str:
    """Name the first of several."""
    return ", ".join(names[:4]) + (_(" and %(count)s more") % {"count": len(names) - 4} if len(names) > 4 else "")


def rack_said(before: Document | None, after: Document | None, labels: dict[str, str]) -> str:
    """Return how a rack's documents differ, in words; empty where only facets went that say so themselves.

    Args:
        before: what it was; None for a new one.
        after: what it is; None for one that is gone.
        labels: of the facets that were there and are there, by their key; others say themselves that they came or went.
    """
    if before is None or after is None:
        return _("new") if before is None else _("deleted")
    return "; ".join(_said_of_rack(before, after, labels))


def _said_of_rack(before: Document, after: Document, labels: dict[str, str]) -> Iterator[str]:
    if before["label"] != after["label"]:
        yield _("called %(label)s") % {"label": after["label"]}
    came = [labels[key] for key in after["facets"] if key not in before["facets"] and key in labels]
    went = [labels[key] for key in before["facets"] if key not in after["facets"] and key in labels]
    if came:
        yield _("%(names)s put on it") % {"names": _named(came)}
    if went:
        yield _("%(names)s taken off") % {"names": _named(went)}
    both = [[key for key in one["facets"] if key in other["facets"]] for one, other in ((before, after), (after, before))]
    if both[0] != both[1]:
        yield _("facets in another order")
    old, new = before.get("place", {}), after.get("place", {})
    for name, words in (
        ("shows", _("shown in other places")),
        ("behaviour", _("behaves otherwise")),
        ("headings", _("headings changed")),
        ("apart", _("facets at other places of the page")),
        ("looks", _("draws facets another way")),
    ):
        if old.get(name) != new.get(name):
            yield words


@dataclass(frozen=True, slots=True)
class Difference:
    """A facet or a rack that is not as it was."""

    kind: str  # facet or rack
    key: str
    before: Document | None
    after: Document | None
    words: str


def differences(before: Document, after: Document) -> list[Difference]:
    """Return what differs between two set-ups, facets first, in words."""
    old, new = ({facet["key"]: facet for facet in document["facets"]} for document in (before, after))
    found = []
    for key in [*new, *(key for key in old if key not in new)]:
        was, now = old.get(key), new.get(key)
        if was != now:
            words = _("new") if was is None else _("taken off") if now is None else said_of(was, now)
            found.append(Difference("facet", key, was, now, words))
    labels = {key: facet["label"] for key, facet in new.items() if key in old}
    racks = [{rack["key"]: rack for rack in document["racks"]} for document in (before, after)]
    for key in [*racks[1], *(key for key in racks[0] if key not in racks[1])]:
        was, now = racks[0].get(key), racks[1].get(key)
        words = rack_said(was, now, labels) if was != now else ""
        if words:
            found.append(Difference("rack", key, was, now, words))
    if list(racks[0]) != list(racks[1]) and set(racks[0]) == set(racks[1]):
        found.append(Difference("rack", next(iter(racks[1]), ""), None, None, _("racks in another order")))
    return found


_SETTINGS: dict[str, Callable[[], str]] = {
    "pick": lambda: _("number of picks changed"),
    "order": lambda: _("order changed"),
    "empty": lambda: _("empty bins changed"),
    "free": lambda: _("free range changed"),
    "ends_at": lambda: _("ends of the range changed"),
    "show_when": lambda: _("rule changed"),
    "scope": lambda: _("categories shown changed"),
    "under": lambda: _("category shown below changed"),
    "deep": lambda: _("depth changed"),
}


def _of_look(before: Document, after: Document) -> Iterator[str]:
    if control_of(before) is not control_of(after):
        yield _("drawn as %(control)s") % {"control": str(control_of(after).words).lower()}
    elif before != after:
        yield _("look changed")


def cuts_said(before: Sequence[Any], after: Sequence[Any], number: Callable[[Any], str] = plain_bound) -> str:
    """Say what became of cuts.

    >>> cuts_said([10, 30], [10, 60]), cuts_said([10], [5, 10]), cuts_said([5, 10], [10]), cuts_said([], [1, 2])
    ('cut moved from 30 to 60', 'cut added at 5', 'cut at 5 taken out', 'cut at 1, 2')
    """
    gone = [cut for cut in before if cut not in after]
    new = [cut for cut in after if cut not in before]
    if len(gone) == len(new) == 1 and len(before) == len(after):
        return _("cut moved from %(old)s to %(new)s") % {"old": number(gone[0]), "new": number(new[0])}
    if len(new) == 1 and not gone and before:
        return _("cut added at %(new)s") % {"new": number(new[0])}
    if len(gone) == 1 and not new:
        return _("cut at %(old)s taken out") % {"old": number(gone[0])}
    return _("cut at %(all)s") % {"all": ", ".join(map(number, after))}


def values_said(values: Sequence[str]) -> str:
    """Name values: the only one, or how many.

    >>> values_said(["Gray"]), values_said(["Gray", "grau", "gris"])
    ('Gray', '3 values')
    """
    if len(values) == 1:
        return values[0]
    return ngettext("%(count)s value", "%(count)s values", len(values)) % {"count": f"{len(values):,}"}
