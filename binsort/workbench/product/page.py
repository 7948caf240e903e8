"""One product: everything of it to be edited, and which bins it is in and why."""

from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.dictionary.entry import Entry, entries, shown
from binsort.catalog.models import Product as Row
from binsort.changes.product_form import ProductForm, cell_text, variant_heads, variants_mark
from binsort.core.answers.matching import Facet
from binsort.core.facets.spec import Source
from binsort.core.insight.coverage import having
from binsort.core.insight.explanation import Place, explained
from binsort.core.products.edits import OF_OFFER, held
from binsort.core.products.fields import MONEY, NUMBER, OF_OFFERS
from binsort.core.products.product import Product, Variant
from binsort.core.values.numbers import plain
from binsort.core.values.text import identity
from binsort.racks.models import Setup
from binsort.racks.number_words import Words, bin_words
from binsort.tally.current import Current, current
from binsort.workbench.rack.page import EVERY, Sight

_USUAL = 0.25  # of the products of its category have an attribute: it is shown though the product lacks it
_SPARE = "new"  # the row for one more variant


@dataclass(frozen=True, slots=True)
class FieldView:
    """A field as the form shows it."""

    entry: Entry
    text: str
    seen: str
    error: str = ""
    theirs: str | None = None  # what somebody else made of it meanwhile
    varies: bool = False

    @property
    def is_refused(self) -> bool:
        """Whether what was typed is not kept."""
        return bool(self.error) or self.theirs is not None

    @property
    def is_long(self) -> bool:
        """Whether it needs several lines."""
        return self.entry.field.kind == "description"

    @property
    def is_wide(self) -> bool:
        """Whether it takes a row of its own."""
        return self.is_long or self.entry.field.kind == "name" or self.entry.kind == "category"

    @property
    def is_number(self) -> bool:
        """Whether its value is a number."""
        return self.entry.kind in (NUMBER, MONEY)

    @property
    def is_suggested(self) -> bool:
        """Whether known values are suggested while somebody types."""
        return self.entry.kind in ("choice", "category", "state", "number")

    @property
    def answers(self) -> tuple[str, ...]:
        """What a field of yes or no can say, what it says by now among it."""
        usual = ("", "yes", "no") if self.entry.field.kind == "attribute" else ("yes", "no")
        return usual if self.text in usual or not self.text else (*usual, self.text)


@dataclass(frozen=True, slots=True)
class VariantView:
    """A variant as the form shows it."""

    name: str  # of its inputs
    sku: str
    cells: tuple[FieldView, ...]
    gone: bool = False

    @property
    def is_spare(self) -> bool:
        """Whether it is the row for one more."""
        return self.name == _SPARE


@dataclass(frozen=True, slots=True)
class Standing:
    """Where a product stands in a facet: its bins with the reason, or why it is in none."""

    key: str
    label: str
    bins: tuple[tuple[str, str], ...]
    reason: str


@dataclass(frozen=True, slots=True)
class ProductPage:
    """All that the page shows."""

    identity: str
    name: str
    image: str
    visible: bool
    basics: tuple[FieldView, ...]
    offer: tuple[FieldView, ...]
    attributes: tuple[FieldView, ...]
    more: tuple[FieldView, ...]
    variant_heads: tuple[Entry, ...]
    variants: tuple[VariantView, ...]
    variants_mark: str
    standings: tuple[Standing, ...]
    reasons: str  # address where its way through picks is shown
    typed: ProductForm


def product_page(setup: Setup, product: Product, form: ProductForm | None = None) -> ProductPage:
    """Build the page, with what was typed where it could not be kept."""
    held_now = current()
    known = entries(definitions())
    heads = variant_heads(product, known) if product.variants else []
    in_table = {entry.key for entry in heads}
    attributes = [entry for key, entry in known.items() if entry.field.kind == "attribute" and key not in in_table]
    usual = _usual(held_now, product)
    first = [entry for entry in attributes if held(product, entry.field) or entry.key in usual or (form and form.texts.get(entry.key))]

    def view(entry: Entry) -> FieldView:
        return _field_view(product, entry, form)

    return ProductPage(
        identity=product.id,
        name=product.name,
        image=product.image or next((article.image for article in product.variants if article.image), ""),
        visible=product.visible,
        basics=tuple(view(entry) for entry in known.values() if entry.field.kind not in OF_OFFER | {"attribute"}),
        offer=() if product.variants else tuple(view(known[key]) for key in OF_OFFERS),
        attributes=tuple(map(view, first)),
        more=tuple(view(entry) for entry in attributes if entry not in first),
        variant_heads=tuple(heads),
        variants=tuple(_variant_views(product, heads, form)),
        variants_mark=variants_mark(product),
        standings=tuple(standings(setup, product.id)),
        reasons=f"{reverse('why-of')}?{urlencode({'product': product.id})}",
        typed=form or ProductForm(),
    )


def _field_view(product: Product, entry: Entry, form: ProductForm | None) -> FieldView:
    now = shown(entry, held(product, entry.field))
    text = form.texts.get(entry.key, now) if form else now
    error = form.errors.get(entry.key, "") if form else ""
    return FieldView(entry, text, now, error, form.theirs.get(entry.key) if form else None)


def _variant_views(product: Product, heads: list[Entry], form: ProductForm | None) -> list[VariantView]:
    rows: list[tuple[str, Variant]] = [(str(at), article) for at, article in enumerate(product.variants)]
    views = []
    for name, article in [*rows, (_SPARE, Variant())] if rows else []:
        typed = form.variants.get(name, {}) if form else {}
        texts = {entry.key: cell_text(article, entry) for entry in heads}
        cells = tuple(
            FieldView(
                entry, typed.get(entry.key, texts[entry.key]), texts[entry.key], form.errors.get(f"{name}:{entry.key}", "") if form else ""
            )
            for entry in heads
        )
        views.append(VariantView(name, typed.get("sku", article.sku), cells, bool(typed.get("gone"))))
    return views


def _usual(held_now: Current, product: Product) -> set[str]:
    """Return the attributes that products of the same category usually have."""
    index = held_now.index
    path = max(product.categories, key=len, default=())
    listing = index.listing(tuple(map(identity, path))) if path else index.every_product
    return {
        f"attribute:{given.identity}"
        for given in index.attributes()
        if len(listing) and len(having(index, Source("attribute", given.name)) & listing) >= _USUAL * len(listing)
    }


def standings(setup: Setup, name: str) -> list[Standing]:
    """Return where a product stands in every facet of the draft's rack, with the reason."""
    sight = Sight(setup, [], rack=EVERY)
    index = sight.state.rack.index
    key = Row.objects.filter(identity=name).values_list("pk", flat=True).first()
    slot = index.facts.slots([key])[0] if key is not None else None
    if slot is None or slot not in index.every_product:
        return []
    articles = range(int(index.starts[slot]), int(index.starts[slot + 1]))
    return [standing_of(sight, facet, slot, articles) for facet in sight.state.rack.facets]


def standing_of(sight: Sight, facet: Facet, slot: int, articles: range) -> Standing:
    """Return where a product, by its slot and the numbers of its articles, stands in a facet, with the reason."""
    words, what = sight.words(facet), explained(facet, slot, articles)
    bins = tuple(_bin_and_reason(place, what.places, words) for place in _deepest(what.places))
    reason = ""
    if not bins and facet.spec.free and what.values:
        reason = _("its value %(values)s is found by any range around it") % {"values": ", ".join(what.values)}
    elif not bins:
        reason = _("it has no %(label)s") % {"label": facet.spec.label.lower()}
        if what.values:
            reason = _("its value %(values)s is in no bin") % {"values": ", ".join(what.values)}
    return Standing(facet.spec.key, facet.spec.label, bins, reason)


def _deepest(places: tuple[Place, ...]) -> list[Place]:
    """Return the bins, of categories only those that have no other below them."""
    nodes = [place.bin.nodes for place in places]
    return [place for place in places if not any(other[: len(place.bin.nodes)] == place.bin.nodes != other for other in nodes if other)]


def _bin_and_reason(place: Place, places: tuple[Place, ...], words: Words) -> tuple[str, str]:
    """Return a bin in words and what puts the product into it; nothing where the bin says it itself."""
    label = bin_words(place.bin, words)
    if place.bin.nodes:
        above = [other.bin.label for other in places if place.bin.nodes[: len(other.bin.nodes)] == other.bin.nodes != place.bin.nodes]
        return label, _("and with it in %(above)s") % {"above": ", ".join(above)} if above else ""
    if words.says_itself or place.values in ((), (label,), (place.bin.label,)):
        return label, ""
    values = [words.number(number) if (number := plain(value)) is not None else value for value in place.values]
    return label, _("because of %(values)s") % {"values": ", ".join(values)} if values != [label] else ""
