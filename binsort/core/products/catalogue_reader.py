"""The catalogue file: JSON Lines of schema.org products, read leniently and exactly."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from binsort.core.values.dates import day, instant
from binsort.core.values.numbers import Number, TooLong, Unusable, plain, written
from binsort.core.values.strict_json import BadJson, loads
from binsort.core.values.text import category_path, normalise, trim

from .product import Offer, Product, Property, Sale, Variant, Written

Report = Callable[[str], None]


class BrokenLine(ValueError):
    """A line that is no product; its text says why."""


@dataclass(slots=True)
class Catalogue:
    """Products in the order of the file, and what was reported while reading."""

    products: list[Product]
    reports: list[str] = field(default_factory=list)
    broken: list[tuple[int, str]] = field(default_factory=list)


def read_catalogue(lines: Iterable[bytes]) -> Catalogue:
    """Read a catalogue file, skipping and reporting broken lines.

    >>> read_catalogue([b'{"sku": "A", "name": "Horn cleat"}', b"{"]).broken
    [(2, 'not JSON: Expecting property name enclosed in double quotes')]
    """
    products: dict[str, Product] = {}
    catalogue = Catalogue([])
    currency = ""
    for number, product in _read_lines(lines, catalogue):
        products[product.id] = product  # a later line takes the place of the first
        for offer in (product.offer, *(variant.offer for variant in product.variants)):
            currency = currency or offer.currency
            if offer.currency and offer.currency != currency:
                catalogue.reports.append(
                    f"line {number}: product {product.id} has a price in {offer.currency}, the catalogue is in {currency}"
                )
                break
    catalogue.products = list(products.values())
    return catalogue


def _read_lines(lines: Iterable[bytes], catalogue: Catalogue) -> Iterator[tuple[int, Product]]:
    for number, raw in enumerate(lines, 1):
        line = raw.removeprefix(b"\xef\xbb\xbf") if number == 1 else raw
        if not line.strip(b" \t\r\n"):
            continue
        try:
            yield number, read_line(line, lambda text, n=number: catalogue.reports.append(f"line {n}: {text}"))  # type: ignore[misc]
        except BrokenLine as error:
            catalogue.broken.append((number, str(error)))


def read_line(line: bytes, report: Report = lambda text: None) -> Product:
    """Read one line. Raises BrokenLine with the reason in words."""
    return read_product(document_in(line), report)


def document_in(line: bytes) -> dict[str, Any]:
    """Return the object that a line holds. Raises BrokenLine."""
    try:
        document = loads(line.decode("utf-8"))
    except UnicodeDecodeError as error:
        raise BrokenLine("not UTF-8") from error
    except BadJson as error:
        raise BrokenLine(str(error)) from error
    if not isinstance(document, dict):
        raise BrokenLine("not an object")
    return document


def read_product(source: dict[str, Any], report: Report = lambda text: None, *, strict: bool = False) -> Product:
    """Build a product from a schema.org ``Product`` or ``ProductGroup`` object.

    Args:
        source: the object.
        report: called with a sentence for each value that cannot be used.
        strict: also for what stands where a number belongs and is none; a catalogue file passes over that.

    Raises:
        BrokenLine: it has no identity or no name.
    """
    identity = _identity(source.get("productGroupID")) or _identity(source.get("sku"))
    if not identity:
        raise BrokenLine("no productGroupID and no sku")
    name = _text(source.get("name"))
    if not name:
        raise BrokenLine("no name")
    number = _NumberReader(report, identity, strict=strict)
    rating = _object(source.get("aggregateRating"))
    count = number(rating.get("reviewCount"), "reviewCount")
    offer = _offer(source, number)
    variants = tuple(_variants(source, offer or Offer(), number))
    own = _identity(source.get("sku"))
    return Product(
        id=identity,
        name=name,
        description=_text(source.get("description")),
        image=_text(source.get("image")),
        url=_text(source.get("url")),
        brand=_brand(source.get("brand")),
        categories=tuple(path for text in _listed(source.get("category"), str) if (path := category_path(text))),
        tags=_tags(source.get("keywords")),
        published=day(_text(source.get("datePublished"))),
        rating_value=number(rating.get("ratingValue"), "ratingValue"),
        review_count=number(rating.get("ratingCount"), "ratingCount") if count is None else count,
        properties=_properties(source, number),
        offer=offer or Offer(),
        variants=variants,
        visible=source.get("isVisible") is not False,
        sku="" if variants or own == identity else own,
    )


def read_properties(items: list[Any]) -> tuple[Property, ...]:
    """Return the attributes that schema.org ``PropertyValue`` objects give."""
    return _properties({"additionalProperty": items}, _NumberReader(lambda text: None, ""))


class _NumberReader:
    """Reads a number where one is expected, reporting those that are too long."""

    def __init__(self, report: Report, product: str, *, strict: bool = False) -> None:
        self._report, self._product, self._strict = report, product, strict

    def __call__(self, written: Any, name: str) -> Number | None:
        number = self._read(written, name)
        if self._strict and number is None and written not in (None, "") and not isinstance(written, Unusable):
            self._report(f"product {self._product}: {name} is no number")
        return number

    def _read(self, written: Any, name: str) -> Number | None:
        if isinstance(written, str):
            try:
                return plain(trim(written))
            except TooLong:
                written = Unusable("a number of more than 1,000 digits")
        if isinstance(written, Unusable):
            self.too_long(name)
        return written if isinstance(written, int | Fraction) and not isinstance(written, bool) else None

    def too_long(self, name: str) -> None:
        self._report(f"product {self._product}: {name} is a number of more than 1,000 digits, read as no value")


def _identity(given: Any) -> str:
    if isinstance(given, str):
        return trim(given)
    return written(given) if isinstance(given, int) and not isinstance(given, bool) else ""


def _text(written: Any) -> str:
    return normalise(written) if isinstance(written, str) else ""


def _object(written: Any) -> dict[str, Any]:
    return written if isinstance(written, dict) else {}


def _listed(written: Any, kind: type) -> list[Any]:
    """Return the items of a list, or the single one that stands for it, of this type."""
    return [item for item in (written if isinstance(written, list) else [written]) if isinstance(item, kind)]


def _brand(written: Any) -> str:
    return _text(written.get("name") if isinstance(written, dict) else written)


def _tags(written: Any) -> tuple[str, ...]:
    parts = written.split(",") if isinstance(written, str) else _listed(written, str)
    return tuple(tag for tag in map(normalise, parts) if tag)


def _last_part(written: Any) -> str:
    return trim(written).rsplit("/", 1)[-1] if isinstance(written, str) else ""


def _properties(source: dict[str, Any], number: _NumberReader) -> tuple[Property, ...]:
    properties = []
    for item in _listed(source.get("additionalProperty"), dict):
        name = _text(item.get("name"))
        unit = _text(item.get("unitText")) or None
        raw = item.get("value")
        values = [_value(part, unit, name, number) for part in (raw if isinstance(raw, list) else [raw])]
        if name:
            properties.append(Property(name, tuple(value for value in values if value is not None), unit))
    return tuple(properties)


def _value(written: Any, unit: str | None, name: str, number: _NumberReader) -> Written | None:
    if isinstance(written, str):
        text = normalise(written)
        try:
            read = plain(text) if unit else None
        except TooLong:
            written = Unusable("a number of more than 1,000 digits")
        else:
            return text or None if read is None else read
    if isinstance(written, Unusable):
        number.too_long(name)
    return written if isinstance(written, bool | int | Fraction | Unusable) else None


def _variants(source: dict[str, Any], offer: Offer, number: _NumberReader) -> Iterator[Variant]:
    for item in _listed(source.get("hasVariant"), dict):
        yield Variant(_identity(item.get("sku")), _offer(item, number) or offer, _properties(item, number), _text(item.get("image")))


def _offer(source: dict[str, Any], number: _NumberReader) -> Offer | None:
    offers = _listed(source.get("offers"), dict)
    if not offers:
        return None
    first = offers[0]
    entries = _listed(first.get("priceSpecification"), dict)
    lists = [number(entry.get("price"), "ListPrice") for entry in entries if _last_part(entry.get("priceType")) == "ListPrice"]
    sales = [entry for entry in entries if _last_part(entry.get("priceType")) == "SalePrice"]
    level = first.get("inventoryLevel")
    return Offer(
        price=number(first.get("price"), "price"),
        list_price=next((price for price in lists if price is not None), None),
        sales=tuple(sale for entry in sales if (sale := _sale(entry, number))),
        has_sale_entry=bool(sales),
        availability=_last_part(first.get("availability")),
        level=number(level.get("value") if isinstance(level, dict) else level, "inventoryLevel"),
        currency=_text(first.get("priceCurrency")),
    )


def _sale(entry: dict[str, Any], number: _NumberReader) -> Sale | None:
    """Return a sale price that can be valid at some time, None for one without a price or with an unreadable end."""
    price = number(entry.get("price"), "SalePrice")
    start, end = _text(entry.get("validFrom")), _text(entry.get("validThrough"))
    begins, ends = instant(start), instant(end, end=True)
    if price is None or (start and begins is None) or (end and ends is None):
        return None
    return Sale(price, begins, ends)
