"""Products, prices and stock written by other systems. Each call is all or nothing, and doing it twice is doing it once."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.catalog.api.payloads import BadItems, ItemProblem, read_offers, read_products
from binsort.catalog.models import Product as Row
from binsort.catalog.models import Variant
from binsort.catalog.store.product_rows import among_texts
from binsort.core.products.fields import SINGLE_OF_OFFERS
from binsort.core.products.parts import differing
from binsort.core.values.text import trim

from .history import tell_of_token
from .locks import Busy, change, hold, lock_products
from .product_writes import put_products


@dataclass(slots=True)
class Done:
    """What a call did."""

    new: int = 0
    changed: int = 0
    unchanged: int = 0
    unknown: list[str] = field(default_factory=list)


@change
def upsert_products(documents: Sequence[Mapping[str, Any]], *, by: str = "") -> Done:
    """Write schema.org products; those that are there are replaced, of several of one number the last counts.

    Raises:
        BadItems: some are no products.
        Refused: something else is being written.
    """
    products = read_products(documents)
    hold()
    now = lock_products(products)
    changed = {name: product for name, product in products.items() if name not in now.products or differing(now.products[name], product)}
    put_products(changed, now.places)
    new = sum(name not in now.products for name in changed)
    _tell(ngettext("%(count)s product written", "%(count)s products written", len(changed)), len(changed), by)
    return Done(new, len(changed) - new, len(products) - len(changed))


@change
def delete_products(numbers: Sequence[str], *, by: str = "") -> Done:
    """Delete products; numbers that are not known are told, and no error. Raises Refused."""
    hold()
    wanted = list(dict.fromkeys(trim(number) for number in numbers))
    known = lock_products(wanted).places
    put_products(dict.fromkeys(known), known)
    _tell(ngettext("%(count)s product deleted", "%(count)s products deleted", len(known)), len(known), by)
    return Done(changed=len(known), unknown=[number for number in wanted if number not in known])


@change
def set_offers(items: Sequence[Mapping[str, Any]], *, by: str = "") -> Done:
    """Set price, list price, stock level and availability of articles, by the number of a variant or of a product without any.

    Raises:
        BadItems: a value is none, or a number is that of several articles.
        Refused: something else is being written.
    """
    wanted = read_offers(items)
    hold()
    articles = _locked_articles(list(wanted))
    places = {trim(str(item["sku"])): place for place, item in enumerate(items)}
    several = [
        ItemProblem(places[sku], f"{len(rows)} articles have the number {sku}. Send their product whole.")
        for sku, rows in articles.items()
        if len(rows) > 1
    ]
    if several:
        raise BadItems(several)
    changed = []
    for sku, (row,) in articles.items():
        if any(getattr(row, name) != value for name, value in wanted[sku].items()):
            for name, value in wanted[sku].items():
                setattr(row, name, value)
            changed.append(row)
    Variant.objects.bulk_update(changed, SINGLE_OF_OFFERS)
    _tell(ngettext("Price or stock of %(count)s article", "Price or stock of %(count)s articles", len(changed)), len(changed), by)
    return Done(changed=len(changed), unchanged=len(articles) - len(changed), unknown=[sku for sku in wanted if sku not in articles])


def _tell(words: str, count: int, by: str) -> None:
    """Write a line of the history where something was changed. ``by``: the name of the system."""
    if count:
        tell_of_token(words % {"count": f"{count:,}"}, by)


def _locked_articles(skus: Sequence[str]) -> dict[str, list[Variant]]:
    """Return articles by number, their products locked. Raises Busy where others keep moving them to other products."""
    asked = [sku for sku in skus if sku and "\0" not in sku]
    held: set[str] = set()
    for _turn in range(3):
        articles = _articles(asked)
        owners = {row.product.identity for rows in articles.values() for row in rows}
        if owners <= held:
            return articles
        held |= owners
        lock_products(held)
    raise Busy(_("the articles are being moved to other products. Send it again."))


def _articles(skus: Iterable[str]) -> dict[str, list[Variant]]:
    """Return articles by number: variants by their own, products without variants by theirs."""
    asked = among_texts(list(skus))
    articles: dict[str, list[Variant]] = {}
    rows = Variant.objects.select_related("product").order_by("pk")
    for row in rows.filter(is_implicit=True, product__in=Row.objects.filter(identity__in=asked)):
        articles.setdefault(row.product.identity, []).append(row)
    for row in rows.filter(is_implicit=False, sku__in=asked):
        articles.setdefault(row.sku, []).append(row)
    return articles
