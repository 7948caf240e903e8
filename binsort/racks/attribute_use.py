"""Serving: what the dictionary says of attributes, as it bears on facets."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from binsort.catalog.models import Attribute, AttributeValue
from binsort.core.facets.spec import FacetSpec
from binsort.core.values.text import identity

BY_DICTIONARY = "in_dictionary_order"  # in a facet's look: its order by hand is that of the dictionary, and follows it


def dictionary_order(attribute: str) -> list[str]:
    """Return the values of an attribute in the order of the dictionary; one query."""
    return list(AttributeValue.objects.filter(attribute__identity=identity(attribute)).values_list("text", flat=True))


def not_narrowing() -> frozenset[str]:
    """Return the identities of the attributes that do not serve narrowing; one query."""
    return frozenset(Attribute.objects.filter(narrowing=False).values_list("identity", flat=True))


def served(specs: Iterable[FacetSpec], off: frozenset[str]) -> tuple[FacetSpec, ...]:
    """Return the facets that shoppers see: those of attributes that do not serve narrowing (``off``) are left out."""
    return tuple(spec for spec in specs if not spec.source.attribute or identity(spec.source.attribute) not in off)


def off_pages() -> frozenset[str]:
    """Return the identities of the attributes that product pages do not show; one query."""
    return frozenset(Attribute.objects.filter(on_pages=False).values_list("identity", flat=True))


Colours = dict[str, dict[str, list[str]]]


def dictionary_colours() -> Colours:
    """Return the colours that the dictionary gives values, by attribute (its identity), then value; one query."""
    colours: Colours = {}
    for name, text, given in AttributeValue.objects.exclude(colours=[]).values_list("attribute__identity", "text", "colours"):
        colours.setdefault(name, {})[text] = given
    return colours


def looks_with_colours(looks: dict[str, dict[str, Any]], specs: Sequence[FacetSpec], colours: Colours) -> dict[str, dict[str, Any]]:
    """Return looks of facets with the colours that the dictionary gives their values; these go before a facet's own."""
    if not colours:
        return looks
    of = {spec.key: colours.get(identity(spec.source.attribute), {}) for spec in specs if spec.source.attribute}
    return {key: {**look, "swatches": {**look.get("swatches", {}), **of.get(key, {})}} for key, look in looks.items()}


def is_open_to_search_engines(look: Mapping[str, Any]) -> bool:
    """Return whether search engines may list the listings of a facet's bins, by its look."""
    return look.get("search_engines") is True
