"""The set-up as a file: out, in with a trial, and as the master that pages follow."""

from dataclasses import dataclass

from django.db import transaction
from django.utils.translation import gettext as _

from binsort.core.facets.facet_file import facet_file, read_document
from binsort.core.facets.former_forms import upgraded
from binsort.core.values.strict_json import dumps
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.differences import Difference, differences
from binsort.racks.models import Edition, Entry
from binsort.racks.setup import EMPTY, Document, the_setup

from .actors import Actor
from .facets import change, locked_setup
from .history import tell

_LONGEST_MASTER = 300


@dataclass(frozen=True, slots=True)
class Trial:
    """What a file would change of the draft."""

    document: Document
    differences: tuple[Difference, ...]

    @property
    def changes_nothing(self) -> bool:
        """Whether the draft is like that already."""
        return self.document == the_setup().draft.document


def setup_text(edition: Edition) -> str:
    """Return a set-up as a facet file: each facet and rack by lines of its own, numbers exact, so that differences are readable."""
    return dumps(edition.document) + "\n"


def try_setup(text: str | bytes) -> Trial:
    """Say what a facet file would change of the draft; without racks its facets stand on the racks there are, as far as they have them.

    Raises:
        FacetFileError: with all problems at once.
    """
    document = upgraded(read_document(text))
    facet_file(document)
    if not document.get("racks"):
        document["racks"] = [{**EMPTY["racks"][0], "facets": [facet["key"] for facet in document["facets"]]}]
    return Trial(document, tuple(differences(the_setup().draft.document, document)))


@needs(Act.DRAFT)
def bring_setup_in(text: str | bytes, *, name: str, actor: Actor, based_on: int | None = None) -> Edition | None:
    """Make a facet file the draft, all of it or nothing; None where the draft is like that already.

    Args:
        text: of the file.
        name: of the file, for the history.
        actor: who does it.
        based_on: the edition that the user saw.

    Raises:
        EditedMeanwhile: the draft is another by now.
        FacetFileError: the file is broken; nothing is changed.
    """
    trial = try_setup(text)
    if trial.changes_nothing:
        return None

    def edit(document: Document) -> None:
        document.clear()
        document.update(trial.document)

    return change(_("Set-up brought in from %(name)s") % {"name": name}, edit, actor=actor, based_on=based_on, by_file=True)


@needs(Act.LIVE)
@transaction.atomic
def set_master(where: str, *, actor: Actor) -> bool:
    """Say where the file is kept that is the master of the set-up; empty: the pages are. Tells whether that was another before.

    Raises ValueError where the place is too long.
    """
    where = where.strip()
    if len(where) > _LONGEST_MASTER:
        raise ValueError(_("Say in %(most)s characters where it is kept.") % {"most": _LONGEST_MASTER})
    setup = locked_setup(None)
    if setup.master == where:
        return False
    setup.master = where
    setup.save(update_fields=["master"])
    words = _("The set-up is kept in %(where)s") if where else _("The set-up is kept on the pages again")
    tell(Entry.Kind.SETUP, words % {"where": where}, actor=actor)
    return True
