"""How a rack behaves: what a pick does, and what stands around the products. None of it changes what a count means."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any, Self

from binsort.core.values.text import identity

from .query import ATTRIBUTE_SORT, USUAL_SORTS

HERE, ATTRIBUTE = "here", "attribute"
FACTS = ("brand", "rating", "stock", "why", "basket")  # of a product's card, besides its name and price
WAYS = ("picks", "listing")  # out of an empty result: each pick with what it would give, the whole listing
MOST_A_PAGE, ALL_AT_ONCE = 100, 1000
CHOICES: dict[str, tuple[str, ...]] = {  # of each setting that is chosen; the first where nothing is said
    "after": ("stay", "scroll"),
    "picks": ("above", "rack", "both"),
    "applies": ("once", "button"),
    "applies_on_phones": ("once", "button"),
    "count": ("of", "total", "none"),
    "rest": ("more", "pages", "all"),
    "sorting": ("shown", "hidden"),
    "carried": ("yes", "no"),
    "wide": ("open", "left", "right", "sheet"),
    "side": ("left", "right"),
    "width": ("usual", "narrow", "wide"),
    "above": ("bar", "two", "three", "four"),
    "search": ("rack", "above", "none"),
    "typing": ("enter", "typing"),
    "picture": ("usual", "large", "small", "none"),
    "opens": ("here", "quick", "tab"),
}


@dataclass(frozen=True, slots=True)
class Sort:
    """A choice of order."""

    by: str  # one of SORTS of :mod:`.query`, or ``attribute``
    attribute: str = ""
    down: bool = False  # of an attribute: greatest first
    label: str = ""  # empty for the usual words

    @property
    def key(self) -> str:
        """What stands for it in an address."""
        return f"{'-' if self.down else ''}{ATTRIBUTE_SORT}{identity(self.attribute)}" if self.by == ATTRIBUTE else self.by


@dataclass(frozen=True, slots=True, kw_only=True)
class Behaviour:
    """How a rack behaves."""

    after: str = "stay"  # where the page stands after a pick
    results: str = HERE  # or the path of the category whose listing shows them, empty for all products
    picks: str = "above"  # where what is picked stands
    clear: str = ""  # words of the way out of all picks
    applies: str = "once"
    applies_on_phones: str = "once"
    count: str = "of"
    sorting: str = "shown"  # the choices of order: shown, or hidden; then the first of them holds
    sorts: tuple[Sort, ...] = tuple(map(Sort, USUAL_SORTS))  # shoppers start with the first
    per: int = 24
    rest: str = "more"
    nothing: str = ""  # the title of an empty result
    then: str = ""  # what stands before the ways out
    ways: tuple[str, ...] = WAYS
    title: str = ""  # over the facets of the side
    carried: str = "yes"  # where results show elsewhere: whether the page's own category goes along
    wide: str = "open"  # the facets of the side on wide screens: they stand there, or open from a button
    opener: str = ""  # words of that button, on phones too
    side: str = "left"
    width: str = "usual"
    above: str = "bar"  # the facets above: a bar of which each opens, or open blocks in columns
    search: str = "rack"  # where the search of the listing stands
    typing: str = "enter"  # whether results follow while a search is typed
    apply: str = ""  # words of the button that applies picks
    more: str = ""  # words of the way to more products
    facts: tuple[str, ...] = FACTS  # that stand on a product's card
    picture: str = "usual"  # of a card
    opens: str = "here"  # where a product opens

    @classmethod
    def of(cls, rack: Mapping[str, Any]) -> Self:
        """Read a rack of a checked facet file."""
        said = dict(rack.get("place", {}).get("behaviour", {}))
        if "sorts" in said:
            said["sorts"] = tuple(Sort(**sort) for sort in said["sorts"])
        for name in ("ways", "facts"):
            if name in said:
                said[name] = tuple(said[name])
        return cls(**said)

    @property
    def per_page(self) -> int:
        """Products on one page."""
        return ALL_AT_ONCE if self.rest == "all" else self.per

    def sort_named(self, key: str) -> Sort | None:
        """Return a choice of order by what stands for it in an address."""
        return next((sort for sort in self.sorts if sort.key == key), None)


def with_behaviour(rack: Mapping[str, Any], behaviour: Behaviour) -> dict[str, Any]:
    """Return a rack's document that behaves so; what is as usual is not said."""
    usual = Behaviour()
    said = {
        field.name: _said(getattr(behaviour, field.name))
        for field in fields(Behaviour)
        if getattr(behaviour, field.name) != getattr(usual, field.name)
    }
    place = {name: value for name, value in rack.get("place", {}).items() if name != "behaviour"}
    place = {**place, **({"behaviour": said} if said else {})}
    return {**{name: value for name, value in rack.items() if name != "place"}, **({"place": place} if place else {})}


def _said(value: Any) -> Any:
    if not isinstance(value, tuple):
        return value
    return [_said_sort(one) if isinstance(one, Sort) else one for one in value]


def _said_sort(sort: Sort) -> dict[str, Any]:
    parts = {"by": sort.by, "attribute": sort.attribute, "down": sort.down, "label": sort.label}
    return {name: value for name, value in parts.items() if value}
