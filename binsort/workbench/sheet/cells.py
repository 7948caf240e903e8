"""The parts of the catalogue sheet: columns, cells, rows, and what a field is to the counting engine and to the search."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from pyroaring import BitMap

from binsort.catalog.dictionary.entry import Entry
from binsort.catalog.models import Product as Row
from binsort.catalog.models import Variant
from binsort.core.facets.kinds import kind_of
from binsort.core.facets.spec import Source
from binsort.core.index.bitmaps import union
from binsort.core.index.catalogue_index import GivenAttribute, Index
from binsort.core.insight.proposals import attribute_document, dated_document, proposed
from binsort.core.products.edits import Field
from binsort.core.products.fields import BY_KEY
from binsort.core.values.colours import swatch
from binsort.core.values.text import identity
from binsort.racks.shown_facet import Swatch


def missing_words(count: int, label: str) -> str:
    """Say where the hatch of a coverage vessel leads."""
    words = ngettext("Show the %(count)s product without %(label)s", "Show the %(count)s products without %(label)s", count)
    return words % {"count": f"{count:,}", "label": label}


MEANT = "meant"  # in an address: products of categories where hardly anything has a value are left out


def sheet_key(source: Source) -> str:
    """Return the key of the column that holds what a source reads; empty where none does alone."""
    if source.kind == "attribute":
        return Field("attribute", source.attribute).key
    return next((key for key, field in BY_KEY.items() if field.source == source.kind and Source(source.kind) == source), "")


@dataclass(frozen=True, slots=True)
class SheetColumn:
    """A column: its field, and how many products of the listing have a value."""

    key: str
    label: str
    hint: str
    pick_key: str  # of its facet in the address; empty where it has none
    covered: int  # hundredths
    missing: int
    missing_address: str
    is_missing_picked: bool
    open_address: str  # with the choices of its facet shown
    is_number: bool
    sort_address: str  # empty where it cannot be sorted by
    is_sorted: str  # ascending, descending, or not
    kind: str
    unit: str
    many: bool
    width: int

    @property
    def missing_words(self) -> str:
        """Where its hatch leads."""
        return missing_words(self.missing, self.label)


@dataclass(frozen=True, slots=True)
class Cell:
    """One field of one product."""

    key: str
    label: str
    text: str  # as typed
    words: str  # as read
    varies: bool
    is_number: bool
    swatch: Swatch | None

    @property
    def is_missing(self) -> bool:
        """Whether there is no value."""
        return not self.words


@dataclass(frozen=True, slots=True)
class SheetRow:
    """A product."""

    identity: str
    name: str
    image: str
    visible: bool
    variants: int
    cells: tuple[Cell, ...]

    @property
    def note(self) -> str:
        """What is said behind its number."""
        variants = ngettext("%(count)s variant", "%(count)s variants", self.variants) % {"count": f"{self.variants:,}"}
        notes = [*([variants] if self.variants else []), *([] if self.visible else [_("hidden")])]
        return "".join(f" · {note}" for note in notes)


@dataclass(frozen=True, slots=True)
class Chip:
    """What the rows are narrowed by, with its way out."""

    text: str
    address: str


def colours_of(attribute: str, word: str) -> tuple[str, ...]:
    """Return the colours that a word of an attribute about colours names."""
    return tuple(swatch(word)) if "colo" in identity(attribute) else ()


def searched(text: str) -> set[int]:
    """Return the primary keys of the products whose name, number or variant's number holds a text; each by its index of letters."""
    text = text.replace("\0", "")
    rows = Row.objects.filter(name__icontains=text).values_list("pk", flat=True)
    by_number = Row.objects.filter(identity__icontains=text).values_list("pk", flat=True)
    by_variant = Variant.objects.filter(sku__icontains=text).values_list("product_id", flat=True)
    return set(rows.order_by().union(by_number.order_by(), by_variant.order_by()))


def tagged(index: Index, text: str) -> BitMap:
    """Return the visible products with a tag that holds a text."""
    wanted, column = identity(text), index.column(Source("tag"))
    return union(column.members(code) for code, value in enumerate(column.values) if wanted in value.identity)


def document_of(index: Index, entry: Entry, known: Mapping[str, GivenAttribute]) -> dict[str, Any] | None:
    """Return the facet that narrows by a field."""
    kind = entry.field.kind
    if kind == "attribute":
        given = known.get(identity(entry.field.name))
        return attribute_document(index, given)[1] if given else None
    if kind == "published":
        return dated_document(index)
    field = BY_KEY[kind]
    return proposed(index, kind_of(field.narrowed_by or field.source))
