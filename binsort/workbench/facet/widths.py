"""Widths: how compartments side by side share a board, each at its mass, none narrower than its words need."""

from collections.abc import Sequence

WHOLE = 100.0


def shared_widths(masses: Sequence[float], least: Sequence[float]) -> list[float]:
    """Return widths that add up to a hundred: by mass, but none below its least; where the least do not fit, they are scaled down.

    >>> shared_widths([90, 9, 1], [10, 10, 10])
    [80.0, 10.0, 10.0]
    """
    together = sum(least)
    if together >= WHOLE or not sum(masses):
        return [WHOLE * width / together for width in least] if together else [WHOLE / len(masses)] * len(masses)
    held: set[int] = set()
    while True:
        free = [place for place in range(len(masses)) if place not in held]
        room, mass = WHOLE - sum(least[place] for place in held), sum(masses[place] for place in free)
        narrow = {place for place in free if mass and room * masses[place] / mass < least[place]}
        if not narrow:
            return [least[place] if place in held else room * masses[place] / mass for place in range(len(masses))]
        held |= narrow
