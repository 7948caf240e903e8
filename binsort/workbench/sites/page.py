"""The page *On other sites*: a listing as other sites show it, and the lines to paste there."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.core.answers.answer import RackIndex, State
from binsort.core.answers.matching import Facet
from binsort.core.facets.places import EMBED, Listing, plan, plan_of_named
from binsort.core.facets.query import FreeRange
from binsort.racks.addresses import pick_pairs, query_string
from binsort.racks.attribute_use import dictionary_colours, looks_with_colours, not_narrowing, served
from binsort.racks.controls import control_of
from binsort.racks.hosted import Hosted, NotThere
from binsort.racks.models import Edition, Embed
from binsort.racks.number_words import bin_words, words_of
from binsort.racks.presentation import bin_swatch
from binsort.racks.setup import edition_shown, states
from binsort.racks.shown_facet import Swatch
from binsort.tally.current import Current, current

_SHELVES = 7  # of a rack that are drawn
_COMPARTMENTS = 9  # of a shelf that are drawn
_BINS = 60  # of a facet that are offered
_DRAWN = 62  # how high a rack is drawn, in pixels


@dataclass(frozen=True, slots=True)
class Shelf:
    """A facet of a rack, drawn small."""

    top: float
    height: float
    walls: tuple[float, ...]  # between its compartments, in hundredths

    @property
    def board(self) -> float:
        """Where its board is."""
        return self.top + self.height


@dataclass(frozen=True, slots=True)
class RackChoice:
    """A rack that the listing can stand with."""

    key: str
    label: str
    facets: int | None  # None: there is no rack
    shelves: tuple[Shelf, ...]
    chosen: bool


@dataclass(frozen=True, slots=True)
class Narrowed:
    """A bin that the listing is always narrowed to."""

    value: str  # as the form has it
    facet: str
    label: str
    swatch: Swatch | None


@dataclass(frozen=True, slots=True)
class Line:
    """A line to paste, with the letter of its place on the host's page."""

    letter: str
    text: str


@dataclass(frozen=True, slots=True)
class Box:
    """A part on the plan of the host's page."""

    part: str
    label: str
    letter: str


Offered = tuple[str, tuple[tuple[str, str, int], ...]]  # a facet, and its bins: value, label, products


@dataclass(frozen=True, slots=True)
class EmbedView:
    """A listing as other sites show it."""

    embed: Embed
    problem: str  # why it cannot be shown, empty where it can
    total: int
    whole: int  # products of its category
    narrowed: tuple[Narrowed, ...]
    offered: tuple[Offered, ...]
    racks: tuple[RackChoice, ...]
    facets: tuple[str, ...]  # keys of those that it stands with
    boxes: tuple[Box, ...]
    lines: tuple[Line, ...]
    script: str
    home: str  # what their policy must let in

    @property
    def letters(self) -> tuple[str, ...]:
        """The places on the host's page."""
        return tuple(line.letter for line in self.lines if line.letter)

    @property
    def snippet(self) -> str:
        """All that is to be pasted."""
        return "\n".join([*(line.text for line in self.lines), self.script])


def embed_view(embed: Embed, site: str) -> EmbedView:
    """Build the page of one. Raises NotReady.

    Args:
        embed: the listing.
        site: the address of this shop, without a stroke at its end.
    """
    held = current()
    edition = edition_shown(held.beside("states", states))
    try:
        hosted: Hosted | None = Hosted.of(embed, edition, (embed.rack,))
        state = _state(held, edition, hosted) if hosted else None
        problem = ""
    except NotThere as reason:
        hosted, state, problem = None, None, str(reason)
    facets = _facets_there(held, edition, embed, hosted)
    narrowed = _Narrowing(held, edition, state, hosted) if state and hosted else None
    return EmbedView(
        embed=embed,
        problem=problem,
        total=len(state.result) if state else 0,
        whole=len(state.products) if state else 0,
        narrowed=tuple(narrowed.made()) if narrowed else tuple(_as_written(embed)),
        offered=tuple(narrowed.offered()) if narrowed else (),
        racks=tuple(_racks(held, edition, embed, state)),
        facets=tuple(facets),
        boxes=tuple(_boxes(embed, facets)),
        lines=tuple(lines_of(embed, site + _address(embed) + query_string(pick_pairs(state) if state else []), tuple(facets))),
        script=f'<script type="module" src="{site}{reverse("bins")}"></script>',
        home=site,
    )


def _state(held: Current, edition: Edition | None, hosted: Hosted) -> State:
    """Return the listing with nothing picked but what it always has; all facets that it could be narrowed by are in its rack."""
    standing = hosted.specs(edition)
    specs = served(edition.facet_file.facets, held.beside("not narrowing", not_narrowing)) if edition else ()
    others = tuple(replace(spec, show_when=None) for spec in specs if spec.key not in hosted.keys)
    rack = held.rack((*standing, *others))
    query = rack.read(list(hosted.standing), hosted.nodes)
    hosted.check(query.ignored)
    return State(rack, query)


def _address(embed: Embed) -> str:
    """Return the address of its category in the shop."""
    if embed.category is None:
        return reverse("shop")
    slugs = [category.slug for category in embed.category.ancestors(include_self=True)]
    return reverse("shop-category", kwargs={"slugs": "/".join(slugs)})


# -- the lines to paste

_ALL = ("rack", "picks", "count", "sort", "products", "more")
_EACH = ("rack", "search", *_ALL[1:])
_ALONE = "facet:"  # before the key of a facet that stands by itself


def _facets_there(held: Current, edition: Edition | None, embed: Embed, hosted: Hosted | None) -> dict[str, str]:
    """Return the labels of the facets that the listing stands with, by their keys."""
    if edition is None or hosted is None:
        return {}
    document = edition.document
    named = plan(document, Listing(EMBED, (), embed.name)) if hosted.racks is None else plan_of_named(document, hosted.racks)
    specs = {spec.key: spec for spec in edition.facet_file.facets if spec.key not in hosted.keys}
    shown = served([specs[key] for key in named.keys if key in specs], held.beside("not narrowing", not_narrowing))
    return {spec.key: spec.label for spec in shown}


def _groups(embed: Embed, facets: Iterable[str]) -> tuple[tuple[str, ...], ...]:
    """Return the parts that stand together, place by place of the host's page."""
    rack = () if embed.rack == Embed.NO_RACK else (("rack",),)
    return {
        Embed.Parts.TOGETHER: ((*(("rack",) if rack else ()), *_ALL[1:]),),
        Embed.Parts.RACK: (*rack, _ALL[1:]),
        Embed.Parts.EACH: tuple((part,) for part in _EACH if part != "rack" or rack),
        Embed.Parts.FACETS: (*((f"{_ALONE}{key}",) for key in facets), ("search", *_ALL[1:])),
    }[Embed.Parts(embed.parts)]


def _letter(place: int) -> str:
    return chr(ord("A") + place) if place < _ALPHABET else str(place + 1)


_ALPHABET = 26


def _boxes(embed: Embed, facets: Mapping[str, str]) -> Iterator[Box]:
    """Yield the parts on the plan of the host's page; the letter stands on the first of those that stand together."""
    labels = {
        "rack": _("Rack"), "search": _("Search"), "picks": _("Picks"), "count": _("Count"), "sort": _("Sort"), "products": _("Products"),
        "more": _("Show more"), **{f"{_ALONE}{key}": label for key, label in facets.items()},
    }  # fmt: skip
    for place, group in enumerate(_groups(embed, facets)):
        lettered = "products" if len(group) > 1 and "rack" not in group else group[0]
        for part in group:
            yield Box("facet" if part.startswith(_ALONE) else part, labels[part], _letter(place) if part == lettered else "")


def lines_of(embed: Embed, link: str, facets: Sequence[str] = ()) -> Iterator[Line]:
    """Yield the lines that show an embed.

    Args:
        embed: the listing.
        link: the address for those without scripts, and for sites that are not let in.
        facets: keys of those that it stands with.
    """
    rack = f' rack="{embed.rack}"' if embed.rack else ""
    look = f' look="{embed.look}"' if embed.look != Embed.Look.THEIRS else ""
    for place, group in enumerate(_groups(embed, facets)):
        letter, part = _letter(place), " ".join(group)
        named = "" if embed.parts == Embed.Parts.TOGETHER else f' part="{part}"'
        begin = f'<bin-sort listing="{embed.name}"{rack}{look}{named}>'
        if "products" in group:
            yield from (Line(letter, begin), Line("", f'  <a href="{_quoted(link)}">{_quoted(embed.label)}</a>'), Line("", "</bin-sort>"))
        else:
            yield Line(letter, f"{begin}</bin-sort>")


def _quoted(text: str) -> str:
    return text.replace("&", "&amp;").replace('"', "&quot;").replace("<", "&lt;")


# -- what it is always narrowed to


def _as_written(embed: Embed) -> Iterator[Narrowed]:
    """Yield what a listing should be narrowed to where that is not in the shop."""
    for name, value in embed.pairs:
        yield Narrowed(f"{name}={value}", name, value, None)


class _Narrowing:
    """What a listing is always narrowed to, and could be besides, in words."""

    def __init__(self, held: Current, edition: Edition | None, state: State, hosted: Hosted) -> None:
        self._state, self._standing = state, hosted.keys
        looks = {facet["key"]: facet.get("look", {}) for facet in edition.document["facets"]} if edition else {}
        self._looks = looks_with_colours(looks, state.rack.specs, held.beside("colours", dictionary_colours))
        index = state.rack.index
        self._words = {
            facet.spec.key: words_of(facet, index.unit(facet.spec.source), held.currency, self._looks.get(facet.spec.key, {}))
            for facet in state.rack.facets
        }

    def made(self) -> Iterator[Narrowed]:
        """Yield what it is narrowed to."""
        pairs = iter(pick_pairs(self._state))
        for facet in self._state.rack.facets:
            picks = self._state.picks.get(facet.spec.key)
            for pick in picks.each if picks else ():
                yield Narrowed("=".join(next(pairs)), facet.spec.label, self._said(facet, pick), self._swatch(facet, pick))

    def offered(self) -> Iterator[Offered]:
        """Yield the facets with the bins that it could be narrowed to."""
        for facet, answer in zip(self._state.rack.facets, self._state.facets, strict=True):
            key = facet.spec.key
            bins = [one for one in answer.bins if one.count and not one.picked][:_BINS]
            if bins:
                words = self._words[key]
                yield facet.spec.label, tuple((f"{key}={one.key}", bin_words(facet.by_key[one.key], words), one.count) for one in bins)

    def _said(self, facet: Facet, pick: str | FreeRange) -> str:
        words = self._words[facet.spec.key]
        return bin_words(facet.by_key[pick], words) if isinstance(pick, str) else words.range(pick.low, pick.high, inclusive=True)

    def _swatch(self, facet: Facet, pick: str | FreeRange) -> Swatch | None:
        look = self._looks.get(facet.spec.key, {})
        return bin_swatch(look, facet.by_key[pick]) if isinstance(pick, str) and control_of(look).has_colours else None


# -- racks, drawn on the products of the listing


def _racks(held: Current, edition: Edition | None, embed: Embed, state: State | None) -> Iterator[RackChoice]:
    """Yield what Listings says, the racks of what is live, and none."""
    if edition is None:
        return
    document, specs = edition.document, {spec.key: spec for spec in edition.facet_file.facets}
    off = held.beside("not narrowing", not_narrowing)
    placed = plan(document, Listing(EMBED, (), embed.name)).keys
    choices = [(Embed.AS_PLACED, _("As on Listings"), placed)]
    choices += [(rack["key"], rack["label"], tuple(rack["facets"])) for rack in document["racks"]]
    for key, label, keys in choices:
        shown = served([specs[one] for one in keys], off)
        shelves = tuple(_shelves(held.rack(shown), state)) if state else ()
        yield RackChoice(key, label, len(keys), shelves, embed.rack == key)
    yield RackChoice(Embed.NO_RACK, _("None"), None, (), embed.rack == Embed.NO_RACK)


def _shelves(rack: RackIndex, state: State) -> Iterator[Shelf]:
    """Yield the shelves of a rack by what the whole listing has in each bin."""
    answers = State(rack, replace(state.query, picks={})).facets[:_SHELVES]
    pitch = _DRAWN / max(3, len(answers))
    for place, answer in enumerate(answers):
        counts = [one.count for one in answer.bins if one.count][:_COMPARTMENTS]
        total, so_far, walls = sum(counts) or 1, 0, []
        for count in counts[:-1]:
            so_far += count
            walls.append(round(100 * so_far / total, 1))
        yield Shelf(round(place * pitch + 1, 1), round(pitch - (6 if pitch > 12 else 4), 1), tuple(walls))
