"""One product: everything of it to be edited, and which bins it is in and why."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from hashlib import blake2b
from typing import Any

from binsort.catalog.dictionary import definitions
from binsort.catalog.entering import BadValue, Entry, entries, shown, typed
from binsort.catalog.models import Product as Row
from binsort.catalog.models import Revision
from binsort.catalog.revising import locked, revise
from binsort.core.coverage import having
from binsort.core.documents import line_of
from binsort.core.edits import OF_OFFER, SET, Edit, Varies, edited, held
from binsort.core.explaining import Place, explained
from binsort.core.numbers import plain
from binsort.core.products import Product, Variant
from binsort.core.spec import Source
from binsort.core.text import identity, normalise
from binsort.racks.models import Setup
from binsort.racks.presenting import Words, bin_words, words_of
from binsort.tally.current import Current, current

from .rackview import Sight

_USUAL = 0.25  # of the products of its category have an attribute: it is shown though the product lacks it
_VARIANT_FIELDS = ("price", "list_price", "sales", "level", "availability")
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


@dataclass(frozen=True, slots=True)
class VariantView:
    """A variant as the form shows it."""

    name: str  # of its inputs
    sku: str
    cells: tuple[FieldView, ...]
    gone: bool = False


@dataclass(frozen=True, slots=True)
class Standing:
    """Where a product stands in a facet: its bins with the reason, or why it is in none."""

    key: str
    label: str
    bins: tuple[tuple[str, str], ...]
    reason: str


@dataclass(slots=True)
class Typed:
    """What a form said."""

    texts: dict[str, str] = field(default_factory=dict)  # by key of the field
    seen: dict[str, str] = field(default_factory=dict)
    variants: dict[str, dict[str, str]] = field(default_factory=dict)  # by name of the row, then by key
    variants_seen: str = ""
    errors: dict[str, str] = field(default_factory=dict)
    theirs: dict[str, str] = field(default_factory=dict)
    conflict_of_variants: bool = False


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
    typed: Typed


def read_form(post: Mapping[str, str]) -> Typed:
    """Read what a form says: ``f:KEY``, ``s:KEY`` (as it was shown), ``v:ROW:KEY``."""
    found = Typed(variants_seen=post.get("variants_seen", ""))
    for name, text in post.items():
        kind, _, key = name.partition(":")
        if kind == "f":
            found.texts[key] = text
        elif kind == "s":
            found.seen[key] = text
        elif kind == "v":
            row, _, key = key.partition(":")
            found.variants.setdefault(row, {})[key] = text
    return found


def variants_mark(product: Product) -> str:
    """Return what changes whenever a variant does."""
    return blake2b(line_of(replace(product, name="-", properties=())), digest_size=8).hexdigest() if product.variants else ""


def save(name: str, form: Typed, *, actor: Any) -> Revision | None:
    """Keep what a form says; fields that nobody touched stay as they are by now. Problems go into the form.

    Raises:
        LookupError: the product is gone.
        Refused: a file is being brought in.
    """
    known = entries(definitions())
    product = locked([name])[name]
    after = product
    for key, text in form.texts.items():
        entry = known.get(key)
        if entry is None or text.strip() == form.seen.get(key, "").strip():
            continue
        now = shown(entry, held(product, entry.field))
        if now != form.seen.get(key, "") and now != text.strip():
            form.theirs[key] = now
            continue
        try:
            after = edited(after, Edit(entry.field, SET, typed(entry, text)))
        except BadValue as error:
            form.errors[key] = str(error)
        except Varies:
            form.errors[key] = "Its variants differ here; change them below."
    after = _with_variants(product, after, form, known)
    if form.errors or form.theirs or form.conflict_of_variants:
        return None
    return revise(f"Changed {after.name}", {name: after}, actor=actor)


def _with_variants(product: Product, after: Product, form: Typed, known: Mapping[str, Entry]) -> Product:
    if not form.variants:
        return after
    variants = []
    for row, cells in form.variants.items():
        at = int(row) if row.isdigit() else -1
        old = product.variants[at] if 0 <= at < len(product.variants) else None
        if cells.get("gone") or (old is None and not any(text.strip() for text in cells.values())):
            continue
        variants.append(_variant(old, row, cells, form, known))
    as_shown = tuple(_variant(old, "", _texts_of(product, old, known), Typed(), known) for old in product.variants)
    if tuple(variants) == as_shown:
        return after
    if variants_mark(product) != form.variants_seen:
        form.conflict_of_variants = True
        return after
    if not variants and product.variants:
        return replace(after, variants=(), offer=product.variants[0].offer)
    return replace(after, variants=tuple(variants))


def _texts_of(product: Product, article: Variant, known: Mapping[str, Entry]) -> dict[str, str]:
    return {"sku": article.sku, **{entry.key: _cell_text(article, entry) for entry in _heads(product, known)}}


def _variant(old: Variant | None, row: str, cells: Mapping[str, str], form: Typed, known: Mapping[str, Entry]) -> Variant:
    """Return a variant with what was typed into its row."""
    made = Product("-", "-", offer=old.offer if old else Product("-", "-").offer, properties=old.properties if old else ())
    for key, text in cells.items():
        entry = known.get(key)
        if entry is None or (old is not None and text.strip() == _cell_text(old, entry)):
            continue
        try:
            made = edited(made, Edit(entry.field, SET, typed(entry, text)))
        except BadValue as error:
            form.errors[f"{row}:{key}"] = str(error)
    sku = normalise(cells.get("sku", ""))
    return Variant(sku, made.offer, made.properties, old.image if old else "")


def _cell_text(article: Variant, entry: Entry) -> str:
    return shown(entry, held(Product("-", "-", offer=article.offer, properties=article.properties), entry.field))


def _heads(product: Product, known: Mapping[str, Entry]) -> list[Entry]:
    """Return the fields of the table of variants: their options, then price and stock."""
    given = {identity(prop.name) for article in product.variants for prop in article.properties}
    varying = {row.identity for row in definitions().values() if row.on_variants}
    options = [
        entry for key, entry in known.items() if key.removeprefix("attribute:") in (given or varying) and key.startswith("attribute:")
    ]
    return [*options, *(known[key] for key in _VARIANT_FIELDS)]


def product_page(setup: Setup, product: Product, form: Typed | None = None) -> ProductPage:
    """Build the page, with what was typed where it could not be kept."""
    held_now = current()
    known = entries(definitions())
    heads = _heads(product, known) if product.variants else []
    in_table = {entry.key for entry in heads}
    attributes = [entry for key, entry in known.items() if entry.field.kind == "attribute" and key not in in_table]
    usual = _usual(held_now, product)
    first = [entry for entry in attributes if held(product, entry.field) or entry.key in usual or (form and form.texts.get(entry.key))]
    view = lambda entry: _field_view(product, entry, form)  # noqa: E731
    return ProductPage(
        identity=product.id,
        name=product.name,
        image=product.image or next((article.image for article in product.variants if article.image), ""),
        visible=product.visible,
        basics=tuple(view(entry) for entry in known.values() if entry.field.kind not in OF_OFFER | {"attribute"}),
        offer=() if product.variants else tuple(view(known[key]) for key in _VARIANT_FIELDS),
        attributes=tuple(map(view, first)),
        more=tuple(view(entry) for entry in attributes if entry not in first),
        variant_heads=tuple(heads),
        variants=tuple(_variant_views(product, heads, form)),
        variants_mark=variants_mark(product),
        standings=tuple(standings(setup, product.id)),
        typed=form or Typed(),
    )


def _field_view(product: Product, entry: Entry, form: Typed | None) -> FieldView:
    now = shown(entry, held(product, entry.field))
    text = form.texts.get(entry.key, now) if form else now
    error = form.errors.get(entry.key, "") if form else ""
    return FieldView(entry, text, now, error, form.theirs.get(entry.key) if form else None)


def _variant_views(product: Product, heads: list[Entry], form: Typed | None) -> list[VariantView]:
    rows: list[tuple[str, Variant]] = [(str(at), article) for at, article in enumerate(product.variants)]
    found = []
    for name, article in [*rows, (_SPARE, Variant())] if rows else []:
        said = form.variants.get(name, {}) if form else {}
        cells = tuple(
            FieldView(
                entry, said.get(entry.key, _cell_text(article, entry)), _cell_text(article, entry),
                form.errors.get(f"{name}:{entry.key}", "") if form else "",
            )
            for entry in heads
        )  # fmt: skip
        found.append(VariantView(name, said.get("sku", article.sku), cells, bool(said.get("gone"))))
    return found


def _usual(held_now: Current, product: Product) -> set[str]:
    """Return the attributes that products of the same category usually have."""
    index = held_now.index
    path = max(product.categories, key=len, default=())
    listing = index.listing(tuple(map(identity, path))) if path else index.every_product
    return {
        f"attribute:{found.identity}"
        for found in index.attributes()
        if len(listing) and len(having(index, Source("attribute", found.name)) & listing) >= _USUAL * len(listing)
    }


def standings(setup: Setup, name: str) -> list[Standing]:
    """Return where a product stands in every facet of the draft's rack, with the reason."""
    sight = Sight(setup, [])
    index = sight.state.rack.index
    key = Row.objects.filter(identity=name).values_list("pk", flat=True).first()
    slot = index.facts.slots([key])[0] if key is not None else None
    if slot is None or slot not in index.every_product:
        return []
    articles = range(int(index.starts[slot]), int(index.starts[slot + 1]))
    found = []
    for facet in sight.state.rack.facets:
        words, what = words_of(facet, index.unit(facet.spec.source), sight.held.currency), explained(facet, slot, articles)
        bins = tuple(_bin_and_reason(place, what.places, words) for place in _deepest(what.places))
        reason = ""
        if not bins and facet.spec.free and what.values:
            reason = f"its value {', '.join(what.values)} is found by any range around it"
        elif not bins:
            reason = f"its value {', '.join(what.values)} is in no bin" if what.values else f"it has no {facet.spec.label.lower()}"
        found.append(Standing(facet.spec.key, facet.spec.label, bins, reason))
    return found


def _deepest(places: tuple[Place, ...]) -> list[Place]:
    """Return the bins, of categories only those that have no other below them."""
    nodes = [place.bin.nodes for place in places]
    return [place for place in places if not any(other[: len(place.bin.nodes)] == place.bin.nodes != other for other in nodes if other)]


def _bin_and_reason(place: Place, places: tuple[Place, ...], words: Words) -> tuple[str, str]:
    """Return a bin in words and what puts the product into it; nothing where the bin says it itself."""
    label = bin_words(place.bin, words)
    if place.bin.nodes:
        above = [other.bin.label for other in places if place.bin.nodes[: len(other.bin.nodes)] == other.bin.nodes != place.bin.nodes]
        return label, f"and with it in {', '.join(above)}" if above else ""
    if words.kind in ("stock", "reduced") or place.values in ((), (label,), (place.bin.label,)):
        return label, ""
    said = [words.number(number) if (number := plain(value)) is not None else value for value in place.values]
    return label, f"because of {', '.join(said)}" if said != [label] else ""


def new_product(name: str, number: str, *, actor: Any) -> Revision | None:
    """Make a product of a name and a number.

    Raises:
        BadValue: one of them is missing, or the number is taken.
        Refused: a file is being brought in.
    """
    name, number = normalise(name), number.strip()
    if not name:
        raise BadValue("A product needs a name.")
    if not number or "\0" in number:
        raise BadValue("A product needs a SKU of its own.")
    if Row.objects.filter(identity=number).exists():
        raise BadValue(f"There is a product {number} already. Give this one another SKU.")
    return revise(f"New product {name}", {number: Product(number, name)}, actor=actor)
