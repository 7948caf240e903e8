"""Numbers that are off: ten, a hundred or a thousand times what others of their category are, or as if given in another unit."""

import math
from collections.abc import Hashable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from binsort.core.facets.spec import Source
from binsort.core.index.columns import VARIANT, Column
from binsort.core.values.numbers import approximate
from binsort.core.values.text import identity
from binsort.core.values.units import KNOWN, in_words

from .finding import SHOW, Mend, products
from .whole import PRODUCTS, About, Whole, WholeFinding, WholeFound

_LEAST = 12  # numbers of a category that say something
_FEW = 0.1  # share of a category's products that may be off; more are another kind of thing
# In powers of ten: how near to a factor a number is, how far apart the others may lie, which factors are told as one.
_NEAR, _TIGHT, _ONE = 0.18, 0.45, 0.05
_PARTS = {10: "a tenth", 100: "a hundredth", 1_000: "a thousandth"}

Logs = NDArray[np.float64]
Slots = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Factor:
    """What numbers may be off by."""

    power: float  # of ten; below 0: they are too small
    units: tuple[str, ...]  # what they may be given in, in words

    def words(self) -> str:
        """Say it.

        >>> Factor(-1.0, ()).words(), Factor(2.0, ()).words(), Factor(-1.4048, ("inches",)).words()
        ('a tenth of', '100 times', '1/25.4 of')
        """
        size = 10 ** abs(self.power)
        plain = next((factor for factor in _PARTS if abs(math.log10(factor) - abs(self.power)) < 0.01), 0)
        if self.power > 0:
            return f"{plain or float(f'{size:.3g}'):,} times"
        return f"{_PARTS[plain]} of" if plain else f"1/{size:.3g} of"


def factors(unit: str) -> list[Factor]:
    """Return what numbers in a unit may be off by; of units as large as each other all are named.

    >>> [(round(one.power, 2), one.units) for one in factors("m")][:4]
    [(-3.0, ('kilometres',)), (-2.0, ()), (-1.0, ()), (0.04, ('yards',))]
    """
    powers: list[tuple[float, str]] = [(sign * math.log10(factor), "") for factor in _PARTS for sign in (-1, 1)]
    own = KNOWN.get(unit)
    others = {one.symbol: one for one in KNOWN.values() if own and one.dimension == own.dimension and one != own}
    powers += [(math.log10(own.size / one.size), in_words(one.symbol)) for one in others.values() if own]
    made: list[Factor] = []
    for power, words in sorted(powers):
        names = (words,) if words else ()
        if made and power - made[-1].power < _ONE:
            made[-1] = Factor(power if words and not made[-1].units else made[-1].power, made[-1].units + names)
        else:
            made.append(Factor(power, names))
    return made


class OffByAFactor(WholeFinding):
    """A few numbers that are some factor times what all others of the category are."""

    id = "off-by-a-factor"
    matters = 2.0

    def depends(self, whole: Whole) -> Hashable:
        return whole.paths

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        sources = [("Price", Source("price"))]
        sources += [(given.name, Source("attribute", given.name)) for given in whole.index.attributes() if given.has_numbers]
        for label, source in sources:
            column = whole.index.column(source)
            owners, logs = _numbers(column)
            if owners.size < _LEAST:
                continue
            slots = whole.index.product_of[owners] if column.level == VARIANT else owners
            places = whole.leaf_of[slots]
            order = np.argsort(places, kind="stable")
            starts = np.searchsorted(places[order], np.arange(len(whole.leaves) + 1))
            known = factors(whole.index.unit(source))
            for place, path in enumerate(whole.leaves):
                here = order[starts[place] : starts[place + 1]]
                if here.size >= _LEAST:
                    for factor, found in off(slots[here], logs[here], known):
                        yield self._found(whole, (label, path), factor, found)

    def _found(self, whole: Whole, where: tuple[str, tuple[str, ...]], factor: Factor, found: list[int]) -> WholeFound:
        label, path = where
        text = f"{label} of {products(len(found))} in {whole.name(path)} is about {factor.words()} what others have"
        more = f"As if given in {' or '.join(factor.units)}." if factor.units else ""
        mend = Mend(
            "show", "Show it" if len(found) == 1 else f"Show the {len(found)}", "leads to the products", leads=SHOW, target="products"
        )
        subject = f"{identity(label)} {factor.power:.1f} {' > '.join(path)}"
        about = About(PRODUCTS, " > ".join(path), products=tuple(found[:50]))
        return WholeFound(self.says(subject, len(found), text, mend, more=more), about)


def off(slots: Slots, logs: Logs, known: list[Factor]) -> Iterator[tuple[Factor, list[int]]]:
    """Yield the factors by which few products of a category are off, with those products; nothing where numbers lie wide apart.

    Args:
        slots: the product of each number.
        logs: the logarithm of each, to base 10.
        known: what they may be off by.
    """
    apart = logs - np.median(logs)
    spread = float(np.quantile(np.abs(apart), 0.9))
    wide = [factor for factor in known if abs(factor.power) > spread + 2 * _NEAR]
    if spread > _TIGHT or not wide:
        return
    far = np.abs(apart[:, None] - np.array([factor.power for factor in wide]))
    nearest, is_near = far.argmin(axis=1), far.min(axis=1) <= _NEAR
    for place in np.unique(nearest[is_near]).tolist():
        found = np.unique(slots[is_near & (nearest == place)]).tolist()
        if len(found) <= _FEW * len(np.unique(slots)):
            yield wide[place], found


def _numbers(column: Column) -> tuple[Any, Logs]:
    """Return the owners that have a number above nothing, and its logarithm; an owner of several comes several times."""
    count = len(column.numbers)
    sizes = np.array([approximate(number) if number > 0 else 0.0 for number in column.numbers])
    each = sizes[column.codes(count)]
    some = each > 0
    return column.owners[: each.size][some].astype(np.int64), np.log10(each[some])


FINDERS: tuple[WholeFinding, ...] = (OffByAFactor(),)
