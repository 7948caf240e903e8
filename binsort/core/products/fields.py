"""Fields: what a product has besides its number, its attributes and its variants. Each is declared here, once.

Pages, sheet, forms, edits, tables in and out and undo derive from these declarations.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from binsort.core.values.dates import moment_text
from binsort.core.values.numbers import Number, written

from .availability import STATE_WORDS

BAR = "|"  # between several values in one cell
MONEY, NUMBER = "money", "number"


@dataclass(frozen=True, slots=True, kw_only=True)
class TableColumn:
    """A column of a table for a field, or for part of one."""

    kind: str  # how it is named inside
    label: str  # its heading, as it is written
    headers: str = ""  # further headings by which it is recognised, letter case, blanks and signs disregarded
    write: Callable[[Any], str]  # of a product, or of an offer where the field is one of offers
    is_number: bool = False
    many: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class ProductField:
    """One field of a product, or of the offers of its variants."""

    key: str  # of Product or Offer
    label: str
    kind: str = ""  # of what is typed: text, choice, number, money, sale, state, date, category, yes_no; empty: nothing by itself
    many: bool = False
    of_offer: bool = False
    needed: bool = False
    columns: tuple[TableColumn, ...]
    further_parts: tuple[str, ...] = ()  # that change with it
    source: str = ""  # the kind of facet source that tells who has a value
    narrowed_by: str = ""  # another that products are narrowed by
    pick_key: str = ""  # how an address names that facet
    least: int | None = None  # of its numbers
    most: int | None = None

    def takes(self, number: Number) -> bool:
        """Tell whether a number can be its value."""
        return (self.least is None or self.least <= number) and (self.most is None or number <= self.most)

    @property
    def limits(self) -> str:
        """The numbers that it takes, in words."""
        return f"from {self.least} to {self.most}" if self.most is not None else f"of at least {self.least}"

    @property
    def parts(self) -> tuple[str, ...]:
        """The parts of a product that it is."""
        return tuple(f"offer.{key}" if self.of_offer else key for key in (self.key, *self.further_parts))


def _number(key: str) -> Callable[[Any], str]:
    def write(holder: Any) -> str:
        value = getattr(holder, key)
        return "" if value is None else written(value)

    return write


def _text(key: str) -> Callable[[Any], str]:
    return lambda holder: str(getattr(holder, key))


def _of_sale(write: Callable[[Any], str]) -> Callable[[Any], str]:
    return lambda offer: write(offer.sales[0]) if offer.sales else ""


FIELDS: tuple[ProductField, ...] = (
    ProductField(
        key="name", label="Name", kind="text", needed=True,
        columns=(TableColumn(kind="name", label="Name", headers="title; product name; product; item name", write=_text("name")),),
    ),
    ProductField(
        key="categories", label="Category", kind="category", many=True, source="category",
        columns=(TableColumn(
            kind="category", label="Category", headers="categories; department; dept; category path; product category; section", many=True,
            write=lambda product: BAR.join(" > ".join(path) for path in product.categories),
        ),),
    ),
    ProductField(
        key="brand", label="Brand", kind="choice", source="brand", pick_key="brand",
        columns=(TableColumn(kind="brand", label="Brand", headers="make; manufacturer; maker; brand name", write=_text("brand")),),
    ),
    ProductField(
        key="tags", label="Tags", kind="choice", many=True, source="tag", pick_key="tag",
        columns=(TableColumn(
            kind="tags", label="Tags", headers="tag; keywords; labels", many=True, write=lambda product: BAR.join(product.tags),
        ),),
    ),
    ProductField(
        key="price", label="Price", kind=MONEY, of_offer=True, source="price", pick_key="price",
        columns=(TableColumn(
            kind="price", label="Price", is_number=True, write=_number("price"),
            headers="unit price; selling price; sell price; sell; retail price; retail; net price; gross price",
        ),),
    ),
    ProductField(
        key="list_price", label="List price", kind=MONEY, of_offer=True,
        columns=(TableColumn(
            kind="list_price", label="List price", is_number=True, write=_number("list_price"),
            headers="regular price; rrp; recommended price; price before; was; was price",
        ),),
    ),
    ProductField(
        key="sales", label="Sale price", kind="sale", many=True, of_offer=True, further_parts=("has_sale_entry",),
        columns=(
            TableColumn(
                kind="sale_price", label="Sale price", headers="offer price; special price; reduced price", is_number=True,
                write=_of_sale(_number("price")),
            ),
            TableColumn(
                kind="sale_start", label="Sale from", headers="sale start; sale starts; valid from; offer from",
                write=_of_sale(lambda sale: "" if sale.start is None else moment_text(sale.start)),
            ),
            TableColumn(
                kind="sale_end", label="Sale to", headers="sale end; sale ends; valid through; valid until; offer to",
                write=_of_sale(lambda sale: "" if sale.end is None else moment_text(sale.end, end=True)),
            ),
        ),
    ),
    ProductField(
        key="currency", label="Currency", of_offer=True,
        columns=(TableColumn(kind="currency", label="Currency", headers="price currency", write=_text("currency")),),
    ),
    ProductField(
        key="level", label="Stock", kind=NUMBER, of_offer=True, narrowed_by="stock", pick_key="stock",
        columns=(TableColumn(
            kind="level", label="Stock",
            headers="quantity; qty; stock qty; inventory; inventory level; stock level; on hand; in stock; in hand; free stock",
            is_number=True, write=_number("level"),
        ),),
    ),
    ProductField(
        key="availability", label="Availability", kind="state", of_offer=True,
        columns=(TableColumn(
            kind="availability", label="Availability", headers="stock state; stock status",
            write=lambda offer: STATE_WORDS.get(offer.availability, offer.availability),
        ),),
    ),
    ProductField(
        key="rating_value", label="Rating", kind=NUMBER, source="rating", least=0, most=5,
        columns=(TableColumn(
            kind="rating", label="Rating", headers="average rating; stars; review average", is_number=True, write=_number("rating_value"),
        ),),
    ),
    ProductField(
        key="review_count", label="Reviews", kind=NUMBER, least=0,
        columns=(TableColumn(
            kind="reviews", label="Reviews", headers="review count; number of reviews; ratings", is_number=True,
            write=_number("review_count"),
        ),),
    ),
    ProductField(
        key="published", label="Date added", kind="date", source="published", pick_key="added",
        columns=(TableColumn(
            kind="published", label="Date added", headers="published; date published; added; released; release date",
            write=lambda product: product.published.isoformat() if product.published else "",
        ),),
    ),
    ProductField(
        key="visible", label="Shown to shoppers", kind="yes_no",
        columns=(TableColumn(
            kind="visible", label="Shown to shoppers", headers="visible; shown; active; is visible; web shop; online",
            write=lambda product: "yes" if product.visible else "no",
        ),),
    ),
    ProductField(
        key="sku", label="Article number",
        columns=(TableColumn(kind="own_sku", label="Article number", headers="number of the article itself", write=_text("sku")),),
    ),
    ProductField(
        key="description", label="Description", kind="text",
        columns=(TableColumn(kind="description", label="Description", headers="text; long description", write=_text("description")),),
    ),
    ProductField(
        key="image", label="Picture", kind="text",
        columns=(TableColumn(kind="image", label="Picture", headers="image; photo; image url; picture url", write=_text("image")),),
    ),
    ProductField(
        key="url", label="Address", kind="text",
        columns=(TableColumn(kind="url", label="Address", headers="url; link; page", write=_text("url")),),
    ),
)  # fmt: skip

BY_KEY = {field.key: field for field in FIELDS}
BY_COLUMN = {column.kind: field for field in FIELDS for column in field.columns}
OF_OFFERS = tuple(field.key for field in FIELDS if field.of_offer and field.kind)  # that can be typed
SINGLE_OF_OFFERS = tuple(field.key for field in FIELDS if field.of_offer and field.kind and not field.many)
NUMERIC = frozenset(field.key for field in FIELDS if field.kind in (MONEY, NUMBER))
TEXTS = tuple(field.key for field in FIELDS if field.kind in ("text", "choice") and not field.many)
