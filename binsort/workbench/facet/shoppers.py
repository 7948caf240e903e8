"""The page of how shoppers see a facet: the controls that fit, the chosen one as a working drawing, desktop and phone."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.insight.findings import Found
from binsort.racks.addresses import Pair
from binsort.racks.controls import CONTROLS, Control, control_of, control_words, fitting, with_control
from binsort.racks.models import Setup
from binsort.racks.pictures import pictures_of
from binsort.racks.setup import facet_document
from binsort.racks.shown_facet import Choice, Shown
from binsort.workbench.rack.page import Sight
from binsort.workbench.rules.card import rule_words

from .page import BenchSight, FacetView, facet_page

_PICTURED = 4  # choices of the control in small
_TRIED = 2  # picks of the view with something picked


@dataclass(frozen=True, slots=True)
class MiniView:
    """A control that fits, small."""

    key: str
    words: str
    chosen: bool
    control: Control


@dataclass(frozen=True, slots=True)
class ShoppersView:
    """All that the page shows."""

    facet: FacetView
    minis: tuple[MiniView, ...]
    fit: str  # how many fit, in words
    drawing: Shown | None
    pictured: tuple[Choice, ...]  # the first choices, with their pictures
    seen: Shown | None  # with nothing, or with something picked
    picked: bool
    said: str  # what a screen reader says
    findings: tuple[Found, ...]
    waits: str  # what it waits for, in words, where that does not hold on this listing
    unserved: str  # the attribute that does not serve narrowing, so that no shopper sees it


def shoppers_page(setup: Setup, key: str, pairs: Sequence[Pair]) -> ShoppersView:
    """Build the page for a facet of the draft."""
    page = facet_page(setup, key, pairs)
    bench = BenchSight(setup, key, pairs)
    picked = ("picked", "yes") in pairs
    drawing = bench.sight.preview(bench.facet)
    waits = "" if drawing else rule_words(bench.sight.state, facet_document(setup.draft.document, key), bench.sight.words)
    drawing = drawing or bench.sight.preview(bench.facet, whenever=True)
    seen = drawing
    if picked and drawing:
        listing = [pair for pair in pairs if pair[0] == "category"]
        first = [(key, choice.key) for choice in drawing.choices if choice.count][: 1 if drawing.one else _TRIED]
        tried = Sight(setup, [*listing, *first], rack=bench.rack)
        seen = tried.preview(tried.state.rack.by_key[key], whenever=True)
    now = control_of(bench.look)
    fits = fitting(bench.document, has_numbers=bool(bench.facet.column.numbers))
    one = [control_words(control, bench.document).lower() for control in fits if control.takes_one]
    words = ngettext("%(count)s control fits", "%(count)s controls fit", len(fits)) % {"count": len(fits)}
    if one:
        words = _("%(words)s; %(one)s take one pick only") % {"words": words, "one": _(" and ").join(one)}
    return ShoppersView(
        facet=page,
        minis=tuple(MiniView(control.key, control_words(control, bench.document), control is now, control) for control in fits),
        fit=words,
        drawing=drawing,
        pictured=_pictured(bench, drawing) if drawing and any(one.has_pictures for one in fits) else (),
        seen=seen,
        picked=picked,
        said=_read_out(drawing) if drawing else "",
        waits=waits if drawing else "",
        unserved=page.unserved,
        findings=tuple(found for found in page.findings if found.id in ("long-labels", "same-swatch", "no-colour")),
    )


def _pictured(bench: BenchSight, drawing: Shown) -> tuple[Choice, ...]:
    pictures = pictures_of(bench.sight.state, bench.facet, bench.look, always=True)
    return tuple(replace(choice, image=pictures.get(choice.key, "")) for choice in drawing.choices[:_PICTURED])


def _read_out(shown: Shown) -> str:
    """Return what a screen reader says of the first choice."""
    parts = [shown.label] if shown.style.title else []
    parts += [shown.style.help] if shown.style.help else []
    if shown.range and shown.control.is_range:
        return ". ".join([*parts, _("from %(low)s, slider") % {"low": shown.range.said[0]}])
    if shown.choices:
        first = shown.choices[0]
        count = ngettext("%(count)s product", "%(count)s products", first.count) % {"count": f"{first.count:,}"}
        kind = _("single choice") if shown.one else _("check box")
        parts.append(f"{first.label}, {count if shown.counts else ''}{', ' if shown.counts else ''}{kind}")
    return ". ".join(parts)


def drawn_by(setup: Setup, key: str, pairs: Sequence[Pair], control: str) -> tuple[dict[str, Any], str] | None:
    """Return the facet's document drawn by another control, with what is done in words; None where it does not fit."""
    from binsort.core.facets.range_edits import written_bounds
    from binsort.core.insight.suggested_cuts import suggested

    bench = BenchSight(setup, key, pairs)
    fits = {one.key for one in fitting(bench.document, has_numbers=bool(bench.facet.column.numbers))}
    if control not in fits:
        return None
    cuts = suggested(bench.line, "calendar" if bench.line.are_days else "round") if bench.line else []
    changed = with_control(bench.document, control, written_bounds(bench.document, cuts))
    return changed, _("drawn as %(control)s") % {"control": control_words(CONTROLS[control], changed).lower()}
