"""The form of how a rack behaves."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets.behaviour import ATTRIBUTE, CHOICES, HERE, MOST_A_PAGE, WAYS, Behaviour, Sort
from binsort.core.facets.query import SORTS
from binsort.core.values.text import normalise

_WORDS: dict[str, Any] = {
    "after": {"stay": _l("Stay where one is"), "scroll": _l("Scroll to the products")},
    "picks": {"above": _l("Above"), "rack": _l("In the rack"), "both": _l("Both")},
    "applies": {"once": _l("At once"), "button": _l("On a button")},
    "applies_on_phones": {"once": _l("At once"), "button": _l("On a button")},
    "count": {"of": _l("37 of 214"), "total": _l("37 products"), "none": _l("None")},
    "rest": {"more": _l("Show more"), "pages": _l("Pages"), "all": _l("All at once")},
}
_LABELS: dict[str, Any] = {
    "after": _l("After a pick"),
    "picks": _l("Picks stand"),
    "applies": _l("A pick applies on a desktop"),
    "applies_on_phones": _l("A pick applies on a phone"),
    "count": _l("Count"),
    "rest": _l("And the rest"),
}
_WAYS = {"picks": _l("each pick, with what it would give"), "listing": _l("the whole listing")}
_USUAL = {
    "clear": _l("Clear all"),
    "nothing": _l("No product has all of this at once"),
    "then": _l("Leave out one of these, and there is something again:"),
}
_PER = dict.fromkeys(("invalid", "min_value", "max_value", "required"), _l("Write a number from 1 to 100."))


def _tray(name: str) -> forms.ChoiceField:
    choices = [(choice, _WORDS[name][choice]) for choice in CHOICES[name]]
    return forms.ChoiceField(label=_LABELS[name], choices=choices, widget=forms.RadioSelect)


class BehaviourForm(forms.Form):
    """How a rack behaves, the choices of order apart."""

    after = _tray("after")
    results = forms.ChoiceField(label=_l("Results"))
    picks = _tray("picks")
    clear = forms.CharField(label=_l("Words of the way out"), required=False, max_length=80)
    applies = _tray("applies")
    applies_on_phones = _tray("applies_on_phones")
    nothing = forms.CharField(label=_l("When nothing is left"), required=False, max_length=200)
    then = forms.CharField(label=_l("Then"), required=False, max_length=200)
    count = _tray("count")
    per = forms.IntegerField(label=_l("Products a page"), min_value=1, max_value=MOST_A_PAGE, error_messages=_PER)
    rest = _tray("rest")
    ways = forms.MultipleChoiceField(
        label=_l("Offer as ways out"), choices=list(_WAYS.items()), widget=forms.CheckboxSelectMultiple, required=False
    )

    LEFT = ("after", "results", "picks", "clear", "applies", "applies_on_phones", "nothing", "then")
    RIGHT = ("count", "per", "rest", "ways")
    PARTS = {  # what each is tied to in the drawing
        "after": ".sheet-head", "results": "h3.sheet-title", "picks": ".sheet-pick", "clear": "", "applies": ".sheet-apply",
        "applies_on_phones": ".sheet-phone", "nothing": ".sheet-nothing", "then": ".sheet-then", "count": ".sheet-count",
        "per": ".sheet-rest-words", "rest": ".sheet-rest", "ways": ".sheet-ways",
    }  # fmt: skip

    def __init__(self, data: Any = None, *, behaviour: Behaviour, listings: Sequence[tuple[str, str]]) -> None:
        self.behaviour = behaviour
        initial = {name: getattr(behaviour, name) for name in (*self.LEFT, *self.RIGHT)}
        initial["results"] = initial["results"] or "all"
        super().__init__(data, initial=initial, auto_id="id_%s")
        for name, words in _USUAL.items():
            self.fields[name].widget.attrs["placeholder"] = words
        elsewhere = [(path or "all", name) for path, name in listings]
        self.fields["results"].choices = [(HERE, _l("On this page")), *elsewhere]  # type: ignore[attr-defined]
        self.everywhere = ((HERE, str(_l("On this page"))), *elsewhere)

    @property
    def left(self) -> list[tuple[Any, str]]:
        """The fields at the left of the drawing, each with what it is tied to."""
        return [(self[name], self.PARTS[name]) for name in self.LEFT]

    @property
    def right(self) -> list[tuple[Any, str]]:
        """Those at the right."""
        return [(self[name], self.PARTS[name]) for name in self.RIGHT]

    def made(self) -> Behaviour:
        """Return the behaviour that a valid form asks for."""
        given = dict(self.cleaned_data)
        given["results"] = "" if given["results"] == "all" else given["results"]
        given["ways"] = tuple(way for way in WAYS if way in given["ways"])
        for name in ("clear", "nothing", "then"):
            given[name] = normalise(given[name])
        return replace(self.behaviour, **given)


def sorts_of(form: Mapping[str, Any], keys: Sequence[str], behaviour: Behaviour) -> tuple[Sort, ...]:
    """Return the choices of order that a form asks for: in the order of ``keys``, in its words, one added or taken out."""
    known = {sort.key: sort for sort in behaviour.sorts}
    kept = [known[key] for key in dict.fromkeys(keys) if key in known and key != form.get("drop")] or list(behaviour.sorts)
    named = [replace(sort, label=normalise(form[f"label.{sort.key}"])[:80]) if f"label.{sort.key}" in form else sort for sort in kept]
    added = sort_of_key(form.get("add", ""))
    return (*named, *([added] if added and added.key not in {sort.key for sort in named} else []))


def sort_of_key(key: str) -> Sort | None:
    """Return the choice of order that a key stands for, None where it is none."""
    if key in SORTS:
        return Sort(key)
    kind, _dot, name = key.removeprefix("-").partition(".")
    return Sort(ATTRIBUTE, name, key.startswith("-")) if kind == ATTRIBUTE and name else None
