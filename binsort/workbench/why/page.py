"""The page *Why*: the way of a product through the picks of a listing, what would bring it in, and who else fails by one pick."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from pyroaring import BitMap

from binsort.core.answers.matching import Facet
from binsort.core.facets.query import FreeRange
from binsort.core.insight.explanation import explained
from binsort.core.insight.nearest import Near, nearest
from binsort.core.insight.why import failing_by_one, why
from binsort.core.products.product import Product
from binsort.core.values.numbers import Number
from binsort.core.values.text import identity
from binsort.racks.addresses import Pair, pick_pairs, query_string
from binsort.racks.models import Setup
from binsort.racks.number_words import bin_words
from binsort.racks.setup import rack_document
from binsort.workbench.facet.page import product_like
from binsort.workbench.rack.page import Sight, listings, rack_address

from .drawing import ARTICLES, Drawn, drawn

_OTHERS = 8  # that are named
_LETTERS = "ABCDEFGH"


@dataclass(frozen=True, slots=True)
class Line:
    """A picked facet, beside its shelf."""

    label: str
    level: str
    said: str
    is_met: bool
    top: int
    picked: str


@dataclass(frozen=True, slots=True)
class Part:
    """A bin on a shelf, as it is drawn."""

    x: float
    y: int
    width: float
    count: int
    label: str
    picked: bool
    is_none: bool


@dataclass(frozen=True, slots=True)
class Article:
    """An article whose thread is drawn."""

    letter: str
    label: str
    fails: str  # the facets that it fails by; empty where it passes all


@dataclass(frozen=True, slots=True)
class Mend:
    """What would bring it in."""

    words: str
    more: str
    button: str
    address: str


@dataclass(frozen=True, slots=True)
class Other:
    """Another product that fails by the picks of one facet."""

    name: str
    reason: str
    address: str
    far: float | None  # how far off, in hundredths of what is drawn; None where there is no scale


@dataclass(frozen=True, slots=True)
class Failing:
    """A facet by whose picks alone products fail."""

    label: str
    count: int
    share: float  # in hundredths
    address: str  # with these alone; of the one that is chosen: with all
    is_chosen: bool


@dataclass(frozen=True, slots=True)
class WhyPage:
    """All that the page shows."""

    rack: str
    label: str
    listing: str
    listings: tuple[tuple[str, str], ...]
    wanted: str
    identity: str  # of the product; empty where none is asked for, or none found
    name: str
    title: str
    is_in: bool
    sentence: str
    total: int
    of: int
    picks: tuple[tuple[str, str], ...]  # label, address without it
    clear: str
    drawn: Drawn | None
    lines: tuple[Line, ...]
    parts: tuple[Part, ...]
    articles: tuple[Article, ...]
    more_articles: int
    mends: tuple[Mend, ...]
    failing: tuple[Failing, ...]
    others: tuple[Other, ...]
    others_count: int
    kept: tuple[Pair, ...]
    rack_address: str


def why_page(setup: Setup, rack: str, pairs: Sequence[Pair], wanted: str) -> WhyPage:
    """Build the page. Raises UnknownRack, NotReady.

    Args:
        setup: the set-up.
        rack: its key.
        pairs: the query: listing and picks; ``by``: a facet, of which alone it is told who fails by it.
        wanted: the number of a product, or part of its name.
    """
    rack_document(setup.draft.document, rack)
    asked = [pair for pair in pairs if pair[0] not in ("product", "by")]
    by = next((value for name, value in pairs if name == "by"), "")
    return _Why(Sight(setup, asked, rack=rack), wanted.strip(), by).page()


class _Why:
    def __init__(self, sight: Sight, wanted: str, by: str) -> None:
        self._sight, self._state, self._wanted = sight, sight.state, wanted
        self._by = by if by in sight.state.picks else ""
        facts = sight.held.index.facts
        self._slot = product_like(facts, sight.held.index.every_product, wanted, identity(wanted)) if wanted else None
        self._thread = why(self._state, self._slot) if self._slot is not None else None
        self._product: Product | None = None
        if self._slot is not None:
            number = facts.ids[self._slot]
            self._product = sight.held.products_of([number]).get(number)

    def page(self) -> WhyPage:
        sight, thread, state = self._sight, self._thread, self._state
        shown = self._shown()
        picture = drawn(state, thread, shown) if thread and thread.passed else None
        failing = failing_by_one(state) if state.picks else {}
        return WhyPage(
            rack=sight.rack.key,
            label=sight.rack.label,
            listing=sight.listing_path,
            listings=listings(),
            wanted=self._wanted,
            identity=self._product.id if self._product else "",
            name=self._product.name if self._product else "",
            title=_("here") if thread and thread.is_in else _("not here"),
            is_in=bool(thread and thread.is_in),
            sentence=self._sentence(),
            total=len(state.result),
            of=len(state.products),
            picks=tuple(self._picks()),
            clear=self._address([]),
            drawn=picture,
            lines=tuple(self._lines(picture)) if picture and thread else (),
            parts=tuple(self._parts(picture)) if picture and thread else (),
            articles=tuple(self._articles(shown)),
            more_articles=len(thread.articles) - len(shown) if thread and shown else 0,
            mends=tuple(self._mends()) if thread and not thread.is_in else (),
            failing=tuple(self._failing(failing)),
            others=tuple(self._others(failing)),
            others_count=len({slot for slots in failing.values() for slot in slots}),
            kept=tuple(pick_pairs(state)),
            rack_address=rack_address(sight.edition.document, sight.rack.key) + query_string([*sight.fixed, *pick_pairs(state)]),
        )

    def _address(self, pairs: Sequence[Pair], wanted: str | None = None) -> str:
        product = self._wanted if wanted is None else wanted
        kept = [*self._sight.fixed, *pairs, *([("product", product)] if product else [])]
        return reverse("why", args=[self._sight.rack.key]) + query_string(kept)

    def _picks(self) -> Iterator[tuple[str, str]]:
        every = pick_pairs(self._state)
        for key, picks in ((facet.spec.key, self._state.picks.get(facet.spec.key)) for facet in self._state.rack.facets):
            for pick in picks.each if picks else ():
                label = self._said(key, pick)
                gone = [pair for pair in every if not (pair[0] == key and self._said_pair(pair) == label)]
                yield label, self._address(gone)

    def _said(self, key: str, pick: str | FreeRange) -> str:
        facet = self._state.rack.by_key[key]
        words = self._sight.words(facet)
        return bin_words(facet.by_key[pick], words) if isinstance(pick, str) else words.range(pick.low, pick.high, inclusive=True)

    def _said_pair(self, pair: Pair) -> str:
        picks = self._state.picks[pair[0]]
        for pick in picks.each:
            if isinstance(pick, str) and pick == pair[1]:
                return self._said(pair[0], pick)
        ranges = [pick for pick in picks.each if not isinstance(pick, str)]
        return self._said(pair[0], ranges[0]) if ranges else pair[1]

    # -- the product

    def _shown(self) -> list[int]:
        """Return the places of the articles that are drawn: those that fail by fewest first."""
        thread = self._thread
        if thread is None or not thread.passed:
            return []
        fails = [sum(not one.articles[place] for one in thread.passed) for place in range(len(thread.articles))]
        return sorted(sorted(range(len(thread.articles)), key=lambda place: fails[place])[:ARTICLES])

    def _sentence(self) -> str:
        thread = self._thread
        if not self._wanted:
            return _("Name a product by its number or its name, to see its way through the picks.")
        if thread is None:
            return _("No product that shoppers can meet is called “%(name)s”.") % {"name": self._wanted[:60]}
        if not thread.is_listed:
            return _("The listing does not have it: it stands in other categories.")
        if not thread.passed:
            return _("Nothing is picked: the listing has it.")
        if thread.is_in:
            return _("It meets every pick.")
        missed = [self._label(one.key) for one in thread.passed if not one.is_met]
        if thread.is_split:
            count = len(thread.articles)
            return _("Each pick is met by one of its %(count)s articles, but none of them meets all at once.") % {"count": count}
        said = ngettext("%(facets)s keeps it out.", "%(facets)s keep it out.", len(missed)) % {"facets": _and(missed)}
        rest = [one.articles for one in thread.passed if one.is_met]
        split = rest and not any(all(met) for met in zip(*rest, strict=True))
        return f"{said} {_('And no one article meets the other picks at once.')}" if split else said

    def _label(self, key: str) -> str:
        return self._state.rack.by_key[key].spec.label

    def _lines(self, picture: Drawn) -> Iterator[Line]:
        assert self._thread is not None
        shown = self._shown()
        for one, top in zip(self._thread.passed, picture.tops, strict=True):
            facet = self._state.rack.by_key[one.key]
            found = explained(facet, self._thread.slot, self._thread.articles)
            values = ", ".join(dict.fromkeys(bin_words(place.bin, self._sight.words(facet)) for place in found.places)) or _("nothing")
            said = values if not one.on_variants or all(one.articles) or not any(one.articles) else self._only(one.articles, shown)
            level = _("article · picked") if one.on_variants else _("product · picked")
            picked = ", ".join(self._said(one.key, pick) for pick in self._state.picks[one.key].each)
            yield Line(facet.spec.label, level, said, one.is_met, top, picked)

    def _only(self, met: Sequence[bool], shown: Sequence[int]) -> str:
        letters = [letter for letter, place in zip(_LETTERS, shown, strict=False) if met[place]]
        return _("only %(letters)s") % {"letters": _and(letters)} if letters else _("none of those drawn")

    def _parts(self, picture: Drawn) -> Iterator[Part]:
        assert self._thread is not None
        for one, top, compartments in zip(self._thread.passed, picture.tops, picture.shelves, strict=True):
            facet = self._state.rack.by_key[one.key]
            words = self._sight.words(facet)
            for part in compartments:
                label = bin_words(part.bin, words) if part.bin else _("Unbinned")
                yield Part(part.x, top, part.width, part.count, label, part.picked, part.bin is None)

    def _articles(self, shown: Sequence[int]) -> Iterator[Article]:
        thread, product = self._thread, self._product
        if thread is None or product is None or len(thread.articles) < 2:
            return
        for letter, place in zip(_LETTERS, shown, strict=False):
            variant = product.articles[place] if place < len(product.articles) else None
            options = ", ".join(str(value) for prop in variant.properties for value in prop.values) if variant else ""
            fails = [self._label(one.key) for one in thread.passed if not one.articles[place]]
            yield Article(letter, options or (variant.sku if variant else ""), _and(fails) if fails else "")

    # -- ways in, and others

    def _mends(self) -> Iterator[Mend]:
        thread = self._thread
        assert thread is not None and self._product is not None
        every = pick_pairs(self._state)
        for key in thread.alone:
            without = self._state.without_picks((key,))
            count = len(without.result) - len(self._state.result)
            others = ngettext("It comes in, and %(count)s other", "It comes in, and %(count)s others", count - 1) % {
                "count": f"{count - 1:,}"
            }
            pairs = [pair for pair in every if pair[0] != key]
            yield Mend(_("Let go of %(facet)s") % {"facet": self._label(key)}, others, _("Try it"), self._address(pairs))
        letters = dict(zip(self._shown(), _LETTERS, strict=False))
        for place in self._shown():
            fails = [one for one in thread.passed if not one.articles[place]]
            if len(fails) == 1 and fails[0].on_variants and len(thread.articles) > 1:
                words = _("%(letter)s fails by %(facet)s alone") % {"letter": letters[place], "facet": self._label(fails[0].key)}
                yield Mend(words, _("Give that article another value."), _("Open the product"), reverse("product", args=[self._product.id]))
        missing = [
            one for one in thread.passed if not one.is_met and not explained(self._facet(one.key), thread.slot, thread.articles).values
        ]
        for one in missing:
            words = _("It has no %(facet)s") % {"facet": self._label(one.key).lower()}
            yield Mend(words, _("Give it one, if it has one."), _("Give it"), reverse("product", args=[self._product.id]))

    def _facet(self, key: str) -> Facet:
        return self._state.rack.by_key[key]

    def _others(self, failing: Mapping[str, BitMap]) -> Iterator[Other]:
        """Yield the products that fail by one pick, the nearest first."""
        facts = self._sight.held.index.facts
        wanted = {key: slots for key, slots in failing.items() if not self._by or key == self._by}
        if self._slot is not None:
            wanted = {key: slots - BitMap([self._slot]) for key, slots in wanted.items()}
        for near in nearest(self._state, wanted, _OTHERS):
            number = facts.ids[near.slot]
            reason, far = self._reason(near), min(1.0, 4 * near.distance) if near.distance is not None else None
            yield Other(facts.names[near.slot], reason, self._address(pick_pairs(self._state), number), None if far is None else 100 * far)

    def _reason(self, near: Near) -> str:
        """Say by what a product fails."""
        facet = self._facet(near.key)
        words = self._sight.words(facet)
        if near.number is not None and near.edge is not None:
            over: Number = near.number - near.edge
            if not over:
                return f"{facet.spec.label}: {_('exactly %(edge)s') % {'edge': words.number(near.edge)}}"
            said = _("%(number)s, %(gap)s over") if over > 0 else _("%(number)s, %(gap)s short")
            return f"{facet.spec.label}: {said % {'number': words.number(near.number), 'gap': words.number(max(over, -over))}}"
        articles = range(int(self._state.rack.index.starts[near.slot]), int(self._state.rack.index.starts[near.slot + 1]))
        bins = dict.fromkeys(bin_words(place.bin, words) for place in explained(facet, near.slot, articles).places)
        return f"{facet.spec.label}: {', '.join(list(bins)[:3]) or _('none given')}"

    def _failing(self, failing: Mapping[str, BitMap]) -> Iterator[Failing]:
        every = sum(map(len, failing.values())) or 1
        for key, slots in failing.items():
            if slots:
                pairs = [*pick_pairs(self._state), *([("by", key)] if key != self._by else [])]
                yield Failing(self._label(key), len(slots), 100 * len(slots) / every, self._address(pairs), key == self._by)


def _and(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else _("%(some)s and %(last)s") % {"some": ", ".join(names[:-1]), "last": names[-1]}
