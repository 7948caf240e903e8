"""Writing products: attributes and categories that are missing are made first, and told, so that they can go again."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from django.utils.translation import gettext as _

from binsort.catalog import models
from binsort.catalog.dictionary.attribute_kinds import make_attributes, missing_attributes
from binsort.catalog.dictionary.categories import known_categories, make_categories, with_ancestors
from binsort.catalog.store.product_rows import among_texts
from binsort.catalog.store.product_writer import store
from binsort.core.products.product import Product

from .locks import BeyondLimit, Refused, hold_definitions

MOST_ATTRIBUTES = 5_000  # in the dictionary


class NewCategories(Refused):
    """Categories that do not exist yet; somebody has to say that they are meant."""

    def __init__(self, paths: Iterable[tuple[str, ...]]) -> None:
        self.paths = tuple(" > ".join(path) for path in paths)
        listed = ", ".join(f"“{path}”" for path in self.paths)
        super().__init__(f"there is no category {listed} yet. Make {'it' if len(self.paths) == 1 else 'them'}, or choose another.")


@dataclass(slots=True)
class Made:
    """What had to be made for products: identities of attributes, primary keys of categories."""

    attributes: list[str] = field(default_factory=list)
    categories: list[int] = field(default_factory=list)


def put_products(
    after: Mapping[str, Product | None],
    known: Iterable[str],
    *,
    places: Mapping[str, int] | None = None,
    ask: bool = False,
) -> Made:
    """Write products and delete those that become None; within a transaction that has them locked.

    Args:
        after: what they become, by identity.
        known: the identities of those that are there.
        places: where those that come back stand in the order of the catalogue.
        ask: whether categories that do not exist are asked about instead of made.

    Raises:
        NewCategories: where they are asked about.
        BeyondLimit: the dictionary would have too many attributes.
    """
    gone = [name for name, product in after.items() if product is None]
    if gone:
        models.Product.objects.filter(identity__in=among_texts(gone)).delete()
    products = [product for product in after.values() if product is not None]
    made, categories = _make_missing(products, ask=ask)
    store(products, known=set(known), categories=categories, places=places)
    return made


def _check_room(coming: int) -> None:
    """Refuse more attributes than the dictionary may have. Raises BeyondLimit."""
    there = models.Attribute.objects.count() if coming else 0
    if there + coming > MOST_ATTRIBUTES:
        words = {"coming": f"{coming:,}", "there": f"{there:,}", "most": f"{MOST_ATTRIBUTES:,}"}
        raise BeyondLimit(
            _("%(coming)s new attributes and the %(there)s that there are make more than %(most)s. Give fewer; are values among the names?")
            % words
        )


def _make_missing(products: list[Product], *, ask: bool) -> tuple[Made, dict[str, int]]:
    spelled = with_ancestors(dict.fromkeys(path for product in products for path in product.categories))
    known, missing = known_categories(spelled), missing_attributes(products)
    new_ones = Made()
    if missing or len(known) < len(spelled):
        hold_definitions()
        known, missing = known_categories(spelled), missing_attributes(products)
        absent = {key: path for key, path in spelled.items() if key not in known}
        if absent and ask:
            raise NewCategories(absent.values())
        _check_room(len(missing))
        new = make_categories(absent, known)
        new_ones = Made(make_attributes(missing) if missing else [], list(new.values()))
        known |= new
    return new_ones, known
