"""Rules in words: what each facet waits for, and the card in which that is changed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise
from typing import Any

from babel.dates import format_date
from django.conf import settings
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.core.answers.answer import State
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.query import Picks
from binsort.core.facets.rule_edits import BINS, DAYS, LISTING, NONE, PICKED, Line, circle_with, lines_of, needs_every, rule_document
from binsort.core.facets.rules import Occasion, holds
from binsort.core.facets.spec import rule_of
from binsort.core.values.text import identity
from binsort.racks.number_words import bin_words

_HOWS = {PICKED: _l("has a pick"), NONE: _l("has no pick"), BINS: _l("has one of these picked")}


@dataclass(frozen=True, slots=True)
class ChoiceView:
    """A bin that can be waited for."""

    key: str
    name: str
    waited: bool


@dataclass(frozen=True, slots=True)
class LineView:
    """One line of the card."""

    number: int
    facet: str
    label: str
    how: str
    choices: tuple[ChoiceView, ...]
    holds: bool
    told: str  # whether it holds just now, in words
    refused: bool = False
    listing: str = ""  # the path of the category that is listed
    days: tuple[str, str] = ("", "")

    @property
    def kind(self) -> str:
        """What it is about: a facet, the listing, or days."""
        return self.how if self.how in (LISTING, DAYS) else "facet"


@dataclass(frozen=True, slots=True)
class CircleView:
    """A circle that a line would make: the facets in it, and those whose rule could go instead."""

    keys: tuple[str, ...]
    labels: tuple[str, ...]
    ways: tuple[tuple[str, str], ...]  # who would no longer wait for whom, and the label of the first


@dataclass(frozen=True, slots=True)
class CardView:
    """The rule of one facet, to be changed."""

    key: str
    label: str
    every: bool
    lines: tuple[LineView, ...]
    others: tuple[tuple[str, str], ...]  # facets that can be waited for: key and label
    hows: tuple[tuple[str, str], ...]
    circle: CircleView | None
    can_split: bool  # a facet of categories that has levels below
    waited: tuple[str, ...]  # keys of the facets whose bins can be clicked


@dataclass(frozen=True, slots=True)
class TieView:
    """A tie from the facet that is waited for to the one that waits."""

    start: str
    end: str
    holds: bool


def rule_words(state: State, facet: Mapping[str, Any], words: Any) -> str:
    """Return what a facet waits for, in words; empty where it waits for nothing.

    Args:
        state: the listing and the picks.
        facet: its document.
        words: gives how the numbers of a facet are written.
    """
    lines, joined = lines_of(facet), _(" and ") if needs_every(facet) else _(" or ")
    parts = []
    if names := _categories(state, lines, words):
        parts.append(_("on %(names)s and below") % {"names": joined.join(names)})
    parts += [_days_words(line) for line in lines if line.how == DAYS]
    for how, say in ((PICKED, _("once %(labels)s has a pick")), (NONE, _("while %(labels)s has no pick"))):
        labels = [_label_of(state, line) for line in lines if line.how == how]
        parts += [say % {"labels": joined.join([", ".join(labels[:-1]), labels[-1]] if len(labels) > 1 else labels)}] if labels else []
    parts += [_bins_words(state, line, words) for line in lines if line.how == BINS and not _is_of_tree(state, line)]
    return joined.join(parts)


def _is_of_tree(state: State, line: Line) -> bool:
    other = state.rack.by_key.get(line.facet)
    return line.how == BINS and other is not None and kind_of(other.spec.source.kind).is_tree


def _categories(state: State, lines: Sequence[Line], words: Any) -> list[str]:
    """Return the categories that lines wait for, as picks or as listings, each once."""
    names: list[str] = []
    for line in lines:
        if line.how == LISTING:
            names.append(line.listing.rpartition(" > ")[2])
        elif _is_of_tree(state, line):
            other = state.rack.by_key[line.facet]
            names += [bin_words(other.by_key[key], words(other)) for key in line.bins if key in other.by_key]
    return list({identity(name): name for name in names}.values())


def _days_words(line: Line) -> str:
    first, last = (format_date(date.fromisoformat(day), "d MMMM y", locale=settings.LOCALE) if day else "" for day in line.days)
    if first and last:
        return _("from %(first)s to %(last)s") % {"first": first, "last": last}
    return _("from %(first)s on") % {"first": first} if first else _("until %(last)s") % {"last": last}


def _label_of(state: State, line: Line) -> str:
    other = state.rack.by_key.get(line.facet)
    return other.spec.label if other else line.facet


def _bins_words(state: State, line: Line, words: Any) -> str:
    other = state.rack.by_key.get(line.facet)
    names = [bin_words(other.by_key[key], words(other)) for key in line.bins if key in other.by_key] if other else []
    return _("once %(names)s is picked") % {"names": _(" or ").join(names) or _label_of(state, line)}


def ties_of(state: State, documents: Sequence[Mapping[str, Any]]) -> tuple[TieView, ...]:
    """Return the ties between the facets of a rack."""
    keys = state.rack.by_key
    return tuple(
        TieView(line.facet, document["key"], _holds(state, line))
        for document in documents
        if document["key"] in keys
        for line in lines_of(document)
        if line.facet in keys
    )


def _holds(state: State, line: Line) -> bool:
    other = state.rack.by_key.get(line.facet)
    document = rule_document(line)
    if not document:
        return False
    occasion = Occasion(state.listing, state.rack.today, state.rack.nodes)
    return holds(rule_of(document), other.spec if other else None, state.picks.get(line.facet, Picks()), occasion)


def card_of(
    state: State, document: Mapping[str, Any], key: str, words: Any, *, asked: tuple[Sequence[Line], bool] | None = None
) -> CardView:
    """Return the card of a facet.

    Args:
        state: the listing and the picks.
        document: the facet file.
        key: of the facet.
        words: gives how the numbers of a facet are written.
        asked: lines that were asked for and would make a circle, and whether all of them must hold.
    """
    facets = {facet["key"]: facet for facet in document["facets"]}
    facet = facets[key]
    lines, every = asked or (lines_of(facet), needs_every(facet))
    there = set(lines_of(facet))
    circle = circle_with(document["facets"], key, lines) if asked else []
    spec = state.rack.by_key[key].spec
    return CardView(
        key=key,
        label=facet["label"],
        every=every,
        lines=tuple(_line_view(state, number, line, words, bool(circle) and line not in there) for number, line in enumerate(lines)),
        others=tuple((other.spec.key, other.spec.label) for other in state.rack.facets if other.spec.key != key),
        hows=tuple((name, str(text)) for name, text in _HOWS.items()),
        circle=_circle(circle, facets) if circle else None,
        can_split=spec.source.kind == "category" and any(len(bin.nodes) > 1 for bin in state.rack.by_key[key].bins),
        waited=tuple(dict.fromkeys(line.facet for line in lines if line.facet)),
    )


def _line_view(state: State, number: int, line: Line, words: Any, refused: bool) -> LineView:
    other = state.rack.by_key.get(line.facet)
    bins = other.bins if other else ()
    choices = tuple(ChoiceView(bin.key, bin_words(bin, words(other)), bin.key in line.bins) for bin in bins) if other else ()
    is_true, picks = _holds(state, line), state.picks.get(line.facet)
    named = [bin_words(other.by_key[key], words(other)) for key in picks.bins] if other and picks else []
    told = _("true now: %(names)s") % {"names": _("%(bins)s picked") % {"bins": ", ".join(named)}} if is_true and named else ""
    return LineView(
        number=number,
        facet=line.facet,
        label=other.spec.label if other else line.facet,
        how=line.how,
        choices=choices,
        holds=is_true,
        told=told or (_("true now") if is_true else _("not true now")),
        refused=refused,
        listing=line.listing,
        days=line.days,
    )


def _circle(keys: list[str], facets: Mapping[str, Mapping[str, Any]]) -> CircleView:
    around = [*keys, keys[0]]
    ways = tuple((f"{key}:{following}", facets[key]["label"]) for key, following in pairwise(around) if key != keys[0])
    return CircleView(tuple(around), tuple(facets[key]["label"] for key in around), ways)
