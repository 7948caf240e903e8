"""The query of a listing: picks, sort, page, read out of an address so that nothing in it can cause an error."""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from urllib.parse import unquote_plus

from binsort.core.values.dates import day
from binsort.core.values.numbers import Number, TooLong, plain
from binsort.core.values.text import category_path, identity

from .kinds import kind_of
from .spec import FacetSpec, written_bound

RESERVED = frozenset({"sort", "page", "per", "q", "category"})  # words that addresses use for themselves
USUAL_SORTS = ("listed", "price", "-price", "name", "-name", "newest", "-rating")
SORTS = (*USUAL_SORTS, "buyable", "-saving", "saving", "-level", "level")  # besides those by an attribute
ATTRIBUTE_SORT = "attribute."  # before the name of one
_COUNTING = re.compile("[1-9][0-9]*")


@dataclass(frozen=True, slots=True)
class FreeRange:
    """A range of the shopper's own, both ends included; ``None`` is open."""

    low: Number | None
    high: Number | None

    def texts(self, kind: str) -> tuple[str | None, str | None]:
        """Return the ends as written in addresses."""
        low, high = (None if end is None else written_bound(end, kind) for end in (self.low, self.high))
        return low, high


@dataclass(frozen=True, slots=True)
class Picks:
    """What is picked in one facet, in the order of the query."""

    bins: tuple[str, ...] = ()
    ranges: tuple[FreeRange, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.bins or self.ranges)

    @property
    def each(self) -> "tuple[str | FreeRange, ...]":
        """Every pick: keys of bins, then ranges."""
        return (*self.bins, *self.ranges)

    def without(self, pick: "str | FreeRange") -> "Picks":
        """Return the picks but for one."""
        return Picks(tuple(key for key in self.bins if key != pick), tuple(item for item in self.ranges if item != pick))


@dataclass(frozen=True, slots=True)
class Query:
    """A query as understood. ``picks`` holds only facets that have some; ``show_when`` is not applied yet."""

    picks: dict[str, Picks] = field(default_factory=dict)
    category: tuple[str, ...] | None = None  # identities of the path's segments
    sort: str = "listed"
    page: int = 1
    per: int | None = None
    ignored: tuple[tuple[str, str], ...] = ()


def pairs_of(text: str) -> list[tuple[str, str]]:
    """Decode ``application/x-www-form-urlencoded``; broken UTF-8 reads as U+FFFD.

    >>> pairs_of("colour=navy&price.from=&q=a+b%FF")
    [('colour', 'navy'), ('price.from', ''), ('q', 'a b\\ufffd')]
    """
    parts = (part.partition("=") for part in text.split("&") if part)
    return [(unquote_plus(name, errors="replace"), unquote_plus(value, errors="replace")) for name, _, value in parts]


def read_query(
    pairs: Sequence[tuple[str, str]],
    facets: Sequence[FacetSpec],
    bin_keys: Callable[[str, tuple[str, ...] | None], frozenset[str]],
    category: tuple[str, ...] | None = None,
    is_sort: Callable[[str], bool] = lambda sort: False,
) -> Query:
    """Understand a query.

    Args:
        pairs: decoded names and values.
        facets: those of the rack.
        bin_keys: gives the keys that can be picked in a facet on a listing.
        category: the listing, if decided elsewhere; it goes before the query's.
        is_sort: tells whether the catalogue can be sorted by an attribute, which is named as in an address.
    """
    reader = _Reader(pairs, {facet.key: facet for facet in facets}, is_sort)
    reader.read_reserved()
    listing = reader.category if category is None else category
    reader.read_picks(lambda key: bin_keys(key, listing))
    ignored = tuple(pairs[place] for place in sorted(reader.ignored))
    picks = {key: picked for key in reader.facets if (picked := reader.picks_of(key))}
    return Query(picks, listing, reader.sort, reader.page, reader.per, ignored)


class _Reader:
    """Goes through the pairs of one query."""

    def __init__(self, pairs: Sequence[tuple[str, str]], facets: dict[str, FacetSpec], is_sort: Callable[[str], bool]) -> None:
        self.facets, self._is_sort = facets, is_sort
        self.sort, self.page = "listed", 1
        self.per: int | None = None
        self.category: tuple[str, ...] | None = None
        self.ignored: set[int] = set()
        self._pairs = [(place, name, value) for place, (name, value) in enumerate(pairs) if value]
        self._picked: dict[str, list[tuple[int, str | FreeRange]]] = {}
        self._ends: dict[str, dict[str, tuple[int, Number]]] = {}

    def read_reserved(self) -> None:
        rest = []
        for place, name, value in self._pairs:
            if name not in RESERVED:
                rest.append((place, name, value))
            elif not self._take_reserved(name, value):
                self.ignored.add(place)
        self._pairs = rest

    def _take_reserved(self, name: str, value: str) -> bool:
        if name == "sort":
            usable = value in SORTS or (value.removeprefix("-").startswith(ATTRIBUTE_SORT) and self._is_sort(value))
            self.sort = value if usable else self.sort
            return usable
        if name == "category":
            path = tuple(map(identity, category_path(value)))
            self.category = path or self.category
            return bool(path)
        if name != "q":
            if not _COUNTING.fullmatch(value):
                return False
            setattr(self, name, int(value[:18]) if len(value) > 18 else int(value))
        return True

    def read_picks(self, bin_keys: Callable[[str], frozenset[str]]) -> None:
        for place, name, value in self._pairs:
            facet = self.facets.get(name)
            if facet is not None and value in bin_keys(name):
                self._picked.setdefault(name, []).append((place, value))
            elif facet is not None and facet.free and (free_range := read_free_range(value, facet.source.kind)):
                self._picked.setdefault(name, []).append((place, free_range))
            elif facet is not None or not self._take_end(place, name, value):
                self.ignored.add(place)
        for key in self._ends:
            self._join_ends(key)

    def _take_end(self, place: int, name: str, value: str) -> bool:
        key, _, side = name.rpartition(".")
        facet = self.facets.get(key)
        if facet is None or not facet.free or side not in ("from", "to"):
            return False
        end = read_end(value, facet.source.kind)
        if end is None:
            return False
        self._ends.setdefault(key, {})[side] = (place, end)
        return True

    def _join_ends(self, key: str) -> None:
        ends = self._ends[key]
        low, high = (ends[side][1] if side in ends else None for side in ("from", "to"))
        places = [place for place, _ in ends.values()]
        if low is not None and high is not None and low > high:
            self.ignored.update(places)
        else:
            self._picked.setdefault(key, []).append((max(places), FreeRange(low, high)))

    def picks_of(self, key: str) -> Picks:
        """Return a facet's picks; where only one can be picked, the last."""
        picks = [pick for _, pick in sorted(self._picked.get(key, ()), key=lambda item: item[0])]
        if self.facets[key].pick == "one":
            picks = picks[-1:]
        unique = list(dict.fromkeys(picks))
        return Picks(tuple(pick for pick in unique if isinstance(pick, str)), tuple(pick for pick in unique if isinstance(pick, FreeRange)))


def read_free_range(text: str, kind: str) -> FreeRange | None:
    """Read ``a..b``, ``a..`` or ``..b``, None for all else and for ``a`` above ``b``."""
    first, dots, second = text.partition("..")
    if not dots or not (first or second):
        return None
    low, high = read_end(first, kind), read_end(second, kind)
    if (first and low is None) or (second and high is None):
        return None
    return None if low is not None and high is not None and low > high else FreeRange(low, high)


def read_end(text: str, kind: str) -> Number | None:
    """Read one end of a free range: a plain decimal, or a date as its day ordinal."""
    if kind_of(kind).has_dates:
        read = day(text)
        return None if read is None else read.toordinal()
    try:
        return plain(text)
    except TooLong:
        return None
