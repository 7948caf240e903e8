"""Questions: what a column does not tell by itself, with its answers; it is read as the one marked until somebody says otherwise."""

from collections.abc import Sequence
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.values.amounts import COMMA, POINT, is_unclear, read_amount, said_amount
from binsort.core.values.nothing import is_nothing
from binsort.core.values.text import split_cell
from binsort.core.values.written_dates import DAY_FIRST, MONTH_FIRST, day_order, read_date, said_date

from .cautions import Cautions
from .columns import DATES, NAMING, STEPS, WORDED, MappedColumn, date_order

ANSWERS = {  # the fields of a column that somebody can answer, and the answers
    "decimal": (POINT, COMMA),
    "dates": (DAY_FIRST, MONTH_FIRST),
    "nothing": ("", "value"),
    "steps": STEPS,
}  # fmt: skip


def questions_of(column: MappedColumn, values: Sequence[str], cautions: Cautions) -> list[dict[str, Any]]:
    """Return what is asked of a column: each with ``field``, ``text``, ``choices`` (answer and words), ``chosen``, ``settled``.

    Args:
        column: what it is read as.
        values: samples.
        cautions: of the trial, for how often words for nothing stand in it.
    """
    kept = [value for value in values if not is_nothing(value)]
    parts = [part for value in kept for part in split_cell(value, column.separator)]
    asked = [_signs(column, parts), _dates(column, parts), _nothing(column, values, cautions), _steps(column, kept)]
    return [{**question, "settled": question["field"] in column.settled} for question in asked if question]


def _signs(column: MappedColumn, parts: Sequence[str]) -> dict[str, Any] | None:
    settled = "decimal" in column.settled
    example = next((part for part in parts if is_unclear(part)), "") if column.is_number and (settled or not column.decimal) else ""
    readings = [(mark, read_amount(example, mark)) for mark in (POINT, COMMA)] if example else []
    if not example or any(read is None for _mark, read in readings):
        return None
    alone = read_amount(example)
    chosen = column.decimal or next((mark for mark, read in readings if read == alone), POINT)
    choices = [[mark, said_amount(read[0])] for mark, read in readings if read]
    return {
        "field": "decimal",
        "text": _("%(example)s can be read in two ways") % {"example": example},
        "choices": choices,
        "chosen": chosen,
    }


def _dates(column: MappedColumn, parts: Sequence[str]) -> dict[str, Any] | None:
    if (column.kind not in DATES and not column.is_date) or day_order(parts):
        return None
    both = ((part, read_date(part, DAY_FIRST), read_date(part, MONTH_FIRST)) for part in parts)
    example = next(((part, one, other) for part, one, other in both if one and other and one != other), None)
    if example is None:
        return None
    part, one, other = example
    choices = [[DAY_FIRST, said_date(one)], [MONTH_FIRST, said_date(other)]]
    text = _("%(example)s can be read in two ways") % {"example": part}
    return {"field": "dates", "text": text, "choices": choices, "chosen": column.dates or date_order()}


def _nothing(column: MappedColumn, values: Sequence[str], cautions: Cautions) -> dict[str, Any] | None:
    if column.kind in WORDED or column.kind in NAMING or column.is_number or column.kind in DATES:
        return None
    words = list(dict.fromkeys(value for value in values if is_nothing(value)))
    count = cautions.count("nothing", column.header)
    if not words and not count:
        return None
    named = ", ".join(f"“{word}”" for word in words[:3]) or _("A word for nothing")
    text = ngettext("%(named)s in %(count)s row", "%(named)s in %(count)s rows", count) if count else "%(named)s"
    words_for = {"named": named, "count": f"{count:,}"}
    choices = [["", _("Nothing")], ["value", _("A value")]]
    return {"field": "nothing", "text": text % words_for, "choices": choices, "chosen": column.nothing}


def _steps(column: MappedColumn, values: Sequence[str]) -> dict[str, Any] | None:
    if column.kind != "category":
        return None
    fits = [sign for sign in STEPS[1:] if any(sign in value.strip(sign) for value in values)]
    if not fits or any(">" in value for value in values):
        return None
    sign = column.steps if column.steps in fits else fits[0]
    example = next(value for value in values if sign in value.strip(sign))
    choices = [[sign, example.replace(sign, " > ")], [">", _("one name")]]
    return {"field": "steps", "text": _("%(example)s is") % {"example": example}, "choices": choices, "chosen": column.steps}
