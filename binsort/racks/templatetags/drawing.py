"""What the pages of both houses draw: measures and swatches, without a style attribute, which the pages' policy refuses."""

from collections.abc import Iterable

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import ngettext

from binsort.core.values.colours import swatch
from binsort.racks.shown_facet import Swatch

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
    """Draw the colours of a swatch beside each other, parted from corner to corner; ``kind`` is the class of what holds them."""
    given = swatch.colours if swatch else ()
    marks = f"{kind} has-colours{' dark' if swatch and swatch.is_dark else ''}"
    marks += " clear" if swatch and swatch.clear else "" if given else " none"
    parts = mark_safe("".join(_corner(colour, place + 1, len(given)) for place, colour in reversed(list(enumerate(given)))))
    drawing = '<i class="{}" aria-hidden="true"><svg viewBox="0 0 12 12" preserveAspectRatio="none">{}</svg></i>'
    return format_html(drawing, marks, "" if swatch and swatch.clear else parts)


@register.simple_tag
def swatch_of(label: str) -> Swatch:
    """Return the colours that the words of a label name."""
    return Swatch(swatch(label), clear=False)


def _corner(colour: str, place: int, count: int) -> SafeString:
    """Return the part of the square that lies this side of a line from lower left to upper right."""
    end = 2 * _SIDE * place / count
    over = end - _SIDE  # how far the line is past the corner
    outline = f"M0 0H{_SIDE}V{over:g}L{over:g} {_SIDE}H0z" if over > 0 else f"M0 0H{end:g}L0 {end:g}z"
    return format_html('<path d="{}" fill="{}"/>', outline, colour)


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
