"""Template filters of the catalogue pages."""

from dataclasses import dataclass

from django import template
from django.contrib.messages.storage.base import Message

register = template.Library()


@dataclass(frozen=True, slots=True)
class WayBack:
    """A button that takes a change back, or does it again."""

    address: str  # the name of it
    words: str
    consent: str = ""  # what is agreed to by it
    number: int = 0


_WAYS = {
    "take-back": WayBack("take-back", "Undo"),
    "take-back-anyway": WayBack("take-back", "Undo anyway", "anyway"),
    "take-back-nearest": WayBack("take-back", "Put it there", "nearest"),
    "do-again": WayBack("do-again", "Do it again"),
}


@register.filter
def way_back(message: Message) -> WayBack | None:
    """Return the button that a message carries, None where it carries none."""
    for tag in message.tags.split():
        name, _, number = tag.partition(":")
        if name in _WAYS and number.isdigit():
            way = _WAYS[name]
            return WayBack(way.address, way.words, way.consent, int(number))
    return None
