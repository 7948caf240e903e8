"""Controls: the ways in which shoppers meet a facet. Each is declared here, once; forms, shop, shelves and proposals derive from it.

A control is drawn by the template of its ``part`` below ``racks/templates/racks/facet``, in the shop and in the owner's preview alike.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets.checks import RANGES
from binsort.core.facets.kinds import RATED, SourceKind, kind_of
from binsort.core.facets.range_edits import without_free

Document = dict[str, Any]
Fits = Callable[[SourceKind, Mapping[str, Any]], bool]  # the kind of source and the facet's document
_SWITCHED = 1  # choices that a switch stands for


@dataclass(frozen=True, slots=True, kw_only=True)
class Control:
    """One control."""

    key: str  # in the look of a facet file
    words: str | Promise
    sentence: str | Promise  # what a proposal says of it
    fits: Fits
    part: str = "boxes"  # the template that draws its choices
    has_colours: bool = False  # each choice shows its colours
    has_pictures: bool = False  # each choice shows a picture
    has_stars: bool = False  # each choice shows the stars it begins at
    needs_numbers: bool = False  # its values have to be numbers; of an attribute only the catalogue tells that
    is_range: bool = False  # two ends on an axis stand for all choices; the facet takes free ranges
    has_bars: bool = False  # a histogram stands over them
    takes_one: bool = False  # shoppers pick one
    draws_counts: bool = False  # its counts are drawn, not only written
    in_columns: bool = True  # its choices stand in columns, some of them behind "show more"
    opens_levels: bool = False  # categories open to those below them; others draw as many levels as the look says
    sets_in: bool = False  # categories are set in below those above them


def has_ranges(document: Mapping[str, Any]) -> bool:
    """Tell whether a facet's document gives range bins."""
    return any(name in document for name in RANGES)


def _is_cut_or_listed(kind: SourceKind, document: Mapping[str, Any]) -> bool:
    return has_ranges(document) or not document.get("free")


def _is_listed(kind: SourceKind, document: Mapping[str, Any]) -> bool:
    return not has_ranges(document) and not document.get("free")


def _is_tree(kind: SourceKind, document: Mapping[str, Any]) -> bool:
    return kind.is_tree


def _is_measured(kind: SourceKind, document: Mapping[str, Any]) -> bool:
    return kind.has_numbers and not document.get("bins")


CONTROLS: dict[str, Control] = {
    control.key: control
    for control in (
        Control(key="checkboxes", words=_l("Check boxes"), sentence=_l("List of choices"), fits=lambda kind, document: True, sets_in=True),
        Control(
            key="radio", words=_l("Single choice"), sentence=_l("List, one of it"), fits=_is_cut_or_listed, takes_one=True, sets_in=True
        ),
        Control(key="buttons", words=_l("Buttons"), sentence=_l("Buttons"), fits=_is_cut_or_listed),
        Control(
            key="dropdown",
            words=_l("Drop-down"),
            sentence=_l("Drop-down"),
            fits=_is_cut_or_listed,
            part="dropdown",
            takes_one=True,
            in_columns=False,
        ),
        Control(
            key="many",
            words=_l("Many from a list"),
            sentence=_l("List to open, with a search"),
            fits=_is_listed,
            part="many",
            in_columns=False,
        ),
        Control(key="swatches", words=_l("Swatches"), sentence=_l("Swatches"), fits=_is_listed, has_colours=True),
        Control(key="pictures", words=_l("Pictures"), sentence=_l("Pictures"), fits=_is_listed, has_pictures=True),
        Control(
            key="search", words=_l("Search by text"), sentence=_l("Search that suggests"), fits=_is_listed, part="search", in_columns=False
        ),
        Control(
            key="stars",
            words=_l("Stars and up"),
            sentence=_l("Stars"),
            fits=lambda kind, document: kind.written == RATED,
            has_stars=True,
        ),
        Control(
            key="slider",
            words=_l("Slider and two boxes"),
            sentence=_l("Slider with two ends"),
            fits=_is_measured,
            needs_numbers=True,
            is_range=True,
            has_bars=True,
            part="range",
            in_columns=False,
        ),
        Control(
            key="boxes",
            words=_l("Two boxes"),
            sentence=_l("Two boxes"),
            fits=_is_measured,
            needs_numbers=True,
            is_range=True,
            part="range",
            in_columns=False,
        ),
        Control(
            key="dates",
            words=_l("Two dates"),
            sentence=_l("Two dates"),
            fits=lambda kind, document: kind.has_dates and not document.get("bins"),
            is_range=True,
            has_bars=True,
            part="dates",
            in_columns=False,
        ),
        Control(
            key="switch",
            words=_l("Switch"),
            sentence=_l("Switch"),
            part="switch",
            in_columns=False,
            fits=lambda kind, document: (kind.may_be_absent and kind.says_itself) or len(document["source"].get("groups", ())) == _SWITCHED,
        ),
        Control(
            key="strip",
            words=_l("A–Z strip"),
            sentence=_l("A–Z strip"),
            fits=lambda kind, document: kind.is_initial,
            part="strip",
            draws_counts=True,
            in_columns=False,
        ),
        Control(
            key="tree",
            words=_l("Tree, opened"),
            sentence=_l("Tree that opens"),
            fits=_is_tree,
            part="tree",
            in_columns=False,
            opens_levels=True,
            sets_in=True,
        ),
        Control(
            key="drilled",
            words=_l("Tree, drilled"),
            sentence=_l("Tree, one level at a time"),
            fits=_is_tree,
            part="drilled",
            takes_one=True,
            in_columns=False,
            opens_levels=True,
            sets_in=True,
        ),
    )
}
USUAL = CONTROLS["checkboxes"]


def control_of(look: Mapping[str, Any]) -> Control:
    """Return the control that a look names, the usual one where it names none that is known."""
    return CONTROLS.get(str(look.get("control")), USUAL)


def control_words(control: Control, document: Mapping[str, Any]) -> str:
    """Return how a control is called for a facet: check boxes over ranges are a list of ranges, over categories an indented tree."""
    if control is USUAL and has_ranges(document):
        return str(_l("List of ranges"))
    if control is USUAL and kind_of(document["source"]["kind"]).is_tree:
        return str(_l("Tree, indented"))
    return str(control.words)


def fitting(document: Mapping[str, Any], *, has_numbers: bool) -> list[Control]:
    """Return the controls that fit a facet; the one that it has stays among them."""
    kind, now = kind_of(document["source"]["kind"]), control_of(document.get("look", {}))
    listed = {**document, "free": has_ranges(document) is False and document.get("free") and not now.is_range}
    fit = (control.fits(kind, listed) and (has_numbers or not control.needs_numbers) for control in CONTROLS.values())
    return [control for control, fits in zip(CONTROLS.values(), fit, strict=True) if fits or control is now]


def with_control(document: Document, key: str, suggested: Sequence[Any] = ()) -> Document:
    """Return a facet's document drawn by another control.

    A range control needs free ranges; without one the bins come back. One that takes one pick lets shoppers pick one, leaving it
    lets them pick many again.

    Args:
        document: of the facet.
        key: of :data:`CONTROLS`.
        suggested: cuts for a facet of numbers that has no bins to be listed.
    """
    before, after = control_of(document.get("look", {})), CONTROLS[key]
    changed = {**document, "look": {**document.get("look", {}), "control": key}}
    if after is USUAL:
        del changed["look"]["control"]
        if not changed["look"]:
            del changed["look"]
    if after.takes_one:
        changed["pick"] = "one"
    elif before.takes_one:
        changed.pop("pick", None)
    if after.is_range:
        return {**changed, "free": True}
    if before.is_range:
        changed = without_free(changed)
        if not has_ranges(changed) and suggested:
            changed["cuts"] = list(suggested)
    return changed
