"""Racks and listings: facets that repeat each other or say nothing where they show, racks that are too long, or not enough."""

from collections.abc import Hashable, Iterator
from dataclasses import replace

from binsort.core.answers.answer import State
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.rack_edits import stands_open, start_open, take_off
from binsort.core.insight.likeness import likeness
from binsort.core.values.text import identity

from .finding import SHOW, Document, Mend, by, edited, listed, products
from .whole import FACET, LISTING, RACK, About, Whole, WholeFinding, WholeFound

LONG, OPEN = 9, 6  # facets of a rack that fill a phone; those that may well stand open
WIDE, MOST_WIDE = 24, 40  # products that a rack should bring a listing down to; products below which it need not
SAME, SHARED = 0.75, 0.9  # how much of a facet another one tells, and of how many of its products
GUESSED, _APART = 8_000, 0.15  # rows for a first guess of that, and how far off it may be
_EVERY = 0.98  # of a listing's products in one bin: a pick of it says nothing


class SaysTheSame(WholeFinding):
    """Two facets of a rack of which one tells the other."""

    id = "says-the-same"
    matters = 0.1

    def depends(self, whole: Whole) -> Hashable:
        return whole.facets

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        for key, rack in whole.racks.items():
            state = whole.state(key)
            walk = whole.walk(state, WIDE)
            shelves = [(facet, walk.shelves(facet)[0]) for facet in state.rack.facets if not kind_of(facet.spec.source.kind).is_tree]
            for place, (facet, shelf) in enumerate(shelves):
                for earlier, above in shelves[:place]:
                    if len(shelf.keys) < 2 or len(above.keys) < 2:
                        continue
                    guess = likeness(above, shelf, max(1, above.starts.size // GUESSED))
                    if guess.covered < SHARED or guess.told < SAME - _APART:
                        continue
                    alike = likeness(above, shelf)
                    if alike.covered >= SHARED and alike.told >= SAME:
                        labels = facet.spec.label, earlier.spec.label
                        yield self._found(facet.spec.key, labels, rack, alike.guessed, int(alike.table.sum()))

    def _found(self, key: str, labels: tuple[str, str], rack: Document, guessed: float, count: int) -> WholeFound:
        told = min(9, int(10 * guessed))
        text = f"{labels[0]} says the same as {labels[1]} for {told} of 10 products"
        mend = Mend("take-off", f"Take {labels[0]} off", f"{rack['label']} is one shelf shorter", by(edited, take_off, rack["key"], key))
        more = f"Who picks in {labels[1]} learns nothing more from it."
        return WholeFound(self.says(identity(labels[1]), count, text, mend, more=more), About(FACET, key, rack["key"]))


class SaysNothingHere(WholeFinding):
    """A facet that has one bin with nearly all products on a listing where it shows."""

    id = "says-nothing-here"
    matters = 0.05

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        found: dict[tuple[str, str], list[tuple[str, ...]]] = {}
        for path in whole.tops:
            rack = whole.rack_at(path)
            if rack not in whole.racks:
                continue
            state = whole.state(rack, path)
            for facet in state.rack.facets:
                here = state.rack.on_listing(facet, path)
                counts = [count for count in here.counts if count]
                waits = facet.spec.show_when is not None
                if len(counts) == 1 and counts[0] >= _EVERY * len(state.products) and not waits and not facet.spec.free:
                    found.setdefault((rack, facet.spec.key), []).append(path)
        for (rack, key), paths in found.items():
            label = whole.specs[key].label
            names = [whole.name(path) for path in paths]
            where = listed(names) if len(names) < 4 else f"{listed(names[:2])} and {len(names) - 2} more listings"
            count = sum(len(whole.index.listing(path)) for path in paths)
            text = f"{label} has one bin with all products of {where}"
            mend = Mend("place", "See where it shows", "leads to the listings", leads=SHOW, target="placing")
            yield WholeFound(self.says("", count, text, mend, more="A pick there narrows nothing."), About(FACET, key, rack))


class TooLong(WholeFinding):
    """A rack with more facets than a phone has room for, all standing open."""

    id = "too-long"
    matters = 0.02

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        for key, rack in whole.racks.items():
            open_ = [name for name in rack["facets"] if stands_open(whole.document, key, name)]
            if len(open_) > LONG:
                late = open_[OPEN:]
                text = f"{rack['label']} has {len(open_)} facets standing open: on a phone that is some {len(open_) // 3} screens"
                words = f"Start the last {len(late)} shut"
                mend = Mend("shut", words, "shoppers open what they want", by(edited, start_open, key, late, is_open=False))
                more = "Few scroll to the end of them."
                yield WholeFound(self.says("", whole.total, text, mend, more=more), About(RACK, key, key))


class TooWide(WholeFinding):
    """A listing that its rack does not bring down to few products, whatever is picked."""

    id = "too-wide"
    matters = 0.3

    def depends(self, whole: Whole) -> Hashable:
        unnamed = tuple((key, tuple(replace(spec, label="") for spec in specs)) for key, specs in whole.facets)
        return unnamed, tuple(map(whole.rack_at, whole.tops))

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        for path in whole.tops:
            rack = whole.rack_at(path)
            size = len(whole.index.listing(path))
            if rack not in whole.racks or size < MOST_WIDE:
                continue
            state = whole.state(rack, path)
            never = _beyond_reach(whole, state, most := max(WIDE - 1, int(0.1 * size)))
            if never > most:
                name = whole.name(path)
                text = f"No picks bring {products(never)} of {name} down to {WIDE}"
                mend = Mend("add", "Add a facet", "leads to what the catalogue offers there", leads=SHOW, target="add")
                more = "Who looks for one of them has to read on and on."
                yield WholeFound(self.says("", never, text, mend, more=more), About(LISTING, " > ".join(path), rack))


def _beyond_reach(whole: Whole, state: State, enough: int) -> int:
    """Return how many products no picks bring down to few; 0 where they are ``enough`` or fewer.

    Those shelves come first that leave fewest products, so that as few as can be have to be carried to the next.
    """
    walk = whole.walk(state, WIDE)
    way, here = walk.begin(), state.rack.on_listing

    def leaves(facet: Facet) -> tuple[bool, float]:
        counts = here(facet, state.listing)
        return facet.spec.show_when is not None, sum(count * count for count in (*counts.counts, counts.unbinned))

    for facet in sorted(state.rack.facets, key=leaves):
        way.go_down(walk.shelves(facet))
        never = int((way.reach.left > WIDE).sum())
        if never <= enough:
            return 0
    return never


class ShowsNowhere(WholeFinding):
    """A rack that no listing shows."""

    id = "shows-nowhere"

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        for key, rack in whole.racks.items():
            if not whole.shows(key):
                facets = len(rack["facets"])
                text = f"No listing shows {rack['label']}"
                more = f"Nobody meets its {facets} facet{'' if facets == 1 else 's'}."
                mend = Mend("place", "Choose where it shows", "leads to the listings", leads=SHOW, target="placing")
                yield WholeFound(self.says("", 0, text, mend, more=more), About(RACK, key, key))


class NotServing(WholeFinding):
    """A facet of an attribute that does not serve narrowing: it stands on a rack, and no shopper sees it."""

    id = "not-serving"
    matters = 0.05

    def look(self, whole: Whole) -> Iterator[WholeFound]:
        labels = {facet["key"]: (facet["label"], facet["source"].get("attribute", "")) for facet in whole.document["facets"]}
        for rack_key, rack in whole.racks.items():
            for key in rack["facets"]:
                label, attribute = labels[key]
                if identity(attribute) in whole.off:
                    text = f"{label} is on {rack['label']} and not shown: the attribute {attribute} does not serve narrowing"
                    mend = Mend("serve", "Let it serve", "leads to the attributes", leads=SHOW, target="attributes")
                    more = "Shoppers cannot narrow by it until it does."
                    yield WholeFound(self.says(key, whole.total, text, mend, more=more), About(RACK, rack_key, rack_key))


FINDERS: tuple[WholeFinding, ...] = (SaysTheSame(), SaysNothingHere(), TooLong(), TooWide(), ShowsNowhere(), NotServing())
