"""Cells: how a column reads one of them, and says how it was read."""

import re
from datetime import date
from typing import Any

from django.utils.translation import gettext as _

from binsort.core.products.availability import STATE_OF
from binsort.core.products.catalogue_reader import read_properties
from binsort.core.products.product import Property
from binsort.core.values.amounts import COMMA, POINT, read_amount, said_amount
from binsort.core.values.dates import day, instant
from binsort.core.values.nothing import is_nothing
from binsort.core.values.numbers import Number
from binsort.core.values.text import category_path, identity, split_cell
from binsort.core.values.units import convert
from binsort.core.values.written_dates import read_date, said_date
from binsort.core.values.yes_no import SHOWN, YES_NO

from .columns import DATES, WORDED, MappedColumn, date_order

CHOICES: dict[str, dict[str, Any]] = {"availability": STATE_OF, "visible": SHOWN}  # of columns that take one of some words
_TIME = re.compile(r"(\S+)[ T]+([0-9]{1,2}:[0-9]{2}(?::[0-9]{2})?)")


class Unread(ValueError):
    """A cell that cannot be read: why, how to mend it, and what it may mean."""

    def __init__(self, reason: str, mend: str, proposal: str = "") -> None:
        self.reason, self.mend, self.proposal = reason, mend, proposal
        super().__init__(reason)


def says_nothing(column: MappedColumn, text: str) -> bool:
    """Tell whether a cell of a column is empty in other words."""
    return column.kind not in WORDED and column.nothing != "value" and is_nothing(text)


def read_number(column: MappedColumn, text: str) -> tuple[Number, str]:
    """Return a number and the sign or letters beside it. Raises Unread."""
    read = read_amount(text, column.decimal)
    if read is None:
        raise Unread(*_why_no_number(text, column))
    return read


def _why_no_number(text: str, column: MappedColumn) -> tuple[str, str, str]:
    other = read_amount(text, COMMA if column.decimal == POINT else POINT) or read_amount(text)
    if other is None:
        first = re.match(r"\s*[-0-9][0-9.,]*", text)
        alone = read_amount(first[0].strip(" .,"), column.decimal) if first else None
        return _("is no number"), _("Write it in digits, as 12.50."), said_amount(alone[0]) if alone else ""
    sign = _("comma") if column.decimal == COMMA else _("point")
    reason = _("has other signs than the rest of the column, where a %(sign)s parts decimals") % {"sign": sign}
    said = said_amount(other[0])
    proposal = said.replace(",", "").replace(".", ",") if column.decimal == COMMA else said
    return reason, _("Write it with a decimal %(sign)s.") % {"sign": sign}, f"{proposal} {other[1]}".strip()


def read_day(column: MappedColumn, text: str) -> date:
    """Return a date as written. Raises Unread."""
    read = day(text) or read_date(text, column.dates or date_order())
    if read is None:
        order = _("day") if (column.dates or date_order()) == "day" else _("month")
        raise Unread(_("is no date whose %(order)s comes first") % {"order": order}, _("Write it as 2026-12-31."))
    return read


def read_moment(column: MappedColumn, text: str) -> str:
    """Return a date or a date with a time as ISO 8601 has it. Raises Unread."""
    if instant(text) is not None:
        return text
    timed = _TIME.fullmatch(text)
    read = read_day(column, timed[1] if timed else text).isoformat()
    return f"{read}T{timed[2].zfill(5)}" if timed else read


def read_choice(column: MappedColumn, text: str) -> Any:
    """Return what one of some words means. Raises Unread."""
    choices = CHOICES[column.kind]
    plain = re.sub(r"[\s_-]+", " ", text.rsplit("/", 1)[-1]).strip().lower()
    if plain not in choices:
        raise Unread(_("is not understood"), _("Write one of: %(choices)s.") % {"choices": ", ".join(dict.fromkeys(choices))})
    return choices[plain]


def category_of(column: MappedColumn, text: str) -> tuple[str, ...]:
    """Return the names of a category and of those above it, from the top down."""
    return category_path(text if column.steps == ">" else text.replace(column.steps, ">"))


def read_attribute(column: MappedColumn, text: str) -> tuple[Property, ...]:
    """Return the attribute that a cell gives. Raises Unread."""
    values: list[Any] = []
    unit = column.unit
    for part in split_cell(text, column.separator):
        if says_nothing(column, part):
            continue
        read = read_amount(part, column.decimal) if column.is_number else None
        if read is None and column.is_number and read_amount(part) is not None:
            raise Unread(*_why_no_number(part, column))
        if read is None or (read[1] and values and read[1] != unit):
            values.append(_text(column, part))
        else:
            unit = read[1] or unit
            values.append(read[0])
    return read_properties([{"name": column.name, "value": values, "unitText": unit}]) if values else ()


def _text(column: MappedColumn, part: str) -> str:
    """Return a value that is no number: as written, or as dates and yes and no are written everywhere."""
    if column.is_flag and (flag := YES_NO.get(identity(part))) is not None:
        return "yes" if flag else "no"
    if column.is_date and (read := day(part) or read_date(part, column.dates or date_order())):
        return read.isoformat()
    return part


def said_cell(column: MappedColumn, text: str) -> str:
    """Return how a cell is read, in words, where that is not as it is written."""
    if says_nothing(column, text):
        return _("nothing")
    try:
        said = _said(column, text)
    except Unread:
        return _("unread")
    return "" if said == text else said


def _said(column: MappedColumn, text: str) -> str:
    if column.kind in DATES or column.is_date:
        return said_date(date.fromisoformat(read_moment(column, text)[:10]), brief=True) if not text[:4].isdigit() else text
    if column.kind == "visible":
        return _("shown") if read_choice(column, text) else _("hidden")
    if column.kind == "category":
        return " > ".join(category_of(column, text))
    if column.is_number and not column.separator:
        return _said_number(column, text)
    if column.kind == "attribute" and column.is_flag:
        return _text(column, text)
    return text


def _said_number(column: MappedColumn, text: str) -> str:
    read = read_amount(text, column.decimal)
    if read is None:
        return text if column.kind == "attribute" else _said_unread(column, text)
    number, unit = read
    said = said_amount(number)
    if column.kind == "attribute" and unit and column.unit and unit != column.unit:
        here = convert(number, unit, column.unit)
        return f"{said_amount(here)} {column.unit}" if here is not None else text
    plain = said.replace(",", "")
    return text if text in (plain, said) or _is_as_written(text, number) else f"{said} {unit}".strip()


def _is_as_written(text: str, number: Number) -> bool:
    """Tell whether digits with a decimal point say the same, but for zeros behind."""
    return bool(re.fullmatch(r"-?[0-9]+(\.[0-9]+)?", text)) or bool(re.fullmatch(r"[£$€]?-?[0-9]+(\.[0-9]+)?", text) and number >= 0)


def _said_unread(column: MappedColumn, text: str) -> str:
    raise Unread(*_why_no_number(text, column))
