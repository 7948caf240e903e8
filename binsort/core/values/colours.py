"""Colours: from colour words to what a swatch shows. CSS named colours first, then common paint names."""

import re
from collections.abc import Iterable

import webcolors

from .text import identity

# Names that paint makers and chandlers use and CSS does not know, or knows as a colour that no paint has. Common
# practice of the trade; the values are ours, chosen by eye.
PAINT_NAMES = {
    "red": "#b3262b", "green": "#2c7a3f", "blue": "#22589b", "orange": "#ee6a1f", "yellow": "#e3b505", "black": "#1b1b1b",
    "grey": "#8b9196", "gray": "#8b9196",
    "navy": "#22345c", "navy blue": "#22345c", "royal blue": "#2449a4", "sky blue": "#7fb2d9", "french blue": "#3d6fa5",
    "racing green": "#14432a", "british racing green": "#14432a", "forest": "#24502f", "sage": "#9cab8a", "olive green": "#5c6335",
    "oxblood": "#6a2023", "burgundy": "#6d1a2d", "claret": "#7a1d3a", "wine": "#6f1f3a", "rust": "#a4502b", "terracotta": "#c0623f",
    "cream": "#f3e9cf", "off white": "#f5f2e8", "stone": "#cfc6b1", "sand": "#dccba4", "magnolia": "#f4ebdc", "buff": "#dfc18f",
    "mustard": "#c9981f", "ochre": "#b9822c", "amber": "#e09a1c", "bronze": "#8c6a3c", "brass": "#b5954a", "copper": "#b06a3b",
    "galvanised": "#b4b9ba", "galvanized": "#b4b9ba", "stainless": "#cfd3d4", "chrome": "#d9dcde", "charcoal": "#3b4043",
    "graphite": "#4a4d50", "anthracite": "#383d42", "teak": "#a06a3d", "mahogany": "#5e2b20", "walnut": "#5b402c", "oak": "#b38b5d",
    "natural": "#e4d6b5", "fleck": "#c9d6ea",
}  # fmt: skip
CLEAR = frozenset({"clear", "transparent", "colourless"})
_QUALIFIERS = re.compile(r"\b(light|dark|pale|deep|bright|mid|matt|gloss|satin|fleck)\b")
_PARTS = re.compile(r"\s*(?:/|&|\+|,|\band\b|\bwith\b)\s*")
MOST = 8  # colours of one swatch


def colour(word: str) -> str | None:
    """Return the colour of one word or name as ``#rrggbb``, None where it is none.

    >>> colour("Navy"), colour("LightSeaGreen"), colour("dark red"), colour("Polyester")
    ('#22345c', '#20b2aa', '#8b0000', None)
    """
    name = identity(word).replace("-", " ")
    if name in PAINT_NAMES:
        return PAINT_NAMES[name]
    for spelling in (name.replace(" ", ""), _QUALIFIERS.sub("", name).replace(" ", "")):
        if spelling in PAINT_NAMES:
            return PAINT_NAMES[spelling]
        try:
            return str(webcolors.name_to_hex(spelling))
        except ValueError:
            continue
    return None


def swatch(label: str) -> tuple[str, ...]:
    """Return the colours of a value, at most :data:`MOST`, none where its words name no colour.

    >>> swatch("White/blue fleck"), swatch("Default")
    (('#ffffff', '#22589b'), ())
    """
    whole = colour(label)
    if whole is not None:
        return (whole,)
    colours = [colour(part) for part in _PARTS.split(identity(label)) if part]
    return tuple(part for part in colours if part)[:MOST] if all(colours) else ()


def are_colours(labels: Iterable[str]) -> bool:
    """Tell whether most of these values are names of colours."""
    listed = list(labels)
    named = sum(1 for label in listed if swatch(label) or identity(label) in CLEAR)
    return len(listed) > 1 and named * 2 > len(listed)
