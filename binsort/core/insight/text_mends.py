"""Texts that no number could be read from: how each could be written so that it can, and which products say it."""

import re

import numpy as np
from pyroaring import BitMap

from binsort.core.facets.spec import Source
from binsort.core.index.bitmaps import mask_of
from binsort.core.index.catalogue_index import Index
from binsort.core.index.codes import TAG
from binsort.core.index.columns import PRODUCT
from binsort.core.index.sources.attribute_fields import attribute_fields
from binsort.core.index.sources.number_from import read_number
from binsort.core.products.product import Property
from binsort.core.values.text import identity, normalise

from .hidden_numbers import numbers_in

_TWO_POINTS = re.compile(r"\d\.\d*\.")


def ways_to_write(text: str, prefix: str) -> tuple[str, ...]:
    """Return how a text that could not be read may have been meant, each way one that can be read.

    >>> ways_to_write("lenght-15 m", "length-"), ways_to_write("length-10-12", "length-"), ways_to_write("length-8 fathoms", "length-")
    (('length-15 m',), ('length-10', 'length-12'), ())
    """
    prefix = normalise(prefix)
    begins_so = text[: len(prefix)].lower() == prefix.lower()
    rest = text[len(prefix) :] if begins_so else text
    spans = numbers_in(rest)
    if _TWO_POINTS.search(rest):
        return ()
    # With what stands behind it: without it, the number may mean another length.
    tried = [rest[spans[0][0] :]] if len(spans) == 1 else [rest[start:end] for start, end in spans]
    ways = (prefix + number for number in tried)
    return tuple(dict.fromkeys(way for way in ways if way != text and read_number(way, "", prefix) is not None))


def products_saying(index: Index, source: Source, text: str, products: BitMap) -> BitMap:
    """Return those of some products that say a text, in the tags or in the attribute that a source reads."""
    said, here = BitMap(), mask_of(products, index.size)
    for key in attribute_fields(source) if source.origin == "attribute" else (TAG,):
        items, coded = index.facts.items(key), index.facts.field(key)
        codes = [code for code in coded.counts.nonzero()[0].tolist() if _says(items[code], text)]
        owners = coded.owners[np.isin(coded.codes, codes)]
        products_of = owners if key[-1] == PRODUCT else index.product_of[owners]
        said |= BitMap(products_of[here[products_of]])
    return said


def _says(item: Property | str, text: str) -> bool:
    texts = [item] if isinstance(item, str) else [value for value in item.values if isinstance(value, str)]
    return any(identity(one) == identity(text) for one in texts)
