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
