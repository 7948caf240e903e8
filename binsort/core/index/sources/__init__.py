"""Sources: one file a kind, each with what it is and how it reads what products say. A new kind is a file here and its test."""

from . import attribute, brand, category, initial, number_from, price, published, rating, reduced, stock, tag
from .source_reader import SourceReader

READERS: dict[str, SourceReader] = {
    module.READER.kind.name: module.READER
    for module in (attribute, category, brand, tag, price, reduced, stock, rating, published, initial, number_from)
}
