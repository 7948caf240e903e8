"""What ./run check looks for in templates: lines that are too long, and words that nobody could translate."""

import re
from collections.abc import Iterator

from .environment import PROJECT

_LONGEST = 140
_ANOTHERS = PROJECT / "binsort/demo/club"  # pages of another house, served as they are
_MARKED = re.compile(r"\{% blocktrans\w*.*?\{% endblocktrans\w* %\}|\{#.*?#\}", re.DOTALL)
_TAGS = re.compile(r"\{%.*?%\}|\{\{.*?\}\}", re.DOTALL)
_NO_WORDS = re.compile(r"<(script|style|code|svg|pre)\b.*?</\1>|<span class=\"key[^\"]*\"[^>]*>.*?</span>", re.DOTALL)
_ATTRIBUTES = re.compile(r"\b(?:title|aria-label|placeholder|alt|label)=\"([^\"]*)\"")
_ELEMENTS = re.compile(r"<(?:\"[^\"]*\"|[^>\"])*>")
_ENTITIES = re.compile(r"&\w+;")
_STYLE = re.compile(r"<style|\sstyle=")
_NAMES = ("Bin Sort", "Saltmarsh Chandlery")  # are the same in every language


def _templates() -> Iterator[tuple[str, str]]:
    for path in sorted((PROJECT / "binsort").rglob("*.html")):
        if path.is_relative_to(_ANOTHERS):
            continue
        yield str(path.relative_to(PROJECT)), path.read_text(encoding="utf-8")


def long_lines() -> list[str]:
    """Return the lines of templates that have more than 140 characters."""
    return [
        f"{name}:{number} has {len(line)} characters; lines stay below {_LONGEST}"
        for name, text in _templates()
        for number, line in enumerate(text.splitlines(), 1)
        if len(line) > _LONGEST
    ]


def inline_styles() -> list[str]:
    """Return the templates with a style of their own, which the pages' policy refuses."""
    return [
        f"{name} has an inline style; use a class, or the tags of drawing.py"
        for name, text in _templates()
        if _STYLE.search(_TAGS.sub("", text))
    ]


def unmarked_texts() -> list[str]:
    """Return the words of templates that are not marked for translation."""
    return [f"{name} says {words!r} outside of translate" for name, text in _templates() for words in unmarked(text)]


def unmarked(text: str) -> list[str]:
    """Return the words of one template that are not marked for translation.

    >>> unmarked('<p title="Sum">{% translate "All" %} {{ total }}, <b>none</b></p>')
    ['Sum', 'none']
    """
    bare = _NO_WORDS.sub("", _TAGS.sub("", _MARKED.sub("", text)))
    found = [*_ATTRIBUTES.findall(bare), *_ELEMENTS.sub("\n", bare).splitlines()]
    for name in _NAMES:
        found = [words.replace(name, "") for words in found]
    return [words.strip() for words in found if re.search(r"[^\W\d_]", _ENTITIES.sub("", words))]
