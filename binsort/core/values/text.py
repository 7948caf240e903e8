"""Text: when two spellings are one value, how labels sort, and how keys are made from them."""

import re
import unicodedata
from functools import lru_cache
from typing import TypeAlias

# Unicode White_Space (PropList.txt); narrower than str.isspace(), which also holds U+001C to U+001F.
_WHITE = "\t\n\x0b\x0c\r \x85\xa0\u1680\u2000-\u200a\u2028\u2029\u202f\u205f\u3000"
_TRIM = re.compile(f"^[{_WHITE}]+|[{_WHITE}]+$")
_RUN = re.compile(f"[{_WHITE}]+")
_DIGITS = re.compile("[0-9]+")
_LAST = 0x10FFFF

NaturalKey: TypeAlias = tuple[str, str]


def trim(text: str) -> str:
    """Take Unicode white space off both ends."""
    return _TRIM.sub("", text)


@lru_cache(maxsize=50_000)
def normalise(text: str) -> str:
    """Bring text into NFC, trimmed, with inner white space collapsed.

    >>> normalise("  mooring \\u00a0 rope ")
    'mooring rope'
    """
    return _RUN.sub(" ", trim(unicodedata.normalize("NFC", text)))


@lru_cache(maxsize=50_000)
def identity(text: str) -> str:
    """Return what two spellings share when they are one value.

    >>> identity("Navy") == identity(" NAVY")
    True
    """
    return unicodedata.normalize("NFC", normalise(text).lower())


def folded(text: str) -> str:
    """Return the identity of a text that is too long, and too seldom met again, to be worth remembering."""
    if text.isascii():
        return _RUN.sub(" ", trim(text)).lower()
    return unicodedata.normalize("NFC", _RUN.sub(" ", trim(unicodedata.normalize("NFC", text))).lower())


def unaccented(text: str) -> str:
    """Drop combining marks (category Mn): NFD, drop, NFC."""
    if text.isascii():
        return text
    parts = unicodedata.normalize("NFD", text)
    return unicodedata.normalize("NFC", "".join(c for c in parts if unicodedata.category(c) != "Mn"))


def natural_key(label: str) -> NaturalKey:
    """Sort key of a label: digit runs as whole numbers, case and accents last.

    >>> sorted(["M10", "m9", "M8"], key=natural_key)
    ['M8', 'm9', 'M10']
    """
    return _DIGITS.sub(_run_key, unaccented(label.lower())), label


def _run_key(run: re.Match[str]) -> str:
    """Write a digit run so that code points compare as the numbers do: ``0``, how many digits count, these digits."""
    significant = run[0].lstrip("0")
    return "0" + chr(min(len(significant), _LAST)) + significant


def slug(text: str) -> str:
    """Make the key of a bin from its label.

    >>> slug("Ropes > Mooring"), slug("Été 12_b"), slug("#")
    ('ropes-mooring', 'été-12_b', 'bin')
    """
    lowered = text.lower()
    kept = "".join(c if c == "_" or unicodedata.category(c)[0] in "LM" or unicodedata.category(c) == "Nd" else "-" for c in lowered)
    return re.sub("-+", "-", kept).strip("-") or "bin"


def initial(name: str) -> str:
    """Return the A–Z strip's letter for a name: a letter, ``0-9`` or ``#``.

    >>> initial("Élan"), initial("3-strand"), initial("(spare)")
    ('E', '0-9', '#')
    """
    if name[:1].isascii() and name[:1].isalpha():
        return name[0].upper()
    first = unaccented(name[:1].upper())[:1]
    if first and unicodedata.category(first)[0] == "L":
        return first
    return "0-9" if first and unicodedata.category(first) == "Nd" else "#"


def category_path(text: str) -> tuple[str, ...]:
    """Split a written category path; blanks around ``>`` are ignored, empty segments dropped."""
    return tuple(segment for segment in map(normalise, text.split(">")) if segment)


def path_identity(path: tuple[str, ...]) -> str:
    """Return what two spellings of one category path share; ``>`` cannot stand inside a segment."""
    return " > ".join(map(identity, path))


def split_cell(text: str, separator: str) -> list[str]:
    """Return the values in a cell."""
    return [part for part in map(normalise, text.split(separator) if separator else [text]) if part]
