"""Noting what shoppers do, as sums: without cookies, addresses or anything that follows a person.

What changed is read from the page that a request comes from, which browsers tell the shop's own server and nobody else. Who asks not to be
counted (Do Not Track, Global Privacy Control) is not counted; nor are robots that say so.
"""

from itertools import combinations
from urllib.parse import urlsplit

from django.http import HttpRequest

from binsort.core.facets.query import pairs_of
from binsort.footfall.counting import count
from binsort.footfall.kinds import BASKET, DEAD_END, FEW, FIRST, IN_VAIN, LOOKED, OPENED, PICK, REACHED, TOGETHER, UNFOLDED, USED, VISIT
from binsort.footfall.switch import is_on
from binsort.racks.addresses import Pair, query_string
from binsort.racks.setup import edition_shown, states
from binsort.tally.current import Current

from .listings import ListingPage

_FEW = 12
_ROBOTS = ("bot", "crawl", "spider", "slurp", "headlesschrome")
_WORDS = 80  # letters of a search


def note_listing(request: HttpRequest, page: ListingPage) -> None:
    """Note a listing that somebody looks at: that she came, what she picked since the page before, and what it led to."""
    asked = page.asked
    if not _counts(request, asked.held):
        return
    came = _came_from(request)
    if came is None:
        count(VISIT, "")
    if came is None or came[0] != asked.path:
        count(LOOKED, " > ".join(asked.nodes or ()))
    before = came if came is not None and came[0] == asked.path else ("", ())
    known = {(_key(name), value) for name, value in before[1]}
    keys_before = {key for key, _value in known} & asked.state.rack.by_key.keys()
    picks = asked.picks
    fresh = [(key, value) for key, value in picks if (key, value) not in known]
    if fresh:
        _note_picks(asked.state.rack.by_key.keys() & {key for key, _value in picks}, keys_before, fresh, page)
    if page.search and not page.total and not picks and page.search not in {value for name, value in before[1] if name == "q"}:
        count(IN_VAIN, page.search[:_WORDS].casefold())


def _note_picks(keys: set[str], keys_before: set[str], fresh: list[Pair], page: ListingPage) -> None:
    for key, value in fresh:
        count(PICK, key if ".." in value else f"{key}={value}")
    for key in sorted(keys - keys_before):
        count(USED, key)
        if not keys_before and len(keys) == 1:
            count(FIRST, key)
    new = keys - keys_before
    for pair in combinations(sorted(keys), 2):
        if new & set(pair):
            count(TOGETHER, " ".join(pair))
    if not page.total:
        where = [("category", " > ".join(page.asked.nodes))] if page.asked.nodes else []
        text = [("q", page.search)] if page.search else []
        count(DEAD_END, query_string([*where, *text, *page.asked.picks]).removeprefix("?"))
    elif page.total <= _FEW:
        count(FEW, "")


def note_product(request: HttpRequest, held: Current, identity: str) -> None:
    """Note a product that somebody opens."""
    if _counts(request, held):
        came = _came_from(request)
        if came is None:
            count(VISIT, "")
        elif not came[0].startswith("/shop/p/"):
            count(OPENED, "")
        count(REACHED, identity)


def note_unfolded(request: HttpRequest, held: Current, key: str) -> None:
    """Note that a facet was opened that stood shut; only what the shop's own pages send, and only of facets that shoppers see."""
    edition = edition_shown(held.beside("states", states))
    is_own = request.headers.get("Sec-Fetch-Site", "same-origin") == "same-origin" and _came_from(request) is not None
    if is_own and edition and any(spec.key == key for spec in edition.facet_file.facets) and _counts(request, held):
        count(UNFOLDED, key)


def note_basket(request: HttpRequest, held: Current) -> None:
    """Note that something was put into the basket."""
    if _counts(request, held):
        count(BASKET, "")


def _counts(request: HttpRequest, held: Current) -> bool:
    """Tell whether a request may be counted.

    Do Not Track is on where the field begins with 1 (W3C Tracking Preference Expression, 5.2), Global Privacy Control where it is 1
    and nothing else (W3C Global Privacy Control, 3.2). What is fetched ahead (Purpose, Sec-Purpose) was not looked at yet.
    """
    if request.headers.get("DNT", "").startswith("1") or request.headers.get("Sec-GPC") == "1":
        return False
    if "Purpose" in request.headers or "prefetch" in request.headers.get("Sec-Purpose", ""):
        return False
    agent = request.headers.get("User-Agent", "").lower()
    return not any(robot in agent for robot in _ROBOTS) and held.beside("footfall", is_on)


def _came_from(request: HttpRequest) -> tuple[str, tuple[Pair, ...]] | None:
    """Return the page of the shop that a request comes from: its address and query; None for elsewhere."""
    text = request.headers.get("HX-Current-URL") or request.headers.get("Referer", "")
    try:
        parts = urlsplit(text)
    except ValueError:
        return None
    if parts.netloc != request.get_host() or not parts.path.startswith("/shop/"):
        return None
    return parts.path, tuple(pairs_of(parts.query))


def _key(name: str) -> str:
    return name.partition(".")[0]
