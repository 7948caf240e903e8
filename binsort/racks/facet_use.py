"""What uses what: the facets, draft and live, that are made of an attribute or name a category."""

from collections.abc import Iterable
from dataclasses import dataclass

from binsort.core.values.text import category_path, identity

from .setup import Document, the_setup


@dataclass(frozen=True, slots=True)
class Touched:
    """What an attribute or a category is used by."""

    facets: tuple[tuple[str, str], ...]
    racks: tuple[str, ...]
    products: int

    @property
    def facets_words(self) -> str:
        """The labels of the facets, beside each other."""
        return ", ".join(label for _key, label in self.facets)

    @property
    def racks_words(self) -> str:
        """Those of the racks."""
        return ", ".join(self.racks)


def facets_of_attribute(name: str) -> list[tuple[str, str]]:
    """Return key and label of the facets, draft or live, that are made of an attribute."""
    return facets_by_attribute().get(identity(name), [])


def facets_by_attribute() -> dict[str, list[tuple[str, str]]]:
    """Return key and label of the facets, draft or live, by the identity of the attribute they are made of; one query."""
    by_attribute: dict[str, dict[str, str]] = {}
    for document in _documents():
        for facet in document["facets"]:
            if name := facet["source"].get("attribute"):
                by_attribute.setdefault(identity(name), {}).setdefault(facet["key"], facet["label"])
    return {name: list(facets.items()) for name, facets in by_attribute.items()}


def facets_of_category(path: str) -> list[tuple[str, str]]:
    """Return key and label of the facets, draft or live, that name a category, or one below it."""
    return facets_by_category([path])[path]


def facets_by_category(paths: Iterable[str]) -> dict[str, list[tuple[str, str]]]:
    """Return :func:`facets_of_category` of each of some paths; one query."""
    by_path: dict[str, dict[str, str]] = {path: {} for path in paths}
    for document in _documents():
        for facet in document["facets"]:
            named = _paths(facet)
            for path, facets in by_path.items():
                if any(is_below(text, path) for text in named):
                    facets.setdefault(facet["key"], facet["label"])
    return {path: list(facets.items()) for path, facets in by_path.items()}


def racks_of(keys: set[str]) -> list[str]:
    """Return the labels of the racks, draft or live, that have one of some facets."""
    labels: dict[str, None] = {}
    for document in _documents():
        for rack in document["racks"]:
            if keys & set(rack["facets"]):
                labels[rack.get("label") or rack["key"]] = None
    return list(labels)


def racks_on_category(path: str) -> list[str]:
    """Return the labels of the racks, draft or live, that have a rule for a category, or one below it."""
    labels: dict[str, None] = {}
    for document in _documents():
        for rack in document["racks"]:
            if any(is_below(rule.get("category", ""), path) for rule in rack.get("place", {}).get("shows", ())):
                labels[rack.get("label") or rack["key"]] = None
    return list(labels)


def _documents() -> list[Document]:
    setup = the_setup()
    return [setup.draft.document, *([setup.live.document] if setup.live and setup.live_id != setup.draft_id else [])]


def is_below(text: str, path: str) -> bool:
    above = tuple(map(identity, category_path(path)))
    return tuple(map(identity, category_path(text)))[: len(above)] == above


def _paths(facet: Document) -> list[str]:
    if facet["source"]["kind"] != "category":
        return []
    bins = facet.get("bins", {})
    named = [*bins.get("only", ()), *bins.get("leave_out", ()), *bins.get("rename", {})]
    under = facet.get("under", "")
    return [text for text in (*named, *([under] if under and under != "listing" else [])) if isinstance(text, str)]
