"""Coverage: which products have a value of a source, and which lack one."""

from pyroaring import BitMap

from binsort.core.facets.spec import Source
from binsort.core.index.bitmaps import bitmap
from binsort.core.index.catalogue_index import Index
from binsort.core.index.columns import VARIANT


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
