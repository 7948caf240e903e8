"""Changes of the shop's face: its name and its own words; they hold at once, for they are no part of the draft."""

from dataclasses import dataclass

from django.db import transaction
from django.utils.translation import gettext as _

from binsort.core.values.numbers import Number
from binsort.core.values.text import normalise
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import Entry, ShopFace
from binsort.racks.theme import Theme

from .actors import Actor
from .history import tell


@dataclass(frozen=True, slots=True, kw_only=True)
class Face:
    """What the shop calls itself, its words, and from what sum on delivery is free; None says nothing of that."""

    name: str = ""
    search: str = ""
    foot: str = ""
    free_from: Number | None = None


@needs(Act.LIVE)
@transaction.atomic
def set_face(face: Face, *, actor: Actor) -> bool:
    """Give the shop its name and words; tells whether something is another than before."""
    ShopFace.objects.get_or_create(pk=1)
    row = ShopFace.objects.select_for_update().get(pk=1)
    wanted = {"name": normalise(face.name), "search": normalise(face.search), "foot": normalise(face.foot), "free_from": face.free_from}
    if all(getattr(row, name) == value for name, value in wanted.items()):
        return False
    for name, value in wanted.items():
        setattr(row, name, value)
    row.save()
    tell(Entry.Kind.SETUP, _("The shop is called %(name)s, with its own words") % {"name": row.name_words}, actor=actor)
    return True


@needs(Act.LIVE)
@transaction.atomic
def set_theme(theme: Theme, *, actor: Actor) -> bool:
    """Let the shop's facets be drawn so; tells whether that is another way than before."""
    ShopFace.objects.get_or_create(pk=1)
    row = ShopFace.objects.select_for_update().get(pk=1)
    if row.themed == theme:
        return False
    row.theme = theme.said
    row.save(update_fields=["theme"])
    words = _("The shop's facets look otherwise") if theme.said else _("The shop's facets look as usual")
    tell(Entry.Kind.SETUP, words, actor=actor)
    return True
