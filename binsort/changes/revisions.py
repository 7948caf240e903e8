"""Revisions: every change of the catalogue by hand or by a file is one, remembered so that it can be taken back."""

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from django.db import models as fields
from django.utils.translation import gettext as _

from binsort.catalog import models
from binsort.catalog.dictionary.states import attributes_state, categories_state
from binsort.catalog.store.batches import batched
from binsort.catalog.store.product_rows import among_texts
from binsort.catalog.store.product_writer import BATCH, copy_rows
from binsort.core.products.catalogue_reader import read_line
from binsort.core.products.catalogue_writer import line_of
from binsort.core.products.limits import beyond_limits
from binsort.core.products.parts import differing
from binsort.core.products.product import Product

from .locks import BeyondLimit, Locked, change, hold, lock_products
from .product_writes import Made, put_products

Kind = models.Revision.Kind
KEPT = 200  # revisions that can be taken back
After = Mapping[str, Product | None]  # by identity; None where the product goes
Change = Callable[[str, Product | None], Product | None]
Progress = Callable[[int, int], None]  # done, of how many (0: not known); raises to stop


def silent(done: int, total: int) -> None:
    """Tell nobody how far it is."""


def begin(kind: Kind, summary: str, *, actor: Any = None, **figures: Any) -> models.Revision:
    """Begin a revision, within a transaction."""
    return models.Revision.objects.create(kind=kind, summary=summary, actor=actor, **figures)


def forget_old(most: int = 20_000) -> int:
    """Let go of what products were before revisions that are too old to be taken back; returns how many were let go of."""
    kept = models.Revision.objects.values("pk")[:KEPT]
    oldest = models.Revision.objects.filter(pk__in=kept).aggregate(first=fields.Min("pk"))["first"]
    if oldest is None:
        return 0
    old = models.RevisedProduct.objects.filter(revision__lt=oldest).values("pk")[:most]
    return models.RevisedProduct.objects.filter(pk__in=list(old.values_list("pk", flat=True))).delete()[0]


def is_kept(revision: models.Revision) -> bool:
    """Tell whether a revision is new enough to be taken back."""
    return models.Revision.objects.filter(pk__gt=revision.pk).count() < KEPT


def newest() -> models.Revision | None:
    """Return the newest revision that was not taken back yet and still can be."""
    revision = models.Revision.objects.filter(undone_at=None).first()
    return revision if revision and is_kept(revision) else None


def newest_undone() -> models.Revision | None:
    """Return the revision that was taken back last, where nothing was changed since."""
    revision = models.Revision.objects.exclude(undone_at=None).order_by("-undone_at").first()
    if revision is None or models.Revision.objects.filter(at__gt=revision.undone_at, undone_at=None).exists():
        return None
    return revision if is_kept(revision) else None


def write(
    revision: models.Revision,
    after: After,
    known: Iterable[str],
    before: Mapping[str, Product],
    *,
    ask: bool = False,
    noted: set[str] | None = None,
) -> None:
    """Write products and remember what they were; of several states in one revision the first before and the last after.

    Args:
        revision: what this belongs to.
        after: what the products become.
        known: the identities of those that are there.
        before: what they are.
        ask: whether categories that do not exist are asked about instead of made.
        noted: the identities that the revision has notes of already, added to; looked up where not given.
    """
    gone = [name for name, product in after.items() if product is None]
    places = dict(models.Product.objects.filter(identity__in=among_texts(gone)).values_list("identity", "place")) if gone else {}
    rows = [(revision.pk, name, _line(before.get(name)), _line(product), places.get(name)) for name, product in after.items()]
    met = list(after) if noted is None else [name for name in after if name in noted]
    again = {row.identity: row for row in models.RevisedProduct.objects.filter(revision=revision, identity__in=met)} if met else {}
    if noted is not None:
        noted.update(after)
    fresh = [row for row in rows if row[1] not in again]
    copy_rows(models.RevisedProduct, ("revision_id", "identity", "before", "after", "place"), fresh)
    for _revision, name, _before, line, place in rows:
        if name in again:
            again[name].after, again[name].place = line, place
    models.RevisedProduct.objects.bulk_update(again.values(), ["after", "place"])
    _note(revision, put_products(after, known, ask=ask))


def _note(revision: models.Revision, made: Made) -> None:
    """Remember what was made for products, so that it goes again where nothing uses it."""
    if made.attributes or made.categories:
        note_made(revision, attributes=attributes_state(made.attributes), categories=categories_state(made.categories))


def note_made(revision: models.Revision, **states: dict[str, Any]) -> None:
    """Remember attributes or categories that a revision made, by their states."""
    kept = revision.definitions.setdefault("made", {})
    for name, state in states.items():
        kept.setdefault(name, {}).update(state)


def _line(product: Product | None) -> str:
    return line_of(product).decode() if product else ""


def product_of(line: str) -> Product | None:
    """Return the product that a line keeps, None where there was none."""
    return read_line(line.encode()) if line else None


def revise(summary: str, after: After, *, actor: Any = None, kind: Kind = Kind.PRODUCTS, ask: bool = False) -> models.Revision | None:
    """Write products as one revision, as :func:`revise_each` does."""
    return revise_each(summary, after, lambda name, product: after[name], actor=actor, kind=kind, ask=ask)


@change
def revise_each(
    summary: str,
    identities: Iterable[str],
    becomes: Change,
    *,
    actor: Any = None,
    kind: Kind = Kind.PRODUCTS,
    definitions: dict[str, Any] | None = None,
    ask: bool = False,
    progress: Progress = silent,
) -> models.Revision | None:
    """Change products as one revision; those that stay as they are are left alone. All of them or none.

    Args:
        summary: what changes, in words.
        identities: of the products.
        becomes: gives what a product becomes (None: it goes) from its identity and what it is (None: it is not there).
        actor: who does it.
        kind: what is changed.
        definitions: states of the dictionary, of categories or of facets before and after, where they change as well.
        ask: whether categories that do not exist are asked about instead of made.
        progress: called with how many products are done, of how many; raises to stop.

    Returns:
        The revision; None where nothing changes.

    Raises:
        BeyondLimit: what a product says is beyond the limits.
        Refused: something else is being written.
        NewCategories: where they are asked about.
    """
    hold()
    names = sorted(set(identities))
    revision = begin(kind, summary, actor=actor, definitions=definitions or {})
    done = 0
    for batch in batched(names, BATCH):
        _revise_batch(revision, lock_products(batch), dict.fromkeys(batch, becomes), ask=ask)
        done += len(batch)
        progress(done, len(names))
    if not (revision.new or revision.changed or revision.left or definitions):
        revision.delete()
        return None
    revision.save()
    return revision


def _revise_batch(revision: models.Revision, now: Locked, changes: Mapping[str, Change], *, ask: bool) -> None:
    after = {name: becomes(name, now.products.get(name)) for name, becomes in changes.items()}
    changed = {name: product for name, product in after.items() if is_other(now.products.get(name), product)}
    if not changed:
        return
    for product in filter(None, changed.values()):
        for words, _value, reason, mend in beyond_limits(product)[:1]:
            told = {"words": words, "number": product.id[:60], "reason": reason, "mend": mend}
            raise BeyondLimit(_("%(words)s of %(number)s %(reason)s. %(mend)s") % told)
    write(revision, changed, now.places, now.products, ask=ask)
    gone, new = sum(product is None for product in changed.values()), sum(name not in now.products for name in changed)
    revision.new, revision.left = revision.new + new, revision.left + gone
    revision.changed += len(changed) - new - gone


def is_other(before: Product | None, after: Product | None) -> bool:
    """Tell whether two states of a product differ."""
    if before is None or after is None:
        return before is not after
    return bool(differing(before, after))
