"""Numbers that hide in tags and in the values of attributes: where they are, how each text is read, and why some are not."""

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from pyroaring import BitMap
from rapidfuzz import fuzz

from binsort.core.facets.spec import Source
from binsort.core.index.bitmaps import mask_of
from binsort.core.index.catalogue_index import Index
from binsort.core.index.codes import TAG, FieldKey
from binsort.core.index.columns import PRODUCT, Value
from binsort.core.index.sources import READERS
from binsort.core.index.sources.attribute_fields import attribute_fields
from binsort.core.index.sources.number_from import READING, read_number
from binsort.core.index.sources.source_reader import Circumstances
from binsort.core.products.product import Property
from binsort.core.values.numbers import Number
from binsort.core.values.text import normalise
from binsort.core.values.units import KNOWN

NUMBER = re.compile(r"\d+ \d+/\d+|\d+/\d+|\d+(?:\.\d+)?")
_LEAST = 3  # texts that share what stands before the number, for a place to be shown
_LIKE = 72  # hundredths of likeness from which on another beginning is a slip
_MOST_PLACES = 6
_WORD_BEFORE = re.compile(r"\D*?[^\d\s.-]?[\s:_-]*")


@dataclass(frozen=True, slots=True)
class Place:
    """Where numbers hide: texts that begin alike, in tags or in an attribute."""

    source: dict[str, Any]  # as a facet file has it
    example: str
    start: int  # of the number in the example
    end: int
    where: str  # the attribute; empty for tags
    products: int
    share: float = 0.0


@dataclass(frozen=True, slots=True)
class ReadText:
    """One distinct text, with what is read from it, or why nothing is."""

    text: str
    products: int
    number: Number | None = None  # in the unit of the source
    unit: str = ""  # as written
    start: int = 0  # of the number in the text
    end: int = 0
    reason: str = ""


@dataclass(frozen=True, slots=True)
class Readings:
    """All texts of a source on a listing."""

    read: tuple[ReadText, ...]  # by their numbers
    unread: tuple[ReadText, ...]  # those concerned first
    unit: str
    products_read: int
    products_unread: int  # that have texts, none of them read
    units: tuple[tuple[str, int], ...] = field(default=())  # as written, empty for none, with products


def numbers_in(text: str) -> list[tuple[int, int]]:
    """Return where numbers stand in a text.

    >>> numbers_in("length-1 1/2 m"), numbers_in("3/8 in x 12")
    ([(7, 12)], [(0, 3), (9, 11)])
    """
    return [match.span() for match in NUMBER.finditer(text)]


def pointed(text: str, start: int) -> str | None:
    """Return what stands before the number that was pointed at, the prefix from then on; None where there is no number.

    >>> pointed("length-12 m", 7), pointed("12 mm", 0)
    ('length-', '')
    """
    return next((text[:begin] for begin, end in numbers_in(text) if begin <= start < end), None)


def places(index: Index, products: BitMap) -> list[Place]:
    """Return the places where numbers that can be read hide on a listing, those of most products first."""
    found: list[Place] = []
    for name, source, key in _fields(index):
        by_prefix: dict[str, Counter[str]] = {}
        for text, count in _texts(index, (key,), products).items():
            spans = numbers_in(text)
            is_hidden = spans and (name == "" or spans[0][0] or text[spans[0][1] :].strip())
            if is_hidden and read_number(text, "", text[: spans[0][0]]) is not None:
                by_prefix.setdefault(text[: spans[0][0]].lower(), Counter())[text] += count
        for prefix, texts in by_prefix.items():
            if len(texts) < _LEAST and texts.total() < 2 * _LEAST:
                continue
            example = max(texts, key=lambda text: (texts[text], text))
            start, end = numbers_in(example)[0]
            own = {**source, **({"prefix": example[:start]} if prefix.strip() else {})}
            found.append(Place(own, example, start, end, name, texts.total()))
    found.sort(key=lambda place: -place.products)
    return found[:_MOST_PLACES]


def _fields(index: Index) -> Iterator[tuple[str, dict[str, Any], FieldKey]]:
    yield "", {"kind": "number_from", "from": "tag"}, TAG
    for given in index.attributes():
        source = {"kind": "number_from", "from": "attribute", "attribute": given.name}
        for key in attribute_fields(Source("number_from", given.name, origin="attribute")):
            yield given.name, source, key


def _texts(index: Index, keys: tuple[FieldKey, ...], products: BitMap) -> Counter[str]:
    """Return the distinct texts in some fields, with how many products of a listing say each."""
    here, counts = mask_of(products, index.size), Counter[str]()
    for key in keys:
        items, coded = index.facts.items(key), index.facts.field(key)
        owners = coded.owners if key[-1] == PRODUCT else index.product_of[coded.owners]
        inside = here[owners]
        pairs = np.unique(coded.codes[inside].astype(np.int64) * max(index.size, 1) + owners[inside].astype(np.int64))
        codes, sizes = np.unique(pairs // max(index.size, 1), return_counts=True)
        for code, size in zip(codes.tolist(), sizes.tolist(), strict=True):
            for text in _said(items[code]):
                counts[text] += size
    return counts


def _said(item: Property | str) -> list[str]:
    return [item] if isinstance(item, str) else [value for value in item.values if isinstance(value, str)]


def readings(index: Index, source: Source, products: BitMap) -> Readings:
    """Return how every text of a source is read on a listing."""
    keys = attribute_fields(source) if source.origin == "attribute" else (TAG,)
    units = READERS["number_from"].units(index.facts, source)
    at = Circumstances(source, index.now, units, lambda name: name)
    read: list[ReadText] = []
    unread: list[ReadText] = []
    for text, count in _texts(index, keys, products).items():
        one = _read(text, count, at)
        if one is not None:
            (unread if one.number is None else read).append(one)
    written = Counter[str]()
    for one in read:
        written[one.unit] += one.products
    column = index.column(source)
    having = index.of_owners(index.product_of[np.unique(column.owners)]) if column.level != PRODUCT else BitMap(column.owners)
    return Readings(
        tuple(sorted(read, key=lambda one: (one.number or 0, one.text))),
        tuple(sorted(unread, key=lambda one: (-one.products, one.text))),
        units[0],
        len(having & products),
        sum(one.products for one in unread),
        tuple(written.most_common()),
    )


def _read(text: str, count: int, at: Circumstances) -> ReadText | None:
    """Return how a text is read, or why it is not; None for one that has nothing to do with the source."""
    prefix = normalise(at.source.prefix)
    found = read_number(text, "", prefix)
    if found is not None:
        start = len(text[: len(prefix)]) + (len(text[len(prefix) :]) - len(text[len(prefix) :].lstrip()))
        match = READING.match(text, start)
        end = start + len(match[1]) if match else len(text)
        for value in READERS["number_from"].read(text if at.source.origin != "attribute" else Property("", (text,)), at):
            if isinstance(value, Value):
                return ReadText(text, count, value.number, found[1], start, end)
            return ReadText(text, count, reason=f"{found[1]} cannot be read in {at.units[0]}", start=start, end=end)
    if prefix and text[: len(prefix)].lower() != prefix.lower():
        begins = text[: len(prefix)]
        is_slip = bool(numbers_in(text)) and fuzz.ratio(begins.lower(), prefix.lower()) >= _LIKE
        return ReadText(text, count, reason="begins otherwise: a slip?") if is_slip else None
    rest = text[len(prefix) :]
    spans = numbers_in(rest)
    if not prefix and not spans:
        return None
    return ReadText(text, count, reason=_why_not(rest, spans, prefix))


def _why_not(rest: str, spans: list[tuple[int, int]], prefix: str) -> str:
    if not spans:
        return f"no number follows {prefix}"
    if re.search(r"\d\.\d*\.", rest):
        return "two points in one number"
    if len(spans) > 1:
        return f"two numbers: {rest[slice(*spans[0])]} and {rest[slice(*spans[1])]}"
    if rest[: spans[0][0]].strip():
        return "something stands before the number"
    unit = rest[spans[0][1] :].strip()
    return f"“{unit[:20]}” is no unit known here" if unit and unit not in KNOWN else "it is written in a way that cannot be read"
