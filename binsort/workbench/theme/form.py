"""The form of the theme of the shop's facets."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _l

from binsort.racks.theme import SIZES, USUAL, Theme

_COLOUR = r"^(#[0-9a-fA-F]{6})?$"


def _size(name: str, label: Any) -> forms.IntegerField:
    least, most, usual = SIZES[name]
    words = dict.fromkeys(("invalid", "min_value", "max_value"), _l("Write a number of pixels from %(least)s to %(most)s."))
    told = {key: text % {"least": least, "most": most} for key, text in words.items()}
    placeholder = str(usual) if usual >= 0 else _l("as each control has it")
    widget = forms.NumberInput(attrs={"placeholder": placeholder})
    return forms.IntegerField(label=label, required=False, min_value=least, max_value=most, error_messages=told, widget=widget)


def _colour(name: str, label: Any) -> forms.RegexField:
    widget = forms.TextInput(attrs={"placeholder": USUAL[name], "data-colour": USUAL[name]})
    told = {"invalid": _l("Write a colour such as #1d3156, or nothing for the shop's own.")}
    return forms.RegexField(_COLOUR, label=label, required=False, error_messages=told, widget=widget)


class ThemeForm(forms.Form):
    """What is set; empty is as the shop has it."""

    family = forms.ChoiceField(
        label=_l("Type"),
        required=False,
        widget=forms.RadioSelect,
        choices=(("shop", _l("The shop's")), ("system", _l("Plain")), ("serif", _l("Serif")), ("mono", _l("Typewriter"))),
    )
    type = _size("type", _l("Size of type, px"))
    box = _size("box", _l("Size of boxes, px"))
    swatch = _size("swatch", _l("Size of swatches, px"))
    row = _size("row", _l("Height of a choice, px"))
    gap = _size("gap", _l("Gap below a facet, px"))
    corner = _size("corner", _l("Corners, px"))
    accent = _colour("accent", _l("What is picked"))
    ink = _colour("ink", _l("Words"))
    edge = _colour("edge", _l("Edges"))
    ground = _colour("ground", _l("Ground"))

    @classmethod
    def showing(cls, theme: Theme) -> "ThemeForm":
        """Return the form that says a theme."""
        return cls(initial={"family": "shop", **theme.said})

    @property
    def theme(self) -> Theme:
        """What it says, as far as it can be read."""
        cleaned = getattr(self, "cleaned_data", {})
        return Theme.of({name: value for name, value in cleaned.items() if value not in (None, "")})
