"""What visits did, as sums, and how many of them met what a finding is about."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from .finding import Found
from .whole import FACET, LISTING, About

LEAST = 5  # visits below which nothing is told
ENOUGH = 100  # visits below which shares say little


@dataclass(frozen=True, slots=True, kw_only=True)
class Visits:
    """Sums of some days."""

    count: int = 0
    days: int = 30  # that they are of
    used: Mapping[str, int] = field(default_factory=dict)  # by facet: visits that picked in it
    picked: Mapping[tuple[str, str], int] = field(default_factory=dict)  # by facet and bin
    unfolded: Mapping[str, int] = field(default_factory=dict)  # by facet: how often it was opened
    listings: Mapping[str, int] = field(default_factory=dict)  # by path, empty for all products: visits that came there
    dead_ends: Mapping[str, int] = field(default_factory=dict)  # by what was picked, as an address has it
    in_vain: Mapping[str, int] = field(default_factory=dict)  # by what was searched for

    @property
    def are_enough(self) -> bool:
        """Whether they say anything."""
        return self.count >= ENOUGH

    def met(self, found: Found, about: About) -> int | None:
        """Return how many visits met what a finding is about; None where there are too few to say."""
        if not self.are_enough:
            return None
        if found.met is not None:
            return found.met
        if about.kind == FACET:
            picks = sum(self.picked.get((about.key, bin), 0) for bin in found.bins)
            return min(picks, self.count) if found.bins else self.used.get(about.key, 0)
        if about.kind == LISTING or about.products:
            return min(self._at(tuple(about.key.split(" > "))), self.count)
        return self.count

    def _at(self, path: tuple[str, ...]) -> int:
        """Return the visits that came to a listing or to one below it."""
        return sum(times for key, times in self.listings.items() if tuple(key.split(" > "))[: len(path)] == path)

    def weight(self, found: Found, about: About) -> float:
        """Return what a finding costs: how much it matters, for products and the share of visits that meet it.

        >>> found = Found(id="x", subject="", touched=100, matters=0.5, text="")
        >>> Visits().weight(found, About(FACET, "size")), Visits(count=200, used={"size": 50}).weight(found, About(FACET, "size"))
        (50.0, 12.5)
        """
        met = self.met(found, about)
        return found.weight if met is None else found.weight * max(met, LEAST) / self.count
