"""Suggestions while somebody types: bins to narrow to and products, of this listing and under these picks only."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice

from django.utils.html import format_html
from django.utils.safestring import SafeString

from binsort.core.values.text import identity, unaccented
from binsort.racks.addresses import toggled
from binsort.racks.number_words import bin_words

from .asked import Asked
from .cards import Card, Cards

_BINS, _PRODUCTS = 5, 4
_LEAST = 2  # letters from which on something is suggested


@dataclass(frozen=True, slots=True)
class SuggestedBin:
    """A bin whose name has a word that begins with what was typed."""

    label: str
    begins: int  # where in the label what was typed begins
    length: int
    facet: str
    total: int
    pick: str  # as an edit of the form
    address: str

    @property
    def marked(self) -> SafeString:
        """The label with what was typed in bold."""
        ends = self.begins + self.length
        return format_html("{}<b>{}</b>{}", self.label[: self.begins], self.label[self.begins : ends], self.label[ends:])


@dataclass(frozen=True, slots=True)
class Suggestions:
    """What stands below the search."""

    text: str
    total: int  # products of the listing with it
    bins: tuple[SuggestedBin, ...]
    products: tuple[Card, ...]
    forgiven: tuple[str, ...]
    address: str
    elsewhere: int  # products with it in the whole shop, where this listing has none
    elsewhere_address: str


def suggestions(asked: Asked) -> Suggestions | None:
    """Return suggestions for what is searched for, None for too little of it."""
    if asked.found is None or len(asked.found.text) < _LEAST:
        return None
    slots = asked.part(0, _PRODUCTS)
    return Suggestions(
        text=asked.found.text,
        total=len(asked.state.result),
        bins=tuple(islice(_bins(asked), _BINS)),
        products=Cards(asked).of(slots) if slots else (),
        forgiven=asked.found.forgiven,
        address=asked.address(asked.picks),
        elsewhere=asked.found_elsewhere,
        elsewhere_address=asked.elsewhere_address,
    )


def _bins(asked: Asked) -> Iterator[SuggestedBin]:
    """Yield bins by what they give without the search, most first, each with the address that narrows to it in its place."""
    assert asked.found is not None
    wanted, among = unaccented(identity(asked.found.text)), asked.without_search()
    met = []
    for facet in among.state.rack.facets:
        if facet.spec.ranges or facet.spec.key not in among.state.shown:
            continue
        for answer in among.state.facet(facet).bins:
            label = bin_words(facet.by_key[answer.key], among.words[facet.spec.key])
            at = _beginning(unaccented(identity(label)), wanted)
            if at is not None and answer.count and not answer.picked:
                address, pick = among.address(toggled(among.state, facet.spec.key, answer.key)), f"{facet.spec.key}={answer.key}"
                met.append(SuggestedBin(label, at, len(wanted), facet.spec.label, answer.count, pick, address))
    yield from sorted(met, key=lambda suggested: -suggested.total)


def _beginning(label: str, wanted: str) -> int | None:
    """Return where a word of a label begins so, None where none does."""
    if label.startswith(wanted):
        return 0
    at = label.find(f" {wanted}")
    return at + 1 if at >= 0 else None
