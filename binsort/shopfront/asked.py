"""What a shopper asks: a query on a listing, understood. Listing, product page, suggestions and reasons all begin here."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, partial
from typing import Any

from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.catalog.models import Category
from binsort.core.answers.answer import State
from binsort.core.facets.behaviour import MOST_A_PAGE, Behaviour, Sort
from binsort.core.facets.places import SEARCH, TAG, Listing
from binsort.core.facets.query import FreeRange, Picks
from binsort.core.index.catalogue_index import Index
from binsort.core.index.tags import tag_by_slug, tagged
from binsort.core.insight.proposals import tidy_label
from binsort.core.values.text import category_path, identity, normalise
from binsort.racks.addresses import Pair, pick_pairs, picked_pairs, query_string, range_text
from binsort.racks.attribute_use import dictionary_colours, looks_with_colours, not_narrowing, served
from binsort.racks.controls import control_of
from binsort.racks.hosted import Hosted, NotThere
from binsort.racks.models import Edition, Embed
from binsort.racks.number_words import Words, bin_words, words_of
from binsort.racks.presentation import bin_swatch
from binsort.racks.setup import edition_shown, states
from binsort.racks.shown_facet import Swatch
from binsort.search.by_text import Found, by_match, search
from binsort.tally.current import Current, current

from .addresses import address_of, find_category, trail_of
from .former import renamed
from .planned import MATCH, Planned
from .seen import read_seen
from .typed import Typed, understood

TAG_NAMED = "_tag"  # in a query of another page than its own listing; no key of a facet begins with a line
SHOWN, SEEN = "shown", "seen"  # in an address: how many products a page has; which were seen before it


class UnknownTag(LookupError):
    """There is no product with a tag at an address."""


@dataclass(frozen=True)
class Asked:
    """One query on a listing."""

    held: Current
    edition: Edition | None  # the set-up that is seen
    planned: Planned
    state: State
    path: str  # the address without its query
    pairs: tuple[Pair, ...]  # as they came, of renamed facets and bins by the names of today
    typed: Typed
    found: Found | None  # by text, None where nothing is searched for
    nodes: tuple[str, ...] | None  # identities of the listing's category
    in_query: bool  # the category is named by the query, not by the address
    sort: Sort
    sorts: tuple[Sort, ...]
    came: tuple[str, tuple[Pair, ...]]  # the address and the query as they came
    hosted: Hosted | None = None  # it is shown on another site
    tag: tuple[str, str] | None = None  # what the listing is of, with what stands for it in an address; None for no tag
    tag_in_query: bool = False

    @property
    def behaves(self) -> Behaviour:
        """How the page behaves."""
        return self.planned.behaviour

    @property
    def index(self) -> Index:
        """The catalogue."""
        return self.state.rack.index

    @property
    def trail(self) -> tuple[Category, ...]:
        """The categories on the way to the listing, from the top down."""
        return self.held.beside(("trail", self.nodes), partial(trail_of, self.nodes))

    # -- words

    @property
    def title(self) -> str:
        """What the listing is called."""
        if self.hosted:
            return self.hosted.label
        if self.tag and (not self.trail or not self.tag_in_query):
            return tidy_label(self.tag[0])
        if self.trail:
            return self.trail[-1].name
        return _("All products") if not self.state.listing else _("Nothing here")

    @cached_property
    def looks(self) -> dict[str, dict[str, Any]]:
        """How each facet is drawn, by its key."""
        colours = self.held.beside("colours", dictionary_colours)
        return looks_with_colours(self.planned.looks, self.state.rack.specs, colours)

    @cached_property
    def words(self) -> dict[str, Words]:
        """How each facet's numbers are written, by its key."""
        index, currency = self.index, self.held.currency
        return {
            facet.spec.key: words_of(facet, index.unit(facet.spec.source), currency, self.looks.get(facet.spec.key, {}))
            for facet in self.state.rack.facets
        }

    def named(self, key: str, bin: str) -> str:
        """Return a bin's name, by the keys of its facet and its own."""
        return bin_words(self.state.rack.by_key[key].by_key[bin], self.words[key])

    def said(self, key: str, pick: str | FreeRange) -> str:
        """Say a pick where picks are shown: a bin by its key, or a free range; behind what its facet puts before."""
        facet, words = self.state.rack.by_key[key], self.words[key]
        chip = self.looks.get(key, {}).get("chip", "")
        if isinstance(pick, str):
            return f"{chip} {self.named(key, pick)}".strip()
        ranged = words.range(pick.low, pick.high, inclusive=True)
        before = chip or (facet.spec.label if pick.low is None or pick.high is None else "")
        return f"{before} {ranged}".strip()

    def swatch(self, key: str, pick: str | FreeRange) -> Swatch | None:
        """Return the colours of a pick, None where its facet shows none."""
        look = self.looks.get(key, {})
        if isinstance(pick, FreeRange) or not control_of(look).has_colours:
            return None
        return bin_swatch(look, self.state.rack.by_key[key].by_key[pick])

    def pair(self, key: str, pick: str | FreeRange) -> Pair:
        """Return a pick as it stands in an address."""
        return key, pick if isinstance(pick, str) else range_text(pick, self.state.rack.by_key[key].spec.source.kind)

    # -- addresses

    @cached_property
    def picks(self) -> list[Pair]:
        """The effective picks, but those that the listing always has."""
        return self.own(pick_pairs(self.state))

    def own(self, pairs: Iterable[Pair]) -> list[Pair]:
        """Return those of some picks that are the shopper's own."""
        return [pair for pair in pairs if pair[0] not in self.standing]

    @property
    def standing(self) -> frozenset[str]:
        """The facets whose picks the listing always has: shoppers neither see nor change them."""
        return self.hosted.keys if self.hosted else frozenset()

    @cached_property
    def unpicked(self) -> State:
        """What there is with nothing picked but what the listing always has."""
        return self.state.with_picks({key: picks for key, picks in self.state.picks.items() if key in self.standing})

    @property
    def category(self) -> list[Pair]:
        """The category, and the tag, that the query names; none where the address does."""
        named = [("category", " > ".join(self.state.listing))] if self.in_query and self.state.listing else []
        return [*named, *([(TAG_NAMED, self.tag[1])] if self.tag and self.tag_in_query else [])]

    @cached_property
    def fixed(self) -> list[Pair]:
        """What stays in an address whatever is picked: the category, what is searched for."""
        return [*self.category, *([("q", self.found.text)] if self.found else [])]

    @cached_property
    def kept(self) -> list[Pair]:
        """Order and length of the pages, where they are not as usual."""
        per = [("per", str(self.state.query.per))] if self.state.query.per else []
        return [*([("sort", self.sort.key)] if self.sort.key != self.sorts[0].key else []), *per]

    def address(self, picks: Iterable[Pair], *more: Pair) -> str:
        """Return the address of this listing with some picks."""
        return self.path + query_string([*self.fixed, *picks, *self.kept, *more])

    def address_with(self, picks: dict[str, Picks]) -> str:
        """Return the address with other picks."""
        return self.address(self.own(picked_pairs(self.state.rack, picks)))

    def without(self, key: str, pick: str | FreeRange | None = None) -> str:
        """Return the address without one pick, or all picks of a facet."""
        gone = None if pick is None else self.pair(key, pick)
        return self.address([pair for pair in self.picks if (pair != gone if gone else pair[0] != key)])

    @property
    def listing_pairs(self) -> list[Pair]:
        """The query by which another page, of a product, knows this listing."""
        category = [("category", " > ".join(self.nodes))] if self.nodes else []
        search = [("q", self.found.text)] if self.found else []
        tag = [(TAG_NAMED, self.tag[1])] if self.tag else []
        return [*category, *tag, *search, *pick_pairs(self.state), *self.kept]

    @property
    def shop_address(self) -> str:
        """The listing's page in the shop, whichever page this was asked for."""
        tagged_here = reverse("shop-tag", kwargs={"slug": self.tag[1]}) if self.tag else reverse("shop")
        here = address_of(self.trail) if self.trail else tagged_here
        said = [pair for pair in self.listing_pairs if pair[0] != TAG_NAMED or self.trail]
        return here + query_string([pair for pair in said if pair[0] != "category" or not self.trail])

    @cached_property
    def found_elsewhere(self) -> int:
        """How many products of the whole shop have what is searched for, where this listing under these picks has none of them; else 0."""
        if self.found is None or self.state.result or self.hosted:
            return 0
        found = self.found.products & self.index.every_product
        return len(found) if self.state.listing or self.picks else 0

    @property
    def elsewhere_address(self) -> str:
        """The address of what is searched for in the whole shop."""
        return reverse("shop") + query_string([("q", self.found.text if self.found else "")])

    def without_search(self) -> "Asked":
        """Return the same with nothing searched for."""
        return replace(self, state=State(self.state.rack, self.state.query, within=self.state.within), found=None)

    # -- order

    def part(self, start: int, stop: int) -> list[int]:
        """Return the slots of the result from one place to before another, in the order asked for."""
        if self.sort.by == MATCH and self.found:
            return list(by_match(self.index, self.found, self.state.result)[start:stop])
        return self.state.part(start, stop)

    @property
    def per(self) -> int:
        """Products on one page."""
        return min(self.state.query.per or self.behaves.per_page, max(MOST_A_PAGE, self.behaves.per_page))

    @cached_property
    def seen(self) -> list[int]:
        """The slots of the products that the address says were seen before."""
        texts = [value for name, value in self.pairs if name == SEEN]
        keys = read_seen(texts[-1]) if texts and SEEN not in self.state.rack.by_key else []
        return [slot for slot in self.index.facts.slots(keys) if slot is not None] if keys else []

    @cached_property
    def shown(self) -> int:
        """How many products this page has: one page of them, or so many as were shown one after another."""
        texts = [value for name, value in self.pairs if name == SHOWN and value.isascii() and value.isdigit()]
        asked = int(texts[-1][:6]) if texts and SHOWN not in self.state.rack.by_key else 0
        return min(max(self.per, asked), max(self.per, MOST_SHOWN))

    def following(self, count: int) -> list[int]:
        """Return the next products: those that come first of what was not seen yet."""
        seen = set(self.seen)
        return [slot for slot in self.part(0, count + len(seen)) if slot not in seen][:count]


MOST_SHOWN = 480  # products on a page that was made longer and longer


def asked(
    pairs: Sequence[Pair],
    path: str,
    slugs: Sequence[str] = (),
    *,
    tag: str = "",
    draft: bool = False,
    host: tuple[str, Sequence[str]] | None = None,
) -> Asked:
    """Understand a query.

    Args:
        pairs: the query, decoded.
        path: the address without its query.
        slugs: of the category in the address; none for all products, or where the query names one.
        tag: what stands for a tag in the address; empty where the query names it, or none.
        draft: somebody is shown the draft in place of what shoppers see.
        host: another site shows it: the name of what it shows, and the keys of the racks that it names.

    Raises:
        UnknownCategory: there is none of these slugs.
        UnknownTag: nothing has such a tag.
        NotThere: what another site shows is not in the shop any more.
        NotReady: there are no counts yet.
    """
    held = current()
    edition = edition_shown(held.beside("states", states), draft=draft)
    hosted = _hosted(held, edition, *host) if host else None
    nodes = hosted.nodes if hosted else _nodes(held, slugs) or _named(pairs)
    text = next((normalise(value) for name, value in reversed(pairs) if name == "q" and value.strip()), "")
    known_tag = None if slugs or host else _tag(held, tag, pairs)
    planned = Planned.of(edition, _listing(nodes, known_tag, searching=bool(text)), hosted)
    rack = held.rack(served(planned.specs, held.beside("not narrowing", not_narrowing)), for_shoppers=True)
    named = renamed(_with_standing(pairs, hosted) if hosted else pairs, rack, nodes)
    typed = understood(named, rack.specs)
    found = search(held, text, edition) if text else None
    sorts = _with_data(planned.sorts(searching=found is not None), rack.index)
    sort = _wanted(sorts, pairs)
    within = held.beside(("tagged", known_tag), lambda: tagged(held.index, known_tag[0])) if known_tag else None
    query = replace(rack.read(typed.pairs, nodes), sort="listed" if sort.by == MATCH else sort.key)
    if hosted:
        hosted.check(query.ignored)
    return Asked(
        held=held,
        edition=edition,
        planned=planned,
        state=State(rack, query, found.products if found else None, within),
        path=path,
        pairs=tuple(named),
        typed=typed,
        found=found,
        nodes=nodes or None,
        in_query=not slugs and not hosted,
        sort=sort,
        sorts=sorts,
        came=(path, tuple(pairs)),
        hosted=hosted,
        tag=known_tag,
        tag_in_query=not tag,
    )


def _nodes(held: Current, slugs: Sequence[str]) -> tuple[str, ...] | None:
    """Return the category of an address, None where it names none. Raises UnknownCategory."""
    category = held.beside(("category", *slugs), partial(find_category, slugs)) if slugs else None
    return tuple(category.path_identity.split(" > ")) if category else None


def _listing(nodes: tuple[str, ...] | None, tag: tuple[str, str] | None, *, searching: bool) -> Listing:
    """Return the listing whose racks show."""
    if tag:
        return Listing(TAG, (), identity(tag[0]))
    return Listing(SEARCH) if searching and not nodes else Listing.of(nodes)


def _tag(held: Current, slug: str, pairs: Sequence[Pair]) -> tuple[str, str] | None:
    """Return the tag of an address, or that a query names, with what stands for it. Raises UnknownTag where that of an address is none."""
    named = slug or next((value for name, value in reversed(pairs) if name == TAG_NAMED), "")
    tags = held.beside("tags", lambda: tag_by_slug(held.index)) if named else {}
    if slug and slug not in tags:
        raise UnknownTag(slug)
    return (tags[named], named) if named in tags else None


def _wanted(sorts: Sequence[Sort], pairs: Sequence[Pair]) -> Sort:
    """Return the order that a query names last, else the first."""
    wanted = [sort for name, value in pairs if name == "sort" for sort in sorts if sort.key == value]
    return wanted[-1] if wanted else sorts[0]


def _with_data(sorts: Sequence[Sort], index: Index) -> tuple[Sort, ...]:
    """Return the sorts that some product has data for; the shop's own order where none has."""
    orders = index.orders
    return tuple(sort for sort in sorts if sort.by == MATCH or orders.has_data(sort.key)) or (Sort("listed"),)


def _hosted(held: Current, edition: Edition | None, name: str, racks: Sequence[str]) -> Hosted:
    """Return what other sites show under a name. Raises NotThere."""

    def read() -> dict[str, Embed]:
        return {embed.name: embed for embed in Embed.objects.select_related("category")}

    embed = held.beside("embeds", read).get(name)
    if embed is None:
        raise NotThere(f"No listing is called “{name[:60]}”.")
    return Hosted.of(embed, edition, racks or (embed.rack,))


def _with_standing(pairs: Sequence[Pair], hosted: Hosted) -> list[Pair]:
    """Return a query with what the listing always narrows by in place of what a shopper sent for these facets."""
    return [*hosted.standing, *(pair for pair in pairs if pair[0].partition(".")[0] not in hosted.keys)]


def _named(pairs: Sequence[Pair]) -> tuple[str, ...] | None:
    """Return the category that a query names, None for all products."""
    named = [path for name, value in pairs if name == "category" and (path := tuple(map(identity, category_path(value))))]
    return named[-1] if named else None
