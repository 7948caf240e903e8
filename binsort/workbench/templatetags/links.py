"""Links of the owner's pages: with scripts they change the part that is swapped, without them they load the page."""

from functools import lru_cache

from django import template
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

register = template.Library()


@register.simple_tag
def goes(address: str, *, push: bool = True) -> SafeString:
    """Return the attributes of a link; ``push``: the address becomes the page's own."""
    return format_html('href="{0}" hx-get="{0}"{1}', address, SafeString(' hx-push-url="true"' if push else ""))


@register.simple_tag
def options(choices: tuple[tuple[str, str], ...], chosen: str) -> SafeString:
    """Return the options of a long list, of which one is chosen; what is written once is kept, for a tree has thousands."""
    written = _options(choices)
    value = format_html('value="{}"', chosen)
    return SafeString(written.replace(f"<option {value}>", f"<option {value} selected>", 1))


@lru_cache(maxsize=8)
def _options(choices: tuple[tuple[str, str], ...]) -> SafeString:
    return format_html_join("", '<option value="{}">{}</option>', choices)


@register.filter
def at(named: dict[str, str], key: str) -> str:
    """Return what a mapping has at a key, empty for nothing."""
    return named.get(key, "")
