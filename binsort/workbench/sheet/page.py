"""The catalogue as a sheet: products as rows, fields as columns headed by their coverage, narrowed by facets of its own."""

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from django.utils.translation import gettext as _
from pyroaring import BitMap

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.dictionary.entry import Entry, entries, shown, source_of
from binsort.catalog.files.export import FORMS
from binsort.catalog.models import Attribute, AttributeValue
from binsort.catalog.models import Product as Row
from binsort.catalog.store.product_rows import products_of
from binsort.core.answers.answer import State
from binsort.core.answers.by_value import part_by_value
from binsort.core.answers.ordering import ordered_part
from binsort.core.facets.spec import FacetSpec, Source, facet_spec
from binsort.core.index.catalogue_index import CATEGORY, GivenAttribute
from binsort.core.insight.coverage import having, not_asked, percent
from binsort.core.products.availability import in_stock_words, summed_up
from binsort.core.products.edits import Held, held_and_varies
from binsort.core.products.fields import BY_KEY
from binsort.core.products.product import Product
from binsort.core.values.text import category_path, identity
from binsort.racks.addresses import Pair, query_string
from binsort.racks.number_words import bare_money, bin_words, money_sign, words_of
from binsort.racks.shown_facet import Swatch
from binsort.tally.current import Current, current
from binsort.workbench.rack.page import listings

from .cells import MEANT, Cell, Chip, SheetColumn, SheetRow, colours_of, document_of, searched, tagged

PER = 50
COLUMNS = 6  # attributes that are shown unless others are chosen
FIRST, LAST = ("categories", "brand"), ("price", "level")
FIXED = frozenset({"name"})  # never a column of its own: it heads each row
_BY, _NAME = "by", "name"  # in an address: the column that rows stand in the order of
_HINTS = {"money": "", "number": "", "choice": "choice", "yes_no": "yes or no", "category": "tree", "state": "state"}


class Sheet:
    """The catalogue under what an address asks for: a listing, picks, what is missing, what is searched for."""

    def __init__(self, pairs: Sequence[Pair], chosen: Sequence[str] | None = None, path: str = "") -> None:
        self.path = path
        self.held: Current = current()
        self.attributes = definitions()
        self.entries = entries(self.attributes)
        self.asked = [pair for pair in pairs if pair[1]]
        self.search = next((value for key, value in reversed(self.asked) if key == "q"), "")
        self.only_hidden = ("hidden", "1") in self.asked
        by = next((value for key, value in reversed(self.asked) if key == _BY), "")
        self.down, self.by = by.startswith("-"), by.removeprefix("-")
        self._chosen = chosen
        specs = tuple(self._specs())
        rack = self.held.rack(specs) if specs else self.held.rack(())
        self.state = State(rack, rack.read(self.asked))
        self.missing = [key for key in dict.fromkeys(value for key, value in self.asked if key == "missing") if self._source(key)]

    # -- columns

    @cached_property
    def shown_keys(self) -> list[str]:
        """The keys of the columns that are shown."""
        usual = self._usual_keys()
        asked = [
            key for name, key in dict.fromkeys(self.asked) if name == "missing" and key in self.entries and key not in (*usual, *FIXED)
        ]
        return [*usual[: len(FIRST)], *asked, *usual[len(FIRST) :]]  # what is missing is seen

    def _usual_keys(self) -> list[str]:
        if self._chosen is not None:
            return [key for key in self._chosen if key in self.entries and key not in FIXED]
        index = self.held.index
        path = next((value for key, value in reversed(self.asked) if key == "category"), "")
        listing = index.listing(tuple(map(identity, category_path(path))) or None)
        wanted = [
            (len(having(index, Source("attribute", row.name)) & listing), row) for row in self.attributes.values() if row.kind != "text"
        ]
        best = sorted((item for item in wanted if item[0] or not listing), key=lambda item: -item[0])[:COLUMNS]
        return [
            *FIRST,
            *(f"attribute:{row.identity}" for _, row in sorted(best, key=lambda item: (item[1].place, item[1].identity))),
            *LAST,
        ]

    def _source(self, key: str) -> Source | None:
        entry = self.entries.get(key)
        return source_of(entry) if entry else None

    def pick_key(self, entry: Entry) -> str:
        """Return how the address names the facet of a field; empty for one without."""
        if entry.field.kind == "attribute":
            return f"a{self.attributes[identity(entry.field.name)].pk}"
        return BY_KEY[entry.field.kind].pick_key

    def _specs(self) -> Iterator[FacetSpec]:
        asked = {key for key, _ in self.asked}
        shown_keys = set(self.shown_keys)
        for entry in self.entries.values():
            key = self.pick_key(entry)
            if key and (key in asked or entry.key in shown_keys):
                spec = self.held.index.remember(("sheet", entry, key), lambda entry=entry, key=key: self._spec(entry, key))  # type: ignore[misc]
                if spec:
                    yield spec

    def _spec(self, entry: Entry, key: str) -> FacetSpec | None:
        document = document_of(self.held.index, entry, self._given)
        return facet_spec({"empty": "hide", **document, "key": key, "label": entry.label}) if document else None

    @cached_property
    def _given(self) -> dict[str, GivenAttribute]:
        """The attributes that products give, by identity."""
        return {given.identity: given for given in self.held.index.attributes()}

    @property
    def everything_or_found(self) -> list[str] | None:
        """The products found, by their numbers; None where they are the whole catalogue, hidden ones too."""
        return self.identities if self.chips or self.listing_path else None

    @property
    def forms(self) -> tuple[tuple[str, str], ...]:
        """What the products found can be taken out as: key and words."""
        return tuple((key, words) for key, (words, _) in FORMS.items())

    @cached_property
    def columns(self) -> tuple[SheetColumn, ...]:
        """The columns with their coverage of the listing."""
        return tuple(self.column(self.entries[key]) for key in self.shown_keys)

    def column(self, entry: Entry) -> SheetColumn:
        source, total = source_of(entry), len(self.listing)
        missing = len(self.listing - having(self.held.index, source)) if source else 0
        picked = entry.key in self.missing
        pairs = [pair for pair in self.asked if pair != ("missing", entry.key) and pair[0] != "page"]
        unit = entry.unit or (money_sign(self.held.currency) if entry.kind == "money" else "")
        pick_key = self.pick_key(entry)
        sort_address, is_sorted = self.sort(entry.key) if source else ("", "")
        return SheetColumn(
            key=entry.key,
            label=entry.label,
            hint=unit or _HINTS.get(entry.kind, entry.kind),
            pick_key=pick_key if pick_key in self.state.rack.by_key else "",
            covered=percent(total - missing, total),
            missing=missing,
            missing_address=self.address(pairs if picked else [*pairs, ("missing", entry.key)]),
            is_missing_picked=picked,
            open_address=self.address([*(pair for pair in self.asked if pair[0] != "open"), ("open", pick_key)]),
            is_number=entry.kind in ("number", "money"),
            sort_address=sort_address,
            is_sorted=is_sorted,
            kind=entry.kind,
            unit=unit,
            many=entry.many,
            width={"number": 104, "money": 92, "category": 168, "text": 180, "yes_no": 84}.get(entry.kind, 118),
        )

    def sort(self, key: str) -> tuple[str, str]:
        """Return the address that sorts by a column, upwards, then downwards, then not at all; and how it is sorted, as ARIA has it."""
        now = ("descending" if self.down else "ascending") if self.by == key else ""
        then = {"": key, "ascending": f"-{key}", "descending": ""}[now]
        rest = [pair for pair in self.asked if pair[0] not in (_BY, "page", "open")]
        return self.address([*rest, *([(_BY, then)] if then else [])]), now

    @property
    def name_sort(self) -> tuple[str, str]:
        """The same for the names of products."""
        return self.sort(_NAME)

    @cached_property
    def hidden_beside(self) -> int:
        """How many hidden products are not among all of the catalogue that is shown."""
        return 0 if self.only_hidden or self.chips or self.listing_path else self._hidden.count()

    # -- products

    @property
    def listing(self) -> BitMap:
        """The products of the listing."""
        return self.state.products

    @cached_property
    def found(self) -> BitMap:
        """The products that meet everything asked for."""
        return self.state.result if self._beside is None else self.state.result & self._beside

    @cached_property
    def _beside(self) -> BitMap | None:
        """The products that meet what is asked for beside picks, None where nothing is."""
        if not self.missing and not self.search:
            return None
        index = self.held.index
        result = BitMap(index.every_product)
        for key in self.missing:
            source = self._source(key)
            result = result - having(index, source) if source else result
            result = result - not_asked(index, source) if source and (MEANT, "1") in self.asked else result
        if self.search:
            slots = index.facts.slots(list(searched(self.search)))
            result = result & (BitMap([slot for slot in slots if slot is not None]) | tagged(index, self.search))
        return result

    @cached_property
    def identities(self) -> list[str]:
        """Identities of all products that are found, in the order asked for; those that are hidden where these are asked for."""
        if self.only_hidden:
            return list(self._hidden.values_list("identity", flat=True))
        return [self.held.index.ids[slot] for slot in self._part(0, len(self.found))]

    @property
    def _hidden(self) -> Any:
        rows = Row.objects.filter(visible=False)
        return rows.filter(pk__in=searched(self.search)) if self.search else rows

    @cached_property
    def total(self) -> int:
        """How many products are found."""
        return self._hidden.count() if self.only_hidden else len(self.found)

    @property
    def page(self) -> int:
        """The page that is shown, the last one where there are fewer."""
        return max(1, min(self.state.query.page, self.pages))

    @property
    def pages(self) -> int:
        """How many pages there are."""
        return -(-self.total // PER)

    def _part(self, start: int, stop: int) -> list[int]:
        if self.by == _NAME:
            return ordered_part(self.held.index.orders, "-name" if self.down else "name", self.found, start, stop)
        source = self._source(self.by)
        if source:
            return part_by_value(self.held.index, source, self.found, start, stop, down=self.down)
        return ordered_part(self.held.index.orders, "listed", self.found, start, stop)

    @cached_property
    def rows(self) -> tuple[SheetRow, ...]:
        """The products of the page."""
        start, stop = (self.page - 1) * PER, self.page * PER
        names = list(self._hidden.values_list("identity", flat=True)[start:stop]) if self.only_hidden else [
            self.held.index.ids[slot] for slot in self._part(start, stop)
        ]  # fmt: skip
        products = products_of(names, hidden=True)
        return tuple(self.row(products[name]) for name in names if name in products)

    def row(self, product: Product) -> SheetRow:
        """Return a product as a row."""
        cells = tuple(self.cell(product, self.entries[key]) for key in self.shown_keys)
        image = product.image or next((article.image for article in product.variants if article.image), "")
        return SheetRow(product.id, product.name, image, product.visible, len(product.variants), cells)

    def cell(self, product: Product, entry: Entry) -> Cell:
        """Return one field of a product."""
        values, differs = held_and_varies(product, entry.field)
        text = shown(entry, values)
        colours = self._swatch(entry, values[0][0]) if values and entry.kind == "choice" and isinstance(values[0][0], str) else None
        words = self._words(product, entry, text, (values, differs))
        return Cell(entry.key, entry.label, text, words, differs, entry.kind in ("number", "money"), colours)

    def _words(self, product: Product, entry: Entry, text: str, held: tuple[tuple[Held, ...], bool]) -> str:
        values, differs = held
        if entry.field.kind == "level":
            if product.variants:
                return summed_up(article.offer for article in product.variants)
            return in_stock_words(product.offer) if text or product.offer.availability else ""
        if entry.kind == "category":
            return ", ".join(part.rsplit(" > ", 1)[-1] for part in text.split(" | "))
        if entry.kind == "money" and text:
            prices = sorted(value for value, _ in values)
            ends = [bare_money(price, self.held.currency, short=differs) for price in (prices[0], prices[-1])]
            return f"{ends[0]}–{ends[-1]}" if differs else ends[0]
        return text.replace(" | ", ", ")

    @cached_property
    def _colours(self) -> dict[tuple[str, str], tuple[str, ...]]:
        rows = AttributeValue.objects.exclude(colours=[]).values_list("attribute__identity", "identity", "colours")
        return {(attribute, value): tuple(colours) for attribute, value, colours in rows}

    def _swatch(self, entry: Entry, word: str) -> Swatch | None:
        own = self._colours.get((identity(entry.field.name), identity(word)))
        named = own or colours_of(entry.label, word)
        return Swatch(named, clear=False) if named else None

    # -- what goes around

    def address(self, pairs: Sequence[Pair]) -> str:
        """Return the page under other pairs."""
        return self.path + query_string(pairs)

    @cached_property
    def chips(self) -> tuple[Chip, ...]:
        """What the rows are narrowed by."""
        chips = []
        for pair in dict.fromkeys(pair for pair in self.asked if pair[0] not in ("page", "per", "category")):
            words = self._chip_words(*pair)
            if words:
                rest = [other for other in self.asked if other != pair and other[0] != "page"]
                chips.append(Chip(words, self.address(rest)))
        return tuple(chips)

    def _chip_words(self, key: str, value: str) -> str:
        if key == "missing":
            return _("%(label)s: missing") % {"label": self.entries[value].label} if value in self.missing else ""
        if key == "q":
            return _("Found: %(text)s") % {"text": value}
        if key == "hidden":
            return _("Hidden from shoppers")
        facet = self.state.rack.by_key.get(key)
        if facet is None or value not in facet.by_key:
            return ""
        words = words_of(facet, self.held.index.unit(facet.spec.source), self.held.currency, {})
        return f"{facet.spec.label}: {bin_words(facet.by_key[value], words)}"

    @property
    def clear(self) -> str:
        """The page with nothing narrowed."""
        return self.address([pair for pair in self.asked if pair[0] in ("category", _BY)])

    @cached_property
    def listing_path(self) -> str:
        """The listing as the address has it."""
        return next((value for key, value in reversed(self.asked) if key == "category"), "") if self.state.listing else ""

    @cached_property
    def listings(self) -> tuple[tuple[str, str], ...]:
        """Every listing that can be looked at."""
        return listings()

    @property
    def previous(self) -> str:
        """The page before, empty on the first."""
        return self._page_address(self.page - 1) if self.page > 1 else ""

    @property
    def following(self) -> str:
        """The page after, empty on the last."""
        return self._page_address(self.page + 1) if self.page < self.pages else ""

    def _page_address(self, number: int) -> str:
        return self.address([*(pair for pair in self.asked if pair[0] != "page"), ("page", str(number))])

    @cached_property
    def first(self) -> int:
        """The number of the first product that is shown."""
        return (self.page - 1) * PER + 1 if self.total else 0

    @cached_property
    def last(self) -> int:
        """The number of the last product that is shown."""
        return min(self.page * PER, self.total)

    @cached_property
    def also_missing(self) -> tuple[tuple[str, str], ...]:
        """Where else products lack what is asked for: number and listing, with the address; the fullest three."""
        if not self.missing:
            return ()
        index = self.held.index
        source = self._source(self.missing[0])
        lacking = index.every_product - having(index, source) if source else BitMap()
        elsewhere = []
        for value in index.column(CATEGORY).values:
            if len(value.nodes) == 1 and value.nodes != (self.state.listing or ())[:1]:
                count = lacking.intersection_cardinality(index.listing(value.nodes))
                if count:
                    elsewhere.append((count, value.label))
        best = sorted(elsewhere, key=lambda item: -item[0])[:3] if self.state.listing else ()
        return tuple(
            (f"{count:,} in {label}", f"{self.path}?{urlencode({'category': label, 'missing': self.missing[0]})}") for count, label in best
        )

    def choices(self, key: str) -> list[tuple[str, int, bool, str, Swatch | None]]:
        """Return the choices of a column's facet: words, products, whether it is picked, address, colours."""
        facet = self.state.rack.by_key.get(key)
        if facet is None:
            return []
        words = words_of(facet, self.held.index.unit(facet.spec.source), self.held.currency, {})
        entry = next(entry for entry in self.entries.values() if self.pick_key(entry) == key)
        choices = []
        for bin in self.state.facet(facet).bins:
            count = bin.count
            if self._beside is not None:
                count = len(self.state.result_with(facet, [facet.by_key[bin.key].members]) & self._beside)
            if count or bin.picked:
                pair = (key, bin.key)
                rest = [other for other in self.asked if other != pair and other[0] not in ("page", "open")]
                address = self.address(rest if bin.picked else [*rest, pair])
                colours = self._swatch(entry, bin.label) if entry.kind == "choice" else None
                choices.append((bin_words(facet.by_key[bin.key], words), count, bin.picked, address, colours))
        return choices


def suggest_columns(attributes: Mapping[str, Attribute]) -> list[tuple[str, str]]:
    """Return every field that can be a column: key and label."""
    return [(entry.key, entry.label) for entry in entries(attributes).values() if entry.field.kind not in FIXED]
