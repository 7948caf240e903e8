"""The catalogue: attributes that nobody narrows by, products that stand in the wrong category, numbers that are off by a factor."""

import math
from collections import Counter
from collections.abc import Iterator
from copy import deepcopy
from typing import Any

import numpy as np
from pyroaring import BitMap

from binsort.core.facets.query import Query
from binsort.core.facets.spec import Source, facet_spec
from binsort.core.index.bitmaps import bitmap
from binsort.core.index.columns import VARIANT
from binsort.core.insight.proposals import attribute_document, free_key
from binsort.core.values.numbers import approximate
from binsort.core.values.text import identity

from .finding import SHOW, Document, Found, Mend, by, has, listed, products
from .whole import PRODUCTS, About, Whole, WholeFinding, WholeFound

_WORTH = 0.25  # share of all products that have an attribute which could narrow them
_LEAST, _BINS = 12, (2, 60)  # products of a category that say something; bins of a facet worth adding
_TYPICAL = 0.8  # share of a category's products that have what is typical there
_FACTORS = (10, 100, 1_000)
_NEAR, _TIGHT = 0.18, 0.45  # in powers of ten: how near to a factor a number is, and how far apart the others may lie


class Unused(WholeFinding):
    """An attribute that many products have and no facet uses."""

    id = "unused-attribute"

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        used = {identity(facet["source"].get("attribute", "")) for facet in whole.document["facets"]}
        racks = list(whole.racks)
        for given in whole.index.attributes():
            if identity(given.name) in used | whole.off or not racks:
                continue
            _group, document = attribute_document(whole.index, given)
            state = whole.state_of([facet_spec({"key": "x", **document})], Query())
            here = state.rack.on_listing(state.rack.facets[0], None)
            bins, binned = sum(count > 0 for count in here.counts), len(state.products) - here.unbinned
            if binned < _WORTH * whole.total or not _BINS[0] <= bins <= _BINS[1]:
                continue
            text = f"{products(binned)} {has(binned)} {given.name.lower()}, and nobody can narrow by it"
            mend = Mend("add", f"Add {given.name}", f"puts {products(binned)} into {bins} bins", by(_with_facet, document, racks[0]))
            yield WholeFound(Found(self.id, identity(given.name), 0.1 * binned, text, (mend,)), About(PRODUCTS, identity(given.name)))


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
                yield WholeFound(
                    Found(self.id, " > ".join(path), 2 * len(slots), f"{text}: {why}", (mend,)),
                    About(PRODUCTS, " > ".join(path), products=slots[:50]),
                )


def _having(whole: Whole, name: str) -> BitMap:
    """Return the products that have an attribute."""
    column = whole.index.column(Source("attribute", name))
    owners = bitmap(column.owners)
    return whole.index.project(owners) if column.level == VARIANT else owners


class OffByAFactor(WholeFinding):
    """Numbers that are ten, a hundred or a thousand times what all others of the category are, or a part of it."""

    id = "off-by-a-factor"

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        sources = [("Price", Source("price"))]
        sources += [(given.name, Source("attribute", given.name)) for given in whole.index.attributes() if given.has_numbers]
        for label, source in sources:
            column = whole.index.column(source)
            owners, values = _numbers(column)
            if owners.size < _LEAST:
                continue
            slots = whole.index.product_of[owners] if column.level == VARIANT else owners
            places = whole.leaf_of[slots]
            order = np.argsort(places, kind="stable")
            starts = np.searchsorted(places[order], np.arange(len(whole.leaves) + 1))
            for place, path in enumerate(whole.leaves):
                here = order[starts[place] : starts[place + 1]]
                if here.size >= _LEAST:
                    yield from self._in(whole, label, path, slots[here], values[here])

    def _in(self, whole: Whole, label: str, path: tuple[str, ...], mine: Any, logs: Any) -> Iterator[WholeFound]:
        middle = float(np.median(logs))
        apart = np.abs(logs - middle)
        if float(np.quantile(apart, 0.9)) > _TIGHT:
            return
        for factor in _FACTORS:
            power = math.log10(factor)
            off = np.abs(apart - power) <= _NEAR
            found = sorted(set(mine[off].tolist()))
            if found and len(found) <= 0.1 * len(set(mine.tolist())):
                more = bool((logs[off] > middle).all())
                what = f"{factor:,} times" if more else f"a {_PARTS[factor]} of"
                text = f"{label} of {products(len(found))} in {whole.name(path)} is about {what} what others have"
                words = "Show it" if len(found) == 1 else f"Show the {len(found)}"
                mend = Mend("show", words, "leads to the products", leads=SHOW, target="products")
                yield WholeFound(
                    Found(self.id, f"{identity(label)} {factor} {' > '.join(path)}", 2 * len(found), text, (mend,)),
                    About(PRODUCTS, " > ".join(path), products=tuple(found[:50])),
                )


_PARTS = {10: "tenth", 100: "hundredth", 1_000: "thousandth"}


def _numbers(column: Any) -> tuple[Any, Any]:
    """Return the owners that have a number above nothing, and its logarithm; an owner of several comes several times."""
    count = len(column.numbers)
    sizes = np.array([approximate(number) if number > 0 else 0.0 for number in column.numbers])
    each = sizes[column.codes(count)]
    some = each > 0
    return column.owners[: each.size][some].astype(np.int64), np.log10(each[some])


FINDERS: tuple[WholeFinding, ...] = (Unused(), WrongCategory(), OffByAFactor())
