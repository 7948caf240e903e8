"""What looks wrong with racks, listings and the catalogue as a whole: a class each, looked at beside the findings of single facets."""

from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pyroaring import BitMap

from binsort.core.answers.answer import State
from binsort.core.facets.places import ABOVE, ALL, BELOW, PLACES, SIDE, Listing, Places
from binsort.core.facets.query import Query
from binsort.core.facets.spec import FacetSpec
from binsort.core.index.catalogue_index import Index
from binsort.core.insight.clicks import Walk

from .finding import Document, Finder, Found

FACET, RACK, LISTING, PRODUCTS, SEARCH = "facet", "rack", "listing", "products", "search"  # what a finding is about


@dataclass(frozen=True, slots=True)
class About:
    """Where a finding of the whole belongs."""

    kind: str
    key: str = ""  # of a facet or rack; a listing's path; what was searched for
    rack: str = ""
    products: tuple[int, ...] = ()  # slots of those concerned, where they are few


@dataclass(frozen=True, slots=True)
class WholeFound:
    """One thing found about the whole; its mends change the set-up."""

    found: Found
    about: About


@dataclass(eq=False)
class Whole:
    """The set-up over the catalogue, as findings look at it."""

    index: Index
    document: Document  # the set-up
    specs: Mapping[str, FacetSpec]
    state_of: Callable[[Sequence[FacetSpec], Query], State]
    paths: tuple[tuple[str, ...], ...]  # identities of the categories
    name: Callable[[tuple[str, ...]], str]  # of a category, in words
    off: frozenset[str] = field(default_factory=frozenset)  # identities of attributes that do not serve narrowing
    abroad: frozenset[str] = field(default_factory=frozenset)  # racks that other sites show

    @cached_property
    def places(self) -> Places:
        """Where racks show."""
        return Places.of(self.document)

    @cached_property
    def racks(self) -> dict[str, dict[str, Any]]:
        """The racks that have facets, by key."""
        return {rack["key"]: rack for rack in self.document["racks"] if rack["facets"]}

    @cached_property
    def facets(self) -> tuple[tuple[str, tuple[FacetSpec, ...]], ...]:
        """The facets of each rack, as counts go by them."""
        return tuple((key, tuple(self.specs[name] for name in rack["facets"] if name in self.specs)) for key, rack in self.racks.items())

    @cached_property
    def total(self) -> int:
        """The products that shoppers can meet."""
        return len(self.index.every_product)

    @cached_property
    def tops(self) -> tuple[tuple[str, ...], ...]:
        """The categories at the top that have products."""
        return tuple(path for path in self.paths if len(path) == 1 and self.index.listing(path))

    def rack_at(self, path: tuple[str, ...] | None) -> str:
        """Return the rack that narrows a listing: at its side, else above or below its products; empty for none."""
        listing = Listing.of(path)
        return next((placed for where in (SIDE, ABOVE, BELOW) if (placed := self.places.at(listing, where).rack)), "")

    def shows(self, rack: str) -> bool:
        """Tell whether a rack shows anywhere."""
        every = [Listing(ALL), *map(Listing.of, self.paths)]
        return (
            rack in self.abroad
            or any(self.shows_on(one, rack) for one in every)
            or any(rule.get("shown", True) for rule in self.racks.get(rack, {}).get("place", {}).get("shows", ()))
        )

    def shows_on(self, listing: Listing, rack: str) -> bool:
        """Tell whether a rack shows on a listing of the shop."""
        return any(self.places.at(listing, where).rack == rack for where in PLACES)

    def state(self, rack: str, path: tuple[str, ...] | None = None) -> State:
        """Return a rack on a listing, nothing picked."""
        return self.state_of([self.specs[key] for key in self.racks[rack]["facets"] if key in self.specs], Query(category=path))

    def walk(self, state: State, few: int) -> Walk:
        """Return a listing to be walked."""
        return Walk(state, few)

    def document_of(self, key: str) -> Document:
        """Return a facet of the set-up."""
        return next(facet for facet in self.document["facets"] if facet["key"] == key)

    @cached_property
    def leaves(self) -> dict[tuple[str, ...], BitMap]:
        """The products of each category that has none below it."""
        above = {path[:-1] for path in self.paths}
        return {path: self.index.listing(path) for path in self.paths if path not in above}

    @cached_property
    def leaf_of(self) -> NDArray[np.int64]:
        """The place of each product's category among the leaves, -1 for none; of one in several the last."""
        found = np.full(self.index.size, -1, dtype=np.int64)
        for place, members in enumerate(self.leaves.values()):
            found[np.asarray(members.to_array(), dtype=np.int64)] = place
        return found


class WholeFinding(Finder):
    """Looks for one kind of thing in the whole."""

    def depends(self, whole: Whole) -> Hashable | None:
        """Return what else than the catalogue it depends on, so that it is not looked for anew; None where looking takes no time."""
        return None

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        """Yield what there is of it."""
        raise NotImplementedError
