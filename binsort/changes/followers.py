"""Following: facets, draft and live, keep their meaning where attributes, values and categories get other names; and back again."""

from collections.abc import Callable, Iterator
from copy import deepcopy
from typing import Any

from binsort.catalog.models import Revision
from binsort.catalog.store.category_paths import category_paths
from binsort.core.facets.facet_file import check_document
from binsort.core.facets.found_by import renamed as rename_found_by
from binsort.core.facets.place_edits import rename_categories
from binsort.core.facets.rule_edits import move_categories
from binsort.core.values.strict_json import dumps, loads, one_line
from binsort.core.values.text import category_path, identity, slug
from binsort.racks.attribute_use import BY_DICTIONARY
from binsort.racks.facet_use import is_below
from binsort.racks.models import Edition, Entry, PutLive, Schedule, Setup
from binsort.racks.setup import Document, the_setup

from .history import tell

_PAST = 50  # times that something was put live which follow new names, so that they can be gone back to
Edit = Callable[[Document], None]  # changes one facet in place, where it is concerned
Kept = dict[str, dict[str, list[str]]]  # "draft" and "live": by key of a facet what it was and what it became, as JSON


# -- what follows what


def of_attribute_renamed(old: str, new: str) -> Edit:
    """Let facets of an attribute be of its new name."""

    def edit(facet: Document) -> None:
        if _is_of(facet, old):
            facet["source"]["attribute"] = new

    return edit


def of_values_merged(attribute: str, olds: list[str], new: str) -> Edit:
    """Let facets that name values of an attribute name the one that stands in their place."""
    gone = set(map(identity, olds))

    def edit(facet: Document) -> None:
        if _is_of(facet, attribute):
            _rename_values(facet, lambda text: new if identity(text) in gone else text)
            _rename_labels(facet, gone, new)

    return edit


def of_values_ordered(attribute: str, texts: list[str]) -> Edit:
    """Let facets whose bins stand as in the dictionary stand in its new order."""

    def edit(facet: Document) -> None:
        if _is_of(facet, attribute) and facet.get("look", {}).get(BY_DICTIONARY):
            facet.setdefault("bins", {})["order"] = texts

    return edit


def _moved(text: str, old: str, new: str) -> str:
    """Return the path of a category after one of those above it, or itself, got another."""
    return " > ".join((*category_path(new), *category_path(text)[len(category_path(old)) :])) if is_below(text, old) else text


def places_of_category_moved(old: str, new: str) -> Edit:
    """Let racks that show on a category, or one below it, or lead there, name it by its new path. Takes the whole set-up."""

    def edit(document: Document) -> None:
        rename_categories(document, lambda text: _moved(text, old, new))
        for rack in document["racks"]:
            behaviour = rack.get("place", {}).get("behaviour", {})
            if behaviour.get("results"):
                behaviour["results"] = _moved(behaviour["results"], old, new)
        paths = [" > ".join(path) for path in category_paths().values()]
        keys = {slug(_moved(path, new, old)): slug(path) for path in paths if is_below(path, new)}
        move_categories(document, lambda text: _moved(text, old, new), keys)

    return edit


def sorts_of_attribute_renamed(old: str, new: str) -> Edit:
    """Let racks that order products by an attribute name it as it is called now. Takes the whole set-up."""

    def edit(document: Document) -> None:
        for rack in document["racks"]:
            for sort in rack.get("place", {}).get("behaviour", {}).get("sorts", ()):
                if identity(sort.get("attribute", "")) == identity(old):
                    sort["attribute"] = new

    return edit


def of_category_moved(old: str, new: str) -> Edit:
    """Let facets that name a category, or one below it, name it by its new path."""

    def moved(text: str) -> str:
        return _moved(text, old, new)

    def edit(facet: Document) -> None:
        if facet["source"]["kind"] != "category":
            return
        _rename_values(facet, moved)
        rename_found_by(facet.get("look", {}), moved)
        if facet.get("under", "listing") != "listing":
            facet["under"] = moved(facet["under"])

    return edit


def _is_of(facet: Document, name: str) -> bool:
    return identity(str(facet["source"].get("attribute", ""))) == identity(name)


def _rename_values(facet: Document, rename: Callable[[str], str]) -> None:
    """Change the values that the bins of a facet name; one that is named twice then stays once."""
    bins = facet.get("bins", {})

    def each(values: list[Any]) -> list[Any]:
        renamed = [rename(value) if isinstance(value, str) else value for value in values]
        return [value for place, value in enumerate(renamed) if value not in renamed[:place]]

    for name in ("only", "leave_out"):
        if name in bins:
            bins[name] = each(bins[name])
    for merge in bins.get("merge", ()):
        merge["values"] = each(merge["values"])
    if "rename" in bins:
        bins["rename"] = {rename(old): new for old, new in bins["rename"].items()}


def _rename_labels(facet: Document, gone: set[str], new: str) -> None:
    """Change the labels that an order by hand and colours name."""
    order = facet.get("bins", {}).get("order")
    if order:
        renamed = [new if isinstance(label, str) and identity(label) in gone else label for label in order]
        facet["bins"]["order"] = list(dict.fromkeys(renamed))
    rename_found_by(facet.get("look", {}), lambda label: new if identity(label) in gone else label)
    colours = facet.get("look", {}).get("swatches")
    if isinstance(colours, dict):
        facet["look"]["swatches"] = {new if identity(label) in gone else label: colours_given for label, colours_given in colours.items()}


# -- following, and taking that back


def follow(revision: Revision | None, summary: str, edit: Edit, actor: Any, *, racks: Edit | None = None) -> None:
    """Let the facets and racks of the draft and of what is live follow a revision, and keep with it what they were.

    An edition that would not be valid stays as it was.

    Args:
        revision: what they follow; None for nothing.
        summary: what they do, in words.
        edit: changes a facet in place.
        actor: who did it.
        racks: changes the racks of a whole set-up in place.
    """
    if revision is None:
        return
    kept: Kept = {}

    def followed(name: str, document: Document) -> bool:
        before = {name: one_line(part) for name, part in _parts(document).items()}
        for facet in document["facets"]:
            edit(facet)
        if racks:
            racks(document)
        after = {name: one_line(part) for name, part in _parts(document).items()}
        changed = {key: [before[key], after[key]] for key in before if before[key] != after[key]}
        if not changed or check_document(document):
            return False
        kept[name] = changed
        return True

    _change_both(summary, followed, actor)
    if kept:
        revision.definitions["facets"] = kept
        revision.save(update_fields=["definitions"])


def _parts(document: Document) -> dict[str, Document]:
    """Return the facets of a document by their key, and its racks by theirs behind the word; no key of a facet holds a blank."""
    return {
        **{facet["key"]: facet for facet in document["facets"]},
        **{f"rack {rack['key']}": rack for rack in document["racks"]},
    }


def take_facets_back(kept: Kept, summary: str, *, anyway: bool, actor: Any) -> list[str]:
    """Give facets back what they were before they followed, part by part; returns what was changed again since and would be lost."""
    clashes: list[str] = []

    def restored(name: str, document: Document) -> bool:
        there = _parts(document)
        own = kept.get(name)
        known = own or kept.get("live") or kept.get("draft") or {}  # what was one edition then may be several now
        followed = [key for key in known if key in there]
        for key in followed:
            before, after = map(loads, known[key])
            was_changed = _restore(there[key], before, after, anyway=anyway and own is not None)
            if was_changed and own is not None and name in ("draft", "live"):
                clashes.append(f"the {'rack' if ' ' in key else 'facet'} {there[key]['label']}")
        return bool(followed) and not check_document(document)

    _change_both(summary, restored, actor)
    return list(dict.fromkeys(clashes))


def _restore(facet: Document, before: Document, after: Document, *, anyway: bool) -> bool:
    """Put the parts of a facet back that a revision changed; tells whether one of them was changed again since."""
    names = [name for name in {**before, **after} if before.get(name) != after.get(name)]
    again = [name for name in names if facet.get(name) not in (after.get(name), before.get(name))]
    for name in names if anyway or not again else ():
        if name in before:
            facet[name] = deepcopy(before[name])
        else:
            facet.pop(name, None)
    return bool(again)


def _change_both(summary: str, changed: Callable[[str, Document], bool], actor: Any) -> None:
    """Change the draft, what is live, what waits to be and what was and can be gone back to alike; one edition stays one."""
    the_setup()
    setup = Setup.objects.select_for_update().get(pk=1)
    before = setup.draft
    editions = dict(_next_editions(setup, summary, changed, actor))
    if not editions:
        return
    setup.draft_id = editions.get(setup.draft_id, setup.draft_id)
    setup.live_id = editions.get(setup.live_id or 0, setup.live_id)
    setup.save(update_fields=["draft", "live"])
    for old, new in editions.items():
        Schedule.objects.filter(edition=old, ended_at=None).update(edition=new)
        PutLive.objects.filter(edition=old).update(edition=new)
    if setup.draft_id != before.pk:
        tell(Entry.Kind.SETUP, summary, actor=actor, before=before, after=setup.draft)


def _next_editions(setup: Setup, summary: str, changed: Callable[[str, Document], bool], actor: Any) -> Iterator[tuple[int, int]]:
    """Yield the numbers of the editions that are followed, each with that of the new one."""
    followed: set[int] = set()
    for name, edition in _followed(setup):
        document = deepcopy(edition.document)
        if edition.pk not in followed and changed(name, document):
            yield edition.pk, Edition.objects.create(text=dumps(document), base=edition, summary=summary, actor=actor).pk
        followed.add(edition.pk)


def _followed(setup: Setup) -> Iterator[tuple[str, Edition]]:
    """Yield the editions that follow, each with its name among what is kept: the draft, those that shoppers see, will see or saw."""
    yield "draft", setup.draft
    if setup.live is not None:
        yield "live", setup.live
    for row in Schedule.objects.select_related("edition").filter(ended_at=None):
        yield "scheduled", row.edition
    for past in PutLive.objects.select_related("edition")[:_PAST]:
        yield f"past {past.pk}", past.edition
