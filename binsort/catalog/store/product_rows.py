"""Between the database and the core: rows to frozen products and back, losing nothing.

Numbers inside JSON are kept as ``{"n": "12.5"}``, because JSON readers round.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from json import loads
from typing import Any, NamedTuple, TypeAlias

from django.db import connection
from django.db.models import QuerySet, TextField
from django.db.models.expressions import RawSQL
from django.db.models.functions import Cast

from binsort.catalog import models
from binsort.catalog.store.batches import batched
from binsort.catalog.store.category_paths import category_paths
from binsort.core.products.product import Offer, Product, Property, Sale, Variant, Written
from binsort.core.values.numbers import Number, Unusable, exact, written

_CHUNK = 2000  # products read together
_KEPT = 100_000  # texts remembered at most
_VISIBLE = 7  # in a row of a product
_VARIANT_TEXTS = ("properties", "price", "list_price", "has_sale_entry", "sales", "availability", "level", "currency")


def all_products() -> list[Product]:
    """Return every product in the order of the catalogue."""
    return [product for _, _, product in read_products()]


def products_of(
    identities: Iterable[str], *, hidden: bool = False, paths: Mapping[int, tuple[str, ...]] | None = None
) -> dict[str, Product]:
    """Return the products of some identities by them: the visible ones, or those that are ``hidden``, too.

    Args:
        identities: of the products; those of which there is none are passed over.
        hidden: whether shoppers do not see a product does not matter.
        paths: of all categories, where the caller knows them.
    """
    wanted = [text for text in identities if "\0" not in text]  # which the database cannot even ask for
    asked = _asked(brief=False)
    with connection.cursor() as cursor:
        rows = [row for row in _rows(cursor, asked.named, wanted) if hidden or row[_VISIBLE]]
        keys = [row[0] for row in rows]
        others = [_rows(cursor, text, keys) for text in (asked.variants, asked.placements)]
    return {product.id: product for _, _, product in _Reader(paths).read(rows, *others)}


def read_products(keys: Sequence[int] | None = None, *, brief: bool = False) -> Iterator[tuple[int, int, Product]]:
    """Yield primary key, place and product: all in the order of the catalogue, or those of some keys.

    Args:
        keys: primary keys; those of which there is no product are passed over.
        brief: without what counting does not need (image, address).
    """
    if keys is None:
        keys = list(models.Product.objects.order_by("place", "id").values_list("pk", flat=True))
    reader = _Reader()
    for rows in _fetched_ahead(_asked(brief=brief), list(batched(keys, _CHUNK))):
        yield from reader.read(*rows)


_Rows: TypeAlias = list[tuple[Any, ...]]


def _fetched_ahead(asked: "_Asked", groups: Sequence[Sequence[int]]) -> Iterator[tuple[_Rows, _Rows, _Rows]]:
    """Yield the rows of each group of keys; the database works on the next group while this one is read.

    All of it on this thread's connection, so that an open transaction holds.
    """
    connection.ensure_connection()
    raw = connection.connection

    def rows(keys: Sequence[int]) -> tuple[_Rows, _Rows, _Rows]:
        with raw.cursor() as cursor:
            return _rows(cursor, asked.products, keys), _rows(cursor, asked.variants, keys), _rows(cursor, asked.placements, keys)

    if len(groups) == 1:
        yield rows(groups[0])
        return
    with ThreadPoolExecutor(1) as ahead:
        coming = ahead.submit(rows, groups[0]) if groups else None
        for following in (*groups[1:], None):
            if coming is not None:
                here = coming.result()
                coming = ahead.submit(rows, following) if following else None
                yield here


def _rows(cursor: Any, text: str, wanted: Sequence[int] | Sequence[str]) -> _Rows:
    """Return the rows of a query of :class:`_Asked`."""
    cursor.execute(text, [list(wanted)])
    return list(cursor.fetchall())


class _Asked(NamedTuple):
    """What is asked of the database, each with an array of keys, or of identities, as its only parameter."""

    named: str
    products: str
    variants: str
    placements: str


@lru_cache(maxsize=2)
def _asked(*, brief: bool) -> _Asked:
    """Return the queries for products; written once, because the ORM takes longer to write them than the database to answer."""
    columns: tuple[str | Cast, ...] = (
        "pk", "place", "identity", "name", "brand", "tags", "published", "visible",
        *(_text(name) for name in ("rating_value", "review_count", "properties")), "description", *(() if brief else ("image", "url")),
    )  # fmt: skip
    names: list[str | Cast] = ["product_id", "is_implicit", "sku", "image", *map(_text, _VARIANT_TEXTS)]
    among, in_order = _among([]), ("product_id", "place", "id")
    queries: tuple[QuerySet[Any, Any], ...] = (
        models.Product.objects.filter(identity__in=among_texts([])).order_by().values_list(*columns),
        models.Product.objects.filter(pk__in=among).order_by("place", "id").values_list(*columns),
        models.Variant.objects.filter(product_id__in=among).order_by(*in_order).values_list(*names),
        models.Placement.objects.filter(product_id__in=among).order_by(*in_order).values_list("product_id", "category_id"),
    )
    texts = []
    for query in queries:
        text, parameters = query.query.sql_with_params()
        assert parameters == ([],), "the keys are the only parameter"
        texts.append(text)
    return _Asked(*texts)


class _Reader:
    """Reads products from rows. What many rows say in the same words is read once."""

    def __init__(self, paths: Mapping[int, tuple[str, ...]] | None = None) -> None:
        self._texts: dict[str, tuple[Property, ...]] = {}
        self._single: dict[tuple[str, str | None, str], Property] = {}
        self._offers: dict[tuple[Any, ...], Offer] = {}
        self._paths = paths or {}

    def _path(self, category: int) -> tuple[str, ...]:
        if category not in self._paths:
            self._paths = category_paths()
        return self._paths[category]

    def read(self, products: _Rows, variants: _Rows, placements: _Rows) -> Iterator[tuple[int, int, Product]]:
        """Yield the products of the rows that were given for them, their variants and their placements."""
        articles: dict[int, list[tuple[Any, ...]]] = {}
        for row in variants:
            articles.setdefault(row[0], []).append(row)
        placed: dict[int, list[tuple[str, ...]]] = {}
        for product, category in placements:
            placed.setdefault(product, []).append(self._path(category))
        for row in products:
            yield row[0], row[1], self._product(row, articles.get(row[0], []), placed.get(row[0], []))

    def _product(self, row: tuple[Any, ...], articles: list[tuple[Any, ...]], categories: list[tuple[str, ...]]) -> Product:
        identity, name, brand, tags, published, visible, rating, reviews, properties, description, *rest = row[2:]
        own = next((article for article in articles if article[1]), None)
        return Product(
            id=identity,
            name=name,
            description=description,
            image=rest[0] if rest else "",
            url=rest[1] if rest else "",
            brand=brand,
            categories=tuple(categories),
            tags=tuple(tags),
            published=published,
            rating_value=_number(rating),
            review_count=_number(reviews),
            properties=self._properties(properties),
            offer=self._offer(own) if own else Offer(),
            variants=tuple(Variant(a[2], self._offer(a), self._properties(a[4]), a[3]) for a in articles if not a[1]),
            visible=visible,
            sku=own[2] if own else "",
        )

    def _offer(self, article: tuple[Any, ...]) -> Offer:
        words = article[5:]
        offer = self._offers.get(words)
        if offer is None:
            if len(self._offers) >= _KEPT:
                self._offers.clear()
            price, listed, entry, sales, availability, level, currency = words
            offer = self._offers[words] = Offer(
                _number(price), _number(listed), tuple(map(_sale, loads(sales))) if sales != "[]" else (),
                entry == "true", availability, _number(level), currency,
            )  # fmt: skip
        return offer

    def _properties(self, text: str) -> tuple[Property, ...]:
        properties = self._texts.get(text)
        if properties is None:
            if len(self._texts) >= _KEPT:
                self._texts.clear()
                self._single.clear()
            properties = self._texts[text] = tuple(self._one(item) for item in loads(text))
        return properties

    def _one(self, item: dict[str, Any]) -> Property:
        key = (item["name"], item.get("unit"), repr(item["values"]))
        single = self._single.get(key)
        if single is None:
            single = self._single[key] = Property(item["name"], tuple(map(_value, item["values"])), item.get("unit"))
        return single


def _among(keys: Sequence[int]) -> RawSQL:
    """Return keys as one parameter; thousands of them are slow to prepare."""
    return RawSQL("SELECT unnest(%s::bigint[])", [list(keys)])


def among_texts(texts: Sequence[str]) -> RawSQL:
    """Return texts as one parameter."""
    return RawSQL("SELECT unnest(%s::text[])", [list(texts)])


def _text(name: str) -> Cast:
    return Cast(name, TextField())


def _number(text: str | None) -> Number | None:
    return None if text is None else exact(text)


def _sale(parts: list[str | None]) -> Sale:
    price, start, end = map(_number, parts)
    return Sale(price or 0, start, end)


def _value(stored: Any) -> Written:
    if isinstance(stored, dict):
        return exact(stored["n"]) if "n" in stored else Unusable(stored["unusable"])
    return stored  # type: ignore[no-any-return]


PRODUCT_FIELDS = (
    "name", "description", "image", "url", "brand", "tags", "published", "rating_value", "review_count", "properties", "visible",
)  # fmt: skip
VARIANT_FIELDS = (
    "place", "sku", "image", "is_implicit", "price", "list_price", "has_sale_entry", "sales", "availability", "level", "currency",
    "properties",
)  # fmt: skip


def product_values(product: Product) -> list[Any]:
    """Return what a product's row holds, in the order of :data:`PRODUCT_FIELDS`."""
    return [
        product.name, product.description, product.image, product.url, product.brand, list(product.tags), product.published,
        product.rating_value, product.review_count, _stored_properties(product.properties), product.visible,
    ]  # fmt: skip


def variant_values(product: Product) -> list[list[Any]]:
    """Return what the rows of a product's variants hold, in the order of :data:`VARIANT_FIELDS`; the implicit one's where it has none."""
    is_implicit = not product.variants
    rows = []
    for place, article in enumerate(product.articles):
        offer = article.offer
        sales = [[_stored(sale.price), _stored(sale.start), _stored(sale.end)] for sale in offer.sales]
        rows.append([
            place, article.sku, article.image, is_implicit, offer.price, offer.list_price, offer.has_sale_entry, sales,
            offer.availability, offer.level, offer.currency, _stored_properties(article.properties),
        ])  # fmt: skip
    return rows


def _stored(number: Number | None) -> str | None:
    return None if number is None else written(number)


def _stored_properties(properties: Iterable[Property]) -> list[dict[str, Any]]:
    return [
        {"name": prop.name, "values": list(map(_stored_value, prop.values)), **({"unit": prop.unit} if prop.unit else {})}
        for prop in properties
    ]


def _stored_value(value: Written) -> Any:
    if isinstance(value, Unusable):
        return {"unusable": value.reason}
    return value if isinstance(value, str | bool) else {"n": written(value)}
