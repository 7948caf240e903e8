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
from binsort.racks.controls import control_of, has_ranges
from binsort.racks.number_words import MOST_DECIMALS
from binsort.racks.presentation import SHOWN_BINS
from binsort.racks.shown_facet import ALL, MORE, SCROLL, Style

Document = dict[str, Any]
_LIMIT = dict.fromkeys(("invalid", "min_value", "max_value", "required"), _l("Write a number from 1 to 500."))


_MOST_MARKS = 12
MOST_LEVELS = 3  # of categories that can be set; more are all


def _tray(label: Any, *choices: tuple[str, Any]) -> forms.ChoiceField:
    return forms.ChoiceField(label=label, choices=choices, widget=forms.RadioSelect, required=False)


LABELS = (
    ("right", _l("right")), ("left", _l("left")), ("below", _l("below")), ("hover", _l("on hover")), ("none", _l("none")),
)  # fmt: skip


class LookForm(forms.Form):
    """What a facet's look says, filled from its document; only what bears on its control is there."""

    title = _tray(_l("Title"), ("on", _l("Shown")), ("off", _l("Hidden")))
    help = forms.CharField(label=_l("Help text"), required=False, max_length=160)
    label = _tray(_l("Label goes"), *LABELS)
    open = _tray(_l("Starts open on a desktop"), ("on", _l("Open")), ("off", _l("Shut")))
    open_on_phone = _tray(_l("Starts open on a phone"), ("on", _l("Open")), ("off", _l("Shut")))
    search_engines = _tray(_l("Search engines"), ("on", _l("May list its bins")), ("off", _l("Kept out")))
    search = _tray(_l("Search inside"), ("off", _l("Off")), ("on", _l("On")), ("auto", _l("From 15 up")))
    counts = _tray(_l("Counts"), ("on", _l("Always")), ("picked", _l("Once picked")), ("off", _l("Never")))
    more = _tray(_l("After so many"), (MORE, _l("Show more")), (SCROLL, _l("Scroll")), (ALL, _l("All")))
    limit = forms.IntegerField(label=_l("So many are"), min_value=1, max_value=500, error_messages=_LIMIT)
    columns = _tray(_l("Columns"), ("0", _l("Usual")), ("1", "1"), ("2", "2"), ("3", "3"))
    size = _tray(_l("Size of each"), ("small", _l("Small")), ("usual", _l("Usual")), ("large", _l("Large")))
    cut = _tray(
        _l("Several colours"), ("corner", _l("Slanted")), ("stripes", _l("Stripes")), ("halves", _l("Halves")), ("sectors", _l("Sectors"))
    )
    line = _tray(_l("Line between them"), ("off", _l("None")), ("on", _l("A line")))
    levels = _tray(_l("Levels drawn"), ("1", "1"), ("2", "2"), ("3", "3"), ("0", _l("All")))
    least = forms.CharField(label=_l("Begins at"), required=False, max_length=40)
    most = forms.CharField(label=_l("Ends at"), required=False, max_length=40)
    step = forms.CharField(label=_l("Goes in steps of"), required=False, max_length=20)
    marks = _tray(_l("Marks under it"), ("on", _l("Round")), ("set", _l("As set")), ("off", _l("None")))
    marks_at = forms.CharField(
        label=_l("Marks"), required=False, max_length=300, widget=forms.TextInput(attrs={"placeholder": _l("5, or: 0, 50 = middle, 100")})
    )
    ranges = _tray(_l("Its ranges below it"), ("off", _l("Not listed")), ("on", _l("Listed")))
    shape = _tray(_l("Drawn as"), ("star", _l("Stars")), ("dot", _l("Dots")), ("bar", _l("Bars")), ("picture", _l("Picture")))
    shape_colour = forms.RegexField(
        label=_l("In the colour"), regex=r"^(#[0-9a-fA-F]{6})?$", required=False,
        error_messages={"invalid": _l("Write a colour such as #8a6a1e, or nothing for the shop's own.")},
        widget=forms.TextInput(attrs={"placeholder": "#8a6a1e"}),
    )  # fmt: skip
    shape_picture = forms.CharField(label=_l("Address of the picture"), required=False, max_length=500)
    all = forms.CharField(
        label=_l("A choice for all, called"), required=False, max_length=60, widget=forms.TextInput(attrs={"placeholder": _l("none")})
    )
    chip = forms.CharField(
        label=_l("Before what is picked"), required=False, max_length=60, widget=forms.TextInput(attrs={"placeholder": _l("nothing")})
    )
    before = forms.CharField(label=_l("Before a number"), required=False, max_length=12, strip=False)
    behind = forms.CharField(label=_l("Behind a number"), required=False, max_length=16, strip=False)
    decimals = forms.IntegerField(label=_l("Decimals"), required=False, min_value=0, max_value=MOST_DECIMALS)
    grouped = forms.ChoiceField(
        label=_l("Thousands"),
        required=False,
        choices=(("on", _l("Usual")), ("off", "1000"), (",", "1,000"), (".", "1.000"), ("\u00a0", "1 000"), ("'", "1'000")),
    )
    point = _tray(_l("Decimal sign"), ("", _l("Usual")), (".", "0.5"), (",", "0,5"))

    LEFT = ("title", "help", "label")
    BELOW = ("least", "most", "step", "marks", "marks_at", "ranges", "before", "behind", "decimals", "grouped", "point")
    ALONE = ("all", "chip", "shape", "shape_colour", "shape_picture")  # under the drawing, too

    def __init__(self, data: Any = None, *, document: Document, has_numbers: bool) -> None:
        self.document = document
        super().__init__(data, initial=_initial(document), auto_id="id_%s")
        control, kind = control_of(document.get("look", {})), kind_of(document["source"]["kind"])
        gone = set() if control.in_columns else {"label", "search", "more", "limit", "columns"}
        gone |= set() if control.is_range else {"least", "most", "step"}
        gone |= {"counts"} if control.is_range else set()
        gone |= set() if kind.has_numbers and has_numbers else {"before", "behind", "decimals", "grouped"}
        gone |= {"step", "marks", "marks_at", "ranges"} if not control.has_bars or control.part != "range" else set()
        gone |= set() if has_ranges(document) else {"ranges"}
        gone |= {"point"} if "grouped" in gone else set()
        gone |= set() if control.has_stars else {"shape", "shape_colour", "shape_picture"}
        gone |= set() if control.has_colours else {"cut", "line"}
        gone |= set() if control.has_colours or control.has_pictures else {"size"}
        gone |= {"all"} if control.is_range or control.part in ("switch", "drilled", "tree", "search") else set()
        gone |= set() if kind.is_tree and not control.opens_levels and not document.get("bins", {}).get("only") else {"levels"}
        if "size" in gone:  # nothing is drawn beside the label: hidden it would leave a bare box
            label = self.fields["label"]
            assert isinstance(label, forms.ChoiceField)
            label.choices = [choice for choice in LABELS if choice[0] != "hover"]
        for name in gone:
            del self.fields[name]

    @property
    def left(self) -> list[forms.BoundField]:
        """The settings at the left of the drawing."""
        return [self[name] for name in self.fields if name in self.LEFT]

    @property
    def right(self) -> list[forms.BoundField]:
        """Those at its right."""
        return [self[name] for name in self.fields if name not in (*self.LEFT, *self.BELOW, *self.ALONE)]

    @property
    def below(self) -> list[forms.BoundField]:
        """Those of numbers and words, under it."""
        return [self[name] for name in self.fields if name in (*self.BELOW, *self.ALONE)]

    def clean(self) -> Document:
        """Read what depends on other fields: the ends stand the right way round, marks can be read."""
        cleaned = super().clean() or {}
        low, high = cleaned.get("least"), cleaned.get("most")
        if low is not None and high is not None and low > high:
            self.add_error("most", _("Ends before it begins. Write a number above the one at which it begins."))
        return cleaned

    def clean_marks_at(self) -> Any:
        """Read how many marks there are, or which."""
        text = self.cleaned_data["marks_at"].strip()
        if text.isascii() and text.isdigit():
            if not 2 <= int(text[:4]) <= _MOST_MARKS:
                raise forms.ValidationError(_("Write how many marks, from 2 to 12, or the numbers themselves, parted by commas."))
            return int(text)
        marks = [self._mark(part) for part in text.split(",") if part.strip()]
        if len(marks) > _MOST_MARKS:
            raise forms.ValidationError(_("Write 12 marks at most."))
        return marks

    def _mark(self, text: str) -> Document:
        number, _equals, label = text.partition("=")
        read = read_amount(number.strip())
        if read is None:
            raise forms.ValidationError(
                _("“%(text)s” is no number. Write marks such as 0, 50 = middle, 100.") % {"text": number.strip()[:40]}
            )
        return {"at": read[0], **({"label": normalise(label)[:40]} if normalise(label) else {})}

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
    style, ends, numbers = Style.of(look), document.get("ends_at", {}), look.get("numbers", {})
    marks, swatch = look.get("marks", False), look.get("swatch", {})
    return {
        "size": style.size, "cut": swatch.get("cut", "corner"), "line": "on" if swatch.get("line") else "off",
        "title": "on" if style.title else "off", "help": style.help, "label": style.label,
        "open": "on" if look.get("open", True) is not False else "off", "open_on_phone": "on" if style.open_on_phone else "off",
        "search_engines": "on" if look.get("search_engines") is True else "off", "search": style.search,
        "counts": "picked" if look.get("counts") == "picked" else "on" if look.get("counts", True) is not False else "off",
        "more": style.more, "all": style.all, "chip": look.get("chip", ""), "ranges": "on" if style.ranges else "off",
        "shape": style.shape, "shape_colour": style.shape_colour, "shape_picture": style.shape_picture,
        "limit": look.get("limit") or SHOWN_BINS, "columns": str(style.columns), "levels": str(min(look.get("levels", 0), MOST_LEVELS)),
        "least": _said(ends.get("low")), "most": _said(ends.get("high")), "step": _said(look.get("step")),
        "marks": "on" if marks is True else "set" if marks else "off", "marks_at": _marks_said(marks),
        "before": numbers.get("prefix", ""), "behind": numbers.get("suffix", ""), "decimals": numbers.get("decimals"),
        "grouped": "off" if numbers.get("grouped", True) is False else numbers.get("group", "on"), "point": numbers.get("point", ""),
    }  # fmt: skip


def _marks_said(marks: Any) -> str:
    if isinstance(marks, list):
        return ", ".join(_said(mark["at"]) + (f" = {mark['label']}" if "label" in mark else "") for mark in marks)
    return str(marks) if marks and not isinstance(marks, bool) else ""


def _said(value: Any) -> str:
    return written(value) if isinstance(value, int | Fraction) else str(value or "")


_USUAL: Document = {
    "title": True, "help": "", "label": "right", "open": True, "open_on_phone": False, "search_engines": False,
    "search": "auto", "counts": True, "more": MORE, "limit": SHOWN_BINS, "columns": 0, "levels": 0, "step": None, "ranges": False,
    "size": "usual",
    "all": "", "chip": "",
}  # fmt: skip


def look_document(form: LookForm) -> Document:
    """Return the facet's document as the valid form says; what is as usual is not written down."""
    changed = deepcopy(form.document)
    look = dict(changed.get("look", {}))
    cleaned = form.cleaned_data
    for name, usual in _USUAL.items():
        if name in form.fields:
            value = _value(name, usual, cleaned[name])
            look.pop(name, None)
            if value not in (usual, "", None):
                look[name] = value
    ends = {end: cleaned[name] for end, name in (("low", "least"), ("high", "most")) if cleaned.get(name) is not None}
    _put(changed, "ends_at", ends, form, "least")
    _put(look, "marks", _marks(form), form, "marks")
    rated = {"shape": cleaned.get("shape") or "star", "colour": cleaned.get("shape_colour"), "picture": cleaned.get("shape_picture")}
    _put(look, "rated", {name: value for name, value in rated.items() if value and value != "star"}, form, "shape")
    swatch = {"cut": cleaned.get("cut") or "corner", "line": cleaned.get("line") == "on"}
    _put(look, "swatch", {name: value for name, value in swatch.items() if value not in ("corner", False)}, form, "cut")
    _put(look, "numbers", _numbers(cleaned), form, "before")
    if look:
        changed["look"] = look
    else:
        changed.pop("look", None)
    return changed


def _value(name: str, usual: Any, given: Any) -> Any:
    """Return what a setting says, in the form of a look."""
    if isinstance(usual, bool):
        return given if given == "picked" else (given or ("on" if usual else "off")) == "on"
    if name in ("columns", "levels"):
        return int(given or 0)
    return normalise(given) if name in ("help", "all", "chip") else given


def _marks(form: LookForm) -> Any:
    """Return the marks that the form asks for: naming some is asking for them, choosing round ones lets go of those."""
    chosen, named, before = form.cleaned_data.get("marks"), form.cleaned_data.get("marks_at"), form.initial
    is_named_anew = bool(named) and "marks_at" in form.changed_data
    if is_named_anew or (named and chosen == "set"):
        return named
    if chosen == "on" and before["marks"] != "set" and named:
        return named
    return chosen in ("on", "set")


def _numbers(cleaned: Document) -> Document:
    """Return how numbers are written, as far as it is not as usual."""
    named = (("prefix", "before"), ("suffix", "behind"), ("decimals", "decimals"), ("point", "point"))
    numbers = {name: cleaned[field] for name, field in named if cleaned.get(field) not in (None, "")}
    if cleaned.get("grouped") == "off":
        numbers["grouped"] = False
    elif cleaned.get("grouped") not in (None, "", "on"):
        numbers["group"] = cleaned["grouped"]
    return numbers


def _put(look: Document, name: str, value: Any, form: LookForm, asked: str) -> None:
    if asked in form.fields:
        look.pop(name, None)
        if value:
            look[name] = value
