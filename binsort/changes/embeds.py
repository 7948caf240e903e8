"""Embeds: what other sites show of this shop, under a name that stands in their pages. A change holds at once, there too."""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.db import transaction
from django.utils.text import slugify
from django.utils.translation import gettext as _

from binsort.catalog.models import Category
from binsort.core.values.text import normalise
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.addresses import Pair
from binsort.racks.models import Embed, Entry, Setup

from .history import tell
from .locks import Refused

_LONGEST = 80  # letters of a name
_MOST_PICKS = 20


class ChangedMeanwhile(Refused):
    """Somebody saved the same one since it was read."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What somebody wants an embed to be."""

    label: str
    category: int | None  # primary key, None for all products
    picks: tuple[Pair, ...]  # what it always narrows by
    rack: str
    parts: str
    look: str


@needs(Act.LIVE)
@transaction.atomic
def add_embed(label: str, *, actor: Any) -> Embed:
    """Begin an embed of all products under a name made of its label. Raises Refused."""
    label = _label(label)
    begin = slugify(label)[:50].strip("-_") or "listing"
    taken = set(Embed.objects.filter(name__startswith=begin).values_list("name", flat=True))
    name = next(one for number in range(1, len(taken) + 2) if (one := begin if number == 1 else f"{begin}-{number}") not in taken)
    embed = Embed.objects.create(name=name, label=label, actor=actor)
    tell(Entry.Kind.SETUP, _("Added the listing %(label)s for other sites") % {"label": label}, actor=actor)
    return embed


@needs(Act.LIVE)
@transaction.atomic
def save_embed(name: str, wanted: Wanted, *, version: int, actor: Any) -> Embed:
    """Save an embed as it was changed; nothing is written where it is like that.

    Args:
        name: in the pages of other sites; it stays.
        wanted: what it is to be.
        version: what the user saw.
        actor: who does it.

    Raises:
        Embed.DoesNotExist: it was deleted.
        ChangedMeanwhile: it is not what the user saw any more.
        Refused: something of it cannot be.
    """
    embed = Embed.objects.select_for_update(of=("self",)).select_related("actor").get(name=name)
    if embed.version != version:
        raise ChangedMeanwhile(
            _("Not done: meanwhile %(who)s changed it. You see it as it is now; do yours again if it is still right.")
            % {"who": embed.actor or _("somebody")}
        )
    new = _checked(wanted)
    if all(getattr(embed, field) == value for field, value in new.items()):
        return embed
    for field, value in {**new, "version": version + 1, "actor": actor}.items():
        setattr(embed, field, value)
    embed.save()
    tell(Entry.Kind.SETUP, _("Changed the listing %(label)s of other sites") % {"label": embed.label}, actor=actor)
    return embed


@needs(Act.LIVE)
@transaction.atomic
def delete_embed(name: str, *, actor: Any) -> str:
    """Delete an embed; other sites show their own link from then on. Returns what it was called, empty where it was gone."""
    embed = Embed.objects.select_for_update().filter(name=name).first()
    if embed is None:
        return ""
    embed.delete()
    tell(Entry.Kind.SETUP, _("Deleted the listing %(label)s of other sites") % {"label": embed.label}, actor=actor)
    return embed.label


def _label(text: str) -> str:
    label = normalise(text)
    if not label or len(label) > _LONGEST:
        raise Refused(_("Give it a name of up to 80 letters, such as “Gifts below 20”."))
    return label


def _checked(wanted: Wanted) -> dict[str, Any]:
    """Return the fields of what is wanted. Raises Refused."""
    category = Category.objects.filter(pk=wanted.category).first() if wanted.category is not None else None
    if wanted.category is not None and category is None:
        raise Refused(_("That category is not there any more. Choose another one."))
    document = Setup.objects.select_related("live").get(pk=1).live
    racks = {rack["key"] for rack in document.document["racks"]} if document else set()
    if wanted.rack not in racks | {Embed.AS_PLACED, Embed.NO_RACK}:
        raise Refused(_("That rack is not live. Put it live first, or choose another one."))
    if wanted.parts not in Embed.Parts.values or wanted.look not in Embed.Look.values:
        raise Refused(_("Choose one of what is offered."))
    if len(wanted.picks) > _MOST_PICKS:
        raise Refused(_("Narrow it to 20 bins at most."))
    picks = tuple(dict.fromkeys(wanted.picks))
    return {
        "label": _label(wanted.label),
        "category": category,
        "path_identity": category.path_identity if category else "",
        "picks": urlencode(picks),
        "rack": wanted.rack,
        "parts": wanted.parts,
        "look": wanted.look,
    }
