"""What a facet is: frozen definitions, built only from documents that passed :mod:`.facetfile`."""

import itertools
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from binsort.core.values.dates import day
from binsort.core.values.numbers import Number, written
from binsort.core.values.text import category_path, identity, normalise, path_identity

from .kinds import kind_of

_DATED = "published"  # a kind whose bounds are dates


@dataclass(frozen=True, slots=True)
class WordGroup:
    """Texts that stand for one choice: a product is in it if one of the places looked in says one of them."""

    label: str
    texts: tuple[str, ...]  # identities


@dataclass(frozen=True, slots=True)
class Source:
    """Where a facet's values come from."""

    kind: str
    attribute: str = ""
    unit: str = ""
    origin: str = ""  # of number_from: "tag" or "attribute"
    prefix: str = ""
    places: tuple[str, ...] = ()  # of words: where they are looked for
    groups: tuple[WordGroup, ...] = ()

    @property
    def column_key(self) -> tuple[str, ...]:
        """What two sources share when they have the same values."""
        words = (" ".join(sorted(self.places)), *(part for group in self.groups for part in ("", group.label, *group.texts)))
        return (self.kind, identity(self.attribute), normalise(self.unit), self.origin, normalise(self.prefix).lower(), *words)


@dataclass(frozen=True, slots=True)
class Range:
    """A range of numbers (or of day ordinals); ``None`` is open."""

    low: Number | None
    high: Number | None
    high_inclusive: bool
    key: str  # before clashes are settled
    label: str  # empty: the key


@dataclass(frozen=True, slots=True)
class Merge:
    """Several values under one label."""

    label: str
    values: tuple[str, ...]  # identities


@dataclass(frozen=True, slots=True)
class ValueBins:
    """How the bins made of single values are changed. All values are identities."""

    only: frozenset[str] = frozenset()
    leave_out: frozenset[str] = frozenset()
    merges: tuple[Merge, ...] = ()
    renames: tuple[tuple[str, str], ...] = ()
    order: tuple[str, ...] = ()  # identities of labels


@dataclass(frozen=True, slots=True)
class Rule:
    """One condition under which a facet is shown: on another facet's picks, on the listing, or on the day."""

    facet: str = ""  # empty for the other two
    picked: bool | None = None
    bins: frozenset[str] = frozenset()
    listing: tuple[str, ...] = ()  # identities of a category's path
    first: int | None = None  # day ordinals
    last: int | None = None


@dataclass(frozen=True, slots=True)
class ShowWhen:
    """All or any of some rules."""

    every: bool
    rules: tuple[Rule, ...]


@dataclass(frozen=True, slots=True)
class FacetSpec:
    """One facet, complete."""

    key: str
    label: str
    source: Source
    match: str = "any"
    pick: str = "many"
    bins: ValueBins = field(default_factory=ValueBins)
    ranges: tuple[Range, ...] = ()
    free: bool = False
    order: str = ""  # empty: the default of its kind of bins
    empty: str = "hide"
    show_when: ShowWhen | None = None
    scope: str = "all"
    under: tuple[str, ...] = ()  # identities of the path's segments
    under_listing: bool = False
    deep: bool = False
    ends_at: tuple[Number | None, Number | None] = (None, None)  # of a free facet: its ends whatever the data

    @property
    def matches_all(self) -> bool:
        """Whether several picks must all be met."""
        return self.match == "all" and self.pick == "many"


def facet_spec(document: dict[str, Any]) -> FacetSpec:
    """Build a facet from one checked facet object of a facet file."""
    source = document["source"]
    kind = source["kind"]
    under = document.get("under", "")
    return FacetSpec(
        key=document["key"],
        label=normalise(document["label"]),
        source=_source(source),
        match=document.get("match", "any"),
        pick=document.get("pick", "many"),
        bins=_value_bins(document.get("bins", {}), kind),
        ranges=tuple(_ranges(document, kind)),
        free=document.get("free", False),
        order=document.get("order", ""),
        empty=document.get("empty", "hide"),
        show_when=_show_when(document.get("show_when")),
        scope=document.get("scope", "all"),
        under=() if under == "listing" else tuple(map(identity, category_path(under))),
        under_listing=under == "listing",
        deep=document.get("deep", False),
        ends_at=_ends_at(document.get("ends_at", {}), kind),
    )


def _ends_at(document: dict[str, Any], kind: str) -> tuple[Number | None, Number | None]:
    low, high = (bound(document[end], kind) if end in document else None for end in ("low", "high"))
    return low, high


def _source(document: dict[str, Any]) -> Source:
    return Source(
        document["kind"],
        document.get("attribute", ""),
        normalise(document.get("unit", "")),
        document.get("from", ""),
        document.get("prefix", ""),
        tuple(document.get("in", ())),
        tuple(WordGroup(normalise(group["label"]), tuple(map(identity, group["texts"]))) for group in document.get("groups", ())),
    )


def value_identity(value: str | bool | Number, kind: str) -> str:
    """Return the identity of a value as a facet file names it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if not isinstance(value, str):
        return written(value)
    return path_identity(category_path(value)) if kind_of(kind).is_tree else identity(value)


def bound(value: Any, kind: str) -> Number:
    """Return a bound as a number; dates as their day ordinal."""
    if not kind_of(kind).has_dates:
        return value  # type: ignore[no-any-return]
    read = day(value)
    assert read is not None
    return read.toordinal()


def written_bound(value: Number, kind: str) -> str:
    """Write a bound as it stands in keys and bounds."""
    return date.fromordinal(int(value)).isoformat() if kind_of(kind).has_dates else written(value)


def _value_bins(document: dict[str, Any], kind: str) -> ValueBins:
    def identities(name: str) -> frozenset[str]:
        return frozenset(value_identity(value, kind) for value in document.get(name, ()))

    return ValueBins(
        only=identities("only"),
        leave_out=identities("leave_out"),
        merges=tuple(
            Merge(normalise(merge["label"]), tuple(value_identity(value, kind) for value in merge["values"]))
            for merge in document.get("merge", ())
        ),
        renames=tuple((value_identity(old, kind), normalise(new)) for old, new in document.get("rename", {}).items()),
        order=tuple(map(identity, document.get("order", ()))),
    )


def _ranges(document: dict[str, Any], kind: str) -> list[Range]:
    def numbers(name: str) -> list[Number]:
        return [bound(value, kind) for value in document.get(name, ())]

    def range_of(low: Number | None, high: Number | None, *, inclusive: bool = False, label: str = "") -> Range:
        key = _range_key(low, high, inclusive and low is None, kind)
        return Range(low, high, inclusive, key, normalise(label))

    cuts = numbers("cuts")
    if cuts:
        ends: list[Number | None] = list(cuts)
        closed = document.get("ends") == "closed"
        edges = ends if closed else [None, *ends, None]
        last = len(edges) - 2
        return [range_of(low, high, inclusive=closed and place == last) for place, (low, high) in enumerate(itertools.pairwise(edges))]
    return [
        *(range_of(value, None) for value in numbers("at_least")),
        *(range_of(None, value, inclusive=True) for value in numbers("at_most")),
        *(
            range_of(
                bound(item["from"], kind) if "from" in item else None,
                bound(item["to"], kind) if "to" in item else None,
                label=item.get("label", ""),
            )
            for item in document.get("ranges", ())
        ),
    ]


def _range_key(low: Number | None, high: Number | None, inclusive: bool, kind: str) -> str:
    if low is None:
        assert high is not None
        return f"{'le' if inclusive else 'lt'}-{written_bound(high, kind)}"
    if high is None:
        return f"ge-{written_bound(low, kind)}"
    return f"{written_bound(low, kind)}-to-{written_bound(high, kind)}"


def _show_when(document: dict[str, Any] | None) -> ShowWhen | None:
    if document is None:
        return None
    every = "all" in document
    rules = document["all"] if every else document["any"]
    return ShowWhen(every, tuple(map(rule_of, rules)))


def rule_of(document: dict[str, Any]) -> Rule:
    """Build a rule from one of a checked facet file."""
    first, last = (None if (text := document.get(end)) is None else bound(text, _DATED) for end in ("from", "to"))
    return Rule(
        facet=document.get("facet", ""),
        picked=document.get("picked"),
        bins=frozenset(document.get("bins", ())),
        listing=tuple(map(identity, category_path(document.get("listing", "")))),
        first=None if first is None else int(first),
        last=None if last is None else int(last),
    )
