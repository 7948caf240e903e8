"""Suggesting: values for a field that a product lacks, each with the reason: like products have it, its own words say it."""

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import floor, log10

from binsort.core.products.edits import Field, Held, held, plain_text, value_text
from binsort.core.products.product import Product
from binsort.core.values.numbers import Number, approximate, exact, half_up, written
from binsort.core.values.text import identity
from binsort.core.values.units import KNOWN, convert, same

MOST = 6
_LARGE = 10**15  # such numbers stay as they are
_DIGITS = 3  # significant ones of a converted number, at least
_NO_WORD = re.compile(r"[^\w]+")


@dataclass(frozen=True, slots=True)
class Suggestion:
    """A value as it is typed, and why."""

    text: str
    why: str
    of: str = ""  # the name of the product that has it


def suggestions(
    product: Product, field: Field, like: Sequence[Product], known: Sequence[tuple[str, int]], typed: str = ""
) -> list[Suggestion]:
    """Return values that a product may lack, best first, each once.

    Args:
        product: what is being edited.
        field: the field.
        like: other products, the likest first.
        known: values that the catalogue has, as they are typed, with how many products have each.
        typed: the letters typed so far; values that do not hold them are left out.
    """
    wanted = identity(typed)
    by_text: dict[str, Suggestion] = {}
    for item in (*_of_like(product, field, like), *_in_words(product, field, [text for text, _ in known]), *_known(known)):
        if wanted in identity(item.text) and len(by_text) < MOST:
            by_text.setdefault(identity(item.text), item)
    return list(by_text.values())


def _of_like(product: Product, field: Field, like: Sequence[Product]) -> Iterator[Suggestion]:
    having = [(other, values) for other in like if (values := held(other, field))]
    if not having:
        return
    ranked = sorted(having, key=lambda item: -_likeness(product, item[0]))
    first, values = ranked[0]
    yield Suggestion(_typed(values, field), _has(values, field), first.name)
    counts = Counter(_typed(values, field) for _, values in having)
    text, count = counts.most_common(1)[0]
    if count > 1:
        yield Suggestion(text, f"on {count} of {len(having)} products like it")


def _typed(values: Sequence[Held], field: Field) -> str:
    return " | ".join(value_text(_in_unit(value, field), field) for value in values)


def _in_unit(value: Held, field: Field) -> Held:
    """Return a value in the unit of the field, where it is a number in another one."""
    number, unit = value
    if not field.unit or not unit or same(unit, field.unit) or not isinstance(number, int | Fraction):
        return value
    converted = convert(number, unit, field.unit)
    return value if converted is None else (_as_exact(converted, written(number)), field.unit)


def _has(values: Sequence[Held], field: Field) -> str:
    """Say that another product has values; where it has them in another unit, in which."""
    told = " | ".join(value_text(value, field) for value in values)
    return "has it" if told == _typed(values, field) else f"has {told}"


def _likeness(one: Product, other: Product) -> float:
    """Weigh how much two products share: words of the name, brand, categories, attributes."""
    mine, others = set(identity(one.name).split()), set(identity(other.name).split())
    shared = len(mine & others) / max(len(mine | others), 1)
    same = sum(given in other.properties for given in one.properties)
    return 3 * shared + (one.brand == other.brand) + bool(set(one.categories) & set(other.categories)) + 0.5 * same


def _in_words(product: Product, field: Field, known: Sequence[str]) -> Iterator[Suggestion]:
    """Find values in what the product says of itself: a known value as a word, or a number in a unit that can be converted."""
    words = f"{product.name}. {product.description}. {', '.join(product.tags)}"
    if field.unit in KNOWN:
        for match in re.finditer(r"(?<![\d.,])(\d+(?:[.,]\d+)?)\s?([A-Za-zµ\"'″′]+(?:-force)?)", words):
            number = convert(exact(match[1].replace(",", ".")), match[2], field.unit) if match[2] in KNOWN else None
            if number is None:
                continue
            if same(match[2], field.unit):
                yield Suggestion(plain_text(number), f"its own text says “{match[0]}”")
            else:
                yield Suggestion(plain_text(_as_exact(number, match[1])), f"from {match[0]}, in its own text")
        return
    text = _as_words(words)
    for value in known:
        if value and _as_words(value) in text:
            yield Suggestion(value, f"its own text says “{value}”")


def _as_exact(number: Number, digits: str) -> Number:
    """Round a converted number to as many significant digits as it was written with, three at least."""
    if not -_LARGE < number < _LARGE:
        return number
    kept = max(_DIGITS, len(digits.replace(".", "").replace(",", "").lstrip("0")))
    before = floor(log10(abs(approximate(number)))) + 1 if number else 1
    return half_up(number, max(0, kept - before)) if number else number


def _as_words(text: str) -> str:
    """Return a text as words between single blanks, to be found in another."""
    return f" {re.sub(_NO_WORD, ' ', identity(text)).strip()} "


def _known(known: Sequence[tuple[str, int]]) -> Iterator[Suggestion]:
    for text, count in known:
        yield Suggestion(text, f"{count:,} product{'s have' if count != 1 else ' has'} it" if count else "in the dictionary")
