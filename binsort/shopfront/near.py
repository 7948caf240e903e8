"""Where picks leave nothing: what comes close, on the facets' own scales, in words and pictures."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import islice

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.facets.kinds import MONEY
from binsort.core.facets.query import Picks
from binsort.core.index.bins import Bin
from binsort.core.insight.near_misses import Beyond, OnScale, OtherArticle, beyond, on_scale, other_articles
from binsort.core.values.numbers import Number, approximate
from binsort.racks.number_words import bin_words, money

from .asked import Asked
from .glimpses import Glimpse, Glimpses

_MOST = 3  # of each kind
_AROUND = 9  # bins of a scale that are drawn
_ENDS_APART = 18.0  # of a range on that line, in hundredths, so that both can be read
_LINE = (12.0, 70.0)  # where a line of numbers begins, and how long its part between the ends is, in hundredths


@dataclass(frozen=True, slots=True)
class Step:
    """A bin on a scale."""

    key: str
    label: str
    total: int
    picked: bool
    nearest: bool
    size: int  # of its drawing, in hundredths of the largest
    address: str

    @property
    def radius(self) -> float:
        """Of its drawing, which stands on the board at 41."""
        return max(3.0, 20 * self.size / 100)

    @property
    def middle(self) -> float:
        """The height of its middle."""
        return 41 - self.radius

    @property
    def cross_top(self) -> float:
        """Where a cross in it begins."""
        return (self.middle if self.size else 30) - 5


@dataclass(frozen=True, slots=True)
class NearScale:
    """What stands beside a pick on its own scale."""

    key: str
    title: str
    words: str
    steps: tuple[Step, ...]


@dataclass(frozen=True, slots=True)
class NearNumber:
    """A product just outside of a range, on the line of its numbers."""

    key: str
    value: str  # the wider range as an address has it
    title: str
    ends: tuple[tuple[str, float], ...]  # of what was picked: in words, place on the line in hundredths
    kept: tuple[float, float]  # the part of the line that was picked
    reach: tuple[float, float]  # and how far it is to the product
    point: tuple[str, float]
    words: str
    address: str
    picture: Glimpse | None


@dataclass(frozen=True, slots=True)
class NearArticle:
    """A product whose wanted article is sold out, and what can be had of it."""

    title: str
    name: str
    words: str
    image: str
    button: str
    address: str


@dataclass(frozen=True, slots=True)
class Near:
    """What comes close."""

    scales: tuple[NearScale, ...]
    numbers: tuple[NearNumber, ...]
    articles: tuple[NearArticle, ...]

    def __bool__(self) -> bool:
        return bool(self.scales or self.numbers or self.articles)


def near_of(asked: Asked) -> Near:
    """Return what comes close to picks that leave nothing."""
    facets, glimpses = asked.state.rack.facets, Glimpses(asked)
    scales = (_scale(asked, found) for facet in facets if (found := on_scale(asked.state, facet)))
    numbers = [found for facet in facets for found in beyond(asked.state, facet) if found.products][:_MOST]
    articles = list(other_articles(asked.state, most=_MOST - 1))
    glimpses.read([*(found.products[0] for found in numbers), *(found.slot for found in articles)])
    return Near(
        scales=tuple(islice(scales, _MOST)),
        numbers=tuple(_number(asked, found, glimpses) for found in numbers),
        articles=tuple(_articles(asked, articles, glimpses)),
    )


def _scale(asked: Asked, near: OnScale) -> NearScale:
    facet, words = asked.state.rack.by_key[near.key], asked.words[near.key]
    bins = _around(near)
    largest = max((approximate(bin.least) for bin, _count, _picked in bins if bin.least is not None), default=0.0)
    steps = [
        Step(
            key=bin.key,
            label=bin_words(bin, words.brief()),
            total=count,
            picked=picked,
            nearest=bin.key in near.nearest,
            size=round(100 * approximate(bin.least) / largest) if bin.least is not None and bin.least > 0 and largest else 0,
            address=asked.address_with({**asked.state.picks, near.key: Picks(bins=(bin.key,))}),
        )
        for bin, count, picked in bins
    ]
    others = _others(asked, near.key) if facet.on_variants else ""
    picked = ", ".join(step.label for step in steps if step.picked)
    title = (_("No %(others)s at %(picked)s here") if others else _("None at %(picked)s here")) % {"others": others, "picked": picked}
    beside = [_("%(label)s has %(count)s") % {"label": step.label, "count": step.total} for step in steps if step.nearest]
    said = _("%(facet)s: %(beside)s, all else as picked.") % {"facet": facet.spec.label, "beside": _(" and ").join(beside)}
    return NearScale(near.key, title, said, tuple(steps))


def _around(near: OnScale) -> Sequence[tuple[Bin, int, bool]]:
    """Return so many bins as can be drawn, the picks and what is nearest to them among these."""
    bins = near.bins
    if len(bins) <= _AROUND:
        return bins
    wanted = [place for place, (bin, _count, picked) in enumerate(bins) if picked or bin.key in near.nearest]
    start = max(0, min((wanted[0] + wanted[-1] - _AROUND) // 2 + 1, len(bins) - _AROUND))
    return bins[start : start + _AROUND]


def _others(asked: Asked, key: str) -> str:
    """Say the first bin picked in a facet of articles other than this one: what the article is."""
    for facet in asked.state.rack.facets:
        picks = asked.state.picks.get(facet.spec.key)
        if picks and picks.bins and facet.spec.key != key and facet.on_variants and facet.spec.source.kind == "attribute":
            return asked.said(facet.spec.key, picks.bins[0]).lower()
    return ""


def _number(asked: Asked, near: Beyond, glimpses: Glimpses) -> NearNumber:
    words, is_above = asked.words[near.key], near.wider.high == near.number
    edge = near.picked.high if is_above else near.picked.low
    assert edge is not None
    ends = [end for end in (near.picked.low, near.picked.high) if end is not None]
    place = _placed([*ends, near.number])
    total, at = len(near.products), place(near.number)
    reach = (_("Up to %(number)s") if is_above else _("From %(number)s")) % {"number": words.number(near.number)}
    count = ngettext("%(count)s product", "%(count)s products", total) % {"count": f"{total:,}"}
    pictures = glimpses.of(near.state, near.key, [near.products[0]])
    return NearNumber(
        key=near.key,
        value=asked.pair(near.key, near.wider)[1],
        title=_apart(asked, near, edge, is_above=is_above),
        ends=_apart_enough([(words.number(end), place(end)) for end in ends]),
        kept=(
            0.0 if near.picked.low is None else place(near.picked.low),
            100.0 if near.picked.high is None else place(near.picked.high),
        ),
        reach=(min(at, place(edge)), max(at, place(edge))),
        point=(words.number(near.number), at),
        words=f"{reach}: {count}",
        address=asked.address_with(near.state.query.picks),
        picture=pictures[0] if pictures else None,
    )


def _apart_enough(ends: Sequence[tuple[str, float]]) -> tuple[tuple[str, float], ...]:
    """Return the ends of a range as they are written below a line: two that would lie on each other as one."""
    if len(ends) == 2 and ends[1][1] - ends[0][1] < _ENDS_APART:
        return ((f"{ends[0][0]}–{ends[1][0]}", (ends[0][1] + ends[1][1]) / 2),)
    return tuple(ends)


def _apart(asked: Asked, near: Beyond, edge: Number, *, is_above: bool) -> str:
    """Say how far a number is from the range, in money, else what it is."""
    words = asked.words[near.key]
    if words.written == MONEY:
        by = money(max(near.number, edge) - min(near.number, edge), asked.held.currency)
        return (_("For %(by)s more") if is_above else _("For %(by)s less")) % {"by": by}
    label = asked.state.rack.by_key[near.key].spec.label
    return _("%(facet)s: %(number)s is near") % {"facet": label, "number": words.number(near.number)}


def _placed(numbers: Sequence[Number]) -> Callable[[Number], float]:
    """Return where numbers stand on a line that shows some of them."""
    first, last = approximate(min(numbers)), approximate(max(numbers))
    start, length = _LINE

    def place(number: Number) -> float:
        return round(start + length * (approximate(number) - first) / ((last - first) or 1.0), 2)

    return place


def _articles(asked: Asked, found: Sequence[OtherArticle], glimpses: Glimpses) -> Iterator[NearArticle]:
    for near in found:
        labels = [bin_words(bin, asked.words[near.key]) for bin in near.bins]
        if not labels:
            continue
        other = asked.state.with_picks({**asked.state.picks, near.key: Picks(bins=(near.bins[0].key,))})
        wanted = asked.said(near.key, asked.state.picks[near.key].bins[0]).lower()
        for glimpse in glimpses.of(other, near.key, [near.slot]):
            yield NearArticle(
                title=_("In %(wanted)s, but sold out") % {"wanted": wanted},
                name=glimpse.name,
                words=_("In %(other)s it is in stock.") % {"other": _(" and ").join(label.lower() for label in labels[:2])},
                image=glimpse.image,
                button=_("See it in %(other)s") % {"other": labels[0].lower()},
                address=glimpse.address,
            )
