"""The form of a facet's settings."""

from collections.abc import Sequence
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

from django import forms
from django.utils.functional import Promise
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets import bin_edits
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.problem import Problem
from binsort.core.values.text import normalise
from binsort.racks.attribute_use import BY_DICTIONARY
from binsort.racks.controls import has_ranges

Document = dict[str, Any]

_DICTIONARY, _SIZE = "dictionary", "size"
_SCOPES = (("all", _l("All")), ("top", _l("Top only")), ("listing", _l("Below the listing")), ("under", _l("Below one")))
_DEPTHS = (("off", _l("One level")), ("on", _l("All below")))
_NEW_VALUES = (("own", _l("Own bin")), ("unbinned", _l("Unbinned")))
_SIZES = ((_SIZE, _l("Smallest size first")), (f"-{_SIZE}", _l("Largest size first")))
_BY_HAND = ("listed", _l("By hand"))
_TREE_ORDERS = (("tree", _l("As in the tree")), ("-tree", _l("As in the tree, backwards")))
_COUNT_ORDERS = (("count", _l("Most products first")), ("-count", _l("Fewest products first")))
_WORD_ORDERS = (*_COUNT_ORDERS, ("label", _l("A to Z")), ("-label", _l("Z to A")))
_NUMBER_ORDERS = (("value", _l("Low first")), ("-value", _l("High first")))
_RANGE_ORDERS = (("value", _l("Low first")), ("-value", _l("High first")), *_COUNT_ORDERS)


@dataclass(frozen=True, slots=True)
class Facts:
    """What the catalogue and the dictionary say of a facet: it decides what can be chosen."""

    usual_order: str = ""  # in which its bins stand while it names none
    labels: tuple[str, ...] = ()  # of its bins, as they stand now
    in_dictionary: tuple[str, ...] = ()  # the values of its attribute in the order of the dictionary
    has_numbers: bool = True
    by_size: tuple[str, ...] = ()  # its labels from the smallest size up, where they say sizes
    sources: tuple[tuple[str, str], ...] = ()  # that the facet could be made of: key and words
    source: str = ""  # the key of its own
    categories: tuple[tuple[str, str], ...] = ()  # paths and names, for a facet of categories
    listing: str = ""  # the path of the category that is looked at
    was_deep: bool = True  # when a facet of categories last showed what is below one


class FacetForm(forms.Form):
    """Settings of a facet, filled from its document."""

    label = forms.CharField(label=_l("Shown as"), max_length=80)
    called = forms.CharField(
        label=_l("Called by you alone"), required=False, max_length=80, widget=forms.TextInput(attrs={"placeholder": _l("as shown")})
    )
    source = forms.ChoiceField(label=_l("Source"), required=False)
    scope = forms.ChoiceField(label=_l("Categories that show"), choices=_SCOPES, required=False)
    under = forms.ChoiceField(label=_l("Below which"), required=False)
    deep = forms.ChoiceField(label=_l("Depth"), choices=_DEPTHS, widget=forms.RadioSelect, required=False)
    match = forms.ChoiceField(label=_l("Matching"), choices=(("any", _l("any of")), ("all", _l("all of"))), widget=forms.RadioSelect)
    pick = forms.ChoiceField(label=_l("Shoppers pick"), choices=(("one", _l("One")), ("many", _l("Many"))), widget=forms.RadioSelect)
    order = forms.ChoiceField(label=_l("Order of bins"), required=False)
    empty = forms.ChoiceField(
        label=_l("Empty bins"),
        choices=(("keep", _l("Keep")), ("emptied", _l("Dim")), ("dim", _l("Dim all")), ("hide", _l("Hide"))),
        widget=forms.RadioSelect,
    )
    new_values = forms.ChoiceField(label=_l("New values go"), choices=_NEW_VALUES, widget=forms.RadioSelect, required=False)
    counts = forms.ChoiceField(label=_l("Counts"), choices=(("on", _l("On")), ("off", _l("Off"))), widget=forms.RadioSelect)
    open = forms.ChoiceField(label=_l("Starts open"), choices=(("on", _l("On")), ("off", _l("Off"))), widget=forms.RadioSelect)
    key = forms.RegexField(
        label=_l("Key in addresses"),
        regex=r"^[a-z][a-z0-9_-]*$",
        max_length=60,
        error_messages={"invalid": _l("Begin with a small letter; then small letters, digits, - and _ only.")},
    )

    def __init__(self, data: Any = None, *, document: Document, facts: Facts) -> None:
        self.document, self.facts = document, facts
        super().__init__(data, initial={**_initial(document), "source": facts.source}, auto_id="id_%s")
        kind = kind_of(document["source"]["kind"])
        self.fields["source"].choices = facts.sources  # type: ignore[attr-defined]
        self.fields["under"].choices = (("", _("Choose a category")), *facts.categories)  # type: ignore[attr-defined]
        gone = set() if kind.is_tree else {"scope", "under", "deep"}
        shown = self.data.get("scope") or self.initial["scope"]
        if kind.is_tree and shown not in ("under", "listing"):
            gone |= {"deep"}
        if kind.is_tree and shown != "under":
            gone |= {"under"}
        if has_ranges(document) or document.get("free") or kind.is_in_groups:
            gone |= {"new_values"}
        for name in gone:
            del self.fields[name]
        self.fields["order"].choices = _orders(document, facts)  # type: ignore[attr-defined]

    def clean_label(self) -> str:
        """A label is normalised text."""
        label = normalise(self.cleaned_data["label"])
        if not label:
            raise forms.ValidationError(_("Give it a name that shoppers can read."))
        return label

    def add_problems(self, problems: Sequence[Problem]) -> None:
        """Put what the set-up's checks found beside the fields it concerns."""
        for problem in problems:
            field = problem.property.partition(".")[0]
            text = problem.text.partition(": ")[2].removeprefix(f"{problem.property} ")
            self.add_error(field if field in self.fields else None, text[:1].upper() + text[1:])


def _initial(document: Document) -> Document:
    look = document.get("look", {})
    return {
        "label": document["label"],
        "called": look.get("called", ""),
        "key": document["key"],
        "match": document.get("match", "any"),
        "pick": document.get("pick", "many"),
        "order": _DICTIONARY if look.get(BY_DICTIONARY) else document.get("order", ""),
        "empty": document.get("empty", "hide"),
        "scope": "listing" if document.get("under") == "listing" else document.get("scope", "all"),
        "under": document.get("under", ""),
        "deep": "on" if document.get("deep") else "off",
        "new_values": "unbinned" if bin_edits.waits(document) else "own",
        "counts": "on" if look.get("counts", True) else "off",
        "open": "on" if look.get("open", True) else "off",
    }


def _orders(document: Document, facts: Facts) -> tuple[tuple[str, str | Promise], ...]:
    orders: tuple[tuple[str, str | Promise], ...] = _RANGE_ORDERS
    if not has_ranges(document):
        kind = kind_of(document["source"]["kind"])
        numbers = _NUMBER_ORDERS if (kind.has_numbers and facts.has_numbers) or document.get("order", "").endswith("value") else ()
        by_hand = (_BY_HAND, *(_TREE_ORDERS if kind.is_tree else ()))
        in_dictionary = ((_DICTIONARY, _l("As in the dictionary")),) if facts.in_dictionary else ()
        by_size = _SIZES if facts.by_size else ()
        orders = (*_WORD_ORDERS, *numbers, *by_size, *by_hand, *in_dictionary)
    words = dict(orders).get(facts.usual_order)
    return (("", _("As usual: %(order)s") % {"order": words} if words else _("As usual")), *orders)


def _put_in_order(changed: Document, facts: Facts) -> None:
    """Let a facet list its bins where they stand by hand, or as in the dictionary."""
    look = {name: value for name, value in changed.get("look", {}).items() if name != BY_DICTIONARY}
    if changed["order"] == _DICTIONARY:
        changed |= {"order": "listed", "bins": {**changed.get("bins", {}), "order": list(facts.in_dictionary)}}
        look[BY_DICTIONARY] = True
    elif changed["order"].removeprefix("-") == _SIZE:
        backwards = "-" if changed["order"].startswith("-") else ""
        changed |= {"order": f"{backwards}listed", "bins": {**changed.get("bins", {}), "order": list(facts.by_size)}}
    elif changed["order"] == "listed" and not has_ranges(changed) and "groups" not in changed:
        changed["bins"] = {**changed.get("bins", {}), "order": list(facts.labels)}
    if look or "look" in changed:
        changed["look"] = look


def _put_scope(changed: Document, cleaned: Document, initial: Document, facts: Facts) -> None:
    """Let a facet of categories show those of its scope. Below one: at first the one that is looked at, else the first there is."""
    if not cleaned.get("scope") or all(cleaned.get(name, initial[name]) == initial[name] for name in ("scope", "under", "deep")):
        return
    for name in ("scope", "under", "deep"):
        changed.pop(name, None)
    under = {"listing": "listing", "under": cleaned.get("under") or first_above(facts)}.get(cleaned["scope"])
    if cleaned["scope"] in ("listing", "under") and under:
        changed |= {"scope": "under", "under": under}
        usual = initial["deep"] if initial["scope"] in ("listing", "under") else "on" if facts.was_deep else "off"
        if (cleaned.get("deep") or usual) == "on":
            changed["deep"] = True
    elif cleaned["scope"] == "top":
        changed["scope"] = "top"


def first_above(facts: Facts) -> str:
    """Return the category that is looked at where something lies below it, else the first of which that is true, else the first."""
    paths = [path for path, _name in facts.categories]
    above = {path.rpartition(" > ")[0] for path in paths}
    return next((path for path in (facts.listing, *paths) if path and path in above), paths[0] if paths else "")


def form_document(form: FacetForm) -> Document:
    """Return the facet's document as the valid form says; what it does not show stays as it was."""
    cleaned = form.cleaned_data
    changed = deepcopy(form.document)
    changed |= {"label": cleaned["label"], "key": cleaned["key"]}
    initial = form.initial
    for name in ("match", "pick", "order", "empty"):
        if cleaned[name] != initial[name]:
            changed[name] = cleaned[name]
    if cleaned["order"] != initial["order"]:
        _put_in_order(changed, form.facts)
    if not changed.get("order"):
        changed.pop("order", None)  # as usual
    _put_scope(changed, cleaned, dict(initial), form.facts)
    if cleaned.get("new_values") and cleaned["new_values"] != initial["new_values"]:
        changed = bin_edits.new_values_wait(changed, form.facts.labels, wait=cleaned["new_values"] == "unbinned")
    look = dict(changed.get("look", {}))
    if "called" in form.data:
        look.pop("called", None)
        look |= {"called": called} if (called := normalise(cleaned["called"])) else {}
    chosen = {
        "counts": cleaned["counts"] == "on",
        "open": cleaned["open"] == "on",
    }
    for name, default in (("counts", True), ("open", True)):
        if chosen[name] != default or name in look:
            look[name] = chosen[name]
    changed.pop("look", None)
    if look:
        changed["look"] = look
    return changed
