"""Findings beside a facet: what looks wrong with it, by weight, each with its mend. A new one is a file here and its test."""

from . import alike, balance, boundaries, choices, look, missing
from .finding import Bench, Finding, Found, Mend

FINDERS: tuple[Finding, ...] = tuple(finder for module in (missing, alike, balance, boundaries, choices, look) for finder in module.FINDERS)


def findings(bench: Bench) -> list[Found]:
    """Return what is found about a facet on a listing, the weightiest first."""
    found = [one for finder in FINDERS for one in finder.look(bench)]
    return sorted(found, key=lambda one: -one.weight)


__all__ = ["FINDERS", "Bench", "Finding", "Found", "Mend", "findings"]
