"""A facet as shoppers meet it: what the templates of controls draw, in the shop and in the owner's preview."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import takewhile
from typing import Any

from binsort.core.values.colours import luminance

from .controls import Control

CUTS = ("corner", "stripes", "halves", "sectors")
SIZES = ("usual", "small", "large")  # of swatches and pictures


@dataclass(frozen=True, slots=True)
class Swatch:
    """Colours, or a sign that there is no colour to show."""

    colours: tuple[str, ...]
    clear: bool
    cut: str = "corner"  # one of CUTS: how several colours lie
    line: bool = False  # between them

    @property
    def is_dark(self) -> bool:
        """Whether a white tick can be read on it (relative luminance of WCAG 2)."""
        return bool(self.colours) and luminance(self.colours[0]) < 0.3


@dataclass(frozen=True, slots=True)
class Choice:
    """A bin as shown to a shopper. Two that differ in their counts only are drawn alike, and equal."""

    key: str
    label: str
    count: int = field(compare=False)
    picked: bool
    enabled: bool
    swatch: Swatch | None = None
    stars: str = ""  # of five, as a number
    shape: tuple[str, str, str] = ("star", "", "")  # of what is drawn for stars: its kind, colour, picture
    indent: int = 0  # levels below the topmost category shown
    image: str = ""
    sign: str = ""  # a short text in place of a swatch

    @property
    def stars_number(self) -> int:
        """Whole stars, as a number."""
        return int(self.stars)


@dataclass(frozen=True, slots=True)
class Branch:
    """A category with those below it."""

    choice: Choice
    below: tuple["Branch", ...]
    is_open: bool  # something is picked below it


@dataclass(frozen=True, slots=True)
class RangeControl:
    """The two ends that a shopper may set freely."""

    low: str  # the bounds
    high: str
    start: str  # what is picked, empty for open
    end: str
    prefix: str
    suffix: str
    said: tuple[str, str]  # the ends in words: what is picked, else the bounds
    bars: tuple[str, str, int] | None = None  # of a histogram: the bars that are in, the others, as paths; steps of the axis
    anchors: str = ""  # of a slider: JSON, pairs of hundredths and numbers
    step: str = ""  # of a slider: numbers in between are not set; empty for any
    marks: tuple[tuple[str, float], ...] = ()  # under a slider: a round number in words, its place in hundredths
    stops: str = ""  # of a slider: JSON, the numbers that keys go to, rising
    signs: str = ""  # how numbers are written: decimals, decimal sign, what stands between thousands, parted by |
    wrong: tuple[str, str] = ("", "")  # why what was typed into each end cannot be read
    cuts: tuple[float, float] = (0.0, 100.0)  # where on the axis the ends stand, in hundredths

    @property
    def slides(self) -> bool:
        """Whether there is anything between its ends."""
        return bool(self.bars) and self.low != self.high and bool(self.anchors)


BAR_HEIGHT = 30
_ROW, _SWATCH_ROW, _PICTURE_ROW = 26, 33, 100  # pixels of a row of choices


@dataclass(frozen=True, slots=True)
class Shown:
    """A facet as shown to a shopper."""

    key: str
    label: str
    control: Control
    one: bool
    counts: bool
    open: bool
    choices: tuple[Choice, ...]
    range: RangeControl | None
    picked: int
    limit: int
    style: "Style"

    @property
    def part(self) -> str:
        """The template that draws its choices; a range that nothing bounds is drawn as a list."""
        if self.is_row_of_stars:
            return "racks/facet/_stars.html"
        return f"racks/facet/_{'boxes' if self.control.is_range and not self.range else self.control.part}.html"

    @property
    def is_row_of_stars(self) -> bool:
        """Whether it asks for whole stars and up, so that one row of stars says all of it."""
        marks = [choice.stars for choice in self.choices if choice.key == f"ge-{choice.stars}"]
        return self.control.has_stars and 0 < len(self.choices) == len(marks) and set(marks) <= set("12345")

    @property
    def rising_stars(self) -> tuple[Choice, ...]:
        """Its choices of whole stars, fewest first."""
        return tuple(sorted(self.choices, key=lambda choice: choice.stars))

    @property
    def most(self) -> int:
        """The greatest count of a choice, 1 at least."""
        return max((choice.count for choice in self.choices), default=1) or 1

    @property
    def first(self) -> tuple[Choice, ...]:
        """The choices before "show more"; a choice never changes its place by being picked."""
        return self.choices[: self.limit] if self.style.more == MORE else self.choices

    @property
    def more(self) -> tuple[Choice, ...]:
        """The choices behind "show more"."""
        return self.choices[self.limit :] if self.style.more == MORE else ()

    @property
    def more_is_open(self) -> bool:
        """Whether a choice behind "show more" is picked, so that it has to be seen."""
        return any(choice.picked for choice in self.more)

    @property
    def lists_bins(self) -> bool:
        """Whether a range control lists the bins, too."""
        return self.control.part == "dates" or (self.style.ranges and bool(self.choices))

    @property
    def scroll_height(self) -> int:
        """Pixels of what holds its choices where they scroll: as high as so many of them are."""
        kinds = (("has_pictures", _PICTURE_ROW, 2), ("has_colours", _SWATCH_ROW, 2))
        height, usual = next(((row, columns) for name, row, columns in kinds if getattr(self.control, name)), (_ROW, 1))
        rows = -(-self.limit // (self.style.columns or usual))
        return min(999, rows * height + height // 2)  # half of the next one says that there is more

    @property
    def scrolls(self) -> bool:
        """Whether its choices scroll."""
        return self.style.more == SCROLL and len(self.choices) > self.limit

    @property
    def choices_class(self) -> str:
        """The classes of what holds its choices."""
        kinds = (
            ("swatches", self.control.has_colours),
            ("pictures", self.control.has_pictures),
            ("buttons", self.control.key == "buttons"),
        )
        kind = next((name for name, is_so in kinds if is_so), "boxes")
        marks = [kind, f"label-{self.style.label}"]
        marks += [f"columns-of-{self.style.columns}"] if self.style.columns else []
        marks += [f"size-{self.style.size}"] if self.style.size != "usual" else []
        return " ".join(marks)

    @property
    def has_search(self) -> bool:
        """Whether a search stands over its choices."""
        least = {"on": 1, "off": 10**9}.get(self.style.search, SEARCH_FROM)
        return self.control.in_columns and len(self.choices) >= least

    @property
    def groups_found(self) -> bool:
        """Whether what a search finds in its choices is put into groups: they stand in one long list."""
        return len(self.choices) >= SEARCH_FROM and not self.more

    @property
    def branches(self) -> tuple[Branch, ...]:
        """Its choices as a tree."""
        return _branches(self.choices)

    @property
    def trail(self) -> tuple[Choice, ...]:
        """Of a drilled tree: the way from the top down to what is picked."""
        return _trail(self.choices)

    @property
    def below(self) -> tuple[Choice, ...]:
        """Of a drilled tree: what stands directly below what is picked, or at the top."""
        trail = self.trail
        if not trail:
            return tuple(choice for choice in self.choices if choice.indent == 0)
        at, depth = self.choices.index(trail[-1]), trail[-1].indent + 1
        inside = takewhile(lambda choice: choice.indent >= depth, self.choices[at + 1 :])
        return tuple(choice for choice in inside if choice.indent == depth)

    @property
    def picked_choice(self) -> Choice | None:
        """The last choice that is picked."""
        return next((choice for choice in reversed(self.choices) if choice.picked), None)


MORE, SCROLL, ALL = "more", "scroll", "all"
SEARCH_FROM = 21  # choices from which on a list has a search, unless its look says otherwise


@dataclass(frozen=True, slots=True)
class Style:
    """What a look says besides the control."""

    title: bool = True
    help: str = ""
    label: str = "right"  # where the label of a choice stands: right, left, below, hover, none
    size: str = "usual"  # of swatches and pictures
    columns: int = 0  # 0: as usual for the control
    more: str = MORE
    search: str = "auto"
    open_on_phone: bool = False
    ranges: bool = False  # the ranges of a slider are listed below it
    all: str = ""  # words of the choice that takes all picks away; empty: the usual ones, once something is picked
    shape: str = "star"  # of ratings
    shape_colour: str = ""
    shape_picture: str = ""

    @classmethod
    def of(cls, look: Mapping[str, Any]) -> "Style":
        """Read a look; whatever cannot be used counts as not said."""
        columns = look.get("columns")
        help = look.get("help")
        rated = look.get("rated", {})
        return cls(
            title=look.get("title", True) is not False,
            help=help if isinstance(help, str) else "",
            label=look["label"] if look.get("label") in ("left", "below", "hover", "none") else "right",
            size=look["size"] if look.get("size") in SIZES else "usual",
            columns=columns if isinstance(columns, int) and columns in (1, 2, 3) else 0,
            more=look["more"] if look.get("more") in (SCROLL, ALL) else MORE,
            search=look["search"] if look.get("search") in ("on", "off") else "auto",
            open_on_phone=look.get("open_on_phone", False) is True,
            ranges=look.get("ranges") is True,
            all=look.get("all", ""),
            shape=rated.get("shape", "star"),
            shape_colour=rated.get("colour", ""),
            shape_picture=rated.get("picture", ""),
        )


def _branches(choices: Sequence[Choice]) -> tuple[Branch, ...]:
    """Return choices, depth first, as a tree."""
    branches = []
    place = 0
    while place < len(choices):
        top = choices[place]
        inside = list(takewhile(lambda choice, depth=top.indent: choice.indent > depth, choices[place + 1 :]))  # type: ignore[misc]
        branches.append(Branch(top, _branches(inside), any(choice.picked for choice in inside)))
        place += 1 + len(inside)
    return tuple(branches)


def _trail(choices: Sequence[Choice]) -> tuple[Choice, ...]:
    picked = next((place for place, choice in enumerate(choices) if choice.picked), None)
    if picked is None:
        return ()
    trail = [choices[picked]]
    for choice in reversed(choices[:picked]):
        if choice.indent < trail[-1].indent:
            trail.append(choice)
    return tuple(reversed(trail))
