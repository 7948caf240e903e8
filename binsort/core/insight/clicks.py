"""Clicks: how many picks, and pages after them, lead a shopper from a listing to the product that she has in mind.

The definition is section 8 of docs/semantics.md. All products of the listing are looked for at once: those that the same picks lead
to share a *node*, which holds what these picks leave. A shelf parts each node into what its bins leave of it; every product goes on to
the bin that leaves least.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.query import Picks
from binsort.core.facets.rules import Occasion, holds
from binsort.core.facets.spec import Rule, ShowWhen
from binsort.core.index.bins import Bin
from binsort.core.index.bitmaps import numbers

FEW = 12  # products that are looked at together
_NEVER = np.iinfo(np.int64).max
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Reach:
    """What it takes to reach each product of a listing; arrays by the place of the product among them."""

    picks: Ints
    left: Ints  # products after the last pick, the one looked for among them
    after: tuple[Ints, ...]  # products after no pick, one, two…
    few: int = FEW

    @property
    def pages(self) -> Ints:
        """Pages that are turned after the last pick."""
        return np.maximum(-(-(self.left - self.few) // self.few), 0)

    @property
    def clicks(self) -> Ints:
        """Picks, and pages after them."""
        return self.picks + self.pages

    @property
    def average(self) -> float:
        """Clicks on average over all products; 0 where there are none."""
        return float(self.clicks.mean()) if self.picks.size else 0.0

    def drain(self, most: int | None = None) -> tuple[float, ...]:
        """Return products that are left on average, before the first click and after each, until few are left of every product's way.

        Args:
            most: clicks that are looked at; all where nothing is said.
        """
        if not self.picks.size:
            return ()
        last = int(self.clicks.max())
        return tuple(self._left_after(number) for number in range(min(last, last if most is None else most) + 1))

    def _left_after(self, clicks: int) -> float:
        """Return how many products are left on average after so many clicks, picks first, then pages."""
        sizes = self.after[min(clicks, len(self.after) - 1)]
        turned = np.maximum(sizes - self.few * np.maximum(clicks - self.picks, 0), np.minimum(sizes, self.few))
        return float(turned.mean())


@dataclass(frozen=True, slots=True)
class Shelf:
    """A facet on a listing: which rows are in which of its bins. Rows are variants, or products where no facet is on variants."""

    key: str
    starts: Ints  # of the bins of each row in ``bins``, and the end
    bins: Ints
    keys: tuple[str, ...]  # of the bins
    rule: ShowWhen | None
    is_below: bool = False  # of a tree: it offers what is below the shelf before it
    bin_of: Ints | None = None  # the bin of each row, -1 for none, where no row is in two


class Walk:
    """A listing on which shoppers look for each of its products, one shelf after another."""

    def __init__(self, state: State, few: int = FEW, among: BitMap | None = None) -> None:
        """Begin with nothing picked.

        Args:
            state: says the listing.
            few: products that are looked at together.
            among: some of its products, as if there were no others.
        """
        self.few, index = few, state.rack.index
        self._state, self._index = state, index
        self._met: dict[tuple[Rule, tuple[str, ...]], NDArray[np.bool_]] = {}
        self.products: Ints = np.asarray(numbers(state.products if among is None else state.products & among), dtype=np.int64)
        self._place_of = np.full(index.size, -1, dtype=np.int64)
        self._place_of[self.products] = np.arange(self.products.size)
        starts = self._starts = np.asarray(index.starts, dtype=np.int64)
        counts: Ints = starts[self.products + 1] - starts[self.products]
        if index.one_variant_each or not any(facet.on_variants for facet in state.rack.facets):
            counts = np.ones_like(counts)
        self._row_starts = np.concatenate(([0], np.cumsum(counts)))
        self._product_of = np.repeat(np.arange(self.products.size), counts)
        self._is_split = bool(self._product_of.size != self.products.size)

    def shelves(self, facet: Facet) -> tuple[Shelf, ...]:
        """Return a facet as a shelf of this listing, its bins in their order; a tree as one for each of its levels, the topmost first."""
        bins = self._state.rack.on_listing(facet, self._state.listing).bins
        depths = sorted({len(bin.nodes) for bin in bins}) or [0]
        keys = tuple(bin.key for bin in bins)
        made = [self._shelf(facet, [bin if len(bin.nodes) == depth else None for bin in bins]) for depth in depths]
        rule = facet.spec.show_when
        return tuple(
            Shelf(facet.spec.key, *level, keys, rule, is_below=place > 0, bin_of=_bin_of(*level)) for place, level in enumerate(made)
        )

    def _shelf(self, facet: Facet, bins: Sequence[Bin | None]) -> tuple[Ints, Ints]:
        """Return where the bins of each row begin, and the bins, of those that are given."""
        nothing = np.zeros(0, dtype=np.int64)
        parts = [self._rows(np.asarray(numbers(bin.members)), on_variants=facet.on_variants) if bin else nothing for bin in bins]
        rows = np.concatenate(parts) if parts else nothing
        places = np.repeat(np.arange(len(parts)), [part.size for part in parts]) if parts else rows
        order = np.argsort(rows, kind="stable")
        starts = np.concatenate(([0], np.cumsum(np.bincount(rows, minlength=self._product_of.size))))
        return starts, places[order]

    def _rows(self, owners: Ints, *, on_variants: bool) -> Ints:
        """Return the rows of the listing's products, or variants, that are in a bin."""
        if not self.products.size:
            return self.products
        products = self._index.product_of[owners] if on_variants else owners
        place = self._place_of[products]
        here = place >= 0
        if on_variants:
            offset = owners[here] - self._starts[products[here]] if self._is_split else 0
            found: Ints = self._row_starts[place[here]] + offset
            return found
        place = place[here]
        counts = np.diff(self._row_starts)[place]
        return np.repeat(self._row_starts[place] - np.concatenate(([0], np.cumsum(counts)[:-1])), counts) + np.arange(int(counts.sum()))

    def met(self, rule: Rule, keys: tuple[str, ...]) -> NDArray[np.bool_]:
        """Return whether a rule holds with each bin of the facet that it asks for picked, and last with none."""
        if (rule, keys) not in self._met:
            rack = self._state.rack
            other = rack.by_key.get(rule.facet)
            occasion = Occasion(self._state.listing, rack.today, rack.nodes)
            each = [*(Picks((key,)) for key in keys), Picks()]
            self._met[rule, keys] = np.array([holds(rule, other.spec if other else None, picks, occasion) for picks in each])
        return self._met[rule, keys]

    def begin(self) -> "Way":
        """Return where everybody stands before the first pick."""
        size = self.products.size
        return Way(self, size, np.arange(self._product_of.size))


@dataclass(frozen=True, slots=True)
class _Offered:
    """What a shelf offers: products that each of its bins leaves in each node; the rows of every node once for each bin they are in."""

    shelf: Shelf  # kept, so that no other takes its number
    counts: Ints
    expanded: tuple[Ints, Ints, Ints]  # nodes, bins, rows


@dataclass(slots=True)
class _Grown:
    """Nodes that come to be by picks on a shelf."""

    shelf: Shelf
    going: Ints  # those who pick
    child: Ints  # the new node of each, counted from 0
    chosen: Ints  # of each new node: the old one and the bin, as one number
    sizes: Ints
    nodes: Ints  # of the rows in new nodes
    rows: Ints


class Way:
    """How far everybody has come: the node of each product that is looked for, and the rows that each node holds."""

    def __init__(self, walk: Walk, count: int, rows: Ints) -> None:
        self._walk, self._count = walk, count
        self._node_of, self._sizes = np.zeros(count, dtype=np.int64), np.array([count], dtype=np.int64)
        self._rows, self._nodes = rows, np.zeros(rows.size, dtype=np.int64)
        self._picked = np.full((1, 0), -1, dtype=np.int64)  # by node and shelf: the bin
        self._shelves: list[Shelf] = []
        self._offered: dict[int, _Offered] = {}  # what was looked at since the last pick, by shelf
        self.picks = np.zeros(count, dtype=np.int64)
        self.after: list[Ints] = [np.full(count, count, dtype=np.int64)]

    def copy(self) -> "Way":
        """Return the same to go on from by itself."""
        other = object.__new__(Way)
        other.__dict__.update(self.__dict__)
        other._shelves, other.picks, other.after = list(self._shelves), self.picks.copy(), [one.copy() for one in self.after]
        return other

    @property
    def reach(self) -> Reach:
        """What it took up to here."""
        return Reach(self.picks.copy(), self._sizes[self._node_of] if self._count else self._node_of, tuple(self.after), self._walk.few)

    def offers(self, shelf: Shelf, *, kept: bool = False) -> tuple[Ints, Ints]:
        """Return for each product which bin of a shelf it would go on to, -1 for none, and how many products that leaves.

        Args:
            shelf: the shelf.
            kept: others may be picked on as well, so that what was found of them is kept beside this.
        """
        bins = np.full(self._count, -1, dtype=np.int64)
        if not shelf.keys or not self._rows.size:
            return bins, self._sizes[self._node_of]
        nodes, places, rows = expanded = self._expanded(shelf)
        codes, members = self._distinct(nodes * len(shelf.keys) + places, self._walk._product_of[rows])
        counts = np.bincount(codes, minlength=self._sizes.size * len(shelf.keys))
        self._offered = {**(self._offered if kept else {}), id(shelf): _Offered(shelf, counts, expanded)}
        mine = self._node_of[members] == codes // len(shelf.keys)
        codes, members = codes[mine], members[mine]
        rank = counts[codes] * len(shelf.keys) + codes % len(shelf.keys)
        best = np.full(self._count, _NEVER)
        np.minimum.at(best, members, rank)
        left = best // len(shelf.keys)
        goes = (left < self._sizes[self._node_of]) & (self._sizes[self._node_of] > self._walk.few) & self._shown(shelf)[self._node_of]
        bins[goes] = best[goes] % len(shelf.keys)
        return bins, np.where(goes, left, self._sizes[self._node_of])

    def _expanded(self, shelf: Shelf) -> tuple[Ints, Ints, Ints]:
        """Return every row of every node once for each bin of the shelf that it is in: nodes, bins, rows."""
        if known := self._offered.get(id(shelf)):
            return known.expanded
        if shelf.bin_of is not None:
            places = shelf.bin_of[self._rows]
            there = np.flatnonzero(places >= 0)
            return (
                (self._nodes, places, self._rows) if there.size == places.size else (self._nodes[there], places[there], self._rows[there])
            )
        counts = shelf.starts[self._rows + 1] - shelf.starts[self._rows]
        repeated = np.repeat(np.arange(self._rows.size), counts)
        offsets = np.arange(repeated.size) - np.repeat(np.cumsum(counts) - counts, counts)
        rows = self._rows[repeated]
        return self._nodes[repeated], shelf.bins[shelf.starts[rows] + offsets], rows

    def _distinct(self, codes: Ints, products: Ints) -> tuple[Ints, Ints]:
        """Return what several rows of a product say once."""
        if not self._walk._is_split:
            return codes, products
        both = np.sort(codes * self._count + products)
        both = both[np.concatenate(([True], both[1:] != both[:-1]))] if both.size else both
        return both // self._count, both % self._count

    def _shown(self, shelf: Shelf) -> NDArray[np.bool_]:
        """Return for each node whether the shelf's own rule lets it show."""
        if shelf.rule is None:
            return np.ones(self._sizes.size, dtype=bool)
        known = {one.key: place for place, one in enumerate(self._shelves)}
        met = []
        for rule in shelf.rule.rules:
            place = known.get(rule.facet)
            bins = self._picked[:, place] if place is not None else np.full(self._sizes.size, -1)
            met.append(self._walk.met(rule, self._shelves[place].keys if place is not None else ())[bins])
        shown: NDArray[np.bool_] = np.all(met, axis=0) if shelf.rule.every else np.any(met, axis=0)
        return shown

    def pick(self, *picks: tuple[Shelf, Ints]) -> None:
        """Let everybody pick who goes on, each on one of some shelves.

        Args:
            picks: a shelf, and the bin for each product, -1 for none, as :meth:`offers` has it.
        """
        grown = [self._grown(shelf, bins) for shelf, bins in picks]
        self._offered = {}
        self._node_of = self._node_of.copy()
        first = self._sizes.size
        for one in grown:
            self._node_of[one.going] = first + one.child
            one.nodes += first
            first += one.sizes.size
        for shelf, _bins in picks:
            if not any(known.key == shelf.key for known in self._shelves):
                self._shelves.append(shelf)
                self._picked = np.hstack((self._picked, np.full((self._picked.shape[0], 1), -1)))
        self._picked = np.concatenate((self._picked, *(self._picked_with(one) for one in grown)))
        self._sizes = np.concatenate((self._sizes, *(one.sizes for one in grown)))
        self._rows = np.concatenate((self._rows, *(one.rows for one in grown)))
        self._nodes = np.concatenate((self._nodes, *(one.nodes for one in grown)))
        self._note(np.concatenate([one.going for one in grown]))
        self._tidy()

    def _grown(self, shelf: Shelf, bins: Ints) -> "_Grown":
        """Return the nodes that come to be where some pick on a shelf."""
        width, going = max(len(shelf.keys), 1), np.flatnonzero(bins >= 0)
        chosen, child = _compact(self._node_of[going] * width + bins[going], self._sizes.size * width)
        if not chosen.size:
            nothing = np.zeros(0, dtype=np.int64)
            return _Grown(shelf, going, child, chosen, nothing, nothing.copy(), nothing)
        nodes, places, rows = self._expanded(shelf)
        at = _places_in(chosen, nodes * width + places, self._sizes.size * width)
        kept = np.flatnonzero(at >= 0)
        known = self._offered.get(id(shelf))  # counted a moment ago
        products = self._walk._product_of[rows[kept]]
        sizes = known.counts[chosen] if known else np.bincount(self._distinct(at[kept], products)[0], minlength=chosen.size)
        return _Grown(shelf, going, child, chosen, sizes, at[kept], rows[kept])

    def _picked_with(self, one: "_Grown") -> Ints:
        """Return what was picked on the way to new nodes."""
        width = max(len(one.shelf.keys), 1)
        with_it = self._picked[one.chosen // width]
        with_it[:, next(place for place, known in enumerate(self._shelves) if known.key == one.shelf.key)] = one.chosen % width
        return with_it

    def go_down(self, shelves: Iterable[Shelf]) -> None:
        """Let everybody pick on some shelves, one after another."""
        for shelf in shelves:
            self.pick((shelf, self.offers(shelf)[0]))

    def _note(self, going: Ints) -> None:
        """Write down how many products are left for those who just picked."""
        self.picks[going] += 1
        if going.size and int(self.picks[going].max()) == len(self.after):
            self.after.append(self.after[-1].copy())
        sizes = self._sizes[self._node_of[going]]
        for number in range(1, len(self.after)):
            later = self.picks[going] <= number
            self.after[number][going[later]] = sizes[later]

    def _tidy(self) -> None:
        """Forget the rows of nodes in which nobody is left who goes on, and the nodes with nobody in them."""
        used, renumbered = _compact(self._node_of, self._sizes.size)
        number_of = np.full(self._sizes.size, -1, dtype=np.int64)
        number_of[used] = np.arange(used.size)
        alive = (number_of[self._nodes] >= 0) & (self._sizes[self._nodes] > self._walk.few)
        self._rows, self._nodes = self._rows[alive], number_of[self._nodes[alive]]
        self._sizes, self._picked, self._node_of = self._sizes[used], self._picked[used], renumbered


_MANY = 4_000_000  # numbers for which a table is larger than sorting is slow


def _bin_of(starts: Ints, bins: Ints) -> Ints | None:
    """Return the bin of each row, -1 for none; None where a row is in two."""
    counts = np.diff(starts)
    if counts.size and counts.max() > 1:
        return None
    found = np.full(counts.size, -1, dtype=np.int64)
    found[counts > 0] = bins
    return found


def _places_in(chosen: Ints, numbers: Ints, most: int) -> Ints:
    """Return the place of each number among those chosen, which rise; -1 for others. All are below ``most``."""
    if most > _MANY:
        at = np.searchsorted(chosen, numbers)
        at[at == chosen.size] = 0
        return np.where(chosen[at] == numbers, at, -1) if chosen.size else np.full(numbers.size, -1)
    place_of = np.full(most, -1, dtype=np.int64)
    place_of[chosen] = np.arange(chosen.size)
    return place_of[numbers]


def _compact(found: Ints, most: int) -> tuple[Ints, Ints]:
    """Return the different numbers, rising, and the place of each among them; all are below ``most``."""
    if most > _MANY:
        return np.unique(found, return_inverse=True)
    there = np.zeros(most, dtype=bool)
    there[found] = True
    return np.flatnonzero(there), (np.cumsum(there) - 1)[found]


def in_order(walk: Walk, shelves: Iterable[Shelf]) -> Reach:
    """Return what it takes where everybody goes down the shelves in this order."""
    way = walk.begin()
    way.go_down(shelves)
    return way.reach


def at_best(walk: Walk, shelves: Sequence[Shelf]) -> Reach:
    """Return what it takes where everybody goes to the shelf that leaves least each time, the first of several."""
    way, used = walk.begin(), np.zeros((walk.products.size, len(shelves)), dtype=bool)

    def open_to(place: int, offers: list[tuple[Ints, Ints]]) -> NDArray[np.bool_]:
        """Tell who can go on on a shelf: not there yet, and on the one above it, where that has something for them."""
        free = (offers[place][0] >= 0) & ~used[:, place]
        return free & (used[:, place - 1] | (offers[place - 1][0] < 0)) if shelves[place].is_below else free

    for _ in shelves:
        offers = [way.offers(shelf, kept=True) for shelf in shelves]
        left = np.stack([np.where(open_to(place, offers), sizes, _NEVER) for place, (_bins, sizes) in enumerate(offers)])
        best = left.argmin(axis=0)
        goes = left.min(axis=0) < _NEVER
        if not goes.any():
            break
        way.pick(*((shelf, np.where(goes & (best == place), offers[place][0], -1)) for place, shelf in enumerate(shelves)))
        used[np.flatnonzero(goes), best[goes]] = True
    return way.reach
