"""The tree of listings: every one with its products, those that are folded left out."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

from django.utils.translation import gettext as _

from binsort.catalog.store.category_paths import category_paths, identities_of
from binsort.core.facets.place_edits import listing_of, said_of_listing
from binsort.core.facets.places import ALL, CATEGORY, EMBED, PLACES, SEARCH, TAG, Listing, Places, facets_of
from binsort.core.values.text import identity
from binsort.racks.models import Embed
from binsort.racks.places_in_words import listing_words
from binsort.racks.setup import Document

UNFOLDED = 40  # so many categories are shown without being asked for


@dataclass(frozen=True, slots=True)
class Node:
    """A listing that can be chosen."""

    key: str  # in addresses
    name: str
    listing: Listing
    said: Document  # how a rule names it
    depth: int
    below: int  # listings below it
    is_folded: bool = False


@dataclass(frozen=True)
class Folding:
    """What was opened and shut by hand."""

    opened: frozenset[str] = frozenset()
    shut: frozenset[str] = frozenset()

    def turned(self, key: str, *, is_folded: bool) -> "Folding":
        """Return it with one category opened, or shut."""
        if is_folded:
            return Folding(self.opened if key in self.shut else self.opened | {key}, self.shut - {key})
        return Folding(self.opened - {key}, self.shut if key in self.opened else self.shut | {key})


@dataclass(frozen=True)
class Tree:
    """All listings; a node is made of those that are shown or asked for."""

    paths: tuple[tuple[str, ...], ...]  # names of every category
    identities: tuple[tuple[str, ...], ...]
    shown: tuple[Node, ...]
    embeds: tuple[Node, ...]  # search results and those on other sites, all shown

    @property
    def count(self) -> int:
        """How many listings there are."""
        return 1 + len(self.paths)

    def named(self, key: str) -> Node:
        """Return the listing of this key, all products where there is none."""
        if tag := _tag_of(key):
            return tag_node(tag)
        known = next((node for node in (*self.shown, *self.embeds) if node.key == key), None)
        place = next((place for place, path in enumerate(self.identities) if _key(path) == key), None) if known is None else None
        return known or (_node(self.paths[place], self.identities[place], 0) if place is not None else self.shown[0])

    def name_of(self, listing: Listing) -> str:
        """Return what a listing is called."""
        return self.named(_key(listing.path)).name if listing.path else self.shown[0].name

    def below(self, node: Node) -> int:
        """Return how many listings are below one; below all products those found and embedded, too."""
        if node.listing.kind == ALL:
            return len(self.paths) + len(self.embeds)
        depth = len(node.listing.path)
        return sum(len(path) > depth and path[:depth] == node.listing.path for path in self.identities) if depth else 0

    def changed(self, before: Places, after: Places, document: Document) -> list[Listing]:
        """Return the listings on whose page other facets stand afterwards, or in other places."""

        @cache
        def shown(racks: tuple[str, ...]) -> dict[str, tuple[str, ...]]:
            return facets_of(dict(zip(PLACES, racks, strict=True)), document)[0]

        others = [node.listing for node in (self.shown[0], *self.embeds)]
        pairs = [(one, before.racks_at(one), after.racks_at(one)) for one in others]
        along = zip(self.identities, before.along(self.identities, followed=True), after.along(self.identities, followed=True), strict=True)
        pairs += [(Listing(CATEGORY, path), old, new) for path, old, new in along]
        return [listing for listing, old, new in pairs if old != new and shown(old) != shown(new)]


def tree_of(document: Document, *, folding: Folding, here: str, own_only: bool = False) -> Tree:
    """Return the tree.

    Args:
        document: the draft, whose rules keep the way to what has a rack of its own open.
        folding: what was opened and shut by hand.
        here: the key of the listing that is chosen; the way to it is open.
        own_only: show only those with a rack of their own, and the way to them.
    """
    paths = tuple(category_paths().values())
    same = identities_of(paths)
    own = {listing_of(rule) for rack in document["racks"] for rule in rack.get("place", {}).get("shows", ())}
    with_own = {listing.path for listing in own if listing.kind == CATEGORY}
    own |= {Listing(TAG, (), name) for name in [_tag_of(here)] if name}  # one that is looked at is there, too
    ways = {path[:length] for path in (*with_own, tuple(here.split(" > "))) for length in range(1, len(path))}
    every = len(paths) <= UNFOLDED
    below = Counter(path[:length] for path in same for length in range(1, len(path)))
    shown = [Node("all", _("All listings"), Listing(), said_of_listing(ALL), 0, len(paths))]
    shut_at = 0  # depth of the folded category in whose branch we are; 0: in none
    for names, path in zip(paths, same, strict=True):
        if shut_at and len(path) > shut_at:
            continue
        shut_at = 0
        key = _key(path)
        is_open = (every or path in ways or key in folding.opened) and key not in folding.shut
        if below[path] and not is_open:
            shut_at = len(path)
        if not own_only or path in with_own or path in ways:
            shown.append(_node(names, path, below[path], is_folded=below[path] > 0 and not is_open))
    return Tree(paths, same, tuple(shown), tuple(_others(own)))


def _node(names: tuple[str, ...], path: tuple[str, ...], below: int, *, is_folded: bool = False) -> Node:
    return Node(
        _key(path), names[-1], Listing(CATEGORY, path), said_of_listing(CATEGORY, " > ".join(names)), len(path), below, is_folded
    )  # fmt: skip


def _others(own: set[Listing]) -> Iterator[Node]:
    """Yield search results, and the listings of other sites: those there are, and those that rules name."""
    yield Node("search", listing_words(Listing(SEARCH)), Listing(SEARCH), said_of_listing(SEARCH), 1, 0)
    for tag in sorted({listing.name for listing in own if listing.kind == TAG}):
        yield tag_node(tag)
    labels = dict(Embed.objects.values_list("name", "label"))
    for name in sorted({listing.name for listing in own if listing.kind == EMBED} | labels.keys()):
        yield Node(f"embed:{name}", labels.get(name, name), Listing(EMBED, (), name), said_of_listing(EMBED, name), 1, 0)


def _tag_of(key: str) -> str:
    """Return the identity of the tag whose listing a key names; empty for others."""
    return identity(key.removeprefix(f"{TAG}:")) if key.startswith(f"{TAG}:") else ""


def tag_node(tag: str) -> Node:
    """Return the listing of a tag, by its identity."""
    return Node(f"{TAG}:{tag}", listing_words(Listing(TAG, (), tag)), Listing(TAG, (), tag), said_of_listing(TAG, tag), 1, 0)


def _key(path: tuple[str, ...]) -> str:
    return " > ".join(path)
