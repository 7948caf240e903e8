"""The catalogue: attributes that nobody narrows by, products that stand in the wrong category."""

from collections import Counter
from collections.abc import Hashable, Iterator
from copy import deepcopy

from pyroaring import BitMap

from binsort.core.facets.kinds import kind_of
from binsort.core.facets.query import Query
from binsort.core.facets.spec import Source, facet_spec
from binsort.core.index.bitmaps import bitmap
from binsort.core.index.columns import VARIANT
from binsort.core.insight.clicks import Shelf
from binsort.core.insight.likeness import is_finer, likeness
from binsort.core.insight.proposals import attribute_document, free_key
from binsort.core.values.text import identity

from .finding import SHOW, Document, Mend, by, has, listed, products
from .racks import GUESSED, SAME, SHARED, WIDE
from .whole import PRODUCTS, About, Whole, WholeFinding, WholeFound

_WORTH = 0.25  # share of all products that have an attribute which could narrow them
# Places on the earth: numbers that nobody narrows by as numbers; common practice of the trade.
_PLACES = frozenset({"latitude", "longitude", "lat", "lon", "lng", "easting", "northing"})
_LEAST, _BINS = 12, (2, 60)  # products of a category that say something; bins of a facet worth adding
_TYPICAL = 0.8  # share of a category's products that have what is typical there


class Unused(WholeFinding):
    """An attribute that many products have and no facet uses."""

    id = "unused-attribute"
    matters = 0.1

    def depends(self, whole: Whole) -> Hashable:
        return whole.facets, whole.off, frozenset(_used(whole))

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        used = _used(whole)
        racks, known = list(whole.racks), list[Shelf]()
        offered = [attribute_document(whole.index, one)[1] for one in whole.index.attributes()]
        offered = [one for one in offered if identity(one["source"]["attribute"]) not in used | whole.off | _PLACES] if racks else []
        specs = [facet_spec({"key": f"new {place}", **one}) for place, one in enumerate(offered)]
        own = [spec for spec in dict(whole.facets)[racks[0]] if not kind_of(spec.source.kind).is_tree] if racks else []
        state, walk = whole.state_of([*own, *specs], Query()), None
        for document, facet in zip(offered, state.rack.facets[len(own) :], strict=True):
            here = state.rack.on_listing(facet, None)
            bins, binned = sum(count > 0 for count in here.counts), len(state.products) - here.unbinned
            if binned < _WORTH * whole.total or not _BINS[0] <= bins <= _BINS[1]:
                continue
            if walk is None:
                walk = whole.walk(state, WIDE)
                known += [shelf for one in state.rack.facets[: len(own)] for shelf in walk.shelves(one)]
            [shelf] = walk.shelves(facet)
            if not _is_told(shelf, known):
                known.append(shelf)
                yield self._found(document, bins, binned, racks[0])

    def _found(self, document: Document, bins: int, binned: int, rack: str) -> WholeFound:
        name = document["label"]
        text = f"{products(binned)} {has(binned)} {name.lower()}, and nobody can narrow by it"
        mend = Mend("add", f"Add {name}", f"puts {products(binned)} into {bins} bins", by(_with_facet, document, rack))
        subject = identity(document["source"]["attribute"])
        found = self.says(subject, binned, text, mend, more="Who looks for one of them reads on and on.")
        return WholeFound(found, About(PRODUCTS, subject))


def _used(whole: Whole) -> set[str]:
    """Return the identities of the attributes that facets have."""
    return {identity(facet["source"].get("attribute", "")) for facet in whole.document["facets"]}


def _is_told(new: Shelf, known: list[Shelf]) -> bool:
    """Tell whether one of some facets says already what a new one would."""
    every = max(1, new.starts.size // GUESSED)
    return any(
        ((alike := likeness(one, new, every)).covered >= SHARED and alike.told >= SAME) or is_finer(new, one, every)
        for one in known
        if len(one.keys) > 1
    )


def _with_facet(document: Document, facet: Document, rack: str) -> Document:
    changed = deepcopy(document)
    key = free_key(facet["label"], {one["key"] for one in changed["facets"]})
    changed["facets"].append({"key": key, **facet})
    for one in changed["racks"]:
        if one["key"] == rack:
            one["facets"].append(key)
    return changed


class WrongCategory(WholeFinding):
    """Products that lack all that is typical of their category, and have all that is typical of another."""

    id = "wrong-category"
    matters = 2.0

    def depends(self, whole: Whole) -> Hashable:
        return whole.paths

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        has_it = {given.name: _having(whole, given.name) for given in whole.index.attributes()}
        typical = {
            path: frozenset(name for name, owners in has_it.items() if owners.intersection_cardinality(members) >= _TYPICAL * len(members))
            for path, members in whole.leaves.items()
            if len(members) >= _LEAST
        }
        for path, own in typical.items():
            if len(own) < 2:
                continue
            strangers = whole.leaves[path]
            for name in own:
                strangers = strangers - has_it[name]
            homes: Counter[tuple[str, ...]] = Counter()
            for slot in strangers:
                mine = {name for name, owners in has_it.items() if slot in owners}
                fits = [other for other, marks in typical.items() if len(marks) >= 2 and marks <= mine and not marks & own]
                homes.update(fits[:1])
            if homes:
                home, count = homes.most_common(1)[0]
                if count > 0.2 * len(whole.leaves[path]):
                    continue  # too many for a slip: the category has two kinds of things
                slots = tuple(slot for slot in strangers if all(slot in has_it[name] for name in typical[home]))
                text = f"{products(len(slots))} in {whole.name(path)} {'looks' if len(slots) == 1 else 'look'} like {whole.name(home)}"
                why = f"without {listed(sorted(own)[:3]).lower()}, with {listed(sorted(typical[home])[:3]).lower()}"
                mend = Mend("show", "Show it" if len(slots) == 1 else f"Show the {len(slots)}", why, leads=SHOW, target="products")
                about = About(PRODUCTS, " > ".join(path), products=slots[:50])
                yield WholeFound(self.says(" > ".join(path), len(slots), text, mend, more=f"{why.capitalize()}."), about)


def _having(whole: Whole, name: str) -> BitMap:
    """Return the products that have an attribute."""
    column = whole.index.column(Source("attribute", name))
    owners = bitmap(column.owners)
    return whole.index.project(owners) if column.level == VARIANT else owners


FINDERS: tuple[WholeFinding, ...] = (Unused(), WrongCategory())
