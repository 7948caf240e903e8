"""Choices of order in words."""

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.core.facets.behaviour import ATTRIBUTE, Sort

_WORDS = {
    "listed": _l("As the shop lists them"),
    "price": _l("Price, lowest first"),
    "-price": _l("Price, highest first"),
    "name": _l("Name, A to Z"),
    "-name": _l("Name, Z to A"),
    "newest": _l("Newest first"),
    "-rating": _l("Best liked first"),
    "buyable": _l("In stock first"),
    "-saving": _l("Biggest saving first"),
    "saving": _l("Smallest saving first"),
    "-level": _l("Most in stock first"),
    "level": _l("Fewest in stock first"),
}


def sort_words(sort: Sort) -> str:
    """Return a choice of order in its own words, else in the usual ones."""
    if sort.label:
        return sort.label
    if sort.by == ATTRIBUTE:
        return (_("%(name)s, greatest first") if sort.down else _("%(name)s, least first")) % {"name": sort.attribute}
    return str(_WORDS[sort.by])
