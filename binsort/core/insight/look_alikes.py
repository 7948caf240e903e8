"""Look-alikes: values of one attribute that are most likely one value written in several ways."""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from rapidfuzz import fuzz, process

from binsort.core.values.numbers import exact, written
from binsort.core.values.text import identity, unaccented
from binsort.core.values.units import KNOWN

ALIKE = 88  # hundredths of likeness from which on two words may be one
_SHORT = 5  # letters below which only spelling rules count: "red" is not "rad"
_NO_LETTERS = re.compile(r"[\W_]+")
_AMOUNT = re.compile(r"(?<![\w.,])(\d+(?:[.,]\d+)?)\s*([a-zµ\"'″′]+)(?!\w)", re.IGNORECASE)
_UNITS = {spelling.lower(): unit for spelling, unit in reversed(KNOWN.items())}  # case is put aside here
_DIGITS = re.compile(r"\d+(?:[.,]\d+)?")
# British and American spellings of words that catalogues are full of; from memory of common usage.
_SPELLED = {
    "gray": "grey", "color": "colour", "aluminum": "aluminium", "fiber": "fibre", "center": "centre", "meter": "metre",
    "liter": "litre", "mold": "mould", "galvanized": "galvanised", "anodized": "anodised", "molded": "moulded",
}  # fmt: skip
_JOINING = {"and": "", "with": "", "the": "", "of": "", "colour": "", "coloured": ""}


@dataclass(frozen=True, slots=True)
class LookAlike:
    """Values that may be one: the one to keep, the others, and why they look alike."""

    keep: str
    others: tuple[str, ...]
    why: str
    sure: bool  # the same but for spelling; else only alike


def look_alikes(counts: Mapping[str, int]) -> list[LookAlike]:
    """Return groups of look-alike values, the surest and most used first.

    Args:
        counts: products of each value, by its spelling.

    >>> look_alikes({"Grey": 9, "Gray": 2, "Navy": 5})
    [LookAlike(keep='Grey', others=('Gray',), why='the same but for spelling', sure=True)]
    """
    groups: dict[str, list[str]] = {}
    for value in counts:
        groups.setdefault(plain_form(value), []).append(value)
    alike = [_group(values, counts, "the same but for spelling", sure=True) for values in groups.values() if len(values) > 1]
    heads = {form: max(values, key=lambda value: counts[value]) for form, values in groups.items()}
    alike += [_group(pair, counts, why, sure=False) for pair, why in _alike(heads)]
    return sorted(alike, key=lambda group: (not group.sure, -sum(counts[value] for value in group.others), group.keep))


def _group(values: Sequence[str], counts: Mapping[str, int], why: str, *, sure: bool) -> LookAlike:
    ranked = sorted(values, key=lambda value: (-counts[value], value))
    return LookAlike(ranked[0], tuple(ranked[1:]), why, sure)


def plain_form(value: str) -> str:
    """Return what spellings of one value share: case, accents, signs, blanks, spelling of words and units put aside.

    >>> plain_form("10mm") == plain_form("10 mm") == plain_form("10 millimetres"), plain_form("Navy-Blue") == plain_form("navy blue")
    (True, True)
    """
    text = _AMOUNT.sub(_plain_amount, unaccented(identity(value)))
    words = _NO_LETTERS.sub(" ", text.replace(".", "\0")).replace("\0", ".").split()
    plain = [_SPELLED.get(word, word) for word in words]
    kept = [word for word in plain if word not in _JOINING] or plain
    return " ".join(kept)


def _plain_amount(match: re.Match[str]) -> str:
    unit = _UNITS.get(match[2].lower())
    number = written(exact(match[1].replace(",", ".")))
    return f" {number} {unit.symbol.lower()} " if unit else match[0]


def _alike(heads: Mapping[str, str]) -> Iterator[tuple[tuple[str, str], str]]:
    """Yield pairs of values that say the same in fewer words, or are written nearly alike; numbers in them must agree."""
    for word, others in _SAYS_THE_SAME.items():
        for other in sorted(others):
            if word in heads and f"{word} {other}" in heads:
                yield (heads[word], heads[f"{word} {other}"]), "one has the words of the other"
    forms = [form for form in heads if len(form) >= _SHORT]
    for at, form in enumerate(forms):
        for other, _, _ in process.extract(form, forms[at + 1 :], scorer=fuzz.ratio, score_cutoff=ALIKE, limit=None):
            if _DIGITS.findall(form) == _DIGITS.findall(other):
                yield (heads[form], heads[other]), "written nearly alike"


_SAYS_THE_SAME = {
    "navy": {"blue"}, "crimson": {"red"}, "scarlet": {"red"}, "azure": {"blue"}, "cobalt": {"blue"}, "jet": {"black"},
    "snow": {"white"}, "lime": {"green"}, "olive": {"green"}, "stainless": {"steel"}, "galvanised": {"steel"}, "neoprene": {"rubber"},
}  # fmt: skip
