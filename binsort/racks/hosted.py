"""Listings as other sites show them: what such a listing always narrows by, and the rack it stands with."""

from collections.abc import Collection, Container, Sequence
from dataclasses import dataclass, replace

from binsort.core.facets.spec import FacetSpec

from .addresses import Pair
from .former_keys import keys_now
from .models import Edition, Embed


class NotThere(LookupError):
    """A listing that another site asks for cannot be shown; says why."""


@dataclass(frozen=True, slots=True)
class Hosted:
    """A listing on another site."""

    name: str
    label: str
    nodes: tuple[str, ...] | None  # identities of its category
    standing: tuple[Pair, ...]  # picks that it always has, by the keys of today
    racks: tuple[str, ...] | None  # of the set-up, none where it stands without; None where what Listings says holds

    @property
    def keys(self) -> frozenset[str]:
        """The facets it always narrows by; shoppers do not see them."""
        return frozenset(name.partition(".")[0] for name, _value in self.standing)

    @classmethod
    def of(cls, embed: Embed, edition: Edition | None, racks: Sequence[str] = (Embed.AS_PLACED,)) -> "Hosted":
        """Return a listing of another site under a set-up.

        Args:
            embed: the listing.
            edition: the set-up.
            racks: those that the host names; where it names none, what Listings says holds.

        Raises:
            NotThere: what it always narrows by, or a rack, is not in the set-up.
        """
        known = {spec.key for spec in edition.facet_file.facets} if edition else set()
        standing = _today(embed.pairs, known)
        lost = [name for name, _value in standing if name.partition(".")[0] not in known]
        if lost:
            raise NotThere(f"It always narrows by “{lost[0]}”, which is no facet of the shop now.")
        there = {one["key"] for one in edition.document["racks"]} if edition else set()
        gone = [rack for rack in racks if rack not in there | {Embed.AS_PLACED, Embed.NO_RACK}]
        if gone:
            raise NotThere(f"There is no rack “{gone[0][:60]}” in the shop now.")
        named = tuple(dict.fromkeys(rack for rack in racks if rack != Embed.NO_RACK))
        identity = embed.category.path_identity if embed.category else embed.path_identity
        nodes = tuple(identity.split(" > ")) if identity else None
        return cls(embed.name, embed.label, nodes, standing, None if Embed.AS_PLACED in named else named)

    def specs(self, edition: Edition | None) -> tuple[FacetSpec, ...]:
        """Return the facets that it always narrows by, whatever else is picked."""
        facets = edition.facet_file.facets if edition else ()
        return tuple(replace(spec, show_when=None) for spec in facets if spec.key in self.keys)

    def check(self, ignored: Collection[Pair]) -> None:
        """Raise NotThere where something that it always narrows by was not understood: never more products than were meant."""
        lost = [value for name, value in self.standing if (name, value) in ignored]
        if lost:
            raise NotThere(f"It always narrows to “{lost[0]}”, which no product of the shop has now.")


def _today(pairs: tuple[Pair, ...], known: Container[str]) -> tuple[Pair, ...]:
    """Return picks with the facets that have other keys now by these."""
    split = [(*name.partition("."), value) for name, value in pairs]
    unknown = {key for key, _dot, _end, _value in split if key not in known}
    keys = keys_now(unknown, known) if unknown else {}
    return tuple((f"{keys.get(key, key)}{dot}{end}", value) for key, dot, end, value in split)
