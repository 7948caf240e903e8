"""A product as the shop shows it."""

from dataclasses import dataclass

from binsort.catalog.models import Category
from binsort.catalog.store.product_rows import products_of
from binsort.core.products.availability import STOCK_WORDS, best_stock
from binsort.core.products.product import Product, Property, Variant, Written
from binsort.core.values.dates import now_in_seconds
from binsort.core.values.numbers import Number, Unusable, written
from binsort.core.values.text import identity, path_identity
from binsort.racks.attribute_use import off_pages
from binsort.racks.presentation import money
from binsort.tally.current import current

from .listings import departments_of


@dataclass(frozen=True, slots=True)
class Article:
    """A variant: its options, price and stock."""

    sku: str
    options: tuple[str, ...]
    price: str
    was: str
    stock: str
    stock_words: str


@dataclass(frozen=True, slots=True)
class ProductView:
    """All that the product page shows."""

    id: str
    name: str
    brand: str
    description: str
    image: str
    trail: tuple[Category, ...]
    price: str
    price_varies: bool
    stock: str
    stock_words: str
    rating: str
    reviews: str
    facts: tuple[tuple[str, str], ...]
    option_names: tuple[str, ...]
    articles: tuple[Article, ...]
    tags: tuple[str, ...]
    departments: tuple[Category, ...]


def product_page(id: str) -> ProductView | None:
    """Build the page of a visible product, None where there is none of this identity."""
    held, now, hidden = current(), now_in_seconds(), off_pages()
    product = products_of([id]).get(id)
    if product is None:
        return None
    prices = [price for article in product.articles if (price := article.offer.price_now(now)) is not None]
    names = tuple(name for name in _option_names(product) if identity(name) not in hidden)
    stock, stock_words = best_stock(article.offer for article in product.articles)
    return ProductView(
        id=product.id,
        name=product.name,
        brand=product.brand,
        description=product.description,
        image=product.image,
        trail=_trail(product),
        price=money(min(prices), held.currency) if prices else "",
        price_varies=len(set(prices)) > 1,
        stock=stock,
        stock_words=stock_words,
        rating=written(product.rating) if product.rating is not None else "",
        reviews=written(product.review_count) if product.review_count is not None else "",
        facts=tuple((prop.name, _said(prop)) for prop in product.properties if prop.values and identity(prop.name) not in hidden),
        option_names=names,
        articles=tuple(_article(article, names, now, held.currency) for article in product.variants),
        tags=product.tags,
        departments=departments_of(held.index),
    )


def _trail(product: Product) -> tuple[Category, ...]:
    if not product.categories:
        return ()
    category = Category.objects.filter(path_identity=path_identity(product.categories[0])).first()
    return tuple(category.ancestors(include_self=True)) if category else ()


def _option_names(product: Product) -> tuple[str, ...]:
    names: dict[str, str] = {}
    for variant in product.variants:
        for prop in variant.properties:
            names.setdefault(identity(prop.name), prop.name)
    return tuple(names.values())


def _article(variant: Variant, names: tuple[str, ...], now: Number, currency: str) -> Article:
    options = {identity(prop.name): _said(prop) for prop in variant.properties}
    offer = variant.offer
    price, regular = offer.price_now(now), offer.regular
    return Article(
        sku=variant.sku,
        options=tuple(options.get(identity(name), "–") for name in names),
        price=money(price, currency) if price is not None else "",
        was=money(regular, currency) if offer.is_reduced(now) and regular is not None else "",
        stock=offer.stock,
        stock_words=STOCK_WORDS[offer.stock],
    )


def _said(prop: Property) -> str:
    return ", ".join(_said_value(value, prop.unit) for value in prop.values)


def _said_value(value: Written, unit: str | None) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str):
        return value
    if isinstance(value, Unusable):
        return "–"
    return f"{written(value)} {unit}" if unit else written(value)
