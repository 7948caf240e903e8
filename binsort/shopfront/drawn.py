"""Facets and picks of a listing, as they are drawn."""

from dataclasses import dataclass
from functools import partial

from django.utils.translation import gettext as _

from binsort.core.answers.answer import FacetAnswer
from binsort.core.answers.matching import Facet
from binsort.core.facets.query import FreeRange
from binsort.core.insight.ways_out import coming_back
from binsort.racks.pictures import pictures_of
from binsort.racks.presentation import shown
from binsort.racks.shown_facet import Shown, Swatch

from .asked import Asked


@dataclass(frozen=True, slots=True)
class Pick:
    """A pick with its way out."""

    label: str
    key: str  # as the form has it
    value: str
    without: str  # address
    swatch: Swatch | None


@dataclass(frozen=True, slots=True)
class Pill:
    """The picks of a facet, and what comes back without them."""

    key: str
    label: str
    join: str  # between two of them
    picks: tuple[Pick, ...]
    back: int
    without: str


@dataclass(frozen=True, slots=True)
class Picked:
    """All that is picked and searched for, with the ways out."""

    pills: tuple[Pill, ...]
    search: str
    without_search: str
    clear: str
    clear_words: str


class Drawn:
    """What a listing shows of facets and picks."""

    def __init__(self, asked: Asked) -> None:
        self._asked, self._state = asked, asked.state

    def facets(self) -> dict[str, Shown]:
        """Return the facets that shoppers see, by their keys."""
        answers = zip(self._state.rack.facets, self._state.facets, strict=True)
        drawn = ((facet, answer) for facet, answer in answers if answer.shown and facet.spec.key not in self._asked.standing)
        return {facet.spec.key: self._facet(facet, answer) for facet, answer in drawn}

    def _facet(self, facet: Facet, answer: FacetAnswer) -> Shown:
        look, words = self._asked.looks.get(facet.spec.key, {}), self._asked.words[facet.spec.key]
        wrong = self._asked.typed.wrong.get(facet.spec.key, {})
        return shown(self._state, facet, answer, look, words, pictures_of(self._state, facet, look), wrong=wrong)

    def pills(self) -> list[Pill]:
        """Return the picks that shoppers see, facet by facet."""
        made = []
        for facet in self._state.rack.facets:
            picks = self._state.picks.get(facet.spec.key)
            if not picks or facet.spec.key in self._asked.standing:
                continue
            key = facet.spec.key
            listed = tuple(map(partial(self._pick, key), picks.each))
            join = _("and") if facet.spec.matches_all else _("or")
            made.append(Pill(key, facet.spec.label, join, listed, coming_back(self._state, key), self._asked.without(key)))
        return made

    def _pick(self, key: str, pick: str | FreeRange) -> Pick:
        asked = self._asked
        return Pick(asked.said(key, pick), *asked.pair(key, pick), asked.without(key, pick), asked.swatch(key, pick))
