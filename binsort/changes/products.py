"""Changes of products by hand: one field of one, one field of many, new ones, deleting."""

from collections.abc import Sequence
from typing import Any

from django.utils.translation import gettext as _

from binsort.catalog.dictionary.entry import BadValue, Entry, edit_of, shown, typed
from binsort.catalog.models import Revision
from binsort.core.products.edits import ADD, EMPTY, REMOVE, REPLACE, SET, Edit, Varies, edited, held
from binsort.core.products.product import Product
from binsort.core.values.text import normalise
from binsort.people.acts import Act
from binsort.people.rights import needs

from .locks import Refused, change, hold, lock_products
from .revisions import Progress, revise, revise_each, silent


class Gone(Refused):
    """The product is not there any more."""


class SeenOtherwise(Refused):
    """Somebody else changed a field after it was shown."""

    def __init__(self, theirs: str) -> None:
        self.theirs = theirs
        super().__init__(f"Meanwhile somebody else changed it to “{theirs or 'nothing'}”.")


@change
def set_field(
    name: str, entry: Entry, text: str, *, seen: str | None = None, ask: bool = True, actor: Any = None
) -> tuple[Product, Revision | None]:
    """Set one field of one product to what was typed.

    Args:
        name: the identity of the product.
        entry: the field.
        text: what was typed.
        seen: what the field held when it was shown; None to set it whatever it holds.
        ask: whether categories that do not exist are asked about instead of made.
        actor: who does it.

    Returns:
        The product as it is then, and the revision; None where nothing changes.

    Raises:
        BadValue: what was typed does not fit the field.
        Varies: the variants of the product differ in it.
        Gone, SeenOtherwise, NewCategories, Refused: nothing was changed.
    """
    hold()
    product = lock_products([name]).products.get(name)
    if product is None:
        raise Gone(_("That product is gone. Load the page anew."))
    theirs = shown(entry, held(product, entry.field))
    if seen is not None and theirs != seen:
        raise SeenOtherwise(theirs)
    after = edited(product, Edit(entry.field, SET, typed(entry, text)))
    what = f"Set {entry.label} of {product.name} to {text}" if text.strip() else f"Emptied {entry.label} of {product.name}"
    return after, revise(what, {name: after}, actor=actor, ask=ask)


@needs(Act.PRODUCTS)
def change_many(
    entry: Entry,
    way: str,
    texts: tuple[str, str],
    identities: Sequence[str],
    *,
    ask: bool = True,
    actor: Any = None,
    progress: Progress = silent,
) -> Revision | None:
    """Edit one field of many products as one revision; those whose variants differ are left alone.

    Args:
        entry: the field.
        way: of :data:`~binsort.core.products.edits.WAYS`.
        texts: what was typed, and what it replaces.
        identities: of the products.
        ask: whether categories that do not exist are asked about instead of made.
        actor: who does it.
        progress: called with how many products are done, of how many; raises to stop.

    Raises:
        BadValue: what was typed does not fit.
        NewCategories, Refused: nothing was changed.
    """
    edit = edit_of(entry, way, *texts)

    def becomes(_: str, product: Product | None) -> Product | None:
        try:
            return edited(product, edit) if product else None
        except Varies:
            return product

    return revise_each(_summary(entry, way, texts, len(identities)), identities, becomes, actor=actor, ask=ask, progress=progress)


def _summary(entry: Entry, way: str, texts: tuple[str, str], count: int) -> str:
    text, old = texts
    of = f"of {count:,} product{'s' if count != 1 else ''}"
    words_of = {
        SET: f"Set {entry.label} {of} to {text}",
        EMPTY: f"Emptied {entry.label} {of}",
        ADD: f"Added {text} to {entry.label} {of}",
        REMOVE: f"Removed {text} from {entry.label} {of}",
        REPLACE: f"Replaced {old} by {text or 'nothing'} in {entry.label} {of}",
    }
    return words_of[way]


@needs(Act.PRODUCTS)
def delete_many(identities: Sequence[str], *, actor: Any = None, progress: Progress = silent) -> Revision | None:
    """Delete products as one revision. Raises Refused."""
    count = len(identities)
    what = f"Deleted {identities[0]}" if count == 1 else f"Deleted {count:,} products"
    return revise_each(what, identities, lambda name, product: None, actor=actor, progress=progress)


@change
def new_product(name: str, number: str, *, actor: Any = None) -> Revision | None:
    """Make a product of a name and a number.

    Raises:
        BadValue: one of them is missing, or the number is taken.
        Refused: something else is being written.
    """
    name, number = normalise(name), number.strip()
    if not name:
        raise BadValue(_("A product needs a name."))
    if not number or "\0" in number:
        raise BadValue(_("A product needs a SKU of its own."))
    hold()
    if number in lock_products([number]).places:
        raise BadValue(_("There is a product %(number)s already. Give this one another SKU.") % {"number": number})
    return revise(f"New product {name}", {number: Product(number, name)}, actor=actor)
