"""The form of a facet's settings."""

import re
from collections.abc import Sequence
from copy import deepcopy
from typing import Any

from django import forms
from django.utils.functional import Promise
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets.kinds import kind_of
from binsort.core.facets.problem import Problem
from binsort.core.values.numbers import TooLong, plain, written
from binsort.core.values.text import normalise
from binsort.racks.controls import USUAL, control_of, fitting, has_ranges, with_control
from binsort.racks.presentation import SHOWN_BINS

Document = dict[str, Any]

_VALUE_ORDERS = (
    ("count", _l("Most products first")),
    ("label", _l("A to Z")),
    ("-label", _l("Z to A")),
    ("value", _l("Low first")),
    ("-value", _l("High first")),
)
_RANGE_ORDERS = (("value", _l("Low first")), ("-value", _l("High first")), ("count", _l("Most products first")))


_LIMIT = dict.fromkeys(("invalid", "min_value", "max_value", "required"), _l("Write a number from 1 to 500."))


class FacetForm(forms.Form):
    """Settings of a facet, filled from its document."""

    label = forms.CharField(label=_l("Shown as"), max_length=80)
    key = forms.RegexField(
        label=_l("Key in addresses"),
        regex=r"^[a-z][a-z0-9_-]*$",
        max_length=60,
        error_messages={"invalid": _l("Begin with a small letter; then small letters, digits, - and _ only.")},
    )
    match = forms.ChoiceField(label=_l("Matching"), choices=(("any", _l("any of")), ("all", _l("all of"))), widget=forms.RadioSelect)
    pick = forms.ChoiceField(label=_l("Shoppers pick"), choices=(("one", _l("One")), ("many", _l("Many"))), widget=forms.RadioSelect)
    order = forms.ChoiceField(label=_l("Order of bins"), required=False)
    empty = forms.ChoiceField(
        label=_l("Empty bins"), choices=(("keep", _l("Keep")), ("dim", _l("Dim")), ("hide", _l("Hide"))), widget=forms.RadioSelect
    )
    counts = forms.ChoiceField(label=_l("Counts"), choices=(("on", _l("On")), ("off", _l("Off"))), widget=forms.RadioSelect)
    open = forms.ChoiceField(label=_l("Starts open"), choices=(("on", _l("On")), ("off", _l("Off"))), widget=forms.RadioSelect)
    control = forms.ChoiceField(label=_l("Drawn as"))
    limit = forms.IntegerField(label=_l("Choices before “show more”"), min_value=1, max_value=500, error_messages=_LIMIT)
    cuts = forms.CharField(label=_l("Cuts"), required=False, max_length=2000)

    def __init__(self, data: Any = None, *, document: Document, usual_order: str = "") -> None:
        """``usual_order``: in which its bins stand while it names none."""
        self.document = document
        super().__init__(data, initial=_initial(document), auto_id="id_%s")
        self.fields["order"].choices = _orders(document, usual_order)  # type: ignore[attr-defined]
        self.fields["control"].choices = [(control.key, control.words) for control in fitting(document)]  # type: ignore[attr-defined]
        if "cuts" not in document:
            del self.fields["cuts"]

    def clean_label(self) -> str:
        """A label is normalised text."""
        label = normalise(self.cleaned_data["label"])
        if not label:
            raise forms.ValidationError(_("Give it a name that shoppers can read."))
        return label

    def clean_cuts(self) -> list[Any]:
        """Read boundaries: numbers or dates, parted by commas or blanks."""
        parts = [part for part in re.split(r"[\s,;]+", self.cleaned_data["cuts"]) if part]
        if not parts:
            raise forms.ValidationError(_("Write one cut at least, such as 10."))
        dates = kind_of(self.document["source"]["kind"]).has_dates
        cuts = [part if dates else _number(part) for part in parts]
        return sorted(set(cuts))

    def add_problems(self, problems: Sequence[Problem]) -> None:
        """Put what the set-up's checks found beside the fields it concerns."""
        for problem in problems:
            field = problem.property.partition(".")[0]
            text = problem.text.partition(": ")[2].removeprefix(f"{problem.property} ")
            self.add_error(field if field in self.fields else None, text[:1].upper() + text[1:])


def _number(text: str) -> Any:
    try:
        number = plain(text)
    except TooLong as error:
        raise forms.ValidationError(_("That number is too long.")) from error
    if number is None:
        raise forms.ValidationError(_("“%(text)s” is no number. Write numbers such as 10 or 2.5, parted by commas.") % {"text": text[:30]})
    return number


def _initial(document: Document) -> Document:
    look = document.get("look", {})
    return {
        "label": document["label"],
        "key": document["key"],
        "match": document.get("match", "any"),
        "pick": document.get("pick", "many"),
        "order": document.get("order", ""),
        "empty": document.get("empty", "hide"),
        "counts": "on" if look.get("counts", True) else "off",
        "open": "on" if look.get("open", True) else "off",
        "control": control_of(look).key,
        "limit": look.get("limit", SHOWN_BINS),
        "cuts": ", ".join(cut if isinstance(cut, str) else written(cut) for cut in document.get("cuts", ())),
    }


def _orders(document: Document, usual: str) -> tuple[tuple[str, str | Promise], ...]:
    orders: tuple[tuple[str, str | Promise], ...] = _RANGE_ORDERS if has_ranges(document) else _VALUE_ORDERS
    if document.get("bins", {}).get("order"):
        orders = (("listed", _("As listed by hand")), *orders)
    words = dict(orders).get(usual)
    return (("", _("As usual: %(order)s") % {"order": words} if words else _("As usual")), *orders)


def form_document(form: FacetForm) -> Document:
    """Return the facet's document as the valid form says; what it does not show stays as it was."""
    cleaned = form.cleaned_data
    changed = deepcopy(form.document)
    if cleaned["control"] != form.initial["control"]:
        changed = with_control(changed, cleaned["control"])
    changed |= {"label": cleaned["label"], "key": cleaned["key"]}
    initial = form.initial
    for name in ("match", "pick", "order", "empty"):
        if cleaned[name] != initial[name]:
            changed[name] = cleaned[name]
    if not changed.get("order"):
        changed.pop("order", None)  # as usual
    if "cuts" in cleaned and cleaned["cuts"] != form.document["cuts"]:
        changed["cuts"] = cleaned["cuts"]
    look = dict(changed.get("look", {}))
    chosen = {
        "counts": cleaned["counts"] == "on",
        "open": cleaned["open"] == "on",
        "control": cleaned["control"],
        "limit": cleaned["limit"],
    }
    for name, default in (("counts", True), ("open", True), ("control", USUAL.key), ("limit", SHOWN_BINS)):
        if chosen[name] != default or name in look:
            look[name] = chosen[name]
    if look:
        changed["look"] = look
    return changed
