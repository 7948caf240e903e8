"""The dictionary: every attribute with its coverage, its values and look-alikes, and what a change of it would touch."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from urllib.parse import urlencode

from django import forms
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.catalog.dictionary.attributes import definitions, state_mark
from binsort.catalog.models import Attribute, AttributeValue
from binsort.changes.attributes import Definition
from binsort.core.facets.spec import Source
from binsort.core.index.catalogue_index import Index
from binsort.core.index.columns import VARIANT, Column
from binsort.core.insight.coverage import having, percent
from binsort.core.insight.look_alikes import LookAlike, look_alikes
from binsort.core.values.text import identity
from binsort.core.values.units import KNOWN
from binsort.racks import facet_use
from binsort.racks.facet_use import Touched
from binsort.racks.shown_facet import Swatch
from binsort.tally.current import current
from binsort.workbench.sheet.cells import colours_of, missing_words

VALUES = 300  # shown at once
_COMPARED = 800  # values looked through for look-alikes


@dataclass(frozen=True, slots=True)
class AttributeLine:
    """An attribute in the list."""

    row: Attribute
    covered: int  # hundredths
    count: int
    missing: int
    values: int
    first: tuple[str, ...]
    alike: int
    facets: int

    @property
    def missing_address(self) -> str:
        """Where the products without a value are."""
        return missing_address(self.row)

    @property
    def missing_words(self) -> str:
        """What leads there, in words."""
        return missing_words(self.missing, self.row.name)


@dataclass(frozen=True, slots=True)
class ValueLine:
    """A value of an attribute."""

    text: str
    count: int
    swatch: Swatch | None
    colours: str  # as typed
    image: str
    note: str


@dataclass(frozen=True, slots=True)
class AttributePage:
    """All that the page of one attribute shows."""

    row: Attribute
    mark: str
    total: int
    count: int
    covered: int
    values: tuple[ValueLine, ...]
    more: int
    find: str
    alike: tuple[LookAlike, ...]
    alike_counts: Mapping[str, int]
    touched: Touched

    @property
    def missing(self) -> int:
        """How many products have no value."""
        return self.total - self.count

    @property
    def missing_address(self) -> str:
        """Where they are."""
        return missing_address(self.row)

    @property
    def missing_words(self) -> str:
        """What leads there, in words."""
        return missing_words(self.missing, self.row.name)


def missing_address(row: Attribute) -> str:
    """Return the address of the products without a value of an attribute."""
    return f"{reverse('catalogue')}?{urlencode({'missing': f'attribute:{row.identity}'})}"


class AttributeForm(forms.Form):
    """What an attribute is."""

    name = forms.CharField(label=_l("Name"), max_length=200)
    kind = forms.ChoiceField(label=_l("Kind"), choices=Attribute.Kind.choices)
    unit = forms.CharField(label=_l("Unit"), required=False, max_length=30)
    many = forms.BooleanField(label=_l("May hold several values"), required=False)
    on_variants = forms.BooleanField(label=_l("Sits on variants"), required=False)
    narrowing = forms.BooleanField(label=_l("Serves narrowing"), required=False)
    on_pages = forms.BooleanField(label=_l("Serves product pages"), required=False)
    note = forms.CharField(label=_l("What it means"), required=False, max_length=500)

    def clean_unit(self) -> str:
        """A unit is of a number, and one that is known."""
        unit = str(self.cleaned_data["unit"]).strip()
        if unit and self.cleaned_data.get("kind") == Attribute.Kind.NUMBER and unit not in KNOWN and len(unit) > 12:
            raise forms.ValidationError(_("That is no unit. Write one as mm, kg or kN, or leave it empty."))
        return unit

    @property
    def definition(self) -> Definition:
        """What was typed."""
        return Definition(**self.cleaned_data)


def attribute_lines() -> list[AttributeLine]:
    """Return every attribute of the dictionary with its coverage."""
    index, facets = current().index, facet_use.facets_by_attribute()
    return [_line(index, row, len(facets.get(row.identity, ()))) for row in definitions().values()]


def _line(index: Index, row: Attribute, facets: int) -> AttributeLine:
    source, total = Source("attribute", row.name), len(index.every_product)
    count = len(having(index, source))
    counts = value_counts(index, row.name)
    return AttributeLine(
        row=row,
        covered=percent(count, total) if total else 0,
        count=count,
        missing=total - count,
        values=len(counts),
        first=tuple(text for text, _ in counts.most_common(3)),
        alike=len(_alike(row, counts)),
        facets=facets,
    )


def value_counts(index: Index, name: str) -> Counter[str]:
    """Return how many products have each value of an attribute, by its spelling."""
    column = index.column(Source("attribute", name))
    return Counter({value.label: _count(index, column, code) for code, value in enumerate(column.values)})


def _count(index: Index, column: Column, code: int) -> int:
    members = column.members(code)
    return index.count_products(members) if column.level == VARIANT else len(members)


def _alike(row: Attribute, counts: Counter[str]) -> list[LookAlike]:
    if row.kind not in (Attribute.Kind.CHOICE,) or len(counts) > _COMPARED:
        return []
    return look_alikes(counts)


def attribute_page(row: Attribute, find: str = "") -> AttributePage:
    """Build the page of an attribute."""
    index = current().index
    counts = value_counts(index, row.name)
    described = {value.identity: value for value in row.values.all()}
    spelled = {identity(text): text for text in counts}
    order = [*(key for key in described), *(identity(text) for text, _ in counts.most_common() if identity(text) not in described)]
    wanted = identity(find)
    lines = [_value(row, spelled.get(key) or described[key].text, counts, described.get(key)) for key in order if wanted in key]
    alike = _alike(row, counts)
    total, count = len(index.every_product), len(having(index, Source("attribute", row.name)))
    return AttributePage(
        row=row,
        mark=state_mark(row),
        total=total,
        count=count,
        covered=percent(count, total) if total else 0,
        values=tuple(lines[:VALUES]),
        more=max(0, len(lines) - VALUES),
        find=find,
        alike=tuple(alike[:20]),
        alike_counts=counts,
        touched=touched(row),
    )


def _value(row: Attribute, text: str, counts: Mapping[str, int], described: AttributeValue | None) -> ValueLine:
    colours = tuple(described.colours) if described else ()
    shown = colours or (colours_of(row.name, text) if row.kind == Attribute.Kind.CHOICE else ())
    swatch = Swatch(shown, clear=False) if shown else None
    return ValueLine(
        text, counts.get(text, 0), swatch, " ".join(colours), described.image if described else "", described.note if described else ""
    )


def touched(row: Attribute) -> Touched:
    """Return what deleting or switching off an attribute touches."""
    facets = facet_use.facets_of_attribute(row.name)
    index = current().index
    count = len(having(index, Source("attribute", row.name)))
    return Touched(tuple(facets), tuple(facet_use.racks_of({key for key, _ in facets})), count)


def moved_value(row: Attribute, text: str, way: str) -> list[str]:
    """Return the values of an attribute in their order with one of them moved ``up``, ``down`` or to the ``top``."""
    texts = [value.text for value in attribute_page(row).values]
    if text in texts:
        place = texts.index(text)
        texts.insert({"top": 0, "up": max(0, place - 1)}.get(way, place + 1), texts.pop(place))
    return texts
