"""Following: facets keep their meaning where attributes, values and categories of the catalogue get other names; and what uses what."""

from collections.abc import Callable
from copy import deepcopy
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from binsort.core.facetfile import check_document
from binsort.core.jsontext import dumps
from binsort.core.text import category_path, identity

from .editing import Document, the_setup
from .models import Edition, Setup


def facets_of_attribute(name: str) -> list[tuple[str, str]]:
    """Return key and label of the facets, draft or live, that are made of an attribute."""
    return facets_by_attribute().get(identity(name), [])


def facets_by_attribute() -> dict[str, list[tuple[str, str]]]:
    """Return key and label of the facets, draft or live, by the identity of the attribute they are made of; one query."""
    found: dict[str, dict[str, str]] = {}
    for document in _documents():
        for facet in document["facets"]:
            if name := facet["source"].get("attribute"):
                found.setdefault(identity(name), {}).setdefault(facet["key"], facet["label"])
    return {name: list(facets.items()) for name, facets in found.items()}


def facets_of_category(path: str) -> list[tuple[str, str]]:
    """Return key and label of the facets that name a category, or one below it."""
    return _facets(lambda facet: any(_is_below(text, path) for text in _paths(facet)))


def racks_of(keys: set[str]) -> list[str]:
    """Return the labels of the racks, draft or live, that have one of some facets."""
    found: dict[str, None] = {}
    for document in _documents():
        for rack in document["racks"]:
            if keys & set(rack["facets"]):
                found[rack.get("label") or rack["key"]] = None
    return list(found)


def _documents() -> list[Document]:
    setup = the_setup()
    return [setup.draft.document, *([setup.live.document] if setup.live and setup.live_id != setup.draft_id else [])]


def _facets(wanted: Callable[[Document], bool]) -> list[tuple[str, str]]:
    found: dict[str, str] = {}
    for document in _documents():
        for facet in document["facets"]:
            if wanted(facet):
                found.setdefault(facet["key"], facet["label"])
    return list(found.items())


def _is_of(facet: Document, name: str) -> bool:
    return identity(str(facet["source"].get("attribute", ""))) == identity(name)


def attribute_renamed(old: str, new: str, *, actor: AbstractBaseUser | None) -> int:
    """Let facets of an attribute be of its new name; returns how many facets of the draft follow."""

    def edit(facet: Document) -> bool:
        if not _is_of(facet, old):
            return False
        facet["source"]["attribute"] = new
        return True

    return _follow(f"Followed {old}, now {new}", edit, actor)


def value_renamed(attribute: str, old: str, new: str, *, actor: AbstractBaseUser | None) -> int:
    """Let facets that name a value of an attribute name the one that stands in its place."""

    def edit(facet: Document) -> bool:
        return _is_of(facet, attribute) and _rename_in_bins(facet, lambda text: new if identity(text) == identity(old) else text)

    return _follow(f"Followed {old}, now {new}", edit, actor)


def category_moved(old: str, new: str, *, actor: AbstractBaseUser | None) -> int:
    """Let facets that name a category, or one below it, name it by its new path."""

    def moved(text: str) -> str:
        return " > ".join((*category_path(new), *category_path(text)[len(category_path(old)) :])) if _is_below(text, old) else text

    def edit(facet: Document) -> bool:
        if facet["source"]["kind"] != "category":
            return False
        changed = _rename_in_bins(facet, moved)
        under = facet.get("under", "")
        if under and under != "listing" and moved(under) != under:
            facet["under"] = moved(under)
            changed = True
        return changed

    return _follow(f"Followed {old}, now {new}", edit, actor)


def _is_below(text: str, path: str) -> bool:
    above = tuple(map(identity, category_path(path)))
    return tuple(map(identity, category_path(text)))[: len(above)] == above


def _paths(facet: Document) -> list[str]:
    if facet["source"]["kind"] != "category":
        return []
    bins = facet.get("bins", {})
    named = [*bins.get("only", ()), *bins.get("leave_out", ()), *bins.get("rename", {})]
    under = facet.get("under", "")
    return [text for text in (*named, *([under] if under and under != "listing" else [])) if isinstance(text, str)]


def _rename_in_bins(facet: Document, rename: Callable[[str], str]) -> bool:
    """Change the values that the bins of a facet name; tells whether one was."""
    bins = facet.get("bins")
    if not bins:
        return False
    before = deepcopy(bins)

    def each(values: list[Any]) -> list[Any]:
        return [rename(value) if isinstance(value, str) else value for value in values]

    for name in ("only", "leave_out"):
        if name in bins:
            bins[name] = each(bins[name])
    for merge in bins.get("merge", ()):
        merge["values"] = each(merge["values"])
    if "rename" in bins:
        bins["rename"] = {rename(old): new for old, new in bins["rename"].items()}
    return bool(bins != before)


@transaction.atomic
def _follow(summary: str, edit: Callable[[Document], bool], actor: AbstractBaseUser | None) -> int:
    """Change facets of the draft and of what is live alike; an edition that would not be valid stays as it was."""
    the_setup()
    setup = Setup.objects.select_for_update().get(pk=1)
    was_live = setup.live_id == setup.draft_id
    draft, changed = _followed(setup.draft, summary, edit, actor)
    if setup.live is not None:
        setup.live = draft if was_live else _followed(setup.live, summary, edit, actor)[0]
    setup.draft = draft
    setup.save(update_fields=["draft", "live"])
    return changed


def _followed(edition: Edition, summary: str, edit: Callable[[Document], bool], actor: AbstractBaseUser | None) -> tuple[Edition, int]:
    document = deepcopy(edition.document)
    changed = sum(edit(facet) for facet in document["facets"])
    if not changed or check_document(document):
        return edition, 0
    return Edition.objects.create(text=dumps(document), base=edition, summary=summary, actor=actor), changed
