"""What visits tell: picks that lead nowhere, searches in vain, facets that nobody or everybody uses, bins that nobody picks."""

from collections import Counter
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass
from itertools import combinations
from urllib.parse import urlencode

from pyroaring import BitMap
from rapidfuzz import fuzz

from binsort.core.answers.answer import RackIndex, State
from binsort.core.answers.matching import Facet
from binsort.core.facets.found_by import named, with_words
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.places import Listing
from binsort.core.facets.query import Query, pairs_of
from binsort.core.facets.rack_edits import move, stands_open, start_open
from binsort.core.index.bins import Bin
from binsort.core.insight.clicks import in_order
from binsort.core.values.text import identity

from .finding import FOCUS, SHOW, Document, Finder, Found, Mend, by, edited, listed
from .visits import ENOUGH, LEAST, Visits
from .whole import FACET, SEARCH, About, Whole, WholeFound

_MOST, _TRIED = 12, 100  # dead ends and searches that are told; picks that are tried anew
_HARDLY = 0.03  # share of visits below which a facet is hardly used
_LATE = 3  # facets that may stand above the one that is used most
_SURE = 5  # picks that a bin should have had before it is told that it has none
_LIKE = 85  # of a hundred: how like a bin's name is to what was searched for
WORDS = "words"  # where a mend leads: to choosing the bin that a text leads to


@dataclass(eq=False)
class Visited:
    """The set-up and what visits did with it."""

    whole: Whole
    visits: Visits
    same: Mapping[str, Collection[str]]  # by rack: facets that shoppers see there as the draft has them; of others visits tell nothing
    finds: Callable[[str], BitMap]  # what a search finds now
    say: Callable[[Facet, Bin], str]  # a bin in words

    def came(self, rack: str) -> int:
        """Return how many visits came to a listing where a rack shows."""
        listings = ((Listing.of(tuple(path.split(" > ")) if path else None), times) for path, times in self.visits.listings.items())
        return min(self.visits.count, sum(times for listing, times in listings if self.whole.shows_on(listing, rack)))

    def racks(self) -> Iterator[tuple[str, list[str], int]]:
        """Yield the racks that enough visits met, the facets there that visits can tell of, no facet twice, and the visits."""
        seen: set[str] = set()
        for key, rack in self.whole.racks.items():
            facets = [one for one in rack["facets"] if one in self.same.get(key, ()) and one not in seen]
            seen.update(facets)
            if facets and (came := self.came(key)) >= ENOUGH:
                yield key, facets, came

    def facets(self) -> Iterator[tuple[str, str, int]]:
        """Yield the facets of these racks that wait for nothing: rack, facet, visits that met it."""
        for rack, facets, came in self.racks():
            yield from ((rack, key, came) for key in facets if self.whole.specs[key].show_when is None)


def share(count: int, every: int) -> str:
    """Say how many of a hundred visits that is; nothing exact of fewer than five.

    >>> share(50, 200), share(7, 1000), share(3, 200)
    ('25', 'Fewer than 1', 'Hardly any')
    """
    hundredths = 100 * count / every
    return "Hardly any" if count < LEAST else "Fewer than 1" if hundredths < 1 else f"{hundredths:.0f}"


class VisitedFinding(Finder):
    """Looks for one kind of thing that visits tell."""

    def look(self, ground: Visited) -> Iterator[WholeFound]:
        """Yield what there is of it."""
        raise NotImplementedError


class DeadEnd(VisitedFinding):
    """Picks that left nothing, and still do; told by the two of them that leave nothing together, where there are two."""

    id = "dead-end"

    def look(self, ground: Visited) -> Iterator[WholeFound]:
        rack = ground.whole.state_of(tuple(ground.whole.specs.values()), Query()).rack
        met: Counter[str] = Counter()
        states: dict[str, State] = {}
        for query, times in Counter(ground.visits.dead_ends).most_common(_TRIED):
            state = self._state(ground, rack, pairs_of(query))
            if state.picks and not state.result:
                least, smallest = self._smallest(ground, rack, state, query)
                met[least] += times
                states[least] = smallest
        for query, times in _often(met):
            if found := self._found(ground, states[query], query, times):
                yield found

    def _state(self, ground: Visited, rack: RackIndex, pairs: Sequence[tuple[str, str]]) -> State:
        text = next((value for name, value in pairs if name == "q"), "")
        return State(rack, rack.read(pairs), ground.finds(text) if text else None)

    def _smallest(self, ground: Visited, rack: RackIndex, state: State, query: str) -> tuple[str, State]:
        """Return the first two facets whose picks leave nothing together, as an address has them; all where no two do."""
        for some in combinations(state.picks, 2):
            pairs = [pair for pair in pairs_of(query) if pair[0] in ("category", "q") or pair[0].partition(".")[0] in some]
            tried = self._state(ground, rack, pairs)
            if not tried.result:
                return urlencode(pairs), tried
        return query, state

    def _found(self, ground: Visited, state: State, query: str, times: int) -> WholeFound | None:
        whole, keys = ground.whole, list(state.picks)
        holders = [one for one, facets in ground.same.items() if set(keys) <= set(facets)]
        if not holders:
            return None  # the draft has them otherwise by now
        back = max(len(state.without_picks((key,)).result) for key in keys)
        words = " with ".join(self._words(ground, state, key) for key in keys)
        where = f" in {whole.name(state.listing)}" if state.listing in whole.paths else ""
        kept = [key for key in keys if whole.document_of(key).get("empty") == "keep"]
        mends = [Mend("dim", "Dim empty bins", "shoppers see that nothing is there", by(edited, _dim, kept))] if kept else []
        mends.append(Mend("show", "Show the picks", "leads to them in the shop", leads=SHOW, target=f"shop?{query}"))
        more = f"{times:,} visits met it. Without one of the picks up to {back:,} come back."
        bins = state.picks[keys[-1]].bins
        found = self.says(query, back, f"{words} leads nowhere{where}", *mends, more=more, bins=bins, met=times)
        return WholeFound(found, About(FACET, keys[-1], holders[0]))

    def _words(self, ground: Visited, state: State, key: str) -> str:
        facet, picks = state.rack.by_key[key], state.picks[key]
        bins = [ground.say(facet, facet.by_key[one]) for one in picks.bins if one in facet.by_key]
        return " or ".join(bins) or facet.spec.label


def _dim(document: Document, keys: list[str]) -> None:
    for facet in document["facets"]:
        if facet["key"] in keys:
            facet["empty"] = "emptied"


class InVain(VisitedFinding):
    """A text that is searched for and finds nothing, still."""

    id = "in-vain"

    def look(self, ground: Visited) -> Iterator[WholeFound]:
        whole = ground.whole
        state = whole.state_of(tuple(whole.specs.values()), Query())
        for text, times in _often(ground.visits.in_vain):
            if ground.finds(text):
                continue
            like = self._like(state, text)
            mends, touched = [], 0
            if like:
                facet, bin = like
                touched, name = len(facet.products(bin)), ground.say(facet, bin)
                effect = f"the search leads to its {touched:,} product{'' if touched == 1 else 's'}"
                mends.append(Mend("lead", f"Find {name}", effect, by(with_words, facet.spec.key, named(bin.label, bin.nodes), text)))
            mends.append(Mend("words", "Choose a bin", "says what shoppers mean by it", leads=SHOW, target=WORDS))
            found = self.says(
                text, touched, f"“{text}” is searched for in vain", *mends, more=f"{times:,} searches found nothing.", met=times
            )
            yield WholeFound(found, About(SEARCH, text))

    def _like(self, state: State, text: str) -> tuple[Facet, Bin] | None:
        """Return the bin whose name is most like a text, None where none is."""
        best: tuple[float, Facet, Bin] | None = None
        for facet in state.rack.facets:
            if facet.spec.ranges or facet.spec.free:
                continue
            for bin in facet.bins:
                score = fuzz.ratio(_joined(text), _joined(bin.label))
                if score >= _LIKE and (best is None or score > best[0]) and facet.products(bin):
                    best = score, facet, bin
        return best[1:] if best else None


def _joined(text: str) -> str:
    """Return a text without what stands between its words."""
    return "".join(letter for letter in identity(text) if letter.isalnum())


class HardlyUsed(VisitedFinding):
    """A facet standing open in which hardly anybody picks."""

    id = "hardly-used"
    matters = 0.01

    def look(self, ground: Visited) -> Iterator[WholeFound]:
        whole = ground.whole
        for rack, key, came in ground.facets():
            used, keys = ground.visits.used.get(key, 0), whole.racks[rack]["facets"]
            if used >= _HARDLY * came or keys[-1] == key or not stands_open(whole.document, rack, key):
                continue
            shut = Mend("shut", "Start it shut", "takes one line", by(edited, start_open, rack, [key], is_open=False))
            last = Mend("last", "Move to the end", "makes room for the others", by(edited, move, rack, key, -1))
            more = f"{share(used, came)} of 100 visits, on shelf {keys.index(key) + 1}, standing open."
            text = f"Hardly anyone picks in {whole.specs[key].label}"
            yield WholeFound(self.says("", whole.total, text, shut, last, more=more, met=came), About(FACET, key, rack))


class HardlyOpened(VisitedFinding):
    """A facet standing shut that hardly anybody opens."""

    id = "hardly-opened"
    matters = 0.01

    def look(self, ground: Visited) -> Iterator[WholeFound]:
        whole = ground.whole
        for rack, key, came in ground.facets():
            opened = max(ground.visits.unfolded.get(key, 0), ground.visits.used.get(key, 0))
            if opened >= _HARDLY * came or stands_open(whole.document, rack, key):
                continue
            mend = Mend("open", "Start it open", "shoppers see its bins", by(edited, start_open, rack, [key], is_open=True))
            more = f"{share(opened, came)} of 100 visits open it: hardly anyone sees its bins."
            text = f"Hardly anyone opens {whole.specs[key].label}"
            yield WholeFound(self.says("", whole.total, text, mend, more=more, met=came), About(FACET, key, rack))


class UsedMost(VisitedFinding):
    """A facet that more visits use than any other, below several others."""

    id = "used-most"
    matters = 0.05

    def look(self, ground: Visited) -> Iterator[WholeFound]:
        whole, visits = ground.whole, ground.visits
        for rack, facets, came in ground.racks():
            keys = [key for key in whole.racks[rack]["facets"] if key in whole.specs]
            first = max(facets, key=lambda one: visits.used.get(one, 0))
            used, place = visits.used.get(first, 0), keys.index(first)
            if place < _LATE or used < _HARDLY * came or whole.specs[first].show_when:
                continue
            mend = Mend("top", "Move to the top", "stands where shoppers look first", by(edited, move, rack, first, 0))
            saves = self._saves(whole, rack, first)
            more = f"{share(used, came)} of 100 visits use it" + (f"; at the top it saves {saves:.1f} clicks." if saves else ".")
            text = f"{whole.specs[first].label} stands on shelf {place + 1}, and is used most"
            yield WholeFound(self.says("", whole.total, text, mend, more=more, met=used), About(FACET, first, rack))

    def _saves(self, whole: Whole, rack: str, first: str) -> float:
        """Return how many clicks fewer lead to twelve products, on average, where the facet stands at the top."""
        state = whole.state(rack)
        walk = whole.walk(state, 12)
        shelves = [(facet.spec.key, shelf) for facet in state.rack.facets for shelf in walk.shelves(facet)]
        before = in_order(walk, [shelf for _key, shelf in shelves]).average
        after = in_order(walk, [shelf for _key, shelf in sorted(shelves, key=lambda one: one[0] != first)]).average
        return max(0.0, round(before - after, 1))


class NeverPicked(VisitedFinding):
    """Bins that nobody picked, though by the number of their products five visits or more should have."""

    id = "never-picked"
    matters = 0.05

    def look(self, ground: Visited) -> Iterator[WholeFound]:
        whole, visits = ground.whole, ground.visits
        for rack, facets, _came in ground.racks():
            state = whole.state(rack)
            for key in facets:
                facet = state.rack.by_key[key]
                if kind_of(facet.spec.source.kind).is_tree:
                    continue  # who picks in a department passes those above it
                here = state.rack.on_listing(facet, None)
                every, used = sum(here.counts), visits.used.get(key, 0)
                never = [
                    (bin, count)
                    for bin, count in zip(here.bins, here.counts, strict=True)
                    if every and used * count / every >= _SURE and not visits.picked.get((key, bin.key))
                ]
                if never:
                    yield WholeFound(self._found(ground, facet, never, here.bins), About(FACET, key, rack))

    def _found(self, ground: Visited, facet: Facet, never: list[tuple[Bin, int]], here: Sequence[Bin]) -> Found:
        used = ground.visits.used[facet.spec.key]
        names = [ground.say(facet, bin) for bin, _count in never]
        label, kind, keys = facet.spec.label, kind_of(facet.spec.source.kind), tuple(bin.key for bin, _count in never)
        some = listed(names) if len(names) < 4 else f"{listed(names[:2])} and {len(names) - 2} more"
        count = sum(count for _bin, count in never)
        mends = [Mend("open", "Open", "leads to the facet", leads=FOCUS)]
        if not facet.spec.ranges and not kind.is_in_groups and all(bin.least is None for bin in facet.bins):
            labels = [bin.label for bin in here if bin.key not in keys]
            words = "Move it to the end" if len(names) == 1 else "Move them to the end"
            mends.insert(0, Mend("last", words, "those that are picked stand first", by(_last, facet.spec.key, labels)))
        more = f"{used:,} visits picked in {label}, none of them there."
        return self.says("", count, f"Nobody picks {some}", *mends, more=more, bins=keys, met=used)


def _last(document: Document, key: str, labels: list[str]) -> Document:
    changed = deepcopy(document)
    for facet in changed["facets"]:
        if facet["key"] == key:
            facet["bins"] = {**facet.get("bins", {}), "order": labels}
            facet.pop("order", None)
    return changed


def _often(sums: Mapping[str, int]) -> list[tuple[str, int]]:
    """Return what happened most often, nothing that happened fewer than five times."""
    return sorted(((what, times) for what, times in sums.items() if times >= LEAST), key=lambda one: (-one[1], one[0]))[:_MOST]


FINDERS: tuple[VisitedFinding, ...] = (DeadEnd(), InVain(), HardlyUsed(), HardlyOpened(), UsedMost(), NeverPicked())
