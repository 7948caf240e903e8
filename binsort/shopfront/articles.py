"""The articles of a product as a grid of its options, with what was looked for marked."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from binsort.core.products.availability import STOCK_WORDS, in_stock_words
from binsort.core.products.product import Product, Property, Variant, Written
from binsort.core.values.numbers import Number, Unusable, written
from binsort.core.values.sizes import size_key
from binsort.core.values.text import identity, natural_key
from binsort.racks.number_words import money
from binsort.racks.presentation import swatch_of
from binsort.racks.shown_facet import Swatch

NOT_SAID = "–"  # stands for an option that an article does not have


@dataclass(frozen=True, slots=True)
class Article:
    """A variant: its options, price and stock."""

    sku: str
    options: tuple[str, ...]
    price: str
    was: str
    stock: str
    stock_words: str
    image: str
    matches: bool  # it is what was looked for
    chosen: bool
    address: str  # of the page that opens on it


@dataclass(frozen=True, slots=True)
class Side:
    """A value of an option, at the side or on top of a grid."""

    label: str
    swatch: Swatch | None
    picked: bool  # it was looked for


@dataclass(frozen=True, slots=True)
class Row:
    """A row of a grid; an empty cell is not made."""

    side: Side | None
    cells: tuple[tuple[Article | None, bool], ...]  # and whether its column was looked for


@dataclass(frozen=True, slots=True)
class Grid:
    """The articles of a product by two of its options, or one; further options are said in the title."""

    title: str
    columns: tuple[Side, ...]
    rows: tuple[Row, ...]
    matches: bool


def option_names(product: Product, hidden: Iterable[str] = ()) -> tuple[str, ...]:
    """Return the names of the options in which a product's articles differ, fewest values first, without the hidden ones."""
    names: dict[str, str] = {}
    for variant in product.variants:
        for prop in variant.properties:
            names.setdefault(identity(prop.name), prop.name)
    off = set(hidden)
    kept = {key: name for key, name in names.items() if key not in off}
    values = {key: {_option(variant, key) for variant in product.variants} for key in kept}
    return tuple(name for key, name in sorted(kept.items(), key=lambda item: len(values[item[0]]) < 2))


def grids(articles: Sequence[Article], names: Sequence[str], picked: dict[str, set[str]]) -> tuple[Grid, ...]:
    """Return the articles as grids: values of the first option on top, of the second at the side; one for each of further options.

    Args:
        articles: of one product.
        names: of their options.
        picked: by the identity of an option's name, the identities of the values that were looked for.
    """
    if not names:
        return ()
    across = min(range(min(2, len(names))), key=lambda place: len({article.options[place] for article in articles}))
    down = 1 - across if len(names) > 1 else None
    rest = [place for place in range(len(names)) if place not in (across, down)]
    by_rest: dict[tuple[str, ...], list[Article]] = {}
    for article in articles:
        by_rest.setdefault(tuple(article.options[place] for place in rest), []).append(article)
    found = [_grid(", ".join(key), listed, names, (across, down), picked) for key, listed in by_rest.items()]
    return tuple(sorted(found, key=lambda grid: not grid.matches))


def _grid(title: str, articles: Sequence[Article], names: Sequence[str], axes: tuple[int, int | None], picked: dict[str, set[str]]) -> Grid:
    across, down = axes
    columns = _sides(names[across], {article.options[across] for article in articles}, picked)
    rows: list[tuple[Side | None, str | None]] = [(None, None)]
    if down is not None:
        rows = [(side, side.label) for side in _sides(names[down], {article.options[down] for article in articles}, picked)]
    at = {(article.options[across], article.options[down] if down is not None else None): article for article in reversed(articles)}
    made = [Row(side, tuple((at.get((column.label, label)), column.picked) for column in columns)) for side, label in rows]
    return Grid(title, columns, tuple(made), any(article.matches for article in articles))


def _sides(name: str, labels: Iterable[str], picked: dict[str, set[str]]) -> tuple[Side, ...]:
    wanted = picked.get(identity(name), set())
    ordered = sorted(labels, key=lambda label: (_size(label), natural_key(label)))
    return tuple(Side(label, swatch_of(label), identity(label) in wanted) for label in ordered)


def _size(label: str) -> tuple[int, Number]:
    return size_key(label) or (2, 0)


def article_of(variant: Variant, names: Sequence[str], now: Number, currency: str, **more: object) -> Article:
    """Return an article as pages show it.

    Args:
        variant: of a product.
        names: of the options that are shown.
        now: the moment whose prices count.
        currency: of the shop.
        more: ``matches``, ``chosen`` and ``address`` of :class:`Article`.
    """
    offer = variant.offer
    price, regular = offer.price_now(now), offer.regular
    return Article(
        sku=variant.sku,
        options=tuple(_option(variant, identity(name)) for name in names),
        price=money(price, currency) if price is not None else "",
        was=money(regular, currency) if offer.is_reduced(now) and regular is not None else "",
        stock=offer.stock,
        stock_words=in_stock_words(offer) if offer.level is not None and 0 < offer.level <= 3 else STOCK_WORDS[offer.stock],
        image=variant.image,
        **more,  # type: ignore[arg-type]
    )


def _option(variant: Variant, name: str) -> str:
    return next((said(prop) for prop in variant.properties if identity(prop.name) == name), NOT_SAID)


def said(prop: Property) -> str:
    """Say the values of a property."""
    return ", ".join(_said_value(value, prop.unit) for value in prop.values)


def _said_value(value: Written, unit: str | None) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str):
        return value
    if isinstance(value, Unusable):
        return NOT_SAID
    return f"{written(value)} {unit}" if unit else written(value)
