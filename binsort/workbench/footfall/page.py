"""The page *Footfall*: products stand on the board, visits hang from it; and what that says of the rack."""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import islice
from urllib.parse import urlencode

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.answers.matching import Facet
from binsort.core.facets.query import pairs_of
from binsort.footfall.kinds import BASKET, DEAD_END, FEW, FIRST, IN_VAIN, OPENED, PICK, REACHED, TOGETHER, USED, VISIT
from binsort.footfall.reading import LEAST, often, sums, times, times_of_all
from binsort.footfall.switch import is_on
from binsort.racks.models import Setup
from binsort.racks.number_words import bin_words
from binsort.racks.setup import rack_document
from binsort.workbench.rack.page import Sight, listings, rack_address

DAYS = (7, 30, 90)
_HANGS = 26  # pixels: the longest bar
_BINS = 11  # of a shelf that are drawn
_HARDLY = 0.03  # share of visits that use a facet, below which it is hardly used


@dataclass(frozen=True, slots=True)
class BinView:
    """A compartment, with the visits that picked it."""

    label: str
    count: int
    width: float  # hundredths of the shelf
    hangs: int  # pixels
    said: str  # share of visits
    is_never: bool


@dataclass(frozen=True, slots=True)
class ShelfView:
    """A facet, with the visits that used it."""

    key: str
    label: str
    address: str
    place: str
    bins: tuple[BinView, ...]
    rest: int
    unbinned: int
    unbinned_width: float
    used: str
    used_share: float
    flag: str


@dataclass(frozen=True, slots=True)
class Said:
    """Something that visits say of the rack."""

    text: str
    more: str
    words: str  # of the button
    address: str


@dataclass(frozen=True, slots=True)
class FootfallPage:
    """All that the page shows."""

    rack: str
    label: str
    listing: str
    listings: tuple[tuple[str, str], ...]
    total: int
    days: int
    choices: tuple[tuple[int, str], ...]  # days, and their address
    picks: str  # address of the rack where picks are tried
    is_on: bool
    visits: int
    said: tuple[tuple[str, str], ...]  # number and words
    shelves: tuple[ShelfView, ...]
    findings: tuple[Said, ...]
    searches: tuple[tuple[str, int, str], ...]  # text, times, address
    together: tuple[tuple[str, str], ...]  # two facets, share of visits
    funnel: tuple[tuple[int, str, int], ...]  # of a hundred visits, words, pixels
    reached: int  # products whose page was opened from a listing


def footfall_page(setup: Setup, rack: str, days: str, category: str) -> FootfallPage:
    """Build the page of a rack. Raises UnknownRack, NotReady."""
    rack_document(setup.draft.document, rack)
    number = int(days) if days in {str(one) for one in DAYS} else 30
    sight = Sight(setup, [("category", category)] if category else [], rack=rack)
    return _Footfall(sight, number).page()


class _Footfall:
    def __init__(self, sight: Sight, days: int) -> None:
        self._sight, self._days = sight, days
        self._sums: Mapping[str, Counter[str]] = sums(days)
        self._visits = times(self._sums, VISIT)

    def page(self) -> FootfallPage:
        sight, rack = self._sight, self._sight.rack
        here = reverse("footfall", args=[rack.key])
        kept = {"category": sight.listing_path} if sight.listing_path else {}
        shelves = tuple(self._shelf(place, facet) for place, facet in enumerate(sight.state.rack.facets))
        return FootfallPage(
            rack=rack.key,
            label=rack.label,
            listing=sight.listing_path,
            listings=listings(),
            total=len(sight.state.products),
            days=self._days,
            choices=tuple((one, f"{here}?{urlencode({'days': one, **kept})}") for one in DAYS),
            picks=rack_address(sight.edition.document, rack.key) + (f"?{urlencode(kept)}" if kept else ""),
            is_on=is_on(),
            visits=self._visits if self._visits >= LEAST else 0,
            said=tuple(self._said()),
            shelves=shelves,
            findings=tuple(self._findings(shelves)),
            searches=tuple((text, count, f"{reverse('shop')}?{urlencode({'q': text})}") for text, count in often(self._sums, IN_VAIN, 5)),
            together=tuple(self._together()),
            funnel=tuple(self._funnel()),
            reached=len(self._sums.get(REACHED.key, ())) if self._visits >= LEAST else 0,
        )

    def _share(self, count: int) -> str:
        """Say how many of a hundred visits that is; nothing exact of fewer than five."""
        if not count:
            return _("never")
        if count < LEAST or not self._visits:
            return _("few")
        share = 100 * count / self._visits
        return "<1%" if share < 1 else f"{min(round(share), 100)}%"

    def _said(self) -> Iterator[tuple[str, str]]:
        for kind, words in ((FIRST, _("used the rack")), (DEAD_END, _("met a dead end")), (IN_VAIN, _("searched in vain"))):
            yield self._share(times_of_all(self._sums, kind)), words

    def _shelf(self, place: int, facet: Facet) -> ShelfView:
        sight, key = self._sight, facet.spec.key
        here = sight.state.rack.on_listing(facet, sight.state.listing)
        words, total = sight.words(facet), len(sight.state.products) or 1
        held = [(bin, count) for bin, count in zip(here.bins, here.counts, strict=True) if count]
        top = min((len(bin.nodes) for bin, _count in held), default=0)
        held = [(bin, count) for bin, count in held if len(bin.nodes) == top]
        picked = {bin.key: times(self._sums, PICK, f"{key}={bin.key}") for bin, _count in held}
        most = max([*picked.values(), 1])
        whole = max(sum(count for _bin, count in held) + here.unbinned, 1)
        bins = tuple(
            BinView(
                bin_words(bin, words), count, 100 * count / whole, self._hangs(picked[bin.key], most), self._share(picked[bin.key]),
                not picked[bin.key],
            )
            for bin, count in held[:_BINS]
        )  # fmt: skip
        used = times(self._sums, USED, key)
        share = 100 * used / self._visits if self._visits and used >= LEAST else 0
        is_open = sight.look(key).get("open", True) is not False
        return ShelfView(
            key=key,
            label=facet.spec.label,
            address=reverse("facet", args=[key]),
            place=f"{_ordinal(place + 1)}, {_('open') if is_open else _('shut')}",
            bins=bins,
            rest=max(0, len(held) - _BINS),
            unbinned=here.unbinned,
            unbinned_width=100 * here.unbinned / whole,
            used=self._share(used),
            used_share=min(share, 100),
            flag=_("hardly used") if self._enough and share < 100 * _HARDLY and total > 1 else "",
        )

    def _hangs(self, count: int, most: int) -> int:
        return max(3, round(_HANGS * count / most)) if count >= LEAST else 0

    @property
    def _enough(self) -> bool:
        """Whether there were enough visits to say anything of a facet."""
        return self._visits >= 100

    def _findings(self, shelves: tuple[ShelfView, ...]) -> Iterator[Said]:
        shop = reverse("shop")
        for query, count in often(self._sums, DEAD_END, 3):
            yield Said(
                _("%(picks)s leads nowhere") % {"picks": self._words(query)},
                ngettext("%(count)s visit met it.", "%(count)s visits met it.", count) % {"count": f"{count:,}"},
                _("Show the picks"),
                f"{shop}?{query}",
            )
        if not self._enough:
            return
        by_use = sorted(shelves, key=lambda shelf: -shelf.used_share)
        if by_use and by_use[0].used_share and shelves.index(by_use[0]) > 2:
            yield Said(
                _("%(facet)s is %(place)s, and used most") % {"facet": by_use[0].label, "place": _ordinal(shelves.index(by_use[0]) + 1)},
                _("%(share)s of visits use it.") % {"share": by_use[0].used},
                _("Move it up"),
                rack_address(self._sight.edition.document, self._sight.rack.key) + f"#shelf-{by_use[0].key}",
            )
        for shelf in shelves:
            if shelf.flag:
                yield Said(
                    _("Hardly anyone picks in %(facet)s") % {"facet": shelf.label},
                    _("%(share)s of visits, on the %(place)s shelf.") % {"share": shelf.used, "place": shelf.place.partition(",")[0]},
                    _("Open it"),
                    shelf.address,
                )
        never = [f"{bin.label}" for shelf in shelves for bin in shelf.bins if bin.is_never]
        every = sum(len(shelf.bins) for shelf in shelves)
        if never:
            yield Said(
                _("%(never)s of %(all)s bins were never picked") % {"never": len(never), "all": every},
                ", ".join(never[:5]) + (" …" if len(never) > 5 else ""), "", "",
            )  # fmt: skip

    def _words(self, query: str) -> str:
        """Say picks as they stand in an address."""
        rack, said = self._sight.state.rack, []
        for name, value in pairs_of(query):
            facet = rack.by_key.get(name)
            bin = facet.by_key.get(value) if facet else None
            said.append(bin_words(bin, self._sight.words(facet)) if facet and bin else f"{name} {value}")
        return _(" with ").join(said)

    def _together(self) -> Iterator[tuple[str, str]]:
        """Yield the facets of the rack that visits pick in at once, most often first."""
        labels = {facet.spec.key: facet.spec.label for facet in self._sight.state.rack.facets}
        pairs = ((what.split(" "), count) for what, count in often(self._sums, TOGETHER, 50))
        said = ((_(" with ").join(labels[key] for key in keys), self._share(count)) for keys, count in pairs if labels.keys() >= set(keys))
        return islice(said, 4)

    def _funnel(self) -> Iterator[tuple[int, str, int]]:
        if self._visits < LEAST:
            return
        steps = (
            (self._visits, _("came")),
            (times_of_all(self._sums, FIRST), _("used the rack")),
            (times(self._sums, FEW), _("got to 12")),
            (times(self._sums, OPENED), _("opened one")),
            (times(self._sums, BASKET), _("basket")),
        )
        for count, words in steps:
            share = min(100, round(100 * count / self._visits))
            yield share, words, max(3, round(60 * share / 100))


def _ordinal(number: int) -> str:
    """Return a place in words.

    >>> _ordinal(1), _ordinal(12), _ordinal(23)
    ('1st', '12th', '23rd')
    """
    ending = "th" if 10 <= number % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{ending}"
