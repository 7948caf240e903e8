"""Links of the owner's pages: with scripts they change the part that is swapped, without them they load the page."""

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

register = template.Library()


@register.simple_tag
def goes(address: str, *, push: bool = True) -> SafeString:
    """Return the attributes of a link; ``push``: the address becomes the page's own."""
    return format_html('href="{0}" hx-get="{0}"{1}', address, SafeString(' hx-push-url="true"' if push else ""))
