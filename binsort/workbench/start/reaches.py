"""Clicks on racks: those that were looked at last are kept while the catalogue stays as it is."""

from collections.abc import Mapping

from binsort.core.answers.answer import State
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import Query
from binsort.core.insight.clicks import Reach
from binsort.core.insight.what_if import reach_of
from binsort.racks.setup import Document, rack_document
from binsort.tally.current import Current

_KEPT = 8


def state_on(held: Current, document: Document, rack: str, path: tuple[str, ...] | None = None) -> State:
    """Return a rack of a set-up on a listing, nothing picked."""
    specs = {spec.key: spec for spec in facet_file(document).facets}
    return State(held.rack([specs[key] for key in rack_document(document, rack)["facets"]]), Query(category=path))


def reach_on(held: Current, state: State, shopper: str, use: Mapping[str, int]) -> Reach:
    """Return the clicks on a rack.

    Args:
        held: the counts.
        state: the rack on a listing.
        shopper: how she chooses the next shelf.
        use: how often each facet was picked in.
    """
    used = tuple(sorted((key, number) for key, number in use.items() if key in state.rack.by_key))
    known: dict[object, Reach] = held.index.remember("clicks of racks", dict)
    key = state.rack.specs, state.listing, shopper, used
    reach = known.pop(key, None) or reach_of(state, shopper, use)
    known[key] = reach  # the one used last stands last
    while len(known) > _KEPT:
        known.pop(next(iter(known)), None)
    return reach
