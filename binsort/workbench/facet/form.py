"""The form of a facet's settings."""

import re
from collections.abc import Sequence
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

from django import forms
from django.utils.functional import Promise
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets.kinds import kind_of
from binsort.core.facets.problem import Problem
from binsort.core.values.amounts import read_amount
from binsort.core.values.numbers import written
from binsort.core.values.text import normalise
from binsort.racks.attribute_use import BY_DICTIONARY
from binsort.racks.controls import USUAL, control_of, fitting, has_ranges, with_control
from binsort.racks.presentation import SHOWN_BINS

Document = dict[str, Any]

_DICTIONARY = "dictionary"
_BY_HAND = ("listed", _l("By hand"))
_WORD_ORDERS = (("count", _l("Most products first")), ("label", _l("A to Z")), ("-label", _l("Z to A")))
_NUMBER_ORDERS = (("value", _l("Low first")), ("-value", _l("High first")))
_RANGE_ORDERS = (("value", _l("Low first")), ("-value", _l("High first")), ("count", _l("Most products first")))


_LIMIT = dict.fromkeys(("invalid", "min_value", "max_value", "required"), _l("Write a number from 1 to 500."))


@dataclass(frozen=True, slots=True)
class Facts:
    """What the catalogue and the dictionary say of a facet: it decides what can be chosen."""

    usual_order: str = ""  # in which its bins stand while it names none
    labels: tuple[str, ...] = ()  # of its bins, as they stand now
    in_dictionary: tuple[str, ...] = ()  # the values of its attribute in the order of the dictionary
    has_numbers: bool = True


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

    def __init__(self, data: Any = None, *, document: Document, facts: Facts) -> None:
        self.document, self.facts = document, facts
        super().__init__(data, initial=_initial(document), auto_id="id_%s")
        self.fields["order"].choices = _orders(document, facts)  # type: ignore[attr-defined]
        self.fields["control"].choices = [(control.key, control.words) for control in fitting(document, has_numbers=facts.has_numbers)]  # type: ignore[attr-defined]
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
        dates = kind_of(self.document["source"]["kind"]).has_dates
        parts = re.split(r"[\s,;]+", self.cleaned_data["cuts"]) if dates else parted(self.cleaned_data["cuts"])
        cuts = [part if dates else _number(part) for part in parts if part]
        if not cuts:
            raise forms.ValidationError(_("Write one cut at least, such as 10."))
        return sorted(set(cuts))

    def add_problems(self, problems: Sequence[Problem]) -> None:
        """Put what the set-up's checks found beside the fields it concerns."""
        for problem in problems:
            field = problem.property.partition(".")[0]
            text = problem.text.partition(": ")[2].removeprefix(f"{problem.property} ")
            self.add_error(field if field in self.fields else None, text[:1].upper() + text[1:])


def parted(text: str) -> list[str]:
    """Part a list of numbers; a comma within a number is read as everywhere else.

    >>> parted("1,5; 3"), parted("£5, £10"), parted("5 10"), parted("3,5"), parted("5,10,20")
    (['1,5', '3'], ['£5', '£10'], ['5', '10'], ['3,5'], ['5', '10', '20'])
    """
    if ";" in text:
        return [number for part in text.split(";") for number in ([part.strip()] if read_amount(part) else parted(part))]
    parts = [part for part in re.split(r",\s+|\s+", text.strip().strip(",")) if part]
    return [number for part in parts for number in ([part] if read_amount(part) or "," not in part else part.split(","))]


def _number(text: str) -> Any:
    read = read_amount(text)
    if read is None:
        words = _("“%(text)s” is no number. Write numbers such as 10 or 2.5, parted by a comma and a blank, or by “;”.")
        raise forms.ValidationError(words % {"text": text[:30]})
    return read[0]


def _initial(document: Document) -> Document:
    look = document.get("look", {})
    return {
        "label": document["label"],
        "key": document["key"],
        "match": document.get("match", "any"),
        "pick": document.get("pick", "many"),
        "order": _DICTIONARY if look.get(BY_DICTIONARY) else document.get("order", ""),
        "empty": document.get("empty", "hide"),
        "counts": "on" if look.get("counts", True) else "off",
        "open": "on" if look.get("open", True) else "off",
        "control": control_of(look).key,
        "limit": look.get("limit", SHOWN_BINS),
        "cuts": ", ".join(cut if isinstance(cut, str) else written(cut) for cut in document.get("cuts", ())),
    }


def _orders(document: Document, facts: Facts) -> tuple[tuple[str, str | Promise], ...]:
    orders: tuple[tuple[str, str | Promise], ...] = _RANGE_ORDERS
    if not has_ranges(document):
        kind = kind_of(document["source"]["kind"])
        numbers = _NUMBER_ORDERS if (kind.has_numbers and facts.has_numbers) or document.get("order", "").endswith("value") else ()
        by_hand = () if kind.is_tree else (_BY_HAND,)
        in_dictionary = ((_DICTIONARY, _l("As in the dictionary")),) if facts.in_dictionary else ()
        orders = (*_WORD_ORDERS, *numbers, *by_hand, *in_dictionary)
    words = dict(orders).get(facts.usual_order)
    return (("", _("As usual: %(order)s") % {"order": words} if words else _("As usual")), *orders)


def _put_in_order(changed: Document, facts: Facts) -> None:
    """Let a facet list its bins where they stand by hand, or as in the dictionary."""
    look = {name: value for name, value in changed.get("look", {}).items() if name != BY_DICTIONARY}
    if changed["order"] == _DICTIONARY:
        changed |= {"order": "listed", "bins": {**changed.get("bins", {}), "order": list(facts.in_dictionary)}}
        look[BY_DICTIONARY] = True
    elif changed["order"] == "listed" and not has_ranges(changed) and "groups" not in changed:
        changed["bins"] = {**changed.get("bins", {}), "order": list(facts.labels)}
    if look or "look" in changed:
        changed["look"] = look


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
    if cleaned["order"] != initial["order"]:
        _put_in_order(changed, form.facts)
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
