"""Cautions: what a trial run says of a file before anything is taken. Nothing of it keeps a row from being taken."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

_LINES = 5  # named
_VALUES = 3


@dataclass(slots=True)
class Caution:
    """One thing to be aware of: in which column, how often, on which lines first, with which values."""

    kind: str
    column: str
    count: int = 0
    lines: list[int] = field(default_factory=list)
    values: list[str] = field(default_factory=list)


class Cautions:
    """All that a file is warned of."""

    def __init__(self) -> None:
        self._by_key: dict[tuple[str, str], Caution] = {}

    def add(self, kind: str, *lines: int, value: str = "", column: str = "", count: int = 1) -> None:
        """Note one more of a kind (of :data:`WORDS`), or so many, on these lines and others."""
        caution = self._by_key.get((kind, column))
        if caution is None:
            caution = self._by_key[kind, column] = Caution(kind, column)
        caution.count += count
        for line in lines:
            if len(caution.lines) < _LINES and line not in caution.lines:
                caution.lines.append(line)
        if len(caution.values) < _VALUES and value and value not in caution.values:
            caution.values.append(value[:60])

    def take(self, others: "Cautions") -> None:
        """Take over all that another reader met."""
        self._by_key.update(others._by_key)

    def __iter__(self) -> Any:
        return iter(self._by_key.values())

    def count(self, kind: str, column: str) -> int:
        """Return how many of a kind there are in a column."""
        caution = self._by_key.get((kind, column))
        return caution.count if caution else 0

    def told(self) -> list[dict[str, Any]]:
        """Return them as they are kept with the trial, in the order of :data:`WORDS`; words for nothing are asked of their column."""
        order = list(WORDS)
        return [
            {"kind": c.kind, "column": c.column, "count": c.count, "lines": c.lines, "values": c.values}
            for c in sorted((c for c in self if c.kind != "nothing"), key=lambda c: (order.index(c.kind), -c.count))
        ]


def _negative(told: Mapping[str, Any]) -> str:
    return ngettext("%(count)s amount is below 0", "%(count)s amounts are below 0", told["count"])


def _currency(told: Mapping[str, Any]) -> str:
    return ngettext("%(count)s price is in %(column)s", "%(count)s prices are in %(column)s", told["count"]) + _(
        ", which is not the currency of your catalogue"
    )


def _krone(told: Mapping[str, Any]) -> str:
    return ngettext(
        "%(count)s price is in “%(values)s”, which several countries have: give the currency a column of its own",
        "%(count)s prices are in “%(values)s”, which several countries have: give the currency a column of its own",
        told["count"],
    )


def _twice(told: Mapping[str, Any]) -> str:
    return ngettext(
        "%(count)s number stands on two variants (%(values)s)", "%(count)s numbers stand on several variants (%(values)s)", told["count"]
    )


def _parents(told: Mapping[str, Any]) -> str:
    return ngettext(
        "%(count)s row is a variant of what is a variant itself (%(values)s)",
        "%(count)s rows are variants of what is a variant itself (%(values)s)",
        told["count"],
    )


def _stray(told: Mapping[str, Any]) -> str:
    return ngettext(
        "%(count)s cell has a character that could not be read", "%(count)s cells have characters that could not be read", told["count"]
    )


def _cut(told: Mapping[str, Any]) -> str:
    return ngettext(
        "%(count)s cell is as long as a spreadsheet lets it be, so it may have been cut there",
        "%(count)s cells are as long as a spreadsheet lets them be, so they may have been cut there",
        told["count"],
    )


def _range(told: Mapping[str, Any]) -> str:
    return ngettext(
        "%(count)s product has prices from … to …: the lowest is taken",
        "%(count)s products have prices from … to …: the lowest is taken",
        told["count"],
    )


def _untaken(told: Mapping[str, Any]) -> str:
    return ngettext("%(column)s of %(count)s product is not taken", "%(column)s of %(count)s products is not taken", told["count"])


def _texts(told: Mapping[str, Any]) -> str:
    return ngettext(
        "%(count)s cell is no number and stays a text (%(values)s)", "%(count)s cells are no numbers and stay texts (%(values)s)",
        told["count"],
    )  # fmt: skip


WORDS: dict[str, Callable[[Mapping[str, Any]], str]] = {
    "negative": _negative, "currency": _currency, "krone": _krone, "twice": _twice, "parents": _parents, "texts": _texts,
    "stray": _stray, "cut": _cut, "range": _range, "untaken": _untaken,
}  # fmt: skip


def said(told: Mapping[str, Any]) -> str:
    """Return a caution in words, with where it stands."""
    words = {"count": f"{told['count']:,}", "column": told["column"], "values": ", ".join(told["values"])}
    lines = ", ".join(f"{line:,}" for line in told["lines"])
    more = _(" and more") if told["count"] > len(told["lines"]) else ""
    where = ngettext("line %(lines)s", "lines %(lines)s", len(told["lines"])) % {"lines": lines + more}
    in_column = f"{told['column']}: " if told["column"] and told["kind"] not in ("currency", "untaken") else ""
    return f"{in_column}{WORDS[told['kind']](told) % words} ({where})."
