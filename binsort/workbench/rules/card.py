"""Rules in words: what each facet waits for, and the card in which that is changed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.core.answers.answer import State
from binsort.core.facets.rule_edits import BINS, NONE, PICKED, Line, circle_with, lines_of, needs_every
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
    for how, say in ((PICKED, _("once %(labels)s has a pick")), (NONE, _("while %(labels)s has no pick"))):
        labels = [_label_of(state, line) for line in lines if line.how == how]
        parts += [say % {"labels": joined.join([", ".join(labels[:-1]), labels[-1]] if len(labels) > 1 else labels)}] if labels else []
    parts += [_bins_words(state, line, words) for line in lines if line.how == BINS]
    return joined.join(parts)


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
    picks = state.picks.get(line.facet)
    if line.how == BINS:
        return picks is not None and not set(line.bins).isdisjoint(picks.bins)
    return bool(picks) == (line.how == PICKED)


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
        waited=tuple(dict.fromkeys(line.facet for line in lines)),
    )


def _line_view(state: State, number: int, line: Line, words: Any, refused: bool) -> LineView:
    other = state.rack.by_key.get(line.facet)
    bins = other.bins if other else ()
    choices = tuple(ChoiceView(bin.key, bin_words(bin, words(other)), bin.key in line.bins) for bin in bins) if other else ()
    holds, picks = _holds(state, line), state.picks.get(line.facet)
    named = [bin_words(other.by_key[key], words(other)) for key in picks.bins] if other and picks else []
    told = _("true now: %(names)s") % {"names": _("%(bins)s picked") % {"bins": ", ".join(named)}} if holds and named else ""
    return LineView(
        number=number,
        facet=line.facet,
        label=other.spec.label if other else line.facet,
        how=line.how,
        choices=choices,
        holds=holds,
        told=told or (_("true now") if holds else _("not true now")),
        refused=refused,
    )


def _circle(keys: list[str], facets: Mapping[str, Mapping[str, Any]]) -> CircleView:
    around = [*keys, keys[0]]
    ways = tuple((f"{key}:{following}", facets[key]["label"]) for key, following in pairwise(around) if key != keys[0])
    return CircleView(tuple(around), tuple(facets[key]["label"] for key in around), ways)
