"""Starts: a rack of proposed facets, put into the draft at once."""

from collections.abc import Sequence
from typing import Any

from django.utils.translation import gettext as _

from binsort.core.facets.rule_edits import lines_of, needs_every, rename_facet, with_lines
from binsort.core.insight.proposals import free_key
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import Edition
from binsort.racks.setup import Document

from .actors import Actor
from .facets import change
from .racks import RackRefused


@needs(Act.DRAFT)
def start_rack(facets: Sequence[Document], *, actor: Actor, based_on: int | None = None) -> tuple[Edition, str]:
    """Put proposed facets on a rack in their order: the first empty one, else a new one. Keys that are taken get a number.

    Args:
        facets: their documents; rules between them name the keys that these have.
        actor: who does it.
        based_on: the edition that the user saw.

    Returns:
        The draft, and the key of the rack.

    Raises:
        RackRefused: there is none of them.
        EditedMeanwhile: the draft is another by now.
    """
    if not facets:
        raise RackRefused(_("Tick one facet at least, or start empty and add facets one by one."))
    racks: list[str] = []

    def edit(document: Document) -> None:
        taken = {facet["key"] for facet in document["facets"]}
        names: dict[str, str] = {}
        for facet in facets:
            names[facet["key"]] = free_key(facet["label"], taken)
            taken.add(names[facet["key"]])
        document["facets"] += [_renamed(facet, names) for facet in facets]
        rack: dict[str, Any] | None = next((one for one in document["racks"] if not one["facets"]), None)
        if rack is None:
            key = free_key(_("Proposed"), {one["key"] for one in document["racks"]}, or_else="rack")
            rack = {"key": key, "label": _("Proposed"), "facets": []}
            document["racks"].append(rack)
        rack["facets"] = [names[facet["key"]] for facet in facets]
        racks.append(rack["key"])

    words = _("Started with %(count)s facets") % {"count": len(facets)} if len(facets) > 1 else _("Started with one facet")
    return change(words, edit, actor=actor, based_on=based_on), racks[0]


def _renamed(facet: Document, names: dict[str, str]) -> Document:
    """Return a facet by its new key, its rules by those of the facets they name; a rule on one that is not there falls away."""
    changed = {**facet, "key": names[facet["key"]]}
    lines = [line for line in lines_of(facet) if not line.facet or line.facet in names]
    changed = with_lines(changed, lines, every=needs_every(facet))
    rename_facet(changed, names)
    return changed
