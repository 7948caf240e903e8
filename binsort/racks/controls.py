"""Controls: the ways in which shoppers meet a facet. Each is declared here, once; forms, shop, shelves and proposals derive from it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets.checks import RANGES
from binsort.core.facets.kinds import RATED, SourceKind, kind_of

Document = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Control:
    """One control."""

    key: str  # in the look of a facet file
    words: str | Promise
    sentence: str | Promise  # what a proposal says of it
    fits: Callable[[SourceKind, Mapping[str, Any]], bool]  # the kind of source and the facet's document
    has_colours: bool = False  # each choice shows its colours
    has_stars: bool = False  # each choice shows the stars it begins at
    needs_numbers: bool = False  # its values have to be numbers; of an attribute only the catalogue tells that
    is_range: bool = False  # two ends on an axis stand for all choices; the facet takes free ranges


def has_ranges(document: Mapping[str, Any]) -> bool:
    """Tell whether a facet's document gives range bins."""
    return any(name in document for name in RANGES)


CONTROLS: dict[str, Control] = {
    control.key: control
    for control in (
        Control(key="checkboxes", words=_l("Check boxes"), sentence=_l("List of choices"), fits=lambda kind, document: True),
        Control(
            key="swatches",
            words=_l("Swatches"),
            sentence=_l("Swatches"),
            fits=lambda kind, document: not has_ranges(document),
            has_colours=True,
        ),
        Control(key="stars", words=_l("Stars"), sentence=_l("Stars"), fits=lambda kind, document: kind.written == RATED, has_stars=True),
        Control(
            key="slider",
            words=_l("Slider"),
            sentence=_l("Slider with two ends"),
            fits=lambda kind, document: kind.has_numbers and not document.get("bins"),
            needs_numbers=True,
            is_range=True,
        ),
    )
}
USUAL = CONTROLS["checkboxes"]


def control_of(look: Mapping[str, Any]) -> Control:
    """Return the control that a look names, the usual one where it names none that is known."""
    return CONTROLS.get(str(look.get("control")), USUAL)


def fitting(document: Mapping[str, Any], *, has_numbers: bool) -> list[Control]:
    """Return the controls that fit a facet; the one that it has stays among them."""
    kind, now = kind_of(document["source"]["kind"]), control_of(document.get("look", {}))
    fit = (control.fits(kind, document) and (has_numbers or not control.needs_numbers) for control in CONTROLS.values())
    return [control for control, fits in zip(CONTROLS.values(), fit, strict=True) if fits or control is now]


def with_control(document: Document, key: str) -> Document:
    """Return a facet's document drawn by another control; a range control needs free ranges, without one the bins come back."""
    before, after = control_of(document.get("look", {})), CONTROLS[key]
    changed = {**document, "look": {**document.get("look", {}), "control": key}}
    if after.is_range:
        return {**changed, "free": True}
    if before.is_range:
        changed.pop("free", None)
    return changed
