"""The page of one facet: its bench, what is found about it, why a product is where it is, and the products it leaves out."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.catalog.store.product_rows import products_of
from binsort.core.answers.matching import Facet
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.range_edits import VALUES, shape_of
from binsort.core.index.bins import usual_order
from binsort.core.index.bitmaps import numbers
from binsort.core.insight.coverage import not_asked, percent
from binsort.core.insight.findings import Bench, Found, findings
from binsort.core.insight.findings.finding import FOCUS, SHOW
from binsort.core.insight.number_line import NumberLine, number_line
from binsort.core.insight.value_list import RawValue, raw_values
from binsort.core.insight.vessels import unbinned_products
from binsort.core.values.sizes import are_sizes, by_size
from binsort.core.values.text import identity
from binsort.racks.addresses import Pair, query_string
from binsort.racks.attribute_use import BY_DICTIONARY, dictionary_order, not_narrowing
from binsort.racks.controls import control_of
from binsort.racks.models import Edition, Setup
from binsort.racks.number_words import bin_words
from binsort.racks.places_in_words import SPOT_WORDS
from binsort.racks.presentation import bin_swatch
from binsort.racks.setup import drawn_document, facet_document, own_looks, rack_of, said_on_rack
from binsort.racks.shown_facet import Shown
from binsort.workbench.product.page import Standing, standing_of
from binsort.workbench.rack.page import EVERY, RackLink, Sight, listing_query, listings, rack_address, rack_links
from binsort.workbench.sheet.cells import MEANT
from binsort.workbench.shelf.view import source_words

from .form import Facts
from .meanings import meanings
from .page_address import page_address
from .range_bench import range_bench
from .range_views import RangeBench
from .source_choice import source_choices, source_key
from .value_bench import ValueBench, value_bench
from .words_bench import WordsBench, words_bench

UNBINNED_SHOWN = 200
ASKED = ("scale", "suggest", "bins", "at", "find", "rows", "why")  # of a bench's address, beside the listing
_FOUND_SHOWN = 5
_CHOICES_SHOWN = 40  # of a facet as shoppers see it: nobody looks through more beside a bench


@dataclass(frozen=True, slots=True)
class WhyView:
    """Where a product stands in the facet, or what was looked for and not found."""

    text: str
    id: str
    name: str
    standing: Standing | None
    outside: bool = False  # it is not on the listing in view


@dataclass(frozen=True, slots=True)
class FacetView:
    """All that the page of a facet shows."""

    key: str
    label: str
    kind: str  # of its source
    source: str
    edition_id: int
    changed: bool
    preview: Shown | None
    listing_path: str
    listings: tuple[tuple[str, str], ...]
    total: int
    binned_share: int
    unbinned: int
    unbinned_address: str
    meant_address: str  # of those alone that should have a value
    rack: str  # the key of the one it is looked at on
    rack_address: str
    place: int
    places: int
    on: tuple[RackLink, ...]  # the racks that have it
    off: tuple[RackLink, ...]  # those that do not
    heading: str  # above it on the rack
    apart: str  # where it stands by itself on the page, empty where its rack does
    has_own_look: bool  # the rack draws it its own way
    ranges: RangeBench | None
    values: ValueBench | None
    words: WordsBench | None
    shapes: tuple[tuple[str, str, bool], ...]  # ways to make bins, where there is more than one
    findings: tuple[Found, ...]
    why: WhyView | None
    bins: tuple[tuple[str, str, int], ...]  # label, in words, products; to be put into order by hand
    by_hand: bool
    asked: tuple[Pair, ...]
    called: str = ""  # what the owner calls it
    unserved: str = ""  # the attribute that does not serve narrowing, so that no shopper sees the facet
    means: tuple[tuple[str, str], ...] = ()  # by setting: what its choices mean on this very facet

    @property
    def spots(self) -> list[tuple[str, str]]:
        """Where on the page it can stand by itself."""
        return [(where, str(words)) for where, words in SPOT_WORDS.items()]

    @property
    def listing_query(self) -> str:
        """What keeps the listing in an address of another page."""
        return listing_query(self.listing_path)

    @property
    def on_rack_query(self) -> str:
        """What keeps the listing and the rack in an address of how shoppers see it."""
        kept = [("category", self.listing_path), ("rack", self.rack if len(self.on) > 1 else "")]
        return query_string([pair for pair in kept if pair[1]])

    @property
    def can_read(self) -> bool:
        """Whether numbers are read out of texts."""
        return self.kind == "number_from"

    @property
    def address(self) -> str:
        """The address of this page as it stands."""
        listing = [("category", self.listing_path)] if self.listing_path else []
        return reverse("facet", args=[self.key]) + query_string([*listing, *self.asked])

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing on the listing that could be put into bins."""
        return self.words is None and self.ranges is None and (self.values is None or not self.values.values)


class BenchSight:
    """A facet of the draft on a listing, as its benches draw it."""

    def __init__(self, setup: Setup, key: str, pairs: Sequence[Pair]) -> None:
        self.rack = rack_of(setup.draft.document, key, dict(pairs).get("rack", ""))
        self.sight = Sight(setup, [pair for pair in pairs if pair[0] == "category"], rack=self.rack)
        self.asked = {name: value for name, value in pairs if name in ASKED and value}
        self.document = drawn_document(setup.draft.document, key, self.rack)
        self.facet: Facet = self.sight.state.rack.by_key[key]
        self.words, self.look = self.sight.words(self.facet), self.sight.look(key)

    @property
    def line(self) -> NumberLine | None:
        """The numbers of the listing, None where there is none."""
        if not kind_of(self.facet.spec.source.kind).has_ranges or not self.facet.column.numbers:
            return None
        line = number_line(self.sight.held.index, self.facet, self.sight.state.products)
        return line if line.numbers else None

    @property
    def is_ranged(self) -> bool:
        """Whether the bench is that of ranges."""
        return shape_of(self.document) != VALUES

    def ranges(self) -> RangeBench | None:
        """Return the range bench, None where the facet has bins of values, or the listing no number."""
        line = self.line
        if line is None or not self.is_ranged:
            return None
        facts = self.sight.held.index.facts
        return range_bench(
            self.facet,
            self.document,
            line,
            self.words,
            asked=self.asked,
            address=page_address(reverse("facet", args=[self.document["key"]]), {**dict(self.sight.fixed), **self.asked}),
            total=len(self.sight.state.products),
            names=lambda slot: (facts.ids[slot], facts.names[slot]),
        )

    def values(self) -> ValueBench | None:
        """Return the value bench, None where the facet has ranges."""
        if self.is_ranged or kind_of(self.facet.spec.source.kind).is_in_groups:
            return None
        return value_bench(self.sight.state, self.facet, self.document, self.words, self.look, self.asked, self.raw)

    @cached_property
    def raw(self) -> list[RawValue]:
        """The raw values of the source."""
        return raw_values(self.sight.state, self.facet, self.document)

    def findings(self) -> list[Found]:
        """Return what is found about the facet, the weightiest first."""
        refused = {slot for slot, _ in self.sight.held.index.refused(self.facet.spec.source)}
        here = self.sight.state.products
        bench = Bench(
            self.sight.state,
            self.facet,
            self.document,
            number=self.words.number,
            name=lambda one: bin_words(one, self.words),
            is_drawn_by_colour=control_of(self.look).has_colours,
            swatch=lambda one: bin_swatch(self.look, one).colours,
            refused=sum(slot in here for slot in refused),
            raw=lambda: self.raw,
        )
        return findings(bench)

    def why(self) -> WhyView | None:
        """Return where the product that was asked for stands."""
        text = self.asked.get("why", "").strip()
        index = self.sight.held.index
        if not text:
            return None
        wanted = identity(text)
        slot = product_like(index.facts, index.every_product, text, wanted)
        if slot is None:
            return WhyView(text, "", "", None)
        articles = range(int(index.starts[slot]), int(index.starts[slot + 1]))
        standing = standing_of(self.sight, self.facet, slot, articles)
        return WhyView(text, index.facts.ids[slot], index.facts.names[slot], standing, slot not in self.sight.state.products)


def product_like(facts: Any, products: Any, text: str, wanted: str) -> int | None:
    """Return the slot of the visible product of this identity, else of the first whose name or identity holds the text."""
    first = None
    for slot in products:
        if facts.ids[slot] == text:
            return int(slot)
        if first is None and wanted in identity(f"{facts.names[slot]} {facts.ids[slot]}"):
            first = int(slot)
    return first


def facet_page(setup: Setup, key: str, pairs: Sequence[Pair]) -> FacetView:
    """Build the page of a facet on a listing."""
    bench = BenchSight(setup, key, pairs)
    sight, facet = bench.sight, bench.facet
    keys = [one.spec.key for one in sight.state.rack.facets]
    ranges, values = bench.ranges(), bench.values()
    here = sight.state.rack.on_listing(facet, sight.state.listing)
    by_hand = bool(facet.spec.bins.order) and facet.spec.order in ("", "listed") and not sight.look(key).get(BY_DICTIONARY)
    unbinned_address, _has_none = sight.unbinned(facet, here.unbinned)
    meant_address, _has_none = sight.unbinned(facet, here.unbinned, only_meant=True)
    document, total = sight.edition.document, len(sight.state.products)
    links = rack_links(document, bench.rack, listing_query(sight.listing_path))
    having = {rack["key"] for rack in document["racks"] if key in rack["facets"]}
    return FacetView(
        key=key,
        label=facet.spec.label,
        kind=facet.spec.source.kind,
        source=source_words(facet, bench.words),
        edition_id=sight.edition.pk,
        changed=key in sight.changed,
        preview=sight.preview(facet, most=_CHOICES_SHOWN),
        listing_path=sight.listing_path,
        listings=listings(),
        total=total,
        binned_share=percent(total - here.unbinned, total),
        unbinned=here.unbinned,
        unbinned_address=unbinned_address,
        meant_address=meant_address,
        rack=bench.rack,
        rack_address=rack_address(document, bench.rack) + listing_query(sight.listing_path),
        place=keys.index(key) + 1,
        on=tuple(link for link in links if link.key in having),
        off=tuple(link for link in links if link.key not in having),
        heading=said_on_rack(document, bench.rack, "headings").get(key, ""),
        apart=said_on_rack(document, bench.rack, "apart").get(key, ""),
        has_own_look=key in own_looks(document, bench.rack),
        places=len(keys),
        ranges=ranges,
        values=values,
        words=words_bench(sight.state, facet, bench.document) if kind_of(facet.spec.source.kind).is_in_groups else None,
        shapes=ranges.shapes if ranges else _shapes(bench),
        findings=tuple(bench.findings()[:_FOUND_SHOWN]),
        why=bench.why(),
        bins=tuple((bin.label, bin_words(bin, bench.words), n) for bin, n in zip(here.bins, here.counts, strict=True) if by_hand),
        by_hand=by_hand,
        asked=tuple(bench.asked.items()),
        called=bench.look.get("called", ""),
        unserved=facet.spec.source.attribute if identity(facet.spec.source.attribute) in not_narrowing() else "",
        means=tuple(meanings(bench)),
    )


def _shapes(bench: BenchSight) -> tuple[tuple[str, str, bool], ...]:
    """Return the ways to make bins for a facet of values, none where its source has no numbers."""
    if bench.line is None:
        return ()
    drawn = range_bench(
        bench.facet, {**bench.document, "bins": {}}, bench.line, bench.words,
        asked={}, address=page_address("", {}), total=len(bench.sight.state.products), names=lambda slot: ("", ""),
    )  # fmt: skip
    return drawn.shapes


def mended(setup: Setup, key: str, pairs: Sequence[Pair], asked: Mapping[str, str]) -> tuple[dict[str, Any], str] | None:
    """Return the facet's document as a mend makes it, and what that is in words; None where there is nothing of the kind any more."""
    bench = BenchSight(setup, key, pairs)
    for found in bench.findings():
        if (found.id, found.subject) == (asked.get("finding"), asked.get("subject", "")):
            for mend in found.mends:
                if mend.key == asked.get("mend") and mend.change is not None:
                    return mend.change(bench.document), mend.words[:1].lower() + mend.words[1:]
    return None


def leads_to(found_mend: Any, page: FacetView) -> str:
    """Return the address that a mend leads to, empty for one that changes something."""
    if found_mend.leads == SHOW:
        return page.meant_address if found_mend.key == "show-meant" else page.unbinned_address
    return f"#bin-{found_mend.target}" if found_mend.leads == FOCUS else ""


_EDITIONS = 20  # that are looked back at


def _was_deep(edition: Edition | None, key: str) -> bool:
    """Tell whether a facet of categories showed all below when it last showed what is below one; it did where nobody remembers."""
    for _step in range(_EDITIONS):
        facet = next((one for one in edition.document["facets"] if one["key"] == key), None) if edition else None
        if edition is None or facet is None:
            return True
        if facet.get("scope") == "under":
            return bool(facet.get("deep", False))
        edition = edition.base
    return True


def facts_of(setup: Setup, key: str, listing: str = "") -> Facts:
    """Return what decides what can be chosen for a facet, looked at on a listing."""
    state = Sight(setup, [], rack=EVERY).state
    facet = state.rack.by_key.get(key)
    if facet is None:
        return Facts()
    document = facet_document(setup.draft.document, key)
    labels = tuple(bin.label for bin in state.rack.on_listing(facet, None).bins)
    return Facts(
        usual_order=usual_order(facet.spec, facet.bins),
        labels=labels,
        in_dictionary=tuple(dictionary_order(facet.spec.source.attribute)) if facet.spec.source.kind == "attribute" else (),
        has_numbers=bool(facet.column.numbers),
        by_size=tuple(by_size(labels)) if are_sizes(labels) else (),
        sources=source_choices(state.rack.index, document["source"]),
        source=source_key(document["source"]),
        categories=listings()[1:] if facet.spec.source.kind == "category" else (),
        listing=listing,
        was_deep=facet.spec.source.kind != "category" or _was_deep(setup.draft, key),
    )


@dataclass(frozen=True, slots=True)
class UnbinnedView:
    """Products that are in no bin of a facet."""

    label: str
    listing_name: str
    total: int
    products: tuple[tuple[str, str, str], ...]  # identity, name, brand


def unbinned_page(setup: Setup, key: str, pairs: Sequence[Pair]) -> UnbinnedView:
    """Build the list of the products of a listing that a facet leaves out."""
    sight = Sight(setup, [pair for pair in pairs if pair[0] == "category"], rack=EVERY)
    facet = sight.state.rack.by_key[key]
    found = unbinned_products(sight.state, facet)
    if (MEANT, "1") in pairs:
        found = found - not_asked(sight.state.rack.index, facet.spec.source)
    slots = numbers(found)
    ids = [sight.state.rack.index.ids[number] for number in slots[:UNBINNED_SHOWN]]
    products = products_of(ids)
    return UnbinnedView(
        label=facet.spec.label,
        listing_name=sight.listing_path.rpartition(" > ")[2] or _("All products"),
        total=len(slots),
        products=tuple((product.id, product.name, product.brand) for product in (products[id] for id in ids if id in products)),
    )
