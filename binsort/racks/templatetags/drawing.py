"""What the pages of both houses draw: measures and swatches, without a style attribute, which the pages' policy refuses."""

from collections.abc import Iterable
from math import cos, pi, sin

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import ngettext

from binsort.core.values.colours import swatch
from binsort.racks.shown_facet import CUTS, Swatch

register = template.Library()
_SIDE = 12  # of the square a swatch is drawn in


@register.simple_tag
def measure(x: float | None = None, y: float | None = None, z: int | None = None) -> SafeString:
    """Return classes that say measures by their digits; assets/drawing.css adds them up again.

    >>> measure(37.5)
    'x xa0 xb3 xc7 xd5 xe0'

    Args:
        x: hundredths, from 0 to 100.
        y: hundredths, where a thing has two measures.
        z: pixels, below 1,000.
    """
    named = [("x", f"{x:06.2f}") if x is not None else None, ("y", f"{y:06.2f}") if y is not None else None]
    named += [("z", f"{z:03}") if z is not None else None]
    return mark_safe(" ".join(_digits(*pair) for pair in named if pair))


def _digits(name: str, text: str) -> str:
    return " ".join([name, *(f"{name}{place}{digit}" for place, digit in zip("abcde", text.replace(".", ""), strict=False))])


@register.simple_tag
def share(part: float, whole: float) -> SafeString:
    """Return the classes of a part in hundredths of a whole; of nothing a part is nothing."""
    return measure(min(100 * part / whole, 100) if whole else 0)


@register.simple_tag
def colours(swatch: Swatch | None, kind: str) -> SafeString:
    """Draw the colours of a swatch, cut as it says; ``kind`` is the class of what holds them."""
    given = swatch.colours if swatch else ()
    marks = f"{kind} has-colours{' dark' if swatch and swatch.is_dark else ''}"
    marks += " clear" if swatch and swatch.clear else "" if given else " none"
    cut = _CUTS[swatch.cut] if swatch else _corner
    line = mark_safe(' stroke="#fff" stroke-width=".7"' if swatch and swatch.line and len(given) > 1 else "")
    drawn = [format_html('<path d="{}" fill="{}"{}/>', cut(place, len(given)), colour, line) for place, colour in enumerate(given)]
    parts = mark_safe("".join(reversed(drawn)))
    drawing = '<i class="{}" aria-hidden="true"><svg viewBox="0 0 12 12" preserveAspectRatio="none">{}</svg></i>'
    return format_html(drawing, marks, "" if swatch and swatch.clear else parts)


@register.simple_tag
def swatch_of(label: str) -> Swatch:
    """Return the colours that the words of a label name."""
    return Swatch(swatch(label), clear=False)


def _corner(place: int, count: int) -> str:
    """Return the part of the square that lies this side of a line from lower left to upper right."""
    end = 2 * _SIDE * (place + 1) / count
    over = end - _SIDE  # how far the line is past the corner
    return f"M0 0H{_SIDE}V{over:.4g}L{over:.4g} {_SIDE}H0z" if over > 0 else f"M0 0H{end:.4g}L0 {end:.4g}z"


def _stripe(place: int, count: int) -> str:
    return f"M{_SIDE * place / count:.4g} 0H{_SIDE * (place + 1) / count:.4g}V{_SIDE}H{_SIDE * place / count:.4g}z"


def _half(place: int, count: int) -> str:
    return f"M0 {_SIDE * place / count:.4g}V{_SIDE * (place + 1) / count:.4g}H{_SIDE}V{_SIDE * place / count:.4g}z"


def _sector(place: int, count: int) -> str:
    """Return a sector of a circle that holds the whole square, from the top round to the right."""
    middle, radius = _SIDE / 2, _SIDE * 0.72
    if count == 1:
        return f"M0 0H{_SIDE}V{_SIDE}H0z"
    turns = [2 * pi * at / count for at in (place, place + 1)]
    (x1, y1), (x2, y2) = ((middle + radius * sin(turn), middle - radius * cos(turn)) for turn in turns)
    return f"M{middle:g} {middle:g}L{x1:.4g} {y1:.4g}A{radius:.4g} {radius:.4g} 0 0 1 {x2:.4g} {y2:.4g}z"


_CUTS = dict(zip(CUTS, (_corner, _stripe, _half, _sector), strict=True))


@register.filter
def quoted(names: Iterable[str]) -> str:
    """Write names beside each other, each in quotation marks.

    >>> quoted(["Ropes", "Paint"])
    '“Ropes”, “Paint”'
    """
    return ", ".join(f"“{name}”" for name in names)


@register.simple_tag
def products(count: int) -> SafeString:
    """Say how many products, the number in its own type."""
    words = ngettext("%(number)s product", "%(number)s products", count)
    number = format_html('<span class="n">{}</span>', f"{count:,}")
    return mark_safe(words % {"number": number})
