"""The pages of a listing as a shelf of compartments: seen, next, later, earlier."""

from collections.abc import Callable
from dataclasses import dataclass

_MOST = 12  # compartments


@dataclass(frozen=True, slots=True)
class Compartment:
    """One page of a listing on the shelf at its end."""

    first: int  # the place of its first product in the result
    last: int
    state: str  # "seen", "next", "later" or "earlier"
    address: str
    folded: bool  # it stands for several pages

    @property
    def words(self) -> str:
        """Which products of the listing stand in it."""
        if self.first == self.last:
            return f"{self.first:,}"
        return f"{self.first:,}{' … ' if self.folded else '–'}{self.last:,}"


def shelf_of_pages(here: range, total: int, per: int, address: Callable[[int], str]) -> tuple[Compartment, ...]:
    """Return the shelf of a listing.

    Args:
        here: the numbers of the pages that are shown.
        total: products of the result.
        per: products on a page.
        address: of a page by its number.
    """
    made = []
    for first, last in _folded(max(1, -(-total // per)), here):
        start, end = (first - 1) * per + 1, min(total, last * per)
        state = "seen" if first in here else "earlier" if last < here.start else "next" if first == here.stop else "later"
        made.append(Compartment(start, end, state, "" if state == "seen" else address(first), last > first))
    return tuple(made)


def _folded(pages: int, here: range) -> list[tuple[int, int]]:
    """Return the compartments for so many pages, each from one page to another; those far from here are folded into one."""
    if pages <= _MOST:
        return [(page, page) for page in range(1, pages + 1)]
    near = {1, pages, *range(max(1, here.stop - _MOST + 5), min(pages, here.stop + 2) + 1)}
    parts: list[tuple[int, int]] = []
    for page in sorted(near):
        if parts and page > parts[-1][1] + 1:
            parts.append((parts[-1][1] + 1, page - 1))
        parts.append((page, page))
    return parts
