"""Meanings: what each column of a table is, guessed from its header and its values, to be put right by hand."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from babel.dates import get_date_format
from django.conf import settings

from binsort.core.products.fields import FIELDS
from binsort.core.values.amounts import decimal_sign, read_amount, said_amount
from binsort.core.values.nothing import is_nothing
from binsort.core.values.text import identity, normalise, split_cell
from binsort.core.values.units import KNOWN
from binsort.core.values.written_dates import day_order, read_date, said_date
from binsort.core.values.yes_no import YES_NO


@dataclass(frozen=True, slots=True)
class Meaning:
    """What a column of a table can be: of a field of products, or of what rows are."""

    words: str
    headers: str = ""  # by which it is recognised, letter case, blanks and signs disregarded
    is_number: bool = False
    many: bool = False


MEANINGS: dict[str, Meaning] = {
    "identity": Meaning(
        "Product number",
        "id; product id; product number; product code; number; productgroupid; item id; item number; item no; item code; "
        "article number; article no; article code; part number; part no; stock code; stock number; stock no",
    ),
    "sku": Meaning("SKU", "sku; stock keeping unit; variant sku; variant number; article"),
    "parent": Meaning(
        "Number of the product it is a variant of", "parent; parent id; parent sku; parent number; variant of; belongs to; group id"
    ),
    **{
        column.kind: Meaning(column.label, f"{column.label.lower()}; {column.headers}", column.is_number, column.many)
        for field in FIELDS
        for column in field.columns
    },
    "product": Meaning("Product as JSON", "product as json"),
    "product_more": Meaning("Product as JSON, further part"),
    "unused": Meaning("Left out"),
}
_BY_HEADER = {name: kind for kind, meaning in MEANINGS.items() for name in meaning.headers.split("; ") if name}
LISTS = frozenset({"attribute", *(kind for kind, meaning in MEANINGS.items() if meaning.many)})  # where a cell may hold several values
NUMBERS = frozenset(kind for kind, meaning in MEANINGS.items() if meaning.is_number)
DATES = frozenset({"published", "sale_start", "sale_end"})
WORDED = frozenset({"name", "description", "product", "product_more", "unused"})  # where a word for nothing is a word
NAMING = frozenset({"identity", "sku", "parent"})  # what says which product a row is of
STEPS = (">", "›", "»", "/", "\\")  # that part the names of categories from the top down
LONGEST_UNIT = 8  # letters of one that is not known
TEXT_MARK = "text"  # in brackets behind a header: its cells are texts though they look like numbers
_IN_BRACKETS = re.compile(r"(.*\S)\s*[(\[]([^()\[\]]+)[)\]]")
_MANY = 0.8  # of the cells of a column must be numbers for it to be one of numbers
_SOME = 0.5  # must have a sign other than > for it to part categories
_NEARLY_ALL = 0.95  # must be dates for it to be one of dates


@dataclass(frozen=True, slots=True)
class KnownAttribute:
    """An attribute of the dictionary."""

    name: str
    kind: str
    unit: str


@dataclass(frozen=True, slots=True)
class MappedColumn:
    """A column of a table and what it is."""

    header: str
    kind: str  # of MEANINGS, or "attribute"
    name: str = ""  # of an attribute
    unit: str = ""
    separator: str = ""  # between several values in one cell
    is_number: bool = False
    why: str = ""  # it was guessed to be this, in words
    decimal: str = ""  # the sign that parts decimals, where the column tells
    read_as: str = ""  # an example of a number or date that could be read in another way, in words
    dates: str = ""  # of dates: which of day and month comes first, where the column tells or somebody said
    is_date: bool = False  # of an attribute: its texts are dates
    is_flag: bool = False  # of an attribute: its texts say yes or no
    steps: str = ">"  # of categories: what parts them from the top down
    nothing: str = ""  # "value" where words for nothing are values
    settled: Sequence[str] = ()  # the questions that somebody answered, see questions.py


def guessed(
    header: Sequence[str], samples: Sequence[Sequence[str]], known: Mapping[str, KnownAttribute] | None = None
) -> tuple[MappedColumn, ...]:
    """Guess what columns are.

    Args:
        header: their names.
        samples: of each column some of its values.
        known: the attributes of the dictionary by the identity of their name.
    """
    taken: set[str] = set()
    columns = []
    for title, values in zip(header, samples, strict=True):
        kind = _kind_named(title)
        if kind in taken and kind != "product_more":
            kind = "attribute"
        taken.add(kind if kind != "attribute" else "")
        columns.append(column_of(title, kind, values, known or {}))
    kinds = {column.kind for column in columns}
    if "identity" not in kinds and "sku" in kinds and "parent" not in kinds:
        columns = [MappedColumn(c.header, "identity", why="Sure: the only number there is") if c.kind == "sku" else c for c in columns]
    return tuple(columns)


def _kind_named(title: str) -> str:
    """Return the kind of column that a header names."""
    plain = _plain(title)
    if re.fullmatch(r"product as json [0-9]+", plain):
        return "product_more"
    return _BY_HEADER.get(plain, "attribute") if title else "unused"


def _plain(title: str) -> str:
    return " ".join(re.sub(r"[^a-z0-9]+", " ", identity(title)).split())


def column_of(title: str, kind: str, values: Sequence[str], known: Mapping[str, KnownAttribute], name: str = "") -> MappedColumn:
    """Return a column of some kind as its values suggest.

    Args:
        title: its header.
        kind: of :data:`MEANINGS`, or "attribute".
        values: samples.
        known: the attributes of the dictionary by the identity of their name.
        name: of the attribute, where it is not in the header.
    """
    separator = _separator(kind, values)
    values = values if kind in WORDED else [value for value in values if not is_nothing(value)]
    if kind != "attribute":
        why = {"unused": "Without a name" if not title else "Left out"}.get(kind, "Sure: named so")
        is_number = kind in NUMBERS
        signs = _signs(values) if is_number else _dates(values) if kind in DATES else {}
        steps = _steps(values) if kind == "category" else ">"
        return MappedColumn(title, kind, separator=separator, is_number=is_number, why=why, steps=steps, **signs)
    own, mark = _parted(title, values, separator)
    is_text, unit = mark == TEXT_MARK, mark if mark != TEXT_MARK else ""
    definition = known.get(identity(name or own)) or known.get(identity(title))
    parts = [part for value in values for part in split_cell(value, separator)]
    guess = _guessed_kind(parts) if not is_text else "text"
    guess = definition.kind if definition else guess
    unit = unit or (definition.unit if definition and guess == "number" else "")
    signs = _signs(parts) if guess == "number" else _dates(parts) if guess == "date" else {}
    in_words = {"number": "numbers", "date": "dates", "yes_no": "yes or no"}.get(guess, "texts")
    why = f"New attribute: {in_words}{f' in {unit}' if unit else ''}"
    if definition:
        also = "" if not unit else f"; {unit} in the heading" if own != title else f"; numbers in its {unit}"
        why = f"Sure: an attribute of yours{also}"
    called = definition.name if definition else normalise(name or own)
    return MappedColumn(
        title, "attribute", called, unit, separator, guess == "number", why, is_date=guess == "date", is_flag=guess == "yes_no", **signs
    )


def _guessed_kind(parts: Sequence[str]) -> str:
    """Return the kind of attribute that values suggest: most of them must be numbers, nearly all dates, all of them yes or no."""
    if not parts:
        return "text"
    if sum(read_amount(part) is not None for part in parts) >= _MANY * len(parts):
        return "number"
    if all(identity(part) in YES_NO for part in parts):
        return "yes_no"
    order = day_order(parts)
    dates = sum(read_date(part, order or "day") is not None for part in parts)
    return "date" if dates >= _NEARLY_ALL * len(parts) else "text"


def _signs(values: Sequence[str]) -> dict[str, Any]:
    """Return how the numbers of a column are read, with an example where one has a sign that could mean something else."""
    decimal = decimal_sign(values)
    told = [value for value in values if "," in value or (decimal == "," and "." in value)]
    example = max(told, key=lambda value: ("." in value and "," in value, "," in value), default="")
    read = read_amount(example, decimal) if example else None
    return {"decimal": decimal, "read_as": f"{example} is {said_amount(read[0])}" if read else ""}


def _dates(values: Sequence[str]) -> dict[str, Any]:
    """Return how the dates of a column are read, with an example."""
    order = day_order(values)
    usual = order or date_order()
    example = next((value for value in values if not value[:4].isdigit() and read_date(value, usual)), "")
    read = read_date(example, usual) if example else None
    return {"dates": order, "read_as": f"{example} is {said_date(read)}" if read else ""}


def date_order() -> str:
    """Return which of day and month comes first where the shop is."""
    pattern = get_date_format("short", locale=settings.LOCALE).pattern.lower()
    return "month" if pattern.find("m") < pattern.find("d") else "day"


def _steps(values: Sequence[str]) -> str:
    """Return what parts categories from the top down: the sign that most of the cells have."""
    counts = {sign: sum(sign in value.strip(sign) for value in values) for sign in STEPS}
    best = max(STEPS, key=lambda sign: counts[sign])
    return best if counts[best] and counts[best] >= _SOME * len(values) and not counts[">"] else ">"


def _parted(title: str, values: Sequence[str], separator: str) -> tuple[str, str]:
    """Return a header without what stands in brackets behind it, and that, where it is a unit or the mark of texts."""
    match = _IN_BRACKETS.fullmatch(title)
    mark = match[2].strip() if match else ""
    if match is None or not mark:
        return title, ""
    if mark in KNOWN or mark == TEXT_MARK:
        return match[1], mark
    parts = [part for value in values for part in split_cell(value, separator)]
    measured = parts and sum(read_amount(part) is not None for part in parts) >= _MANY * len(parts)
    return (match[1], mark) if measured and len(mark) <= LONGEST_UNIT and " " not in mark else (title, "")


def _separator(kind: str, values: Sequence[str]) -> str:
    """Return what parts several values in a cell: a bar or a semicolon where there is one; of tags a comma, too."""
    if kind not in LISTS:
        return ""
    choices = "|;," if kind == "tags" else "|;"
    return next((sign for sign in choices if any(sign in value for value in values)), "")
