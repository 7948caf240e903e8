"""Values that no product has yet: asked about before they stand in the shop, each beside the known one that is most like it."""

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from django.utils.translation import gettext as _
from rapidfuzz import fuzz, process

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.dictionary.entry import Entry, shown, source_of
from binsort.catalog.models import AttributeValue
from binsort.core.index.catalogue_index import Index
from binsort.core.index.columns import VARIANT
from binsort.core.products.edits import held
from binsort.core.products.product import Product
from binsort.core.values.text import identity
from binsort.tally.current import NotReady, current

from .locks import Refused

_LIKE = 55  # of a hundred: how like a known value is to be named


@dataclass(frozen=True, slots=True)
class NewValue:
    """A value that nothing has yet."""

    key: str  # of its field
    label: str
    text: str
    like: str  # the known value that is most like it, empty for none


class NewValues(Refused):
    """Values that nothing has yet; somebody has to say that they are meant."""

    def __init__(self, values: Sequence[NewValue]) -> None:
        self.values = tuple(values)
        super().__init__(_("No product has %(values)s yet.") % {"values": ", ".join(f"“{one.text}”" for one in values)})


def ask_about_new(before: Product, after: Product, entries: Iterable[Entry]) -> None:
    """Raise NewValues where a product gets choices, tags or a brand that nothing in the shop has yet.

    The first value of a field, and whatever the dictionary names, is not asked about.
    """
    found = [one for entry in entries if _is_chosen(entry) for one in _new_of(before, after, entry)]
    if found:
        raise NewValues(found)


def _is_chosen(entry: Entry) -> bool:
    return entry.kind == "choice" and (entry.field.kind == "attribute" or entry.field.kind in ("brand", "tags"))


def _new_of(before: Product, after: Product, entry: Entry) -> Iterator[NewValue]:
    was = set(held(before, entry.field))
    came = [shown(entry, (value,)) for value in held(after, entry.field) if value not in was]
    if not came:
        return
    known = _known(entry)
    for text in came:
        if known and identity(text) not in known:
            like = process.extractOne(identity(text), known.keys(), scorer=fuzz.ratio, score_cutoff=_LIKE)
            yield NewValue(entry.key, entry.label, text, known[like[0]] if like else "")


def known_values(index: Index, entry: Entry) -> list[tuple[str, int]]:
    """Return the values that a field has, with how many products have each, the most frequent first; the dictionary's own among them."""
    source = source_of(entry)
    if source is None:
        return []
    column, counts = index.column(source), Counter[str]()
    for code, value in enumerate(column.values):
        members = column.members(code)
        counts[value.label] = index.count_products(members) if column.level == VARIANT else len(members)
    if entry.field.kind == "attribute":
        row = definitions().get(identity(entry.field.name))
        for text in AttributeValue.objects.filter(attribute=row).values_list("text", flat=True):
            counts.setdefault(text, 0)
    return counts.most_common()


def _known(entry: Entry) -> dict[str, str]:
    """Return the values that there are, as written, by their identity; none where nothing is counted yet."""
    try:
        return {identity(text): text for text, _count in reversed(known_values(current().index, entry))}
    except NotReady:
        return {}
