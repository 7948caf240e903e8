"""What a cell suggests: values of like products, of the product's own text, and of the dictionary."""

from binsort.catalog.dictionary.entry import Entry, source_of
from binsort.catalog.store.category_paths import category_paths
from binsort.catalog.store.product_rows import products_of
from binsort.changes.new_values import known_values
from binsort.core.facets.spec import Source
from binsort.core.index.bitmaps import numbers
from binsort.core.index.catalogue_index import Index
from binsort.core.insight.coverage import having
from binsort.core.insight.suggestions import Suggestion, suggestions
from binsort.core.products.availability import STATE_WORDS
from binsort.core.products.product import Product
from binsort.core.values.text import identity

from .page import Sheet

_LIKE = 40  # products looked at


def suggested(sheet: Sheet, name: str, entry: Entry, typed: str) -> list[Suggestion]:
    """Return values for a field of a product, best first."""
    product = products_of([name], hidden=True).get(name)
    if product is None or entry.kind == "text" or entry.kind == "money":
        return []
    index, source = sheet.held.index, source_of(entry)
    like = _like(index, product, source) if source and entry.kind != "category" else []
    return suggestions(product, entry.field, like, _known(index, entry), typed.rsplit("|", 1)[-1])


def _like(index: Index, product: Product, source: Source) -> list[Product]:
    """Return products of the deepest category that have a value."""
    with_value = having(index, source)
    paths = sorted(product.categories, key=len, reverse=True)
    for path in paths:
        alike = index.listing(tuple(map(identity, path))) & with_value
        names = [index.ids[slot] for slot in numbers(alike)[: _LIKE * 5].tolist() if index.ids[slot] != product.id]
        if names:
            return list(products_of(names[:_LIKE]).values())
    return []


def _known(index: Index, entry: Entry) -> list[tuple[str, int]]:
    """Return the values that there are, those of most products first, the dictionary's own among them."""
    if entry.kind == "yes_no":
        return [("yes", 0), ("no", 0)]
    if entry.kind == "state":
        return [(words, 0) for words in STATE_WORDS.values()]
    if entry.kind == "category":
        return [(" > ".join(path), 0) for path in category_paths().values()]
    return known_values(index, entry)
