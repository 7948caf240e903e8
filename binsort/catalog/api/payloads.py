"""What other systems send: products and offers, read exactly or refused item by item."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from binsort.core.products.availability import SCHEMA_STATES
from binsort.core.products.catalogue_reader import BrokenLine, read_product
from binsort.core.products.catalogue_writer import document_of
from binsort.core.products.fields import NUMERIC, SINGLE_OF_OFFERS
from binsort.core.products.limits import beyond_limits
from binsort.core.products.product import Product
from binsort.core.values.numbers import TooLong, Unusable, plain
from binsort.core.values.strict_json import walk
from binsort.core.values.text import trim

MOST = 1000  # products, or articles, in one call


@dataclass(frozen=True, slots=True)
class ItemProblem:
    """What is wrong with one item of a call."""

    place: int  # from 0
    text: str


class BadItems(ValueError):
    """Nothing was done; says all that is wrong."""

    def __init__(self, problems: Sequence[ItemProblem]) -> None:
        super().__init__(f"{len(problems)} items cannot be taken")
        self.problems = tuple(problems)


def read_products(documents: Sequence[Mapping[str, Any]]) -> dict[str, Product]:
    """Return schema.org products by number, of several with one number the last. Raises BadItems."""
    problems: list[ItemProblem] = []
    products: dict[str, Product] = {}
    for place, document in enumerate(documents):
        try:
            refused: list[str] = []
            product = read_product(dict(document), refused.append, strict=True)
            if refused:
                problems.append(ItemProblem(place, f"{'; '.join(refused)}. Send numbers as 12.5 or as the text “12.5”, or leave them out."))
            if any("\0" in str(part) for _, part in walk(document_of(product))):
                raise BrokenLine("it holds a character of number 0, which no text may")
            problems += [ItemProblem(place, f"{words} {reason}. {mend}") for words, _value, reason, mend in beyond_limits(product)]
            products[product.id] = product
        except BrokenLine as error:
            problems.append(ItemProblem(place, f"{error}. Send a schema.org Product with a sku and a name."))
    if problems:
        raise BadItems(problems)
    return products


def read_offers(items: Sequence[Mapping[str, Any]]) -> dict[str, dict[str, Any]]:
    """Return what is to be set of articles, by number; of several items of one article the last word counts.

    Args:
        items: each ``sku`` and what is to be set of ``price``, ``list_price``, ``level``, ``availability``; None takes it away.

    Raises:
        BadItems: a value is none.
    """
    problems: list[ItemProblem] = []
    wanted: dict[str, dict[str, Any]] = {}
    for place, item in enumerate(items):
        try:
            wanted.setdefault(trim(str(item["sku"])), {}).update(_offer(item))
        except ValueError as error:
            problems.append(ItemProblem(place, str(error)))
    if problems:
        raise BadItems(problems)
    return wanted


def _offer(item: Mapping[str, Any]) -> dict[str, Any]:
    """Return what is to be set. Raises ValueError."""
    changes: dict[str, Any] = {}
    for name in SINGLE_OF_OFFERS:
        if name in item and name in NUMERIC:
            changes[name] = _number(item[name], name)
    if "availability" in item:
        state = str(item["availability"] or "").rsplit("/", 1)[-1]
        if state and state not in SCHEMA_STATES:
            raise ValueError(f"{item['availability']!r} is no availability of schema.org. Send one as InStock or OutOfStock.")
        changes["availability"] = state
    return changes


def _number(value: Any, name: str) -> Any:
    if value is None:
        return None
    try:
        read = plain(trim(value)) if isinstance(value, str) else value
    except TooLong:
        read = None
    if read is None or isinstance(read, bool | Unusable | str | list | dict):
        raise ValueError(f"{name} is no number. Send it as 12.5 or as the text “12.5”.")
    return read
