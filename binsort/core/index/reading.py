"""Sources: from the facts to the column of values that a facet narrows by, whole or followed change by change."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from binsort.core.facets.spec import Source
from binsort.core.values.numbers import Number

from .bitmaps import Numbers, repeated_ranges
from .codes import FieldKey
from .columns import PRODUCT, VARIANT, Change, Column, Pairs, Value, column_of, owned, pairs
from .facts import Codes, Facts
from .sources import READERS
from .sources.source_reader import Circumstances, SourceReader

Read: TypeAlias = Callable[[Any], Iterator[Value | str]]
_NONE = np.array([], dtype=np.uint32)


class Labels:
    """How each value is written, and how often: the spelling used most is its label. Grows with the vocabulary."""

    def __init__(self, fields: tuple[FieldKey, ...], written: Callable[[Any], Iterator[tuple[str, str]]]) -> None:
        self._fields, self.written = fields, written
        self._seen = [0] * len(fields)
        self._groups: dict[str, dict[str, list[tuple[FieldKey, int]]]] = {}

    def grow(self, facts: Facts) -> None:
        """Take in what is new in the vocabularies."""
        for place, key in enumerate(self._fields):
            items = facts.items(key)
            for code in range(self._seen[place], len(items)):
                for name, text in self.written(items[code]):
                    self._groups.setdefault(name, {}).setdefault(text, []).append((key, code))
            self._seen[place] = len(items)

    def of(self, name: str, facts: Facts) -> str:
        """Return the spelling of an identity written most often, on a tie the smaller by code point; empty where nobody says it."""
        spelled = self._groups.get(name, {})
        if len(spelled) == 1:
            (text, spelling), *_ = spelled.items()
            return text if any(facts.field(key).count(code) for key, code in spelling) else ""
        counts = ((text, sum(facts.field(key).count(code) for key, code in spelling)) for text, spelling in spelled.items())
        return min(((-count, text) for text, count in counts if count), default=(0, ""))[1]


class Values:
    """The distinct values of a source, each with a number. Only grows."""

    def __init__(self) -> None:
        self.listed: list[Value] = []
        self.by_identity: dict[str, list[int]] = {}
        self._codes: dict[tuple[str, int | None, int | None], int] = {}

    def code(self, value: Value) -> int:
        """Return the number of a value."""
        number = value.number
        key = (value.identity, None, None) if number is None else (value.identity, number.numerator, number.denominator)
        code = self._codes.get(key)
        if code is None:
            code = self._codes[key] = len(self.listed)
            self.listed.append(value)
            self.by_identity.setdefault(value.identity, []).append(code)
        return code


@dataclass(frozen=True, slots=True)
class Table:
    """Which values each code of a field is: ``values[starts[c]:starts[c + 1]]``, and whether it counts as given."""

    starts: NDArray[np.int64]
    values: NDArray[np.int64]
    given: NDArray[np.bool_]
    refused: tuple[tuple[int, str], ...] = ()  # codes with what cannot be read, and why

    @property
    def size(self) -> int:
        """The number of codes it knows."""
        return len(self.given)


@dataclass(frozen=True)
class Reading:
    """How a source reads the facts."""

    source: Source
    level: str
    units: tuple[str, str]
    fields: tuple[FieldKey, ...]
    tables: tuple[Table, ...]
    values: Values
    labels: Labels | None
    until: Number | None = None  # the next moment at which time alone changes a value

    # -- pairs

    def pairs(self, facts: Facts, products: Numbers | None = None) -> Pairs:
        """Return every value with its owner, visible ones only; of some products (rising) or of all."""
        parts = [self._expanded(table, *written) for table, written in zip(self.tables, self._said(facts, products), strict=True)]
        return pairs(np.concatenate([values for values, _ in parts]), np.concatenate([owners for _, owners in parts]))

    def _expanded(self, table: Table, owners: Numbers, codes: Codes) -> tuple[NDArray[np.int64], Numbers]:
        counts = table.starts[1:][codes] - table.starts[codes]
        if len(counts) and counts.min() == counts.max() == 1:
            return table.values[table.starts[codes]], owners
        return table.values[repeated_ranges(table.starts[codes], counts)], np.repeat(owners, counts)

    def _said(self, facts: Facts, products: Numbers | None) -> Iterator[tuple[Numbers, Codes]]:
        """Yield what visible owners say in each field, brought to the level of the source."""
        for place, key in enumerate(self.fields):
            if self.level == PRODUCT and key[-1] == VARIANT:
                yield _NONE, _NONE
                continue
            coded = facts.field(key)
            owners, codes = coded.owners, coded.codes
            if products is not None:
                at = coded.places(products if key[-1] == PRODUCT else facts.variants_of(products))
                owners, codes = owners[at], codes[at]
            if self.level == VARIANT and key[-1] == PRODUCT:
                given = self.tables[place].given[codes]
                owners, codes = self._on_variants(facts, owners[given], codes[given], products)
            seen = (facts.visible if self.level == PRODUCT else facts.visible_variants)[owners]
            yield (owners, codes) if seen.all() else (owners[seen], codes[seen])

    def _on_variants(self, facts: Facts, owners: Numbers, codes: Codes, products: Numbers | None) -> tuple[Numbers, Codes]:
        """Give what products say to those of their variants that do not say it themselves."""
        counts = facts.starts[owners + 1] - facts.starts[owners]
        variants = repeated_ranges(facts.starts[owners], counts)
        own = facts.field(self.fields[1])
        saying = own.owners[self.tables[1].given[own.codes]] if products is None else self._saying(facts, products)
        silent = np.ones(facts.variants, dtype=bool)
        silent[saying] = False
        kept = silent[variants]
        return variants[kept].astype(np.uint32), np.repeat(codes, counts)[kept]

    def _saying(self, facts: Facts, products: Numbers) -> Numbers:
        own = facts.field(self.fields[1])
        at = own.places(facts.variants_of(products))
        return own.owners[at[self.tables[1].given[own.codes[at]]]]

    # -- reports

    def refused(self, facts: Facts) -> list[tuple[int, str]]:
        """Return the visible products that say a value that cannot be read, each with a sentence, in their order."""
        refused: list[tuple[int, str]] = []
        for key, table in zip(self.fields, self.tables, strict=True):
            field = facts.field(key)
            for code, reason in table.refused:
                owners = field.owners[field.codes == code]
                refused += [(int(n), reason) for n in (owners if key[-1] == PRODUCT else facts.product_of[owners]) if facts.visible[n]]
        return sorted(refused, key=lambda item: item[0])

    # -- following changes

    def followed(self, facts: Facts, now: Number, changed: set[str] | None) -> "Reading | None":
        """Return the reading of newer facts, at another time; None where values mean something else by now.

        Args:
            facts: made of those that this reading was made of.
            now: the moment.
            changed: identities whose spellings may have changed.
        """
        reader = reader_of(self.source.kind)
        if reader.level(facts, self.source) != self.level or reader.units(facts, self.source) != self.units:
            return None
        if self.labels is not None:
            self.labels.grow(facts)
            for name in changed or ():
                label = self.labels.of(name, facts)
                if label and any(
                    v.label != label for v in map(self.values.listed.__getitem__, self.values.by_identity.get(name, ())) if v.number is None
                ):
                    return None
        read = _read_at(facts, self.source, now, self.labels)
        tables = tuple(
            _grown(table, facts.items(key), read, self.values) if len(facts.items(key)) > table.size else table
            for key, table in zip(self.fields, self.tables, strict=True)
        )
        until = self.until
        if self.is_late(now):
            items = facts.items(self.fields[0])
            tables = (_at_time(tables[0], items, reader, read, self.values),)
            until = reader.next_change(items, now)
        elif len(self.fields) == 1:
            moments = (until, reader.next_change(facts.items(self.fields[0])[self.tables[0].size :], now))
            until = min((moment for moment in moments if moment is not None), default=None)
        return replace(self, tables=tables, until=until)

    def is_late(self, now: Number) -> bool:
        """Tell whether time alone has changed a value by now."""
        return self.until is not None and now >= self.until


def reader_of(kind: str) -> SourceReader:
    """Return the reader of a kind of source."""
    return READERS[kind]


def _read_at(facts: Facts, source: Source, now: Number, labels: Labels | None) -> Read:
    """Return what reads the values in what is said, as things are."""
    reader = reader_of(source.kind)
    at = Circumstances(source, now, reader.units(facts, source), lambda name: labels.of(name, facts) if labels else name)
    return lambda item: reader.read(item, at)


def _grown(table: Table, items: list[Any], read: Read, values: Values) -> Table:
    """Return a table that knows all items there are by now."""
    starts, codes, given, refused = [int(table.starts[-1])], [], [], list(table.refused)
    for code in range(table.size, len(items)):
        for value in read(items[code]):
            if isinstance(value, Value):
                codes.append(values.code(value))
            else:
                refused.append((code, value))
        starts.append(int(table.starts[-1]) + len(codes))
        given.append(bool(getattr(items[code], "values", True)))
    return Table(
        np.concatenate((table.starts[:-1], starts)),
        np.concatenate((table.values, np.array(codes, dtype=np.int64))),
        np.concatenate((table.given, np.array(given, dtype=bool))),
        tuple(refused),
    )


_EMPTY_TABLE = Table(np.array([0]), np.array([], dtype=np.int64), np.array([], dtype=bool))


def _at_time(table: Table, items: list[Any], reader: SourceReader, read: Read, values: Values) -> Table:
    """Return a table of single values with the items that time changes read at another time."""
    per_code = _single(table)
    for code, item in enumerate(items[: table.size]):
        if reader.is_timed(item):
            per_code[code] = next((values.code(value) for value in read(item) if isinstance(value, Value)), -1)
    there = per_code >= 0
    return Table(np.concatenate(([0], np.cumsum(there))), per_code[there], table.given)


def _single(table: Table) -> NDArray[np.int64]:
    """Return the one value of each code, -1 for none."""
    codes = np.full(table.size, -1, dtype=np.int64)
    codes[np.diff(table.starts) == 1] = table.values
    return codes


def reading_of(facts: Facts, source: Source, now: Number) -> Reading:
    """Read a source in the facts as they are."""
    reader = reader_of(source.kind)
    fields, written = reader.fields(source), reader.spellings()
    labels = Labels(fields, written) if written else None
    if labels:
        labels.grow(facts)
    read, values = _read_at(facts, source, now, labels), Values()
    tables = tuple(_grown(_EMPTY_TABLE, facts.items(key), read, values) for key in fields)
    until = reader.next_change(facts.items(fields[0]), now)
    return Reading(source, reader.level(facts, source), reader.units(facts, source), fields, tables, values, labels, until)


def owners_of(facts: Facts, level: str) -> int:
    """Return how many owners there are at a level."""
    return facts.size if level == PRODUCT else facts.variants


def column_from(reading: Reading, facts: Facts) -> Column:
    """Make the whole column of a reading."""
    return column_of(reading.level, owners_of(facts, reading.level), reading.values.listed, reading.pairs(facts))


@dataclass(frozen=True, slots=True)
class Step:
    """From one version of the facts and one moment to a later one."""

    old: Facts
    new: Facts
    touched: Numbers  # slots, rising
    now: Number

    @property
    def reshaped(self) -> bool:
        """Tell whether products came, went, or became visible or invisible."""
        seen = self.old.visible
        before = self.touched[self.touched < self.old.size]
        return self.new.size != self.old.size or not np.array_equal(seen[before], self.new.visible[before])


def follow(reading: Reading, column: Column, step: Step) -> tuple[Reading, Column, Change | None]:
    """Bring a column up to date by what changed; the change is None where all of it had to be read anew."""
    old, new = step.old, step.new
    touched_fields = [key for key in reading.fields if old.field(key) is not new.field(key)]
    reordered = reading.units != ("", "") and new.rank is not old.rank
    late = reading.is_late(step.now)
    if not touched_fields and not step.reshaped and not reordered and not late:
        return reading, column.patched(owners_of(new, column.level), Change()), Change()
    is_recoded = any(old.vocabularies.get(key) is not new.vocabularies.get(key) for key in reading.fields if key in old.vocabularies)
    names = None if is_recoded else _names_touched(reading, touched_fields, step)
    later = None if is_recoded else reading.followed(new, step.now, names)
    if later is None:
        anew = reading_of(new, reading.source, step.now)
        return anew, column_from(anew, new), None
    touched = step.touched
    if late:
        touched = np.union1d(touched, _retimed(reading, later, old)).astype(np.uint32)
    before = reading.pairs(old, touched[touched < old.size])
    after = later.pairs(new, touched)
    lost, gained = np.setdiff1d(before, after, assume_unique=True), np.setdiff1d(after, before, assume_unique=True)
    moving = np.unique(np.concatenate((lost, gained)) & 0xFFFFFFFF)
    present = after[np.isin(after & 0xFFFFFFFF, moving)]
    listed = reading.values.listed
    change = Change(owned(lost, listed), owned(gained, listed), owned(present, listed))
    return later, column.patched(owners_of(new, column.level), change), change


def _names_touched(reading: Reading, fields: list[FieldKey], step: Step) -> set[str] | None:
    """Return the identities that are said more or less often than before."""
    if reading.labels is None:
        return None
    names: set[str] = set()
    for key in fields:
        before, after = step.old.field(key).counts, step.new.field(key).counts
        padded = np.zeros(len(after), dtype=np.int64)
        padded[: min(len(before), len(after))] = before[: len(after)]
        items = step.new.items(key)
        for code in np.flatnonzero(padded != after).tolist():
            names.update(name for name, _ in reading.labels.written(items[code]))
    return names


def _retimed(reading: Reading, later: Reading, facts: Facts) -> Numbers:
    """Return the products with a value that time alone has changed."""
    before = _single(reading.tables[0])
    changed = before != _single(later.tables[0])[: len(before)]
    field = facts.field(reading.fields[0])
    owners = field.owners[changed[field.codes]]
    return np.unique(facts.product_of[owners] if reading.fields[0][-1] == VARIANT else owners)
