"""What is drawn of What if: two racks with their facets tied, products by clicks on two bars, and the ribbons between these."""

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from django.utils.translation import gettext as _

from binsort.core.answers.answer import State
from binsort.core.insight.clicks import Reach
from binsort.core.insight.what_if import CLASSES, Compared, classes
from binsort.workbench.shelf.small import Drawn, as_it_is
from binsort.workbench.shelf.small import Part as Compartment

_PITCH = 28  # pixels from one shelf of the small racks to the next
_SHELF = Drawn(width=100)


@dataclass(frozen=True, slots=True)
class Tie:
    """A facet in both racks: where it stands in each."""

    before: int
    after: int
    moved: bool

    @property
    def path(self) -> str:
        """The line between the two."""
        start, end = (_PITCH * place + _PITCH // 2 for place in (self.before, self.after))
        return f"M0 {start}C60 {start} 60 {end} 120 {end}"


@dataclass(frozen=True, slots=True)
class Part:
    """A class of clicks on a bar, in hundredths."""

    x: float
    width: float
    count: int
    words: str
    is_never: bool


@dataclass(frozen=True, slots=True)
class Flow:
    """Products that go from one class to another."""

    kind: str  # fewer, same, more
    outline: str


@dataclass(frozen=True, slots=True)
class ShelfView:
    """A facet of one of the two racks."""

    label: str
    moved: bool
    compartments: tuple[Compartment, ...]


def shelves(state: State, named: Collection[str]) -> Iterator[ShelfView]:
    """Yield the facets of a rack on a listing; those named are told apart."""
    for facet in state.rack.facets:
        yield ShelfView(facet.spec.label, facet.spec.key in named, tuple(as_it_is(state, (), _SHELF, facet)))


def ties(before: State, after: State, named: Collection[str]) -> Iterator[Tie]:
    """Yield the facets that stand in both racks, those named last so that their lines lie above the others."""
    old, new = ({facet.spec.key: place for place, facet in enumerate(state.rack.facets)} for state in (before, after))
    for key in sorted(old.keys() & new.keys(), key=lambda one: (one in named, old[one])):
        yield Tie(old[key], new[key], key in named)


def height(*states: State) -> int:
    """Return how high the racks are, in pixels."""
    return _PITCH * max(len(state.rack.facets) for state in states)


def _words_of(number: int) -> str:
    return (_("1 click"), _("2 clicks"), _("3 clicks"), _("4 clicks"), _("5 or more"), _("never"))[number]


def bar(reach: Reach) -> Iterator[Part]:
    found = classes(reach)
    total, x = found.size or 1, 0.0
    for number in range(CLASSES):
        count = int((found == number).sum())
        if count:
            yield Part(round(x, 2), round(100 * count / total, 2), count, _words_of(number), number == CLASSES - 1)
            x += 100 * count / total


def flows(both: Compared) -> Iterator[Flow]:
    """Yield the ribbons between the two bars, those with more clicks never too thin to be seen."""
    table, total = both.table, both.table.sum() or 1
    above, below = [0, *table.sum(axis=1).cumsum().tolist()], [0, *table.sum(axis=0).cumsum().tolist()]
    taken = [[0] * CLASSES, [0] * CLASSES]
    for low in range(CLASSES):
        for high in range(CLASSES):
            count = int(table[low, high])
            if not count:
                continue
            begin, end = above[low] + taken[0][low], below[high] + taken[1][high]
            taken[0][low] += count
            taken[1][high] += count
            kind = "same" if low == high else "fewer" if high < low else "more"
            thick = max(100 * count / total, 0.35 if kind == "more" else 0.0)
            a, b = round(100 * begin / total, 2), round(100 * end / total, 2)
            yield Flow(kind, f"M{a} 0C{a} 50 {b} 50 {b} 100H{b + thick:.2f}C{b + thick:.2f} 50 {a + thick:.2f} 50 {a + thick:.2f} 0z")
