"""The form of how a facet looks to shoppers."""

from copy import deepcopy
from fractions import Fraction
from typing import Any

from django import forms
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets.kinds import kind_of
from binsort.core.values.amounts import read_amount
from binsort.core.values.dates import day
from binsort.core.values.numbers import written
from binsort.core.values.text import normalise
from binsort.racks.controls import control_of
from binsort.racks.number_words import MOST_DECIMALS
from binsort.racks.presentation import SHOWN_BINS
from binsort.racks.shown_facet import ALL, MORE, SCROLL, Style

Document = dict[str, Any]
_LIMIT = dict.fromkeys(("invalid", "min_value", "max_value", "required"), _l("Write a number from 1 to 500."))


MOST_LEVELS = 3  # of categories that can be set; more are all


def _tray(label: Any, *choices: tuple[str, Any]) -> forms.ChoiceField:
    return forms.ChoiceField(label=label, choices=choices, widget=forms.RadioSelect, required=False)


class LookForm(forms.Form):
    """What a facet's look says, filled from its document; only what bears on its control is there."""

    title = _tray(_l("Title"), ("on", _l("Shown")), ("off", _l("Hidden")))
    help = forms.CharField(label=_l("Help text"), required=False, max_length=160)
    label = _tray(_l("Label goes"), ("right", _l("right")), ("left", _l("left")), ("below", _l("below")), ("none", _l("none")))
    open = _tray(_l("Starts open on a desktop"), ("on", _l("Open")), ("off", _l("Shut")))
    open_on_phone = _tray(_l("Starts open on a phone"), ("on", _l("Open")), ("off", _l("Shut")))
    search_engines = _tray(_l("Search engines"), ("on", _l("May list its bins")), ("off", _l("Kept out")))
    search = _tray(_l("Search inside"), ("off", _l("Off")), ("on", _l("On")), ("auto", _l("From 15 up")))
    counts = _tray(_l("Counts"), ("on", _l("On")), ("off", _l("Off")))
    more = _tray(_l("After so many"), (MORE, _l("Show more")), (SCROLL, _l("Scroll")), (ALL, _l("All")))
    limit = forms.IntegerField(label=_l("So many are"), min_value=1, max_value=500, error_messages=_LIMIT)
    columns = _tray(_l("Columns"), ("0", _l("Usual")), ("1", "1"), ("2", "2"), ("3", "3"))
    levels = _tray(_l("Levels drawn"), ("1", "1"), ("2", "2"), ("3", "3"), ("0", _l("All")))
    least = forms.CharField(label=_l("Begins at"), required=False, max_length=40)
    most = forms.CharField(label=_l("Ends at"), required=False, max_length=40)
    step = forms.CharField(label=_l("Goes in steps of"), required=False, max_length=20)
    marks = _tray(_l("Round numbers under it"), ("on", _l("Shown")), ("off", _l("Hidden")))
    before = forms.CharField(label=_l("Before a number"), required=False, max_length=12, strip=False)
    behind = forms.CharField(label=_l("Behind a number"), required=False, max_length=16, strip=False)
    decimals = forms.IntegerField(label=_l("Decimals"), required=False, min_value=0, max_value=MOST_DECIMALS)
    grouped = _tray(_l("Thousands"), ("on", "1,000"), ("off", "1000"))

    LEFT = ("title", "help", "label")
    BELOW = ("least", "most", "step", "marks", "before", "behind", "decimals", "grouped")

    def __init__(self, data: Any = None, *, document: Document, has_numbers: bool) -> None:
        self.document = document
        super().__init__(data, initial=_initial(document), auto_id="id_%s")
        control, kind = control_of(document.get("look", {})), kind_of(document["source"]["kind"])
        gone = set() if control.in_columns else {"label", "search", "more", "limit", "columns"}
        gone |= set() if control.is_range else {"least", "most", "step"}
        gone |= {"counts"} if control.is_range else set()
        gone |= set() if kind.has_numbers and has_numbers else {"before", "behind", "decimals", "grouped"}
        gone |= {"step", "marks"} if not control.has_bars else set()
        gone |= set() if kind.is_tree and not control.opens_levels and not document.get("bins", {}).get("only") else {"levels"}
        for name in gone:
            del self.fields[name]

    @property
    def left(self) -> list[forms.BoundField]:
        """The settings at the left of the drawing."""
        return [self[name] for name in self.fields if name in self.LEFT]

    @property
    def right(self) -> list[forms.BoundField]:
        """Those at its right."""
        return [self[name] for name in self.fields if name not in (*self.LEFT, *self.BELOW)]

    @property
    def below(self) -> list[forms.BoundField]:
        """Those of numbers, under it."""
        return [self[name] for name in self.fields if name in self.BELOW]

    def clean_least(self) -> Any:
        """Read a fixed end."""
        return self._end("least")

    def clean_most(self) -> Any:
        """Read a fixed end."""
        return self._end("most")

    def clean_step(self) -> Any:
        """Read a step."""
        step = self._end("step")
        if step is not None and not step > 0:
            raise forms.ValidationError(_("Write a step above 0, or nothing for any number."))
        return step

    def _end(self, name: str) -> Any:
        text = self.cleaned_data[name].strip()
        if not text:
            return None
        if kind_of(self.document["source"]["kind"]).has_dates and name != "step":
            if day(text) is None:
                raise forms.ValidationError(_("Write a day such as 2026-03-01, or nothing to take it from the data."))
            return text
        read = read_amount(text)
        if read is None:
            raise forms.ValidationError(_("Write a number such as 10 or 2.5, or nothing to take it from the data."))
        return read[0]


def _initial(document: Document) -> Document:
    look = document.get("look", {})
    style, ends, numbers = Style.of(look), look.get("ends", {}), look.get("numbers", {})
    return {
        "title": "on" if style.title else "off", "help": style.help, "label": style.label,
        "open": "on" if look.get("open", True) is not False else "off", "open_on_phone": "on" if style.open_on_phone else "off",
        "search_engines": "on" if look.get("search_engines") is True else "off", "search": style.search,
        "counts": "on" if look.get("counts", True) is not False else "off", "more": style.more,
        "limit": look.get("limit") or SHOWN_BINS, "columns": str(style.columns), "levels": str(min(look.get("levels", 0), MOST_LEVELS)),
        "least": _said(ends.get("least")), "most": _said(ends.get("most")), "step": _said(look.get("step")),
        "marks": "on" if look.get("marks") is True else "off",
        "before": numbers.get("prefix", ""), "behind": numbers.get("suffix", ""), "decimals": numbers.get("decimals"),
        "grouped": "on" if numbers.get("grouped", True) is not False else "off",
    }  # fmt: skip


def _said(value: Any) -> str:
    return written(value) if isinstance(value, int | Fraction) else str(value or "")


_USUAL: Document = {
    "title": True, "help": "", "label": "right", "open": True, "open_on_phone": False, "search_engines": False,
    "search": "auto", "counts": True, "more": MORE, "limit": SHOWN_BINS, "columns": 0, "levels": 0, "step": None, "marks": False,
}  # fmt: skip


def look_document(form: LookForm) -> Document:
    """Return the facet's document as the valid form says; what is as usual is not written down."""
    changed = deepcopy(form.document)
    look = dict(changed.get("look", {}))
    cleaned = form.cleaned_data
    for name, usual in _USUAL.items():
        if name not in form.fields:
            continue
        value = cleaned[name]
        if isinstance(usual, bool):
            value = (value or ("on" if usual else "off")) == "on"
        elif name in ("columns", "levels"):
            value = int(value or 0)
        elif name == "help":
            value = normalise(value)
        look.pop(name, None)
        if value not in (usual, "", None):
            look[name] = value
    _put(look, "ends", {name: cleaned[name] for name in ("least", "most") if cleaned.get(name) is not None}, form, "least")
    named = (("prefix", "before"), ("suffix", "behind"), ("decimals", "decimals"))
    numbers = {name: cleaned[field] for name, field in named if cleaned.get(field) not in (None, "")}
    if cleaned.get("grouped") == "off":
        numbers["grouped"] = False
    _put(look, "numbers", numbers, form, "before")
    if look:
        changed["look"] = look
    else:
        changed.pop("look", None)
    return changed


def _put(look: Document, name: str, value: Document, form: LookForm, asked: str) -> None:
    if asked in form.fields:
        look.pop(name, None)
        if value:
            look[name] = value
