"""A crowd of simulated shoppers: they come, search, pick, back out and open products, so that footfall has something to tell."""

from collections.abc import Callable
from random import Random
from urllib.parse import urlencode
from urllib.request import Request, urlopen

from binsort.core.answers.answer import RackIndex, State
from binsort.racks.setup import the_setup
from binsort.tally.current import current

Pair = tuple[str, str]
_LISTINGS = ("", "rope and cordage", "deck hardware", "safety", "paint and varnish", "anchors and mooring")
_LIKES = {"colour": 7, "diameter": 30, "price": 6, "group": 6, "stock": 2, "material": 0.3}  # how gladly a facet is picked in; others 1
_WISHED, _WISHED_IN = 0.05, "rope and cordage"  # of the visits want two things that nothing is at once; where
_WORDS = ("halyard", "shackle", "bungee", "winch rope", "bungee", "8 plait", "fender", "bungee", "outboard")
_BLIND = 0.12  # of the picks are made without looking at the counts


def visit(chance: Random, ask: Callable[[str, str], None]) -> int:
    """Let one shopper come; returns how many pages she saw.

    Args:
        chance: where chance comes from.
        ask: asks for an address, and says which page it comes from.
    """
    setup, seen = the_setup(), 1
    assert setup.live is not None
    rack = current().rack(setup.live.facet_file.facets)
    listing = chance.choice(_LISTINGS)
    here = f"/shop/c/{listing.replace(' ', '-')}/" if listing else "/shop/"
    ask(here, "")
    if chance.random() < 0.15:
        ask(f"/shop/?{urlencode({'q': chance.choice(_WORDS)})}", here)
        return 2
    if chance.random() < _WISHED:
        return seen + _wish(rack, ask)
    pairs: list[Pair] = []
    address = here
    for _step in range(chance.choice((0, 0, 1, 1, 2, 2, 3, 4))):
        state = State(rack, rack.read(pairs, (listing,) if listing else None))
        pick = _pick(state, chance)
        if pick is None:
            break
        pairs.append(pick)
        before, address = address, f"{here}?{urlencode(pairs)}"
        ask(address, before)
        seen += 1
    state = State(rack, rack.read(pairs, (listing,) if listing else None))
    if state.result and chance.random() < 0.5:
        product = rack.index.ids.many([chance.choice(list(state.part(0, 12)))])[0]
        ask(f"/shop/p/{product}/?{urlencode(pairs)}", address)
        seen += 1
    return seen


def _wish(rack: RackIndex, ask: Callable[[str, str], None]) -> int:
    """Pick two things one after the other that nothing is at once; returns how many pages that took."""
    colour, diameter = (rack.by_key.get(key) for key in ("colour", "diameter"))
    if colour is None or diameter is None:
        return 0
    everything = State(rack, rack.read([], (_WISHED_IN,)))
    for one in everything.facet(colour).bins:
        for other in everything.facet(diameter).bins:
            pairs = [("colour", one.key), ("diameter", other.key)]
            if one.count and other.count and not State(rack, rack.read(pairs, (_WISHED_IN,))).result:
                here = f"/shop/c/{_WISHED_IN.replace(' ', '-')}/"
                first = f"{here}?{urlencode(pairs[:1])}"
                ask(first, here)
                ask(f"{here}?{urlencode(pairs)}", first)
                return 2
    return 0


def _pick(state: State, chance: Random) -> Pair | None:
    """Choose a bin: of facets by how gladly they are picked in, mostly one that promises products."""
    blind = chance.random() < _BLIND
    offered = {
        answer.key: [bin.key for bin in answer.bins if not bin.picked and (bin.count or blind)]
        for answer in state.facets
        if answer.key not in state.picks
    }
    keys = [key for key, bins in offered.items() if bins]
    if not keys:
        return None
    key = chance.choices(keys, [_LIKES.get(one, 1) for one in keys])[0]
    return key, chance.choice(offered[key][:6])


def sender(site: str) -> Callable[[str, str], None]:
    """Return what asks a server as a browser does, but for what it is called."""

    def ask(address: str, before: str) -> None:
        headers = {"User-Agent": "simulated shopper", **({"Referer": site + before} if before else {})}
        with urlopen(Request(site + address, headers=headers), timeout=60) as answer:
            answer.read()

    return ask
