"""Axes: placing numbers on a line, evenly, by square roots or by logarithms, with round numbers to read it by."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import ceil, exp, floor, log, log10, sqrt

import numpy as np
from numpy.typing import NDArray

EVEN, ROOTS, LOG = "even", "roots", "log"
SCALES = (EVEN, ROOTS, LOG)
SKEWED = 3  # the whole span is this many times the lower half of the values: the axis goes by square roots
_VERY_SKEWED = 100  # the greatest value is so many times the least, and square roots still crowd the lower half: by logarithms
_CROWDED = 0.3  # of the axis by square roots, below which the lower half of the values is crowded
_TICKS_APART = 0.075  # of the axis


@dataclass(frozen=True, slots=True)
class Axis:
    """Places numbers from 0 to 1."""

    low: float
    high: float
    scale: str = EVEN

    @property
    def by_roots(self) -> bool:
        """Whether it goes by square roots."""
        return self.scale == ROOTS

    def share(self, value: float) -> float:
        """Return where a number stands; beyond the ends, at the end.

        >>> Axis(0, 100, ROOTS).share(25), Axis(1, 100, LOG).share(10), Axis(0, 10).share(99)
        (0.5, 0.5, 1.0)
        """
        span = self.high - self.low
        part = min(1.0, max(0.0, (value - self.low) / span)) if span > 0 else 0.0
        if self.scale == LOG:
            return log(max(value, self.low) / self.low) / log(self.high / self.low) if 0 < part < 1 else part
        return sqrt(part) if self.scale == ROOTS else part

    def shares(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return where many numbers stand."""
        span = self.high - self.low
        parts = np.clip((values - self.low) / span, 0, 1) if span > 0 else np.zeros(len(values))
        if self.scale == LOG:
            return np.asarray(np.log(np.clip(values, self.low, self.high) / self.low) / log(self.high / self.low))
        return np.sqrt(parts) if self.scale == ROOTS else np.asarray(parts)

    def value(self, share: float) -> float:
        """Return the number that stands at a share of the axis."""
        if self.scale == LOG:
            return self.low * exp(share * log(self.high / self.low)) if self.high > self.low else self.low
        return self.low + (self.high - self.low) * (share * share if self.scale == ROOTS else share)

    def ticks(self) -> list[float]:
        """Return round numbers to read the axis by, none closer together than can be read.

        >>> Axis(0, 120).ticks(), Axis(1, 1000, LOG).ticks()
        ([0.0, 20.0, 40.0, 60.0, 80.0, 100.0, 120.0], [1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0])
        """
        kept: list[float] = []
        for tick in self._candidates():
            if not kept or self.share(tick) - self.share(kept[-1]) >= _TICKS_APART:
                kept.append(tick)
        return kept

    def _candidates(self) -> list[float]:
        even = multiples(self.low, self.high, nice((self.high - self.low) / 6, rounded=True))
        if self.scale == EVEN:
            return even
        rising = [number for number in preferred(self.high) if self.low <= number <= self.high]
        return [0.0, *rising] if self.low <= 0 <= self.high else rising or even


def nice(size: float, *, rounded: bool) -> float:
    """Return a nice number about as large as another: 1, 2 or 5 times a power of ten.

    Paul S. Heckbert, "Nice Numbers for Graph Labels", Graphics Gems (1990), pages 61 to 63.

    Args:
        size: above 0.
        rounded: the nearest one by his rule; else the least one that is not smaller.

    >>> nice(21, rounded=False), nice(21, rounded=True), nice(0.07, rounded=True), nice(0, rounded=True)
    (50.0, 20.0, 0.1, 1.0)
    """
    if size <= 0:
        return 1.0
    power = floor(log10(size))
    part = size / 10**power
    if rounded:
        mantissa = 1 if part < 1.5 else 2 if part < 3 else 5 if part < 7 else 10
    else:
        mantissa = 1 if part <= 1 else 2 if part <= 2 else 5 if part <= 5 else 10
    return float(mantissa * 10**power) if power >= 0 else float(mantissa / 10**-power)


def multiples(low: float, high: float, step: float) -> list[float]:
    """Return the multiples of a step from ``low`` to ``high``, both included."""
    first, last = ceil(low / step - 1e-9), floor(high / step + 1e-9)
    places = max(0, -floor(log10(step)))
    return [round(number * step, places) for number in range(first, last + 1)]


def preferred(high: float) -> Iterator[float]:
    """Yield 1, 2 and 5 times the powers of ten below ``high``, rising, from twelve powers below on.

    The most rounded of the preferred numbers of ISO 3 (its series R 10 taken in threes: 1, 2, 5).
    """
    top = floor(log10(high)) if high > 0 else 0
    for power in range(top - 12, top + 1):
        for mantissa in (1, 2, 5):
            yield float(mantissa * 10**power) if power >= 0 else mantissa / 10**-power


def axis_of(values: Sequence[float] | NDArray[np.float64], *, scale: str = "", reach: Sequence[float] = ()) -> Axis:
    """Return the axis for some values.

    Args:
        values: rising, one at least.
        scale: one of :data:`SCALES`; empty to choose by the values. By logarithms only where all values are above 0.
        reach: further numbers that must stand on it.
    """
    ends = [float(values[0]), float(values[-1]), *reach]
    low, high = min(ends), max(ends)
    can_log = low > 0
    scale = scale if scale in SCALES and (scale != LOG or can_log) else chosen_scale(values, can_log=can_log)
    if scale == LOG:
        return Axis(low, high * 1.06 if high > low else low * 10, LOG)  # what begins at the greatest number has room
    step = nice((high - low) / 20, rounded=True) if high > low else nice(abs(high) or 1, rounded=True)
    if 0 < low < (high - low) / 3:
        low = 0
    return Axis(floor(low / step) * step, (floor(high / step) + 1) * step if high > low else high + step, scale)


def chosen_scale(values: Sequence[float] | NDArray[np.float64], *, can_log: bool = False) -> str:
    """Choose a scale on which the values do not crowd at one end."""
    low, middle, high = float(values[0]), float(values[len(values) // 2]), float(values[-1])
    if not (high - low) > SKEWED * (middle - low) > 0:
        return EVEN
    crowded = sqrt((middle - low) / (high - low)) < _CROWDED
    return LOG if can_log and crowded and high / low >= _VERY_SKEWED else ROOTS
