"""Recognising: columns whose header says nothing, by what the catalogue knows of their values."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from binsort.catalog.models import Product, Variant
from binsort.core.values.text import identity
from binsort.core.values.yes_no import YES_NO

from .columns import NUMBERS, MappedColumn

_MOST = 0.5  # of the values must be known for a column to be recognised
_DISTINCT = 0.9  # of the values are different in a column of names
_LEAST = 4  # letters of a name on average


def recognised(columns: Sequence[MappedColumn], samples: Sequence[Sequence[str]]) -> tuple[MappedColumn, ...]:
    """Return columns with those put right that values tell more of than the header did.

    Args:
        columns: as guessed from their headers.
        samples: of each column some of its values.
    """
    recognised_columns = list(columns)
    if not _has(recognised_columns, "identity", "sku"):
        _take(recognised_columns, samples, "identity", _known_numbers, "are product numbers of yours")
    if not _has(recognised_columns, "name"):
        _take_name(recognised_columns, samples)
    if not _has(recognised_columns, "brand"):
        brands = {identity(name) for name in Product.objects.exclude(brand="").values_list("brand", flat=True).distinct()}
        _take(
            recognised_columns, samples, "brand", lambda values: sum(identity(value) in brands for value in values), "are brands of yours"
        )
    if not _has(recognised_columns, "visible"):
        _take(recognised_columns, samples, "visible", _flags, "say yes or no", named=("web", "online", "show", "visible", "active"))
    return tuple(recognised_columns)


def _has(columns: Sequence[MappedColumn], *kinds: str) -> bool:
    return any(column.kind in kinds for column in columns)


def _known_numbers(values: Sequence[str]) -> int:
    wanted = [value for value in dict.fromkeys(values) if "\0" not in value]
    known = set(Product.objects.filter(identity__in=wanted).values_list("identity", flat=True))
    known |= set(Variant.objects.filter(sku__in=wanted).values_list("sku", flat=True))
    return sum(value in known for value in values)


def _flags(values: Sequence[str]) -> int:
    return sum(identity(value) in YES_NO for value in values)


def _take(
    columns: list[MappedColumn],
    samples: Sequence[Sequence[str]],
    kind: str,
    count: Callable[[Sequence[str]], int],
    words: str,
    *,
    named: Sequence[str] = (),
) -> None:
    """Give the column that has most of what is looked for this meaning, where it is most of its values."""
    best, share = None, _MOST
    for place, column in enumerate(columns):
        values = samples[place]
        if column.kind != "attribute" or not values or column.why.startswith("Sure"):
            continue
        if named and not any(word in identity(column.header).split() for word in named):
            continue
        known = count(values) / len(values)
        if known >= share:
            best, share = place, known
    if best is not None:
        known = count(samples[best])
        why = f"{'Sure' if share > 0.8 else 'Likely'}: {known:,} of {len(samples[best]):,} {words}"
        columns[best] = replace(columns[best], kind=kind, name="", unit="", separator="", is_number=kind in NUMBERS, why=why)


def _take_name(columns: list[MappedColumn], samples: Sequence[Sequence[str]]) -> None:
    """Take the first column of words that differ in nearly every row for the names."""
    for place, column in enumerate(columns):
        values = samples[place]
        if column.kind not in ("attribute", "description") or column.is_number or column.why.startswith("Sure: an attribute") or not values:
            continue
        if len(set(values)) >= _DISTINCT * len(values) and sum(map(len, values)) >= _LEAST * len(values):
            why = "Likely: text, in nearly every row another"
            columns[place] = replace(column, kind="name", name="", unit="", separator="", why=why)
            return
