"""Coverage: which products have a value of a source, and which lack one."""

from pyroaring import BitMap

from binsort.core.facets.spec import Source
from binsort.core.index.bitmaps import bitmap
from binsort.core.index.catalogue_index import Index
from binsort.core.index.columns import VARIANT


def percent(part: int, whole: int) -> int:
    """Return a part in hundredths, rounded, but never 0 where there is some and never 100 where some is wanting; of nothing all.

    >>> percent(1, 3), percent(1, 1000), percent(999, 1000), percent(0, 0)
    (33, 1, 99, 100)
    """
    if part >= whole:
        return 100
    return min(99, max(1, (200 * part + whole) // (2 * whole))) if part else 0


def having(index: Index, source: Source) -> BitMap:
    """Return the visible products that have a value of a source, themselves or by a variant."""
    return index.remember(("having", source.column_key), lambda: _having(index, source))


def _having(index: Index, source: Source) -> BitMap:
    column = index.column(source)
    owners = bitmap(column.owners)
    return (index.project(owners) if column.level == VARIANT else owners) & index.every_product


def lacking(index: Index, source: Source, products: BitMap) -> BitMap:
    """Return those of some products that have no value of a source."""
    return products - having(index, source)


_LEAST = 5  # products of a category that say something
_HARDLY = 0.05  # share of them with a value below which nothing there is meant to have one


def not_asked(index: Index, source: Source) -> BitMap:
    """Return the visible products without a value of a source in categories where hardly anything has one, as paint no diameter."""
    return index.remember(("not asked", source.column_key), lambda: _not_asked(index, source))


def _not_asked(index: Index, source: Source) -> BitMap:
    column, known, found = index.column(Source("category")), having(index, source), BitMap()
    if column.level == VARIANT or source.kind == "category":
        return found
    above = {value.identity.rpartition(" > ")[0] for value in column.values}
    for code, value in enumerate(column.values):
        members = column.members(code) & index.every_product
        if value.identity not in above and len(members) >= _LEAST and known.intersection_cardinality(members) < _HARDLY * len(members):
            found |= members - known
    return found
