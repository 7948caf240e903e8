"""Changes of rules: what a facet waits for before it is shown."""

from collections.abc import Sequence

from django.utils.translation import gettext as _

from binsort.core.facets.rule_edits import Line, lines_of, needs_every, untied, with_lines
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import Edition
from binsort.racks.setup import Document, facet_document, the_setup

from .actors import Actor
from .facets import change


@needs(Act.DRAFT)
def set_rule(
    key: str, lines: Sequence[Line], *, every: bool, untie: tuple[str, str] | None = None, actor: Actor, based_on: int | None = None
) -> Edition | None:
    """Let a facet wait for these lines; None where it does already.

    Args:
        key: of the facet.
        lines: what it waits for; none: it is always shown.
        every: whether all of them must hold.
        untie: a facet that no longer waits for another one, so that this makes no circle.
        actor: who does it.
        based_on: the edition that the user saw.

    Raises:
        EditedMeanwhile, FacetFileError, UnknownFacet: nothing is changed.
    """
    document = the_setup().draft.document
    facet = facet_document(document, key)
    if (tuple(dict.fromkeys(lines)), every or len(lines) < 2) == (lines_of(facet), needs_every(facet) or len(lines) < 2) and untie is None:
        return None

    def edit(changed: Document) -> None:
        if untie:
            other = facet_document(changed, untie[0])
            _replace(other, untied(other, untie[1]))
        mine = facet_document(changed, key)
        _replace(mine, with_lines(mine, lines, every=every))

    words = _("%(facet)s: shown by another rule") if lines else _("%(facet)s: always shown")
    return change(words % {"facet": facet["label"]}, edit, actor=actor, based_on=based_on, only="" if untie else key)


def _replace(facet: Document, changed: Document) -> None:
    facet.clear()
    facet.update(changed)
