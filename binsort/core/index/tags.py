"""Tags of a catalogue: which there are, and the products of each."""

from pyroaring import BitMap

from binsort.core.facets.spec import Source
from binsort.core.values.text import identity, slug

from .catalogue_index import Index

_TAG = Source("tag")


def tags_of(index: Index) -> list[tuple[str, int]]:
    """Return the tags with how many products have each, the most frequent first."""
    column = index.column(_TAG)
    counted = [(value.label, len(column.members(code))) for code, value in enumerate(column.values)]
    return sorted(((tag, count) for tag, count in counted if count), key=lambda one: (-one[1], identity(one[0])))


def tagged(index: Index, tag: str) -> BitMap:
    """Return the products that have a tag, whichever way it is written; none where nothing has it."""
    column, wanted = index.column(_TAG), identity(tag)
    found = (column.members(code) for code, value in enumerate(column.values) if identity(value.label) == wanted)
    return BitMap(next(found, BitMap())) & index.every_product


def tag_by_slug(index: Index) -> dict[str, str]:
    """Return the tags by what stands for each in an address; of several that would be alike the most frequent."""
    by_slug: dict[str, str] = {}
    for tag, _count in tags_of(index):
        by_slug.setdefault(slug(tag) or identity(tag), tag)
    return by_slug
