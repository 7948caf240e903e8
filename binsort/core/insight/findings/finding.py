"""What a finding is: a class that looks at a facet on a listing, and what it found, in words, with the mends it offers."""

from collections.abc import Callable, Collection, Iterator, Sequence
from copy import deepcopy
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, ClassVar

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import kind_of
from binsort.core.index.bins import Bin
from binsort.core.insight.number_line import NumberLine, number_line
from binsort.core.insight.value_list import RawValue, raw_values
from binsort.core.values.numbers import Number

Document = dict[str, Any]
SHOW, FOCUS = "show", "focus"  # what a mend that changes nothing does: leads to the products, or to what has to be changed by hand


def by(edit: Callable[..., Document], *arguments: Any, **options: Any) -> Callable[[Document], Document]:
    """Return what changes a document by an edit with these arguments behind it."""
    return lambda document: edit(document, *arguments, **options)


def edited(document: Document, edit: Callable[..., None], *arguments: Any, **options: Any) -> Document:
    """Return a copy of a document after an edit that changes what it is given."""
    changed = deepcopy(document)
    edit(changed, *arguments, **options)
    return changed


@dataclass(frozen=True, slots=True)
class Mend:
    """A way out: a button that says what it does."""

    key: str
    words: str
    effect: str  # what it does to how many products, in words
    change: Callable[[Document], Document] | None = None
    leads: str = ""  # SHOW or FOCUS, where it changes nothing
    target: str = ""  # of FOCUS: a value or a bin


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """One thing found."""

    id: str
    subject: str  # what tells it apart from others of its kind
    touched: int  # products that it concerns
    matters: float  # how much it costs a shopper who meets one of them; 1: she misses it
    text: str
    more: str = ""  # what that means to a shopper
    mends: tuple[Mend, ...] = ()
    bins: tuple[str, ...] = ()  # keys of the bins that it is about, of a facet; none: the whole facet
    met: int | None = None  # visits that met it, where it is visits that tell of it

    @property
    def weight(self) -> float:
        """How much it costs those who meet it: products, and how much it matters."""
        return self.matters * max(self.touched, 1)


@dataclass(eq=False)
class Bench:
    """A facet on a listing, as findings look at it."""

    state: State
    facet: Facet
    document: Document
    number: Callable[[Number], str]  # a number in words
    name: Callable[[Bin], str]  # a bin in words
    is_drawn_by_colour: bool = False
    swatch: Callable[[Bin], tuple[str, ...]] = field(default=lambda one: ())
    refused: int = 0  # products with a value that cannot be read
    raw: Callable[[], list[RawValue]] | None = None  # gives the raw values, where they are known already

    @property
    def total(self) -> int:
        """The products of the listing."""
        return len(self.state.products)

    @property
    def is_ranged(self) -> bool:
        """Whether its bins are ranges."""
        return bool(self.facet.spec.ranges)

    @cached_property
    def bins(self) -> tuple[Bin, ...]:
        """The bins on the listing, in the shopper's order."""
        return self.state.rack.on_listing(self.facet, self.state.listing).bins

    @cached_property
    def counts(self) -> tuple[int, ...]:
        """How many products of the listing each holds."""
        return self.state.rack.on_listing(self.facet, self.state.listing).counts

    @property
    def held(self) -> list[Bin]:
        """The bins that hold something on the listing."""
        return [bin for bin, count in zip(self.bins, self.counts, strict=True) if count]

    def held_by(self, keys: Collection[str]) -> int:
        """Return how many products of the listing some bins hold, one in several counted in each."""
        return sum(count for bin, count in zip(self.bins, self.counts, strict=True) if bin.key in keys)

    @cached_property
    def unbinned(self) -> int:
        """The products of the listing in no bin."""
        return self.state.rack.on_listing(self.facet, self.state.listing).unbinned

    @cached_property
    def line(self) -> NumberLine | None:
        """The numbers of the listing, where the source has any."""
        if not kind_of(self.facet.spec.source.kind).has_ranges or not self.facet.column.numbers:
            return None
        line = number_line(self.state.rack.index, self.facet, self.state.products)
        return line if line.numbers else None

    @cached_property
    def values(self) -> list[RawValue]:
        """The raw values of the source."""
        return self.raw() if self.raw else raw_values(self.state, self.facet, self.document)


class Finder:
    """Looks for one kind of thing. Stateless."""

    id: ClassVar[str]
    matters: ClassVar[float] = 1.0

    def says(self, subject: str, touched: int, text: str, *mends: Mend, **more: Any) -> Found:
        """Return what this kind found; ``more``, ``bins`` and ``met`` as :class:`Found` has them."""
        return Found(id=self.id, subject=subject, touched=touched, matters=self.matters, text=text, mends=mends, **more)


class Finding(Finder):
    """Looks for one kind of thing about a facet on a listing."""

    def look(self, bench: Bench) -> Iterator[Found]:
        """Yield what there is of it."""
        raise NotImplementedError


def products(count: int) -> str:
    """Say how many products.

    >>> products(1), products(1200)
    ('1 product', '1,200 products')
    """
    return f"{count:,} product{'' if count == 1 else 's'}"


def has(count: int) -> str:
    """Return the verb for so many."""
    return "has" if count == 1 else "have"


def listed(names: Sequence[str]) -> str:
    """Write names beside each other, the last after *and*.

    >>> listed(["Grey"]), listed(["Grey", "Gray", "grau"])
    ('Grey', 'Grey, Gray and grau')
    """
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
