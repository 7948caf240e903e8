"""Add a facet: every source of the catalogue, tried on a listing, best first."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import islice
from urllib.parse import urlencode

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l
from django.utils.translation import ngettext

from binsort.core.facets.kinds import kind_of
from binsort.core.index.columns import Column
from binsort.core.insight.coverage import percent
from binsort.core.insight.proposals import DATES, NUMBERS, TEXT, VALUES, Proposal, proposals
from binsort.core.values.numbers import written
from binsort.core.values.sizes import are_sizes
from binsort.core.values.text import category_path, identity
from binsort.racks.attribute_use import not_narrowing
from binsort.racks.controls import control_of
from binsort.racks.models import Setup
from binsort.racks.number_words import Words, words_of
from binsort.racks.pictures import pictures_of
from binsort.racks.presentation import shown
from binsort.racks.shown_facet import Shown
from binsort.tally.current import Current
from binsort.workbench.rack.page import EVERY, Sight, listing_query, listings, rack_address
from binsort.workbench.shelf.view import ShelfView, shelf_of, source_words

_ELSEWHERE_SHOWN = 12  # facets of other racks
GROUPS = ((VALUES, _l("Values")), (NUMBERS, _l("Numbers")), (DATES, _l("Dates")), (TEXT, _l("In tags and text")))


@dataclass(frozen=True, slots=True)
class SourceView:
    """A source as a small shelf, with what it would do."""

    key: str
    label: str
    address: str  # where it stands open
    words: str
    group: str
    shelf: ShelfView
    sentence: str
    binned: int
    few: bool
    chosen: bool
    settings: tuple[tuple[str, str], ...]
    preview: Shown | None
    again: bool = False  # a facet has this source already; taking it makes another one


@dataclass(frozen=True, slots=True)
class AddPage:
    """All that the page shows."""

    edition_id: int
    rack: str
    rack_label: str
    rack_address: str
    listing_path: str
    listings: tuple[tuple[str, str], ...]
    total: int
    sources: tuple[SourceView, ...]
    chosen: SourceView | None
    groups: tuple[tuple[str, str, int], ...]
    count: int
    there: tuple[ShelfView, ...]
    elsewhere: tuple[ShelfView, ...]  # facets of other racks, the first ones
    more_elsewhere: int  # further ones

    @property
    def listing_query(self) -> str:
        """What keeps the listing in an address of another page."""
        return listing_query(self.listing_path)


def add_page(setup: Setup, *, rack: str, category: str, group: str, find: str, source: str) -> AddPage:
    """Build the page: the sources of a group that match what is looked for, one of them opened."""
    sight = Sight(setup, [("category", category)] if category else [], rack=rack)
    proposed = _proposals(sight)
    wanted, asked = identity(find), {"rack": rack, "category": sight.listing_path, "group": group, "find": find}
    kept = [item for item in proposed if (not group or item.group == group) and _matches(item, wanted)]
    opened = next((item.spec.key for item in kept if item.spec.key == source), kept[0].spec.key if kept else "")
    sources = tuple(
        replace(_source(sight.held, item, opened, f"?{urlencode({**asked, 'source': item.spec.key})}"), again=_is_used(sight, item))
        for item in kept
    )
    return AddPage(
        edition_id=sight.edition.pk,
        rack=sight.rack.key,
        rack_label=sight.rack.label,
        rack_address=rack_address(sight.edition.document, sight.rack.key) + listing_query(sight.listing_path),
        listing_path=sight.listing_path,
        listings=listings(),
        total=len(sight.state.products),
        sources=sources,
        chosen=next((item for item in sources if item.chosen), None),
        groups=tuple((name, str(words), sum(item.group == name for item in proposed)) for name, words in GROUPS),
        count=len(proposed),
        there=tuple(sight.shelf(facet) for facet in sight.state.rack.facets),
        elsewhere=tuple(islice(_elsewhere(sight, setup, wanted), _ELSEWHERE_SHOWN)),
        more_elsewhere=max(0, _count_elsewhere(sight, wanted) - _ELSEWHERE_SHOWN),
    )


def proposal_named(setup: Setup, category: str, key: str) -> Proposal | None:
    """Return the proposal of this key on a listing, None where there is none."""
    sight = Sight(setup, [("category", category)] if category_path(category) else [])
    return next((item for item in _proposals(sight) if item.spec.key == key), None)


def _keys_elsewhere(sight: Sight, wanted: str) -> list[str]:
    """Return the keys of the facets that other racks have and this one does not, by letters of their labels."""
    document = sight.edition.document
    on_racks = {key for rack in document["racks"] for key in rack["facets"]} - set(sight.state.rack.by_key)
    return [facet["key"] for facet in document["facets"] if facet["key"] in on_racks and wanted in identity(facet["label"])]


def _count_elsewhere(sight: Sight, wanted: str) -> int:
    return len(_keys_elsewhere(sight, wanted))


def _elsewhere(sight: Sight, setup: Setup, wanted: str) -> Iterator[ShelfView]:
    """Yield the facets that other racks have and this one does not."""
    keys = _keys_elsewhere(sight, wanted)
    if keys:
        every = Sight(setup, sight.fixed, rack=EVERY)
        yield from (every.shelf(every.state.rack.by_key[key]) for key in keys)


def _proposals(sight: Sight) -> list[Proposal]:
    """Return the proposals, those of a source that a facet has already last: they make another facet of it."""
    specs = sight.edition.facet_file.facets
    everything = proposals(sight.held.index, sight.state.listing, [spec.key for spec in specs])
    off = not_narrowing()
    served = [item for item in everything if identity(item.spec.source.attribute) not in off]
    return sorted(served, key=lambda item: _is_used(sight, item))


def _is_used(sight: Sight, item: Proposal) -> bool:
    """Tell whether a facet of the draft has the source of a proposal."""
    specs = sight.edition.facet_file.facets
    return _used(item.spec.source.column_key) in {_used(spec.source.column_key) for spec in specs}


def _used(column_key: tuple[str, ...]) -> tuple[str, ...]:
    """Return what makes a source the same to people: the unit does not matter."""
    return (column_key[0], column_key[1], *column_key[3:])


_LEAST = 3  # letters from which on words of the trade are found by their beginning
_SIZES = ("size", "sizes", "dimension", "measure")


def _matches(item: Proposal, wanted: str) -> bool:
    if not wanted or wanted in identity(item.spec.label):
        return True
    facet, kind = item.state.rack.facets[0], kind_of(item.spec.source.kind)
    is_size = item.spec.source.kind == "attribute" and (bool(facet.column.numbers) or are_sizes([bin.label for bin in facet.bins]))
    known = (*kind.known_as, *(_SIZES if is_size else ()))
    if wanted in known or (len(wanted) >= _LEAST and any(word.startswith(wanted) or wanted.startswith(word) for word in known)):
        return True
    return any(wanted in identity(bin.label) for bin in item.state.rack.facets[0].bins)


def _source(held: Current, item: Proposal, opened: str, address: str) -> SourceView:
    facet = item.state.rack.facets[0]
    look = item.document.get("look", {})
    words = words_of(facet, held.index.unit(item.spec.source), held.currency, look)
    total = len(item.state.products)
    chosen = item.spec.key == opened
    answer = item.state.facet(facet) if chosen else None
    return SourceView(
        key=item.spec.key,
        label=item.spec.label,
        address=address,
        words=_source_line(item, words, facet.column),
        group=item.group,
        shelf=shelf_of(item.state, facet, look, words, width=446),
        sentence=_sentence(item, total),
        binned=percent(item.binned, total) if total else 0,
        few=item.binned * 2 < total,
        chosen=chosen,
        settings=_settings(item, words) if chosen else (),
        preview=shown(item.state, facet, answer, look, words, pictures_of(item.state, facet, look)) if answer else None,
    )


def _source_line(item: Proposal, words: Words, column: Column) -> str:
    text = source_words(item.state.rack.facets[0], words)
    if item.group == NUMBERS and column.numbers:
        return f"{text} · {words.range(column.numbers[0], column.numbers[-1], inclusive=True)}"
    count = len(item.bins)
    return f"{text} · {ngettext('%(count)s bin', '%(count)s bins', count) % {'count': f'{count:,}'}}"


def _sentence(item: Proposal, total: int) -> str:
    if len(item.bins) == 1:
        return _("One choice: it leaves %(left)s of %(total)s products.") % {"left": f"{item.bins[0]:,}", "total": f"{total:,}"}
    left_out = total - item.binned
    numbers = {"binned": item.binned, "bins": len(item.bins), "average": round(item.average), "none": left_out}
    text = _("Splits %(binned)s products into %(bins)s bins; a pick leaves %(average)s on average.")
    if left_out * 4 > total:
        text = f"{text} {_('%(none)s have none.')}"
    return text % {name: f"{number:,}" for name, number in numbers.items()}


def _settings(item: Proposal, words: Words) -> tuple[tuple[str, str], ...]:
    document = item.document
    settings = [(_("Control"), _("%(control)s, with counts") % {"control": control_of(document.get("look", {})).sentence})]
    cuts = document.get("cuts", [])
    if cuts:
        text = ", ".join(cut if isinstance(cut, str) else written(cut) for cut in cuts)
        settings.append((_("Cuts"), f"{text}{' ' + words.unit if words.unit else ''}"))
    settings.append((_("Matching"), _("any of")))
    settings.append((_("Empty bins"), _("dimmed") if document.get("empty") in ("dim", "emptied") else _("hidden")))
    return (*settings, (_("Place"), _("at the end")))
