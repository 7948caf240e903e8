"""Presenting: facets in the words, numbers and colours that people see. Shop and workbench use the same."""

import json
from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from fractions import Fraction
from itertools import islice
from typing import Any

from binsort.core.answers.answer import BinAnswer, FacetAnswer, State
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import DAYS, kind_of
from binsort.core.facets.spec import FacetSpec, written_bound
from binsort.core.index.bins import Bin
from binsort.core.insight.axis import EVEN, Axis
from binsort.core.insight.histograms import Bar, Histogram, histogram
from binsort.core.values.colours import CLEAR, swatch
from binsort.core.values.dates import day
from binsort.core.values.numbers import approximate, half_up, plain, whole, written
from binsort.core.values.text import identity

from .addresses import Pair, range_text
from .controls import control_of
from .number_words import Words, bin_words
from .shown_facet import BAR_HEIGHT, CUTS, Choice, RangeControl, Shown, Style, Swatch

SHOWN_BINS = 8  # before "show more"
SLIDER_BARS = 40
_STOPS = 80  # of a slider, for keys
_MARKS_APART = 0.16  # of a slider
DEEPEST = 8  # levels below the topmost category by which a choice is set in


def bin_swatch(look: Mapping[str, Any], bin: Bin) -> Swatch:
    """Return the colours of a bin: those set for it, else those its words name."""
    own = look.get("swatches", {}).get(bin.label)
    given = tuple(own) if isinstance(own, list | tuple) else ()
    said = look.get("swatch", {})
    cut = said["cut"] if said.get("cut") in CUTS else CUTS[0]
    return Swatch(given or swatch(bin.label), not given and identity(bin.label) in CLEAR, cut, said.get("line") is True)


def swatch_of(label: str) -> Swatch | None:
    """Return the colours that a text names, None where it names none."""
    colours = swatch(label)
    return Swatch(colours, False) if colours else None


def shown(
    state: State,
    facet: Facet,
    answer: FacetAnswer,
    look: Mapping[str, Any],
    words: Words,
    pictures: Mapping[str, str] | None = None,
    *,
    most: int | None = None,
    wrong: Mapping[str, tuple[str, str]] | None = None,
) -> Shown:
    """Return a facet as a shopper sees it under the picks of a state; a slider stands on what the other picks leave.

    Args:
        state: the picks on a listing.
        facet: one of its rack.
        answer: of the facet.
        look: how it is drawn.
        words: how its numbers are written.
        pictures: addresses by the keys of bins, for a control that shows them.
        most: choices that are drawn, None for all of them.
        wrong: by the end of a range, ``from`` or ``to``: what was typed and cannot be read, and why.
    """
    spread = None
    if facet.spec.free and control_of(look).has_bars:
        spread = histogram(state, facet, state.left.without(facet.spec.key).products, bars=SLIDER_BARS)
    spec, control = facet.spec, control_of(look)
    choices = tuple(islice(_choices(facet, answer, look, words, pictures or {}), most))
    return Shown(
        key=spec.key,
        label=spec.label,
        control=control,
        one=spec.pick == "one",
        counts=bool(state.picks) if look.get("counts") == "picked" else look.get("counts", True) is not False,
        open=look.get("open", True) is not False,
        choices=choices,
        range=_range_control(facet, answer, words, spread, look, wrong or {}) if spec.free else None,
        picked=sum(choice.picked for choice in choices) + len(answer.free),
        limit=look.get("limit") or SHOWN_BINS,
        style=Style.of(look),
    )


def _choices(facet: Facet, answer: FacetAnswer, look: Mapping[str, Any], words: Words, pictures: Mapping[str, str]) -> Iterator[Choice]:
    """Yield the bins to be drawn as choices."""
    control, style = control_of(look), Style.of(look)
    shape = (style.shape, style.shape_colour, style.shape_picture)
    for counted, bin, indent in _drawn(facet, answer, look):
        yield Choice(
            counted.key,
            bin_words(bin, words),
            counted.count,
            counted.picked,
            counted.enabled,
            swatch=bin_swatch(look, bin) if control.has_colours else None,
            stars=written(bin.range.low) if control.has_stars and bin.range and bin.range.low is not None else "",
            shape=shape,
            indent=min(indent, DEEPEST),
            image=pictures.get(counted.key, ""),
            sign=_sign(look, bin) if control.has_colours else "",
        )


def _drawn(facet: Facet, answer: FacetAnswer, look: Mapping[str, Any]) -> Iterator[tuple[BinAnswer, Bin, int]]:
    """Yield the bins to be drawn with their indent; of categories as many levels as ``look`` says, and all that are picked."""
    control, bins = control_of(look), [(counted, facet.by_key[counted.key]) for counted in answer.bins]
    if not kind_of(facet.spec.source.kind).is_tree:
        yield from ((counted, bin, 0) for counted, bin in bins if counted.shown)
        return
    depths = level_of(facet.spec, [bin for _, bin in bins])
    levels = look.get("levels") if not control.opens_levels else None
    for (counted, bin), depth in zip(bins, depths, strict=True):
        if counted.shown and (levels is None or depth < levels or counted.picked):
            yield counted, bin, depth if control.sets_in else 0


def level_of(spec: FacetSpec, bins: Sequence[Bin]) -> list[int]:
    """Return how many of some categories stand above each of them; those that were chosen one by one stand beside each other.

    Args:
        spec: the facet.
        bins: of it, in scope.
    """
    if spec.bins.only:
        return [0] * len(bins)
    known = {bin.nodes for bin in bins}
    return [sum(bin.nodes[:depth] in known for depth in range(1, len(bin.nodes))) for bin in bins]


def _sign(look: Mapping[str, Any], bin: Bin) -> str:
    own = look.get("swatches", {}).get(bin.label)
    return str(own.get("text", "")) if isinstance(own, dict) else ""


def _range_control(
    facet: Facet,
    answer: FacetAnswer,
    words: Words,
    spread: Histogram | None,
    look: Mapping[str, Any],
    wrong: Mapping[str, tuple[str, str]],
) -> RangeControl | None:
    start, end = _picked_ends(facet, answer)
    if answer.bounds is None and not answer.free and not wrong:
        return None
    low, high = answer.bounds or (start or end or "0", end or start or "0")
    prefix, suffix = words.signs
    typed = [wrong[side][0] if side in wrong else words.boxed(value) for side, value in (("from", start), ("to", end))]
    return RangeControl(
        words.boxed(low),
        words.boxed(high),
        typed[0],
        typed[1],
        prefix,
        suffix.strip(),
        said=(_said_end(start or low, words), _said_end(end or high, words)),
        bars=_drawn_bars(spread.bars) if spread else None,
        anchors=_anchors(spread.axis) if spread else "",
        step=_step(look),
        marks=tuple(_marks(spread.axis, words, look.get("marks"))) if spread else (),
        signs="|".join(("" if words.style.decimals is None else str(words.style.decimals), *words.style.signs)),
        stops=_stops(facet, spread) if spread else "",
        wrong=(wrong.get("from", ("", ""))[1], wrong.get("to", ("", ""))[1]),
        cuts=_cuts(spread.axis, start, end) if spread else (0.0, 100.0),
    )


def _picked_ends(facet: Facet, answer: FacetAnswer) -> tuple[str, str]:
    """Return the ends of what is picked, as boxes have them: of the last range, else of the one bin of ranges."""
    if answer.free:
        return answer.free[-1][0] or "", answer.free[-1][1] or ""
    picked = [bounds for counted in answer.bins if counted.picked and (bounds := facet.by_key[counted.key].range)]
    if len(picked) != 1:
        return "", ""
    kind = facet.spec.source.kind
    low, high = ("" if end is None else written_bound(end, kind) for end in (picked[0].low, picked[0].high))
    return low, high


def _cuts(axis: Axis, start: str, end: str) -> tuple[float, float]:
    """Return where two ends stand on an axis, in hundredths; open ones at its own ends."""
    low, high = (None if not text else plain(text) for text in (start, end))
    left = 0.0 if low is None else 100 * min(1.0, max(0.0, axis.share(approximate(low))))
    right = 100.0 if high is None else 100 * min(1.0, max(0.0, axis.share(approximate(high))))
    return round(left, 1), round(max(left, right), 1)


def _stops(facet: Facet, spread: Histogram) -> str:
    """Return numbers of the catalogue between the ends of an axis, at most so many, each as far from the next in products as any."""
    numbers, axis = facet.column.numbers, spread.axis
    inside = numbers[bisect_left(numbers, axis.low) : bisect_right(numbers, axis.high)]
    step = max(1, len(inside) / _STOPS)
    picked = [inside[int(place * step)] for place in range(min(len(inside), _STOPS))]
    return json.dumps([float(number) for number in dict.fromkeys([*picked, *inside[-1:]])])


def _marks(axis: Axis, words: Words, asked: Any) -> Iterator[tuple[str, float]]:
    """Yield numbers to read a slider by, each in words with its place.

    Asked for are these very ones, so many at even distances, or (True) as many round ones as have room.
    """
    bare, last = words.bare(), -1.0
    if isinstance(asked, list):
        for mark in asked:
            number = date.fromisoformat(mark["at"]).toordinal() if isinstance(mark["at"], str) and day(mark["at"]) else mark["at"]
            if not isinstance(number, str) and axis.low <= approximate(number) <= axis.high:
                yield mark.get("label") or bare.number(number), 100 * axis.share(approximate(number))
        return
    if isinstance(asked, int) and not isinstance(asked, bool):
        for place in range(asked):
            number = whole(Fraction(axis.value(place / (asked - 1))).limit_denominator(100))
            yield bare.number(half_up(number, 2 if axis.high - axis.low < asked else 0)), 100 * place / (asked - 1)
        return
    if asked is not True:
        return
    for tick in axis.ticks():
        share = axis.share(tick)
        if share - last >= _MARKS_APART and share <= 1:
            last = share
            yield bare.number(whole(Fraction(tick).limit_denominator(10**6))), 100 * share


def _step(look: Mapping[str, Any]) -> str:
    """Return the step that a look gives a slider, empty where it gives none that can be used."""
    step = look.get("step")
    return written(step) if isinstance(step, int | Fraction) and not isinstance(step, bool) and step > 0 else ""


def _said_end(text: str, words: Words) -> str:
    number = date.fromisoformat(text).toordinal() if words.written == DAYS else plain(text)
    return words.number(number or 0)


def _drawn_bars(bars: Sequence[Bar]) -> tuple[str, str, int]:
    """Draw a histogram in a box as wide as there are steps and ``BAR_HEIGHT`` high: the bars that are in, then the others."""
    highest = max(bar.total for bar in bars)
    drawn: dict[bool, list[str]] = {True: [], False: []}
    for bar in bars:
        if bar.total:
            top = round(BAR_HEIGHT - max(1.0, BAR_HEIGHT * bar.total / highest), 1)
            drawn[bar.inside > 0].append(f"M{bar.step} {BAR_HEIGHT}V{top:g}h.82V{BAR_HEIGHT}z")
    return "".join(drawn[True]), "".join(drawn[False]), bars[0].steps


def _anchors(axis: Axis) -> str:
    """Return points through which a slider goes, so that its handles stand where the bars do."""
    steps = 1 if axis.scale == EVEN else 20
    return json.dumps([[round(100 * step / steps, 4), axis.value(step / steps)] for step in range(steps + 1)])


def unsent_picks(state: State, facets: Sequence[Shown]) -> list[Pair]:
    """Return the picks that no control among those shown sends: bins behind a range, further ranges, facets that are not shown."""
    drawn = {facet.key: facet for facet in facets}
    pairs: list[Pair] = []
    for facet in state.rack.facets:
        key, picks = facet.spec.key, state.picks.get(facet.spec.key)
        if picks is None:
            continue
        seen = drawn.get(key)
        sent = (
            {choice.key for choice in seen.choices}
            if seen and not (seen.control.is_range and seen.range and not seen.lists_bins)
            else set()
        )
        pairs += [(key, name) for name in picks.bins if name not in sent]
        is_ranged = seen is not None and seen.range is not None and seen.control.is_range
        ranges = picks.ranges[:-1] if is_ranged else picks.ranges
        pairs += [(key, range_text(item, facet.spec.source.kind)) for item in ranges]
    return pairs
