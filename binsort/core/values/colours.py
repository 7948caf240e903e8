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
_HEX = re.compile(r"#[0-9a-fA-F]{6}", re.ASCII)
_STEPS = 40  # on the way to black or white


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


def is_colour(text: str) -> bool:
    """Tell whether a text is a colour as ``#rrggbb``."""
    return _HEX.fullmatch(text) is not None


def luminance(colour: str) -> float:
    """Return the relative luminance of a colour, from 0 to 1 (WCAG 2.2, relative luminance)."""
    parts = [channel / 255 for channel in _channels(colour)]
    red, green, blue = (part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: str, other: str) -> float:
    """Return the contrast of two colours, from 1 to 21 (WCAG 2.2, contrast ratio).

    >>> round(contrast("#ffffff", "#000000"), 1), round(contrast("#767676", "#ffffff"), 2)
    (21.0, 4.54)
    """
    lighter, darker = sorted((luminance(one), luminance(other)), reverse=True)
    return (lighter + 0.05) / (darker + 0.05)


def mixed(colour: str, ground: str, share: float) -> str:
    """Return a colour mixed with so much of it on a ground.

    >>> mixed("#000000", "#ffffff", 0.5)
    '#808080'
    """
    parts = zip(_channels(colour), _channels(ground), strict=True)
    return "#" + "".join(f"{int(own * share + under * (1 - share) + 0.5):02x}" for own, under in parts)


def legible(colour: str, ground: str, least: float) -> str:
    """Return the colour, or the nearest one on its way to black or white that has so much contrast to a ground.

    >>> legible("#cccccc", "#ffffff", 4.5), legible("#22345c", "#ffffff", 4.5)
    ('#757575', '#22345c')
    """
    ways = [[mixed(end, colour, step / _STEPS) for step in range(_STEPS + 1)] for end in ("#000000", "#ffffff")]
    for darker, lighter in zip(ways[0], ways[1], strict=True):
        for one in (darker, lighter):
            if contrast(one, ground) >= least:
                return one
    return max(("#000000", "#ffffff"), key=lambda end: contrast(end, ground))


def _channels(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def are_colours(labels: Iterable[str]) -> bool:
    """Tell whether most of these values are names of colours."""
    listed = list(labels)
    named = sum(1 for label in listed if swatch(label) or identity(label) in CLEAR)
    return len(listed) > 1 and named * 2 > len(listed)
