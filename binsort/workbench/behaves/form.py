"""The form of how a rack behaves."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets.behaviour import ATTRIBUTE, CHOICES, FACTS, HERE, MOST_A_PAGE, WAYS, Behaviour, Sort
from binsort.core.facets.query import SORTS
from binsort.core.values.text import normalise

_WORDS: dict[str, Any] = {
    "after": {"stay": _l("Stay where one is"), "scroll": _l("Scroll to the products")},
    "picks": {"above": _l("Above"), "rack": _l("In the rack"), "both": _l("Both")},
    "applies": {"once": _l("At once"), "button": _l("On a button")},
    "applies_on_phones": {"once": _l("At once"), "button": _l("On a button")},
    "count": {"of": _l("37 of 214"), "total": _l("37 products"), "none": _l("None")},
    "rest": {"more": _l("Show more"), "pages": _l("Pages"), "all": _l("All at once")},
    "sorting": {"shown": _l("Shown"), "hidden": _l("Hidden")},
    "carried": {"yes": _l("Goes along"), "no": _l("Stays behind")},
    "wide": {"open": _l("Open"), "left": _l("From left"), "right": _l("From right"), "sheet": _l("Sheet")},
    "side": {"left": _l("Left"), "right": _l("Right")},
    "width": {"usual": _l("Usual"), "narrow": _l("Narrow"), "wide": _l("Wide")},
    "above": {"bar": _l("Bar"), "two": _l("2 columns"), "three": _l("3"), "four": _l("4")},
    "search": {"rack": _l("In the rack"), "above": _l("Above"), "none": _l("Nowhere")},
    "typing": {"enter": _l("On Enter"), "typing": _l("While typing")},
    "picture": {"usual": _l("Usual"), "large": _l("Large"), "small": _l("Small"), "none": _l("None")},
    "opens": {"here": _l("In place"), "quick": _l("Quick look"), "tab": _l("In a new tab")},
}
_LABELS: dict[str, Any] = {
    "after": _l("After a pick"),
    "picks": _l("Picks stand"),
    "applies": _l("A pick applies on a desktop"),
    "applies_on_phones": _l("A pick applies on a phone"),
    "count": _l("Count"),
    "rest": _l("And the rest"),
    "sorting": _l("Choice of order"),
    "carried": _l("The page's own category"),
    "wide": _l("Side rack on a desktop"),
    "side": _l("Stands at the"),
    "width": _l("Its width"),
    "above": _l("Rack above the products"),
    "search": _l("Search of the listing"),
    "typing": _l("Results of a search follow"),
    "picture": _l("Picture of a card"),
    "opens": _l("A product opens"),
}
_WAYS = {"picks": _l("each pick, with what it would give"), "listing": _l("the whole listing")}
_FACTS = {
    "brand": _l("brand"), "rating": _l("rating"), "stock": _l("stock"), "why": _l("“Why here?”"), "basket": _l("basket"),
}  # fmt: skip
_USUAL = {
    "title": _l("none"),
    "opener": _l("Narrow by"),
    "apply": _l("Show products"),
    "more": _l("Open"),
    "clear": _l("Clear all"),
    "nothing": _l("No product has all of this at once"),
    "then": _l("Leave out one of these, and there is something again:"),
}
_PER = dict.fromkeys(("invalid", "min_value", "max_value", "required"), _l("Write a number from 1 to 100."))


def _tray(name: str) -> forms.ChoiceField:
    choices = [(choice, _WORDS[name][choice]) for choice in CHOICES[name]]
    return forms.ChoiceField(label=_LABELS[name], choices=choices, widget=forms.RadioSelect, required=False)


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

    title = forms.CharField(label=_l("Title over the rack"), required=False, max_length=80)
    wide = _tray("wide")
    opener = forms.CharField(label=_l("Words of its button"), required=False, max_length=80)
    side = _tray("side")
    width = _tray("width")
    above = _tray("above")
    search = _tray("search")
    typing = _tray("typing")
    carried = _tray("carried")
    apply = forms.CharField(label=_l("Words of the button that applies"), required=False, max_length=80)
    more = forms.CharField(label=_l("Words of the way to more"), required=False, max_length=80)
    sorting = _tray("sorting")
    picture = _tray("picture")
    opens = _tray("opens")
    facts = forms.MultipleChoiceField(
        label=_l("On a card, besides name and price"), choices=list(_FACTS.items()), widget=forms.CheckboxSelectMultiple, required=False
    )

    LEFT = ("after", "results", "picks", "clear", "applies", "applies_on_phones", "nothing", "then")
    RIGHT = ("count", "per", "rest", "ways")
    FURTHER = (  # under the drawing, by what they are about
        (_l("The rack"), ("title", "wide", "opener", "side", "width", "above")),
        (_l("Search and words"), ("search", "typing", "apply", "more", "sorting", "carried")),
        (_l("Cards"), ("picture", "opens", "facts")),
    )
    PARTS = {  # what each is tied to in the drawing
        "after": ".sheet-head", "results": "h3.sheet-title", "picks": ".sheet-pick", "clear": "", "applies": ".sheet-apply",
        "applies_on_phones": ".sheet-phone", "nothing": ".sheet-nothing", "then": ".sheet-then", "count": ".sheet-count",
        "per": ".sheet-rest-words", "rest": ".sheet-rest", "ways": ".sheet-ways",
    }  # fmt: skip

    def __init__(self, data: Any = None, *, behaviour: Behaviour, listings: Sequence[tuple[str, str]]) -> None:
        self.behaviour = behaviour
        further = (name for _words, names in self.FURTHER for name in names)
        initial = {name: getattr(behaviour, name) for name in (*self.LEFT, *self.RIGHT, *further)}
        initial["results"] = initial["results"] or "all"
        super().__init__(data, initial=initial, auto_id="id_%s")
        for name, words in _USUAL.items():
            self.fields[name].widget.attrs["placeholder"] = words
        elsewhere = [(path or "all", name) for path, name in listings]
        self.fields["results"].choices = [(HERE, _l("On this page")), *elsewhere]  # type: ignore[attr-defined]
        self.everywhere = ((HERE, str(_l("On this page"))), *elsewhere)
        self._leave_out()

    def _leave_out(self) -> None:
        """Take out what has no bearing on the rest."""
        told = {**self.initial, **({name: self.data.get(name) for name in self.data} if self.is_bound else {})}
        if told["results"] == HERE:
            del self.fields["carried"]
        if told["search"] == "none":
            del self.fields["typing"]

    @property
    def left(self) -> list[tuple[Any, str]]:
        """The fields at the left of the drawing, each with what it is tied to."""
        return [(self[name], self.PARTS[name]) for name in self.LEFT]

    @property
    def right(self) -> list[tuple[Any, str]]:
        """Those at the right."""
        return [(self[name], self.PARTS[name]) for name in self.RIGHT]

    @property
    def further(self) -> list[tuple[Any, list[Any]]]:
        """The fields under the drawing, in groups with their words."""
        return [(words, [self[name] for name in names if name in self.fields]) for words, names in self.FURTHER]

    def made(self) -> Behaviour:
        """Return the behaviour that a valid form asks for."""
        given = {name: value for name, value in self.cleaned_data.items() if name in self.data or name == "ways"}
        given["results"] = "" if given["results"] == "all" else given["results"]
        given["ways"] = tuple(way for way in WAYS if way in given["ways"])
        if "picture" in self.data:  # boxes that are not ticked are not sent
            given["facts"] = tuple(fact for fact in FACTS if fact in self.cleaned_data["facts"])
        for name in ("clear", "nothing", "then", "title", "opener", "apply", "more"):
            if name in given:
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
