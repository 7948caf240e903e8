"""The form of one product: what was typed is kept beside what others changed meanwhile, or shown with what is wrong."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from hashlib import blake2b
from typing import Any

from django.utils.translation import gettext as _

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.dictionary.entry import BadValue, Entry, entries, shown, typed
from binsort.catalog.models import Revision
from binsort.core.products.catalogue_writer import line_of
from binsort.core.products.edits import SET, Edit, Varies, edited, held
from binsort.core.products.fields import OF_OFFERS
from binsort.core.products.product import Product, Variant
from binsort.core.values.text import identity, normalise

from .locks import change, hold, lock_products
from .new_values import NewValue, ask_about_new
from .products import Gone
from .revisions import revise


@dataclass(slots=True)
class ProductForm:
    """What a form said."""

    texts: dict[str, str] = field(default_factory=dict)  # by key of the field
    seen: dict[str, str] = field(default_factory=dict)
    variants: dict[str, dict[str, str]] = field(default_factory=dict)  # by name of the row, then by key
    variants_seen: str = ""
    errors: dict[str, str] = field(default_factory=dict)
    theirs: dict[str, str] = field(default_factory=dict)
    conflict_of_variants: bool = False
    makes_categories: bool = False  # those that do not exist are meant
    new_categories: tuple[str, ...] = ()  # that are asked about
    makes_values: bool = False  # those that nothing has yet are meant
    new_values: tuple[NewValue, ...] = ()  # that are asked about

    @property
    def is_open(self) -> bool:
        """Whether something in it has to be settled before it can be kept."""
        return bool(self.errors or self.theirs or self.conflict_of_variants)


def read_product_form(post: Mapping[str, str]) -> ProductForm:
    """Read what a form says: ``f:KEY``, ``s:KEY`` (as it was shown), ``v:ROW:KEY``."""
    form = ProductForm(variants_seen=post.get("variants_seen", ""), makes_categories="make_categories" in post)
    form.makes_values = "make_values" in post
    for name, text in post.items():
        kind, _, key = name.partition(":")
        if kind == "f":
            form.texts[key] = text
        elif kind == "s":
            form.seen[key] = text
        elif kind == "v":
            row, _, key = key.partition(":")
            form.variants.setdefault(row, {})[key] = text
    return form


def variants_mark(product: Product) -> str:
    """Return what changes whenever a variant does."""
    return blake2b(line_of(replace(product, name="-", properties=())), digest_size=8).hexdigest() if product.variants else ""


@change
def save_product(name: str, form: ProductForm, *, actor: Any = None) -> Revision | None:
    """Keep what a form says; fields that nobody touched stay as they are by now. Problems go into the form.

    Raises:
        Gone: somebody deleted the product.
        NewCategories: a category does not exist yet, and the form does not say that it is to be made.
        NewValues: nothing has a value yet, and the form does not say that it is meant.
        Refused: something else is being written.
    """
    known = entries(definitions())
    hold()
    product = lock_products([name]).products.get(name)
    if product is None:
        raise Gone(_("That product is gone."))
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
    if form.is_open:
        return None
    if not form.makes_values:
        ask_about_new(product, after, known.values())
    return revise(f"Changed {after.name}", {name: after}, actor=actor, ask=not form.makes_categories)


def _with_variants(product: Product, after: Product, form: ProductForm, known: Mapping[str, Entry]) -> Product:
    if not form.variants:
        return after
    variants = []
    for row, cells in form.variants.items():
        at = int(row) if row.isdigit() else -1
        old = product.variants[at] if 0 <= at < len(product.variants) else None
        if cells.get("gone") or (old is None and not any(text.strip() for text in cells.values())):
            continue
        variants.append(_variant(old, row, cells, form, known))
    as_shown = tuple(_variant(old, "", _texts_of(product, old, known), ProductForm(), known) for old in product.variants)
    if tuple(variants) == as_shown:
        return after
    if variants_mark(product) != form.variants_seen:
        form.conflict_of_variants = True
        return after
    if not variants and product.variants:
        return replace(after, variants=(), offer=product.variants[0].offer)
    return replace(after, variants=tuple(variants))


def _texts_of(product: Product, article: Variant, known: Mapping[str, Entry]) -> dict[str, str]:
    return {"sku": article.sku, **{entry.key: cell_text(article, entry) for entry in variant_heads(product, known)}}


def _variant(old: Variant | None, row: str, cells: Mapping[str, str], form: ProductForm, known: Mapping[str, Entry]) -> Variant:
    """Return a variant with what was typed into its row."""
    product = Product("-", "-", offer=old.offer if old else Product("-", "-").offer, properties=old.properties if old else ())
    for key, text in cells.items():
        entry = known.get(key)
        if entry is None or (old is not None and text.strip() == cell_text(old, entry)):
            continue
        try:
            product = edited(product, Edit(entry.field, SET, typed(entry, text)))
        except BadValue as error:
            form.errors[f"{row}:{key}"] = str(error)
    sku = normalise(cells.get("sku", ""))
    return Variant(sku, product.offer, product.properties, old.image if old else "")


def cell_text(article: Variant, entry: Entry) -> str:
    return shown(entry, held(Product("-", "-", offer=article.offer, properties=article.properties), entry.field))


def variant_heads(product: Product, known: Mapping[str, Entry]) -> list[Entry]:
    """Return the fields of the table of variants: their options, then price and stock."""
    given = {identity(prop.name) for article in product.variants for prop in article.properties}
    varying = {row.identity for row in definitions().values() if row.on_variants}
    options = [
        entry for key, entry in known.items() if key.removeprefix("attribute:") in (given or varying) and key.startswith("attribute:")
    ]
    return [*options, *(known[key] for key in OF_OFFERS)]
