"""Entering: what is typed into a field, read as the dictionary defines it, or refused with the way to mend it."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from django.utils.translation import gettext as _

from binsort.catalog.models import Attribute
from binsort.core.facets.spec import Source
from binsort.core.products.availability import STATE_OF, STATE_WORDS
from binsort.core.products.edits import ADD, EMPTY, LISTS, REMOVE, REPLACE, SET, Edit, Field, Held, value_text
from binsort.core.products.fields import BAR, BY_KEY, FIELDS, NUMERIC
from binsort.core.products.product import Sale
from binsort.core.values.amounts import read_amount
from binsort.core.values.dates import day, instant
from binsort.core.values.text import category_path, identity, split_cell
from binsort.core.values.units import KNOWN, convert
from binsort.core.values.yes_no import YES_NO

_SALE = re.compile(r"(.+?)(?:\s+from\s+(\S+))?(?:\s+to\s+(\S+))?")


class BadValue(ValueError):
    """What was typed is no value of the field; the text says why and what to write."""


@dataclass(frozen=True, slots=True)
class Entry:
    """A field as people see it: what it is called and what may be typed."""

    field: Field
    label: str
    kind: str  # choice, text, number, yes_no, date, money, category, state
    many: bool
    note: str = ""

    @property
    def key(self) -> str:
        """How pages name it."""
        return self.field.key

    @property
    def unit(self) -> str:
        """The unit of its numbers."""
        return self.field.unit


_OF_PRODUCTS = tuple(Entry(Field(field.key), field.label, field.kind, field.many) for field in FIELDS if field.kind)


def entries(attributes: Mapping[str, Attribute]) -> dict[str, Entry]:
    """Return every field by its key: those of all products, then the attributes of the dictionary."""
    by_key = {entry.key: entry for entry in _OF_PRODUCTS}
    for row in attributes.values():
        entry = entry_of(row)
        by_key[entry.key] = entry
    return by_key


def entry_of(row: Attribute) -> Entry:
    """Return an attribute as a field."""
    return Entry(Field("attribute", row.name, row.unit), row.name, row.kind, row.many, row.note)


def source_of(entry: Entry) -> Source | None:
    """Return what a field is to the counting engine, None for fields that it does not know."""
    if entry.field.kind == "attribute":
        return Source("attribute", entry.field.name)
    kind = BY_KEY[entry.field.kind].source
    return Source(kind) if kind else None


def typed(entry: Entry, text: str) -> tuple[Held, ...]:
    """Return the values that were typed, several parted by a bar; none for an empty text.

    Raises:
        BadValue: a value does not fit the field, or there are several where one belongs.
    """
    parts = split_cell(text, BAR if entry.many or entry.field.kind == "attribute" else "")
    values = tuple(_one(entry, part) for part in parts)
    if len(values) > 1 and not entry.many:
        raise BadValue(
            _("%(label)s has one value, not %(found)s. Leave one, or let it have several in the dictionary.")
            % {"label": entry.label, "found": len(values)}
        )
    if not values and entry.field.kind in BY_KEY and BY_KEY[entry.field.kind].needed:
        raise BadValue(_("A product needs a %(lower)s.") % {"lower": entry.label.lower()})
    return values


def _one(entry: Entry, text: str) -> Held:
    if "\0" in text:
        raise BadValue(_("It holds a character that no text may."))
    if entry.field.kind == "visible":
        return (_yes(entry, text), "")
    if entry.kind == "number" or entry.field.kind in NUMERIC:
        return _number(entry, text)
    if entry.kind == "yes_no":
        return ("yes" if _yes(entry, text) else "no", "")
    if entry.kind == "date":
        date = day(text)
        if date is None:
            raise BadValue(_("“%(text)s” is no date. Write it as 2026-12-31.") % {"text": text})
        return (date if entry.field.kind == "published" else date.isoformat(), "")
    if entry.kind == "state":
        state = STATE_OF.get(" ".join(identity(text).replace("-", " ").split()))
        if state is None:
            raise BadValue(_("“%(text)s” is no stock state. Write in stock, sold out, back order or made to order.") % {"text": text})
        return (state, "")
    if entry.kind == "category":
        return (category_path(text), "")
    if entry.kind == "sale":
        return (_sale(text), "")
    return (text, "")


def _sale(text: str) -> Sale:
    match = _SALE.fullmatch(text)
    read = read_amount(match[1]) if match else None
    start = instant(match[2]) if match and match[2] else None
    end = instant(match[3], end=True) if match and match[3] else None
    if match is None or read is None or (match[2] and start is None) or (match[3] and end is None):
        raise BadValue(_("“%(text)s” is no sale price. Write it as 9.50, or as 9.50 from 2026-12-01 to 2026-12-24.") % {"text": text})
    return Sale(read[0], start, end)


def _yes(entry: Entry, text: str) -> bool:
    answer = YES_NO.get(identity(text))
    if answer is None:
        raise BadValue(_("“%(text)s” is neither yes nor no.") % {"text": text})
    return answer


def _number(entry: Entry, text: str) -> Held:
    read = read_amount(text)
    if read is None:
        unit = f", in {entry.unit}" if entry.unit else ""
        raise BadValue(_("“%(text)s” is no number. Write it in digits%(unit)s, as 12.5.") % {"text": text, "unit": unit})
    number, unit = read
    if entry.field.kind in NUMERIC:
        field = BY_KEY[entry.field.kind]
        if not field.takes(number):
            words = {"text": text, "label": entry.label.lower(), "limits": field.limits}
            raise BadValue(_("“%(text)s” is no %(label)s. Write a number %(limits)s.") % words)
        if unit and unit in KNOWN:
            raise BadValue(_("%(label)s has no unit. Leave “%(unit)s” out.") % {"label": entry.label, "unit": unit})
        return (number, "")
    if not unit or unit == entry.unit:
        return (number, entry.unit)
    here = convert(number, unit, entry.unit) if entry.unit else None
    if here is None:
        measured = f"{entry.label} is measured in {entry.unit}" if entry.unit else f"{entry.label} has no unit"
        raise BadValue(_("%(measured)s, which %(unit)s cannot be turned into.") % {"measured": measured, "unit": unit})
    return (here, entry.unit)


def shown(entry: Entry, values: tuple[Held, ...]) -> str:
    """Write values as they are typed."""
    return f" {BAR} ".join(_shown(entry, value) for value in values)


def _shown(entry: Entry, value: Held) -> str:
    if entry.kind == "state":
        return STATE_WORDS.get(value[0], str(value[0]))
    if entry.field.kind == "published":
        return str(value[0].isoformat())
    return value_text(value, entry.field)


def edit_of(entry: Entry, way: str, text: str, old: str = "") -> Edit:
    """Return the edit that somebody typed. Raises BadValue."""
    if way == EMPTY:
        return Edit(entry.field, SET, typed(entry, ""), None)
    values = typed(entry, text)
    replaced = typed(entry, old) if old else ()
    if way == SET and not values:
        raise BadValue(_("Write the value to set, or choose “Empty” to take the values away."))
    if way != SET and entry.field.kind not in LISTS and way != REPLACE:
        raise BadValue(_("%(label)s has one value: set it.") % {"label": entry.label})
    if way in (ADD, REMOVE) and not values:
        raise BadValue(_("Write the value."))
    if way == REPLACE and not replaced:
        raise BadValue(_("Write the value that is to be replaced."))
    return Edit(entry.field, way, values, replaced[0] if replaced else None)
