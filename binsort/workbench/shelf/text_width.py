"""How wide the names of bins are, so that what is drawn keeps its label: advances of Familjen Grotesk, semi-bold, at 13 pixels."""

_GROUPS = {  # pixels: the signs of about that width
    3.3: "ijlIJ'.,!:; ",
    4.5: "ft-()/*r",
    6.2: "zsyxv?L",
    6.7: "eckF",
    7.3: "abdghnopqutABCETYSRPZVKX0123456789£$+<=>–×…",
    8.7: "DGHNOQUw€&",
    11.0: "mMW",
}
_WIDTHS = {sign: pixels for pixels, signs in _GROUPS.items() for sign in signs}
_LATIN, _OTHER = 7.3, 13.5  # other letters of alphabets; ideographs, emoji and what else is wide
_PADDING = 10
_DIGIT = 6.6  # IBM Plex Mono at 11.5 pixels, set a little closer


def text_width(text: str) -> int:
    """Return about how many pixels a name under a board needs, with what stands free beside it."""
    return round(sum(_WIDTHS.get(sign, _LATIN if sign < "\u1100" else _OTHER) for sign in text)) + _PADDING


def figures_width(text: str) -> int:
    """Return about how many pixels figures need."""
    return round(_DIGIT * len(text)) + _PADDING
