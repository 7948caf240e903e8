"""Coverage: which products have a value of a source, and which lack one."""

from pyroaring import BitMap

from .bitmaps import bitmap
from .columns import VARIANT
from .index import Index
from .spec import Source


def having(index: Index, source: Source) -> BitMap:
    """Return the visible products that have a value of a source, themselves or by a variant."""
    column = index.column(source)
    owners = bitmap(column.owners)
    return (index.project(owners) if column.level == VARIANT else owners) & index.every_product


def lacking(index: Index, source: Source, products: BitMap) -> BitMap:
    """Return those of some products that have no value of a source."""
    return products - having(index, source)
