"""Limits: how long what a product says may be. Beyond them it could not be kept, found or shown."""

from collections.abc import Iterator

from binsort.core.values.numbers import Number, written

from .product import Offer, Product

MOST_NUMBER = 500  # characters of the number of a product or of a variant
MOST_NAME = 2_000
MOST_TEXT = 100_000  # of a description or an address
MOST_WORD = 500  # of a brand, a tag, the name of an attribute or of a category
MOST_LEVELS = 30  # of categories
MOST_PATH = 2_000  # bytes of a category with all above it
MOST_DIGITS = 40  # of a price, a stock level, a rating
_FEW_BITS = 50  # of numerator and denominator: such a number is short enough
MOST_PLACES = 1_000  # tags, categories, attributes of one product

Beyond = tuple[str, str, str, str]  # of what, the value, what is wrong with it, how to mend it


def beyond_limits(product: Product) -> list[Beyond]:
    """Return what of a product is beyond the limits.

    >>> [reason for _, _, reason, _ in beyond_limits(Product("A", "Cleat", brand="x" * 600))]
    ['has 600 characters, more than 500']
    """
    return list(_beyond(product)) if _is_suspect(product) else []


def _is_suspect(product: Product) -> bool:
    """Tell quickly whether a product may be beyond some limit: few are."""
    if len(product.id) > MOST_NUMBER or len(product.name) > MOST_NAME or max(len(product.tags), len(product.properties)) > MOST_WORD:
        return True
    if len(product.brand) > MOST_WORD or max(len(product.description), len(product.image), len(product.url)) > MOST_TEXT:
        return True
    for path in product.categories:
        if len(path) > MOST_LEVELS or sum(map(len, path)) > MOST_WORD:
            return True
    if any(len(tag) > MOST_WORD for tag in product.tags) or bool(product.variants) or len(product.categories) > MOST_WORD:
        return True
    names = sum([len(prop.name) + len(prop.unit or "") for prop in product.properties])
    return names > MOST_WORD or any(_digits(number) > MOST_DIGITS for _, number in _numbers(product))


def _beyond(product: Product) -> Iterator[Beyond]:
    yield from _long("Product number", product.id, MOST_NUMBER)
    yield from _long("Name", product.name, MOST_NAME)
    yield from _long("Brand", product.brand, MOST_WORD)
    for words, text in (("Description", product.description), ("Picture", product.image), ("Address", product.url)):
        yield from _long(words, text, MOST_TEXT)
    for tag in product.tags:
        yield from _long("Tags", tag, MOST_WORD)
    for article in product.variants:
        yield from _long("SKU", article.sku, MOST_NUMBER)
    for prop in (*product.properties, *(prop for article in product.variants for prop in article.properties)):
        yield from _long("Name of an attribute", prop.name, MOST_WORD)
        yield from _long("Unit", prop.unit or "", MOST_WORD)
    for path in product.categories:
        yield from _long_path(path)
    for words, number in _numbers(product):
        if _digits(number) > MOST_DIGITS:
            reason = f"has {_digits(number):,} digits, more than {MOST_DIGITS}"
            yield words, written(number), reason, "Write fewer."
    for words, count in (("Tags", len(product.tags)), ("Category", len(product.categories)), ("Attributes", len(product.properties))):
        if count > MOST_PLACES:
            yield words, f"{count:,}", f"are more than {MOST_PLACES:,}", "Leave some out."


def _long(words: str, text: str, most: int) -> Iterator[Beyond]:
    if len(text) > most:
        yield words, text, f"has {len(text):,} characters, more than {most:,}", "Shorten it."


def _long_path(path: tuple[str, ...]) -> Iterator[Beyond]:
    whole = " > ".join(path)
    if len(path) > MOST_LEVELS:
        yield "Category", whole, f"has {len(path):,} levels, more than {MOST_LEVELS}", "Leave some out."
    elif any(len(name) > MOST_WORD for name in path):
        yield from _long("Category", max(path, key=len), MOST_WORD)
    elif len(whole.encode()) > MOST_PATH:
        yield "Category", whole, f"has {len(whole):,} characters with all above it, more than can be kept", "Shorten the names."


def _numbers(product: Product) -> Iterator[tuple[str, Number]]:
    numbers: list[tuple[str, Number | None]] = [("Rating", product.rating_value), ("Reviews", product.review_count)]
    numbers += [pair for article in product.articles for pair in _of_offer(article.offer)]
    yield from ((words, value) for words, value in numbers if value is not None)


def _of_offer(offer: Offer) -> list[tuple[str, Number | None]]:
    sales: list[tuple[str, Number | None]] = [("Sale price", sale.price) for sale in offer.sales]
    return [("Price", offer.price), ("List price", offer.list_price), ("Stock", offer.level), *sales]


def _digits(number: Number) -> int:
    """Return how many digits a number has, 0 where they are few."""
    if number.numerator.bit_length() < _FEW_BITS and number.denominator.bit_length() < _FEW_BITS:
        return 0
    return len(written(number))
