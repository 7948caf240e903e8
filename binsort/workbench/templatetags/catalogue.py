"""Template filters of the catalogue pages."""

from django import template
from django.contrib.messages.storage.base import Message

register = template.Library()


@register.filter
def revision_of(message: Message) -> int:
    """Return the number of the revision that a message can take back, 0 for none."""
    found = (tag.partition(":")[2] for tag in message.tags.split() if tag.startswith("take-back"))
    return next((int(number) for number in found if number.isdigit()), 0)
