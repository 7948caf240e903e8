"""The page *Listings*: the tree, a column a place; what would change; and the plan of a listing's page."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from urllib.parse import quote_plus, urlencode

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from pyroaring import BitMap

from binsort.core.facets.place_edits import INHERIT, NOTHING, with_place
from binsort.core.facets.places import ABOVE, ALL, BELOW, CATEGORY, DRAWER, PLACES, SIDE, TAG, Listing, Placed, Places, Plan, plan
from binsort.core.index.bitmaps import union
from binsort.core.index.tags import tag_by_slug, tagged, tags_of
from binsort.core.insight.coverage import percent
from binsort.core.values.text import identity
from binsort.racks.models import Setup
from binsort.racks.places_in_words import place_words
from binsort.racks.setup import Document
from binsort.tally.current import current
from binsort.workbench.rack.page import rack_address

from .strands import Spot, spots
from .tree import Folding, Node, Tree, tree_of

_OWN = "own"
_TAGS = 200  # that are offered


@dataclass(frozen=True, slots=True)
class CellView:
    """What stands at a place of a listing."""

    where: str
    label: str
    facets: int | None  # on a chip
    is_own: bool
    is_alone: bool  # not for the listings below
    chosen: bool
    address: str
    spot: Spot


@dataclass(frozen=True, slots=True)
class RowView:
    """A listing."""

    node: Node
    total: int | None
    share: int
    chosen: bool
    turn: str  # the address that folds or unfolds it
    cells: tuple[CellView, ...]


@dataclass(frozen=True, slots=True)
class EffectView:
    """What setting the place would change."""

    listings: int
    products: int
    before: int  # facets
    after: int
    comes: tuple[str, ...]
    goes: tuple[str, ...]
    elsewhere: tuple[str, ...]  # facets of the rack that stand at another place of the page


@dataclass(frozen=True, slots=True)
class ReasonView:
    """Why a rack stands at a place."""

    where: str
    label: str
    address: str
    reason: str
    now: str  # what shoppers still see there, where that is another


@dataclass(frozen=True, slots=True)
class TwiceView:
    """A facet that two racks of the listing have."""

    label: str
    key: str
    where: str
    rack: str
    rack_key: str


@dataclass(frozen=True, slots=True)
class PlanView:
    """The page of a listing with its places filled; labels of facets by place."""

    name: str
    total: int | None
    places: tuple[tuple[str, tuple[str, ...]], ...]
    drawer_follows: bool

    def at(self, where: str) -> tuple[str, ...]:
        """The facets at a place."""
        return dict(self.places)[where]

    @property
    def above(self) -> tuple[str, ...]:
        return self.at(ABOVE)

    @property
    def side(self) -> tuple[str, ...]:
        return self.at(SIDE)

    @property
    def below(self) -> tuple[str, ...]:
        return self.at(BELOW)

    @property
    def drawer(self) -> tuple[str, ...]:
        return self.at(DRAWER)


@dataclass(frozen=True, slots=True)
class PlacingPage:
    """All that the page shows."""

    rows: tuple[RowView, ...]
    tags: tuple[str, ...]  # whose listings can be looked at
    tag_address: str  # of the listing of the tag that is looked at, in the shop; empty for others
    others: tuple[RowView, ...]
    count: int
    shown: int
    racks: tuple[tuple[str, str], ...]
    here: Node
    where: str
    where_words: str
    choice: str
    rack: str
    inherits: str  # what it would inherit, in words
    below: bool
    under: int  # listings below
    effect: EffectView
    asks: bool  # whether something other than what there is has been chosen
    plan: PlanView
    reasons: tuple[ReasonView, ...]
    twice: tuple[TwiceView, ...]
    own_only: bool
    asked: tuple[tuple[str, str], ...]
    whole: str
    own: str


def placing_page(setup: Setup, asked: Mapping[str, str], folding: Folding) -> PlacingPage:
    """Build the page.

    Args:
        setup: the set-up.
        asked: ``at`` and ``where``, the place that is chosen; ``choice``, ``rack``, ``below``: what is to stand there; ``tree``.
        folding: what was opened and shut by hand.
    """
    return _Page(setup, asked, folding).build()


class _Page:
    def __init__(self, setup: Setup, asked: Mapping[str, str], folding: Folding) -> None:
        self.document, self.live = setup.draft.document, setup.live.document if setup.live else None
        self.asked, self.folding = asked, folding
        self.index = current().index
        at = asked.get("at", "")
        self.tree: Tree = tree_of(self.document, folding=folding, here=at, own_only=asked.get("tree") == _OWN)
        self.here = self.tree.named(at)
        self.where = asked["where"] if asked.get("where") in PLACES else SIDE
        self.labels = {rack["key"]: rack["label"] for rack in self.document["racks"]}
        self.facets = {rack["key"]: rack["facets"] for rack in self.document["racks"]}
        self.places = Places.of(self.document)
        self._set_choice()

    def _set_choice(self) -> None:
        now = self.places.at(self.here.listing, self.where)
        standing = INHERIT if not now.own else NOTHING if not now.rack else _OWN
        self.choice = self.asked["choice"] if self.asked.get("choice") in (INHERIT, NOTHING, _OWN) else standing
        wanted = self.asked.get("rack", "")
        self.rack = wanted if wanted in self.labels else now.rack or next(iter(self.labels))
        below_now = now.rule.below if now.own and now.rule else True
        self.below = self.asked["below"] == "1" if self.asked.get("below") in ("0", "1") else below_now
        self.asks = (self.choice, self.rack if self.choice == _OWN else "", self.below if self.choice != INHERIT else "") != (
            standing, now.rack if standing == _OWN else "", below_now if standing != INHERIT else "",
        )  # fmt: skip
        chosen = self.rack if self.choice == _OWN else self.choice
        self.after = with_place(self.document, self.here.said, self.where, chosen, below=self.below)

    def build(self) -> PlacingPage:
        every = with_place(self.document, self.here.said, self.where, INHERIT)
        return PlacingPage(
            rows=tuple(self.rows(self.tree.shown)),
            others=tuple(self.rows(self.tree.embeds)),
            tag_address=self._tag_address(),
            tags=tuple(tag for tag, _count in tags_of(self.index)[:_TAGS]),
            count=self.tree.count,
            shown=len(self.tree.shown),
            racks=tuple(self.labels.items()),
            here=self.here,
            where=self.where,
            where_words=place_words(self.where),
            choice=self.choice,
            rack=self.rack,
            inherits=self.label(Places.of(every).at(self.here.listing, self.where), self.where),
            below=self.below,
            under=self.tree.below(self.here),
            effect=self.effect(),
            asks=self.asks,
            plan=self.plan(),
            reasons=tuple(self.reason(where) for where in PLACES),
            twice=tuple(self.twice(plan(self.document, self.here.listing, self.places))),
            own_only=self.asked.get("tree") == _OWN,
            asked=tuple((name, text) for name, text in self.kept().items() if name != "at" and name != "where"),
            whole=self.address(tree=""),
            own=self.address(tree=_OWN),
        )

    def _tag_address(self) -> str:
        tag = self.here.listing.name
        slugs = {identity(tag): slug for slug, tag in tag_by_slug(self.index).items()} if self.here.listing.kind == TAG else {}
        return reverse("shop-tag", kwargs={"slug": slugs[tag]}) if tag in slugs else ""

    def kept(self) -> dict[str, str]:
        return {"at": self.here.key, "where": self.where, **({"tree": _OWN} if self.asked.get("tree") == _OWN else {})}

    def address(self, folding: Folding | None = None, **asked: str) -> str:
        pairs = [(name, text) for name, text in {**self.kept(), **asked}.items() if text]
        return f"{reverse('placing')}?{urlencode([*pairs, *self.folded(folding or self.folding)])}"

    @staticmethod
    def folded(folding: Folding) -> list[tuple[str, str]]:
        return [("open", key) for key in sorted(folding.opened)] + [("shut", key) for key in sorted(folding.shut)]

    @cached_property
    def cell_address(self) -> str:
        """What the addresses of all cells begin with; the place follows."""
        tree = [("tree", _OWN)] if self.asked.get("tree") == _OWN else []
        return f"{reverse('placing')}?{urlencode([*tree, *self.folded(self.folding)])}"

    def label(self, placed: Placed, where: str) -> str:
        if where == DRAWER and placed.rule is None:
            return _("as at the side")
        return self.labels.get(placed.rack, "") or _("nothing")

    def rows(self, nodes: tuple[Node, ...]) -> list[RowView]:
        columns = {where: spots(nodes, self.places, where, self.here.listing) for where in PLACES}
        most = len(self.index.every_product) or 1
        found = []
        for row, node in enumerate(nodes):
            total = self.total(node)
            cells = tuple(self.cell(node, where, columns[where][row]) for where in PLACES)
            found.append(RowView(node, total, percent(total or 0, most), node.key == self.here.key, self.turn(node), cells))
        return found

    def total(self, node: Node) -> int | None:
        products = self.products_of(node.listing)
        return None if products is None else len(products)

    def products_of(self, listing: Listing) -> BitMap | None:
        """Return the products of a listing, None where they are not known beforehand."""
        if listing.kind == TAG:
            return tagged(self.index, listing.name)
        if listing.kind == CATEGORY:
            return self.index.listing(listing.path)
        return self.index.every_product if listing.kind == ALL else None

    def cell(self, node: Node, where: str, spot: Spot) -> CellView:
        placed = spot.placed
        return CellView(
            where=where,
            label=self.label(placed, where),
            facets=len(self.facets[placed.rack]) if placed.own and placed.rack else None,
            is_own=placed.own,
            is_alone=placed.own and placed.rule is not None and not placed.rule.below,
            chosen=(node.key, where) == (self.here.key, self.where),
            address=f"{self.cell_address}&at={quote_plus(node.key)}&where={where}",
            spot=spot,
        )

    def turn(self, node: Node) -> str:
        if not node.below or node.listing.kind == ALL:
            return ""
        return self.address(self.folding.turned(node.key, is_folded=node.is_folded))

    def effect(self) -> EffectView:
        after = Places.of(self.after)
        changed = self.tree.changed(self.places, after, self.document)
        plans = plan(self.document, self.here.listing, self.places), plan(self.after, self.here.listing, after)
        old, new = (drawn.facets[self.where] for drawn in plans)
        names = {facet["key"]: facet["label"] for facet in self.document["facets"]}
        return EffectView(
            len(changed), self.products(changed), len(old), len(new),
            tuple(names[key] for key in new if key not in old), tuple(names[key] for key in old if key not in new),
            tuple(names[key] for key in self.facets.get(plans[1].racks[self.where].rack, ()) if key not in new),
        )  # fmt: skip

    def products(self, listings: list[Listing]) -> int:
        """Return how many products some listings have together."""
        sets = [products for products in map(self.products_of, listings) if products is not None]
        return len(union(sets)) if sets else 0

    def plan(self) -> PlanView:
        drawn: Plan = plan(self.after, self.here.listing)
        names = {facet["key"]: facet["label"] for facet in self.document["facets"]}
        places = tuple((where, tuple(names[key] for key in drawn.facets[where])) for where in PLACES)
        return PlanView(self.here.name, self.total(self.here), places, drawn.racks[DRAWER].rule is None)

    def reason(self, where: str) -> ReasonView:
        placed = self.places.at(self.here.listing, where)
        before = Places.of(self.live).at(self.here.listing, where) if self.live else placed
        now = ""
        if before.rack != placed.rack:
            live = {rack["key"]: rack["label"] for rack in self.live["racks"]} if self.live else {}
            now = live.get(before.rack) or _("nothing")
        address = rack_address(self.document, placed.rack) if placed.rack else ""
        return ReasonView(where, self.label(placed, where), address, self.why(placed, where), now)

    def why(self, placed: Placed, where: str) -> str:
        rule = placed.rule
        if rule is None:
            return _("nothing is said of the drawer here or above") if where == DRAWER else _("no rack was ever put here")
        if placed.own:
            count = self.tree.below(self.here)
            if not rule.below:
                return _("its own, for this listing alone")
            words = ngettext("its own, with the %(count)s below it", "its own, with the %(count)s below it", count)
            return words % {"count": f"{count:,}"} if count else _("its own")
        return _("inherited from %(name)s, nothing nearer") % {"name": self.tree.name_of(rule.listing)}

    def twice(self, drawn: Plan) -> list[TwiceView]:
        names: dict[str, str] = {facet["key"]: facet["label"] for facet in self.document["facets"]}
        racks = {where: placed.rack for where, placed in drawn.racks.items()}
        return [TwiceView(names[key], key, place_words(where), self.labels[racks[where]], racks[where]) for key, where in drawn.twice]


def place_named(document: Document, at: str) -> Node:
    """Return the listing that a form names."""
    return tree_of(document, folding=Folding(), here=at).named(at)
