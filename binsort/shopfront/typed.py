"""What shoppers type into the two boxes of a range, understood: "£20", "20,50", "20."; and what cannot be read, said."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from django.utils.translation import gettext as _

from binsort.core.facets.kinds import kind_of
from binsort.core.facets.query import read_end
from binsort.core.facets.spec import FacetSpec, Range, written_bound
from binsort.core.values.amounts import read_amount
from binsort.core.values.numbers import Number
from binsort.core.values.written_dates import read_date
from binsort.racks.addresses import Pair

FROM, TO = "from", "to"


@dataclass(frozen=True, slots=True)
class Typed:
    """A query whose boxes are understood, and what could not be."""

    pairs: tuple[Pair, ...]
    wrong: Mapping[str, Mapping[str, tuple[str, str]]] = field(default_factory=dict)  # by facet, then end: what was typed, why not


def understood(pairs: Sequence[Pair], specs: Sequence[FacetSpec]) -> Typed:
    """Return a query with the ends of its ranges as addresses have them.

    Ends that stand the wrong way round are turned; a range that was typed takes the place of a bin of ranges that was picked.
    """
    free = {spec.key: spec for spec in specs if spec.free}
    names = {f"{key}.{end}": (key, end) for key in free for end in (FROM, TO)}
    if not any(name in names for name, _value in pairs):
        return Typed(tuple(pairs))
    ends: dict[str, dict[str, Number]] = {}
    wrong: dict[str, dict[str, tuple[str, str]]] = {}
    for name, value in pairs:
        if name not in names or not value.strip():
            continue
        key, end = names[name]
        number = _read(value, free[key])
        if number is None:
            wrong.setdefault(key, {})[end] = (value, _why_not(value, free[key]))
        else:
            ends.setdefault(key, {})[end] = number
    return Typed(tuple(_put_together(pairs, names, free, ends)), wrong)


def _put_together(
    pairs: Sequence[Pair], names: Mapping[str, tuple[str, str]], free: Mapping[str, FacetSpec], ends: Mapping[str, Mapping[str, Number]]
) -> list[Pair]:
    """Return the pairs with what was read; bins stay where the boxes say just what they are."""
    kept = [(name, value) for name, value in pairs if name not in names]
    for key, read in ends.items():
        spec = free[key]
        ranged = {item.key: item for item in spec.ranges}
        picked = [value for name, value in kept if name == key and value in ranged]
        low, high = read.get(FROM), read.get(TO)
        if low is not None and high is not None and low > high:
            low, high = high, low
        if len(picked) == 1 and _are(ranged[picked[0]], low, high):
            continue
        kept = [(name, value) for name, value in kept if not (name == key and value in ranged)]
        kept += [
            (f"{key}.{end}", written_bound(number, spec.source.kind)) for end, number in ((FROM, low), (TO, high)) if number is not None
        ]
    return kept


def _are(bounds: Range, low: Number | None, high: Number | None) -> bool:
    return (bounds.low, bounds.high) == (low, high)


def _read(text: str, spec: FacetSpec) -> Number | None:
    kind = spec.source.kind
    plain_end = read_end(text, kind)
    if plain_end is not None:
        return plain_end
    if kind_of(kind).has_dates:
        read_day = read_date(text)
        return read_day.toordinal() if read_day else None
    amount = read_amount(text.strip().removesuffix(".").removesuffix(","))
    return amount[0] if amount else None


def _why_not(text: str, spec: FacetSpec) -> str:
    if len(text) > 24:
        text = f"{text[:24]}…"
    if kind_of(spec.source.kind).has_dates:
        return _("“%(text)s” is no date. Write it as 2026-05-31.") % {"text": text}
    return _("“%(text)s” is no number. Write it as 20 or 20.50.") % {"text": text}
