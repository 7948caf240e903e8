"""Which departments a facet belongs to, so that a proposed rack can show it there alone."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from pyroaring import BitMap

from binsort.core.answers.answer import RackIndex, State
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.query import Query
from binsort.core.facets.spec import FacetSpec
from binsort.core.index.bins import Bin
from binsort.core.index.bitmaps import union
from binsort.core.index.catalogue_index import Index

AT_HOME = 0.8  # share of a department's products from which on a facet belongs to it
_MOSTLY = 0.5  # share of a category's products from which on it is at home there
_SOME = 3  # products of a category below which nothing is at home there
_STRAYS = 8  # categories in which few have it, that a facet waits for besides
_EVERYWHERE = 0.6  # share of all products from which on it need not wait for a department


@dataclass(frozen=True, slots=True)
class Waits:
    """What a facet waits for; nothing where it is at home everywhere."""

    document: dict[str, Any] = field(default_factory=dict)  # `show_when`, for the facet's document
    homes: tuple[str, ...] = ()  # labels of the departments
    at_home: float = 1.0  # share of their products that have something
    reach: float = 1.0  # share of all products that stand where it shows


class Homes:
    """The departments of a catalogue.

    Args:
        index: the catalogue.
        tree: the facet of categories; None where there are none.
    """

    def __init__(self, index: Index, tree: Facet | None) -> None:
        self._index = index
        self._everything = State(RackIndex(index, ()), Query()).products
        self.categories: list[Bin] = tree.bins if tree else []
        self._paths = {value.nodes: value.path for value in tree.column.values} if tree else {}
        self.key = tree.spec.key if tree else ""

    def of(self, spec: FacetSpec) -> Waits:
        """Return what a facet waits for: the categories that it belongs to, where it is not at home everywhere.

        Every product with a value lies in one of them, so that no listing that has some is without the facet.
        """
        if not self.categories or kind_of(spec.source.kind).is_tree:
            return Waits()
        facet = Facet.cut(spec, self._index)
        everything = self._everything
        has = union(facet.products(bin) for bin in facet.bins) & everything
        if not has or len(has) >= _EVERYWHERE * len(everything):
            return Waits()
        homes = list(self._homes(has, ()))
        there = union(home.members for home in homes) & everything
        if not homes or len(has & there) < AT_HOME * len(has):
            return Waits()
        strays = self._strays(has, homes)
        if strays is None:
            return Waits()
        bins = [*homes, *strays]
        listings = [{"listing": " > ".join(self._paths[bin.nodes])} for bin in bins]
        waits = [{"facet": self.key, "bins": [bin.key for bin in bins]}, *listings]
        shown = union(bin.members for bin in bins) & everything
        labels = tuple(home.label for home in homes)
        return Waits({"show_when": {"any": waits}}, labels, len(has & there) / len(there), len(shown) / len(everything))

    def _homes(self, has: BitMap, below: tuple[str, ...]) -> Iterator[Bin]:
        """Yield the topmost categories most of whose products have something, of single products none."""
        for bin in self.categories:
            if bin.nodes[:-1] == below:
                members = bin.members & self._everything
                if len(has & members) >= max(_MOSTLY * len(members), _SOME):
                    yield bin
                else:
                    yield from self._homes(has, bin.nodes)

    def _strays(self, has: BitMap, homes: Sequence[Bin]) -> list[Bin] | None:
        """Return the categories outside of some homes in which products lie that have something, too; None where they are too many."""
        children: dict[tuple[str, ...], list[BitMap]] = {}
        for bin in self.categories:
            children.setdefault(bin.nodes[:-1], []).append(bin.members)
        outside = [bin for bin in self.categories if not any(bin.nodes[: len(home.nodes)] == home.nodes for home in homes)]
        found = [bin for bin in outside if (bin.members & has) - union(children.get(bin.nodes, ()))]
        return found if len(found) <= _STRAYS else None
