"""What the range bench shows: cuts, compartments, suggestions, the list of bins, the neighbours of a cut."""

from dataclasses import dataclass

from binsort.core.facets.range_edits import AT_LEAST, AT_MOST, CUTS, FREE, VALUES

MANY = 14  # compartments whose names have room


@dataclass(frozen=True, slots=True)
class CutView:
    """A cut: a flag on the axis."""

    place: int
    text: str  # as typed
    words: str
    left: float
    row: int  # how many flags stand before it at the same place
    near: bool  # the one whose neighbours are shown


@dataclass(frozen=True, slots=True)
class CompartmentView:
    """A bin under the axis."""

    key: str
    name: str
    count: int
    left: float
    width: float
    share: str
    much: bool  # worth a look: it holds most
    ribbon: str  # path from the axis down to it


@dataclass(frozen=True, slots=True)
class SuggestionView:
    """A way to cut: a button, or, while it is looked at, the outlined flags it would set."""

    key: str
    words: str
    address: str
    chosen: bool


@dataclass(frozen=True, slots=True)
class ProposedView:
    """Suggested cuts while they are looked at."""

    key: str
    words: str
    flags: tuple[tuple[str, float, int], ...]  # text, where, row
    counts: tuple[int, ...]
    bins: int
    fewer: str
    more: str
    leave: str
    texts: tuple[str, ...]  # of the cuts, as they are sent


@dataclass(frozen=True, slots=True)
class RowView:
    """A bin in the list of bins: its ends and its label can be typed."""

    key: str
    words: str  # as it is said without a label by hand
    label: str
    low: str
    high: str
    count: int


@dataclass(frozen=True, slots=True)
class LaneView:
    """A range drawn over the axis; its ends, where it has them, are dragged if it is one by hand."""

    name: str
    left: float
    width: float
    lane: int
    low: str = ""
    high: str = ""


@dataclass(frozen=True, slots=True)
class RangeBench:
    """All that the bench of a facet of numbers or dates shows."""

    shape: str
    shapes: tuple[tuple[str, str, bool], ...]
    scales: tuple[tuple[str, str, str, bool], ...]  # key, words, address, chosen
    ticks: tuple[tuple[str, float], ...]
    bars: str  # path
    lines: tuple[tuple[float, str], ...]  # height, words
    cuts: tuple[CutView, ...]
    compartments: tuple[CompartmentView, ...]
    lanes: tuple[LaneView, ...]  # ranges that are not side by side
    unbinned: CompartmentView | None
    suggestions: tuple[SuggestionView, ...]
    proposed: ProposedView | None
    boundary: "BoundaryView | None"
    around: "AroundView | None"
    rows: tuple[RowView, ...]
    closed: bool
    free: bool
    can_close: bool
    data: str  # JSON for the script
    unit: str
    has_dates: bool

    @property
    def many(self) -> bool:
        """Whether names have no room."""
        return len(self.compartments) > MANY

    @property
    def is_cut(self) -> bool:
        """Whether flags can be set and moved."""
        return self.shape in (CUTS, AT_LEAST, AT_MOST, VALUES, FREE)


@dataclass(frozen=True, slots=True)
class BoundaryView:
    """On which side a cut's own number falls, and how to turn that."""

    number: str
    into: str
    other: str
    cut: str  # as it stands
    turned: str  # where it would stand
    is_real: bool  # products have exactly this number


@dataclass(frozen=True, slots=True)
class AroundView:
    """The products just either side of a cut."""

    cut: str
    step: str
    below: tuple[tuple[str, str, str], ...]  # number, identity and name of the product
    above: tuple[tuple[str, str, str, bool], ...]  # also whether it lies exactly on the cut
    names: tuple[str, str]
