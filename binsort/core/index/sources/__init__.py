"""Sources: one file a kind, each with what it is and how it reads what products say. A new kind is a file here and its test."""

from . import (
    age,
    attribute,
    attribute_day,
    brand,
    buyable,
    category,
    initial,
    level,
    number_from,
    price,
    published,
    rating,
    reduced,
    saving,
    stock,
    tag,
    words,
)
from .source_reader import SourceReader

READERS: dict[str, SourceReader] = {
    module.READER.kind.name: module.READER
    for module in (
        *(attribute, category, brand, tag, price, reduced, stock, level, rating, published, age, initial, number_from, words),
        *(attribute_day, saving, buyable),
    )
}
