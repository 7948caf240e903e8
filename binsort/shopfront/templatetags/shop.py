"""What the shop's templates draw and link."""

from functools import lru_cache
from math import floor

from django import template
from django.urls import reverse
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

from binsort.catalog.models import Category

register = template.Library()

_STAR = "M7 1l1.8 3.9 4.2.5-3.1 2.9.8 4.2L7 10.4l-3.7 2.1.8-4.2L1 5.4l4.2-.5z"
_LEFT_HALF = "M7 1v9.4l-3.7 2.1.8-4.2L1 5.4l4.2-.5z"


@register.simple_tag
@lru_cache(maxsize=200)  # a page has dozens of them, a shop no more than some fifty
def stars(rating: str) -> SafeString:
    """Draw five stars, filled to a rating of up to five; halves where it lies between."""
    halves = floor(float(rating) * 2 + 0.5) / 2
    outlines = format_html_join("", '<path d="{}" transform="translate({} 0)"/>', ((_STAR, place * 15) for place in range(5)))
    filled = [(_STAR if place + 1 <= halves else _LEFT_HALF, place * 15) for place in range(5) if place + 0.5 <= halves]
    return format_html(
        '<svg class="stars" width="75" height="14" viewBox="0 0 75 14" role="img" aria-label="{} of 5 stars">'
        '{}<g class="full">{}</g></svg>',
        rating,
        outlines,
        format_html_join("", '<path d="{}" transform="translate({} 0)"/>', filled),
    )


@register.simple_tag
def category_address(category: Category) -> str:
    """Return the address of a category's listing; its ancestors must be at hand on ``trail`` or in the tree."""
    slugs = [ancestor.slug for ancestor in category.ancestors(include_self=True)] if category.parent_id else [category.slug]
    return reverse("shop-category", kwargs={"slugs": "/".join(slugs)})
