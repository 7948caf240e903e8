"""What every kind of source gives: the fields it reads, the level of its values, the values in what is said."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any, ClassVar

from binsort.core.facets.kinds import SourceKind
from binsort.core.facets.spec import Source
from binsort.core.index.codes import FieldKey
from binsort.core.index.columns import PRODUCT, Value
from binsort.core.index.facts import Facts
from binsort.core.values.numbers import Number, written

Spellings = Callable[[Any], Iterator[tuple[str, str]]]  # the identity and the spelling of each text in what is said
Units = tuple[str, str]  # in which numbers are read, and of numbers without one; empty where they have none


@dataclass(frozen=True, slots=True)
class Circumstances:
    """What reading depends on besides what is said."""

    source: Source
    now: Number
    units: Units
    label: Callable[[str], str]  # the spelling of an identity that is used most


class SourceReader:
    """Reads one kind of source. Stateless."""

    kind: ClassVar[SourceKind]

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        """Return the fields that a source reads."""
        raise NotImplementedError

    def spellings(self) -> Spellings | None:
        """Return what yields the spellings in what is said, None where values have but one."""
        return None

    def level(self, facts: Facts, source: Source) -> str:
        """Return whether a source's values belong to products or to variants."""
        return PRODUCT

    def units(self, facts: Facts, source: Source) -> Units:
        """Return the units of a source's numbers."""
        return source.unit, ""

    def next_change(self, items: Iterable[Any], now: Number) -> Number | None:
        """Return the next moment at which time alone changes what some of these items say, None where it never does."""
        return None

    def is_timed(self, item: Any) -> bool:
        """Tell whether time alone can change what an item says; asked of sources whose :meth:`next_change` is a moment."""
        return False

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        """Yield the values in what is said, and a sentence for each that cannot be read."""
        raise NotImplementedError


def number_value(number: Number) -> Value:
    """Return a number as a value."""
    text = written(number)
    return Value(text, text, number)
