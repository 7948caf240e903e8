"""Bins and bars of a shelf: the parts that a page holds by the hundred."""

from collections.abc import Iterable

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

from binsort.workbench.shelf.view import BarView, ShelfView, VesselView

from .links import goes

register = template.Library()
_GAP = 0.18  # of a bar's width, between it and the next


@register.simple_tag
def bars(shelf: ShelfView, trying: object) -> SafeString:
    """Draw the bars: all products, those still in the result, and, dashed, what lifting the facet's own picks would add."""
    inside = _boxes((bar, bar.inside) for bar in shelf.bars if bar.inside) if trying else ""
    adds = _lids(bar for bar in shelf.bars if bar.adds) if trying else ""
    return format_html(
        '<svg class="field-of-bars" viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">'
        '<path class="bar" d="{}" /><path class="bar in" d="{}" /><path class="bar-adds" d="{}" /></svg>',
        _boxes((bar, bar.total) for bar in shelf.bars),
        inside,
        adds,
    )


@register.simple_tag
def opens(vessel: VesselView, shelf: ShelfView, still: object, kind: str, measures: str = "") -> SafeString:
    """Open the element of a bin: a link that tries it, or, where nothing can be clicked, none."""
    classes = f"{kind}{' picked' if vessel.picked else ''} {measures}".strip()
    if still:
        return format_html('<span class="{}" title="{}">', classes, vessel.told)
    here = SafeString(' aria-current="true"' if vessel.picked else "")
    attributes = (goes(vessel.address), shelf.key, vessel.key, here, classes, vessel.told)
    return format_html('<a {} id="v-{}-{}"{} class="{}" title="{}">', *attributes)


@register.simple_tag
def leads(address: str, still: object, classes: str, title: str = "") -> SafeString:
    """Open the element of a compartment that leads to another page, or, where nothing can be clicked, nowhere."""
    told = format_html(' title="{}"', title) if title else ""
    return format_html('<span class="{}"{}>', classes, told) if still else format_html('<a href="{}" class="{}"{}>', address, classes, told)


@register.simple_tag
def turns(shelf: ShelfView, still: object, classes: str, group: str = "") -> SafeString:
    """Open the element of the compartment that sums up small bins, or sums them up again: a link that shows all of them in place."""
    if still or not shelf.turn_address:
        return format_html('<span class="{}">', classes)
    name = f"{shelf.key}-{group}" if group else shelf.key
    expanded = "true" if shelf.is_open else "false"
    return format_html('<a {} id="more-{}" aria-expanded="{}" class="{}">', goes(shelf.turn_address), name, expanded, classes)


@register.simple_tag
def closes(still: object, shelf: ShelfView | None = None) -> SafeString:
    """Close the element of a bin, or, with its ``shelf``, that of :func:`turns`."""
    return SafeString("</span>" if still or (shelf and not shelf.turn_address) else "</a>")


def _boxes(bars: Iterable[tuple[BarView, float]]) -> str:
    return "".join(f"M{bar.left:.2f} 100v{-height:.1f}h{bar.width * (1 - _GAP):.2f}v{height:.1f}z" for bar, height in bars)


def _lids(bars: Iterable[BarView]) -> str:
    return "".join(f"M{bar.left:.2f} {100 - bar.adds:.1f}h{bar.width * (1 - _GAP):.2f}" for bar in bars)
