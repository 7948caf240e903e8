"""Kinds of source: what each is, declared in one file a kind below ``core/index/sources`` and registered from there.

Everything that depends on the kind of a source derives from these: checks of the facet file, forms, proposals, shelves,
how numbers are written.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

PLAIN, MONEY, MEASURED, RATED, DAYS, AGE = "plain", "money", "measured", "rated", "days", "age"  # how its numbers are written


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceKind:
    """One kind of source."""

    name: str
    words: str = ""  # where its values come from, as the owner reads it; empty where the source itself says so
    properties: frozenset[str] = frozenset()  # that its source may have besides ``kind``
    has_numbers: bool = False
    has_dates: bool = False
    is_in_groups: bool = False  # its bins are groups that the source itself lists, always there
    is_initial: bool = False  # its values are first letters
    is_tree: bool = False  # its values are paths: bins have a scope and cannot be merged
    says_itself: bool = False  # a bin of it needs no reason: "Sold out" is why
    may_be_absent: bool = False  # nothing is wrong with a product that has none: it is not reduced
    written: str = PLAIN
    proposal: Mapping[str, Any] | None = None  # a facet of it as proposed, without a key; None where that depends on the catalogue
    proposed_cuts: bool = False  # round cuts are added to the proposal
    known_as: tuple[str, ...] = ()  # words of the trade by which people look for it
    group: str = "values"  # that its proposal is listed under
    place: int = 0  # among the proposals of all kinds, before they are weighed
    labels: Mapping[str, str] = field(default_factory=dict)  # of its values, where they are words of ours
    for_sorting: bool = False  # products are ordered by it, no facet can have it

    @property
    def has_ranges(self) -> bool:
        """Whether its values can be cut into ranges, or picked freely."""
        return self.has_numbers or self.has_dates


AVAILABILITY = frozenset({"stock", "level"})  # kinds that say whether an article can be had
OFFERED = AVAILABILITY | {"price", "reduced"}  # kinds that say how an article is sold, not what it is
_KINDS: dict[str, SourceKind] = {}


def register(kind: SourceKind) -> SourceKind:
    """Make a kind known."""
    _KINDS[kind.name] = kind
    return kind


def kind_of(name: str) -> SourceKind:
    """Return a kind by its name. Raises KeyError."""
    return _KINDS[name]


def kinds() -> tuple[SourceKind, ...]:
    """Return every kind that a facet can have."""
    return tuple(kind for kind in _KINDS.values() if not kind.for_sorting)
