"""The bars of a histogram, drawn as a few shapes instead of hundreds of boxes."""

from collections.abc import Iterable

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

from binsort.workbench.shelf.view import BarView, ShelfView

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


def _boxes(bars: Iterable[tuple[BarView, float]]) -> str:
    return "".join(f"M{bar.left:.2f} 100v{-height:.1f}h{bar.width * (1 - _GAP):.2f}v{height:.1f}z" for bar, height in bars)


def _lids(bars: Iterable[BarView]) -> str:
    return "".join(f"M{bar.left:.2f} {100 - bar.adds:.1f}h{bar.width * (1 - _GAP):.2f}" for bar in bars)
