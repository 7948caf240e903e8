"""Facets that the catalogue offers and the set-up does not have."""

from collections.abc import Mapping
from typing import Any

from binsort.core.insight.starter import ENOUGH, Candidate
from binsort.core.values.text import identity
from binsort.racks.models import Setup
from binsort.racks.setup import Document
from binsort.tally.current import current

from .page import proposal_of


def offered(setup: Setup) -> list[Candidate]:
    """Return them in the order in which they are proposed. Raises NotReady."""
    used = {_source(facet) for facet in setup.draft.document["facets"]}
    return [one for one in proposal_of(current()).candidates if _source(one.document) not in used]


def worth_adding(setup: Setup) -> list[Candidate]:
    """Return those of them that a rack to start with would have, or would have room for. Raises NotReady."""
    proposal = proposal_of(current())
    good = {*proposal.proposed, *(one.candidate.key for one in proposal.left_off if one.why == ENOUGH)}
    return [one for one in offered(setup) if one.key in good]


def offered_facets(setup: Setup) -> dict[str, Document]:
    """Return their documents by the keys of their proposals. Raises NotReady."""
    return {one.key: alone(one.document) for one in offered(setup)}


def alone(document: Document) -> Document:
    """Return a proposed facet without the rules that belong to its own rack."""
    return {name: value for name, value in document.items() if name not in ("show_when", "key")}


def _source(facet: Mapping[str, Any]) -> tuple[str, str]:
    return facet["source"]["kind"], identity(str(facet["source"].get("attribute", facet["source"].get("prefix", ""))))
