"""What the controls of facets draw."""

import re
from collections.abc import Iterable
from dataclasses import replace
from functools import lru_cache
from math import floor
from string import ascii_uppercase
from typing import NamedTuple

from django import template
from django.contrib.humanize.templatetags.humanize import intcomma
from django.template import Context
from django.template.loader import render_to_string
from django.utils.html import escape, format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from binsort.racks.shown_facet import Choice, Shown

register = template.Library()

_SHAPES = {  # whole and half, in a box of 14
    "star": (
        "M7 1l1.8 3.9 4.2.5-3.1 2.9.8 4.2L7 10.4l-3.7 2.1.8-4.2L1 5.4l4.2-.5z",
        "M7 1v9.4l-3.7 2.1.8-4.2L1 5.4l4.2-.5z",
    ),
    "dot": ("M7 1.5a5 5 0 1 0 .01 0z", "M7 1.5a5 5 0 0 0 0 10z"),
    "bar": ("M3 1h8v11H3z", "M3 1h4v11H3z"),
}


@register.simple_tag
@lru_cache(maxsize=500)  # a page has dozens of them, a shop no more than some fifty
def stars(rating: str, shape: str = "star", colour: str = "", picture: str = "") -> SafeString:
    """Draw five stars, or what stands for them, filled to a rating of up to five; halves where it lies between."""
    halves = floor(float(rating) * 2 + 0.5) / 2
    if shape == "picture" and picture:
        drawn = [_pictured(place, picture, place + 0.5 <= halves) for place in range(5)]
        outlines, full = SafeString("".join(drawn)), SafeString("")
    else:
        whole, half = _SHAPES.get(shape, _SHAPES["star"])
        filled = [(whole if place + 1 <= halves else half, place * 15) for place in range(5) if place + 0.5 <= halves]
        outlines, full = _outlines((whole, place * 15) for place in range(5)), _outlines(filled)
    return format_html(
        '<svg class="stars" width="75" height="14" viewBox="0 0 75 14" role="img" aria-label="{} of 5 stars"{}>'
        '{}<g class="full">{}</g></svg>',
        rating,
        format_html(' color="{}"', colour) if colour else "",
        outlines,
        full,
    )


def _outlines(paths: Iterable[tuple[str, int]]) -> SafeString:
    return format_html_join("", '<path d="{}" transform="translate({} 0)"/>', paths)


def _pictured(place: int, picture: str, is_full: bool) -> SafeString:
    opacity = "" if is_full else mark_safe(' opacity="0.25"')
    return format_html('<image href="{}" x="{}" width="13" height="13"{}/>', picture, place * 15, opacity)


@register.simple_tag
def one_star(shape: str = "star", picture: str = "") -> SafeString:
    """Draw what stands for one star, to be filled by a style."""
    if shape == "picture" and picture:
        return format_html('<image href="{}" width="14" height="12"/>', picture)
    return format_html('<path d="{}"/>', _SHAPES.get(shape, _SHAPES["star"])[0])


_number = lru_cache(maxsize=5_000)(intcomma)  # a page has a hundred counts, most of them small

_MARK = 10**15  # counts above it stand for the places of choices while a facet is drawn
_MARKED = re.compile(r"1,000,000,000,(\d{3}),(\d{3})")


@register.simple_tag(takes_context=True, name="facet")
def drawn_facet(context: Context, facet: Shown, in_row: str = "") -> SafeString:
    """Draw a facet. All of it but its counts is drawn once, for with every pick many counts change and little else."""
    ids: str = context.get("ids") or ""
    if facet.range or facet.control.draws_counts:
        return SafeString(_drawn_facet(facet, ids, in_row))
    filled = (piece if isinstance(piece, str) else _number(facet.choices[piece].count) for piece in _pieces(facet, ids, in_row))
    return SafeString("".join(filled))


@lru_cache(maxsize=1_000)
def _pieces(facet: Shown, ids: str, in_row: str) -> tuple[str | int, ...]:
    """Return the text of a facet between its counts, and which count stands between; facets are equal whatever their counts."""
    pieces: list[str | int] = []
    marked = replace(facet, choices=tuple(replace(choice, count=_MARK + place) for place, choice in enumerate(facet.choices)))
    parts = _MARKED.split(_drawn_facet(marked, ids, in_row))
    for place in range(0, len(parts) - 1, 3):
        pieces += [parts[place], int(parts[place + 1] + parts[place + 2])]
    return (*pieces, parts[-1])


def _drawn_facet(facet: Shown, ids: str, in_row: str) -> str:
    return render_to_string("racks/facet/_facet.html", {"facet": facet, "ids": ids, "in_row": in_row})


_COUNT = "\ue000"  # stands for the count while a choice is drawn


@register.simple_tag(takes_context=True, name="choice")
def drawn_choice(context: Context, facet: Shown, choice: Choice) -> SafeString:
    """Draw a choice. All of it but its count is drawn once, for counts change with every pick."""
    frame = _Frame(facet.key, facet.one, facet.counts, facet.control.has_pictures)
    drawn = _choice(context.get("ids", ""), frame, choice)
    return SafeString(drawn.replace(_COUNT, _number(choice.count)))


class _Frame(NamedTuple):
    """What a choice needs of its facet."""

    key: str
    one: bool
    counts: bool
    has_pictures: bool


@lru_cache(maxsize=20_000)
def _choice(ids: str, facet: _Frame, choice: Choice) -> str:
    return render_to_string("racks/facet/_choice.html", {"ids": ids, "facet": facet, "choice": choice, "count": _COUNT})


@register.filter
def breakable(text: str) -> SafeString:
    """Let a text break after a stroke, as in "White/blue fleck"."""
    return mark_safe(escape(text).replace("/", "/<wbr>"))


@register.simple_tag
def letters(facet: Shown) -> list[tuple[str, Choice | None, float]]:
    """Return the alphabet with the choice of each letter, None where nothing begins with it, and the top of its bar; other signs follow."""
    by_label = {choice.label: choice for choice in facet.choices}
    others = [label for label in by_label if label not in ascii_uppercase]
    listed = [(letter, by_label.get(letter)) for letter in (*ascii_uppercase, *others)]
    return [(letter, choice, round(14 - 14 * choice.count / facet.most, 1) if choice else 14) for letter, choice in listed]
