"""Taking revisions back, and doing them again: each by itself, beside whatever was changed since."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.utils import timezone
from django.utils.translation import gettext as _

from binsort.catalog import models
from binsort.catalog.dictionary.categories import repath
from binsort.catalog.dictionary.states import ATTRIBUTE, CATEGORY, State, attributes_state, categories_state, same_category
from binsort.catalog.store.batches import batched
from binsort.catalog.store.product_writer import BATCH
from binsort.core.products.catalogue_reader import BrokenLine
from binsort.core.products.parts import Conflict, part_words, taken_back
from binsort.core.products.product import Product
from binsort.people.acts import Act
from binsort.people.rights import needs
from binsort.racks.models import Entry

from .followers import take_facets_back
from .history import tell
from .locks import Refused, change, hold, lock_products
from .made import make_again, take_made_back
from .product_writes import put_products
from .revisions import KEPT, is_kept, is_other, newest, product_of

_NAMED = 3  # things named in a message


class ChangedSince(Refused):
    """Something was changed again after the revision that is to be taken back."""


class ParentGone(Refused):
    """The category below which another is to go back is not there any more."""

    def __init__(self, name: str, parent: str, nearest: str) -> None:
        self.nearest = nearest
        super().__init__(f"{name} was below {parent}, which is gone. The nearest that is left is {nearest}.")


@dataclass(frozen=True, slots=True)
class Done:
    """A revision that was taken back or done again, and what had to stay because it is in use."""

    revision: models.Revision
    kept: tuple[str, ...] = ()

    @property
    def note(self) -> str:
        """What stayed, as a sentence; empty for nothing."""
        return f"{_listed(self.kept)} stay{'s' if len(self.kept) == 1 else ''}, being in use." if self.kept else ""


@dataclass(frozen=True, slots=True)
class _Way:
    """Back or forth: which state of a revision is looked for, and which one is put in its place."""

    looked_for: str
    put: str
    anyway: bool
    nearest: bool


@needs(Act.PRODUCTS)
def undo_last(*, anyway: bool = False, actor: Any = None) -> Done:
    """Take the newest revision back. Raises as :func:`take_back`."""
    last = newest()
    if last is None:
        raise Refused(_("there is nothing that could be undone."))
    return take_back(last.pk, anyway=anyway, actor=actor)


@change
def take_back(number: int, *, anyway: bool = False, nearest: bool = False, actor: Any = None) -> Done:
    """Take one revision back; what was changed besides stays.

    Args:
        number: of the revision.
        anyway: also where that loses a later change.
        nearest: categories whose parent is gone go below the nearest one that is left.
        actor: who does it.

    Raises:
        Refused: it was taken back before, or is too old.
        ChangedSince: what it changed was changed again, which would be lost.
        ParentGone: a category has nowhere to go back to.
    """
    revision = _locked(number, undone=False)
    clashes = _turned(revision, _Way("after", "before", anyway, nearest), f"Took back: {revision.summary}", actor)
    kept = take_made_back(revision.definitions.get("made", {}))
    tell(Entry.Kind.CATALOGUE, _("Undone: %(summary)s") % {"summary": revision}, actor=actor)
    return _ended(revision, clashes, anyway, kept, timezone.now())


@change
def do_again(number: int, *, anyway: bool = False, actor: Any = None) -> Done:
    """Do a revision again that was taken back. Raises as :func:`take_back`."""
    revision = _locked(number, undone=True)
    make_again(revision.definitions.get("made", {}))
    clashes = _turned(revision, _Way("before", "after", anyway, nearest=False), f"Did again: {revision.summary}", actor)
    tell(Entry.Kind.CATALOGUE, _("Done again: %(summary)s") % {"summary": revision}, actor=actor)
    return _ended(revision, clashes, anyway, (), None)


def _locked(number: int, *, undone: bool) -> models.Revision:
    kept = models.Revision.objects.filter(pk=number).first()
    if kept is None:
        raise Refused(_("there is no such change."))
    hold(alone=kept.kind == models.Revision.Kind.FILE or "categories" in kept.definitions)
    revision = models.Revision.objects.select_for_update().get(pk=number)
    if (revision.undone_at is not None) != undone:
        raise Refused(_("that was undone before.") if not undone else _("that was done again already."))
    if not is_kept(revision):
        raise Refused(
            _("only the last %(KEPT)s changes can be undone, and that one is older. What it changed can be changed by hand.")
            % {"KEPT": KEPT}
        )
    return revision


def _ended(revision: models.Revision, clashes: list[str], anyway: bool, kept: Iterable[str], at: Any) -> Done:
    if clashes and not anyway:
        raise ChangedSince(f"{_listed(clashes)} {'was' if len(clashes) == 1 else 'were'} changed since; undoing would lose that.")
    revision.undone_at = at
    revision.save(update_fields=["undone_at"])
    return Done(revision, tuple(kept))


def _listed(names: Iterable[str]) -> str:
    names_listed = list(names)
    return ", ".join(names_listed[:_NAMED]) + (" and others" if len(names_listed) > _NAMED else "")


def _turned(revision: models.Revision, way: _Way, summary: str, actor: Any) -> list[str]:
    """Put definitions, products and facets into another state; returns what was changed since."""
    clashes: list[str] = []
    _turn_attributes(revision.definitions.get("attributes"), way, clashes)
    _turn_categories(revision.definitions.get("categories"), way, clashes)
    for rows in batched(revision.products.order_by("identity"), BATCH):
        now = lock_products(row.identity for row in rows)
        after = {row.identity: _product(row, now.products.get(row.identity), way, clashes) for row in rows}
        if way.anyway or not clashes:
            places = {row.identity: row.place for row in rows if row.place is not None}
            put_products(after, now.places, places=places)
    facets = revision.definitions.get("facets")
    if facets:
        turned = facets if way.put == "before" else {name: {key: both[::-1] for key, both in of.items()} for name, of in facets.items()}
        clashes += take_facets_back(turned, summary, anyway=way.anyway, actor=actor)
    return clashes


def _product(row: models.RevisedProduct, now: Product | None, way: _Way, clashes: list[str]) -> Product | None:
    """Return what a product is to be."""
    wanted, left = product_of(getattr(row, way.put)), _left(row, way)
    if wanted is not None and left is not None and now is not None:
        try:
            return taken_back(wanted, left, now, anyway=way.anyway)
        except Conflict as conflict:
            clashes.append(f"{', '.join(map(part_words, conflict.names))} of {row.identity}")
    elif is_other(left, now):
        clashes.append(row.identity)
    return wanted


def _left(row: models.RevisedProduct, way: _Way) -> Product | None:
    """Return what a revision made of a product; of the oldest ones only a digest was kept, which is like nothing there is."""
    try:
        return product_of(getattr(row, way.looked_for))
    except BrokenLine:
        return None


# -- definitions


def _turn_attributes(kept: dict[str, State] | None, way: _Way, clashes: list[str]) -> None:
    if not kept:
        return
    looked_for, put = kept[way.looked_for], kept[way.put]
    now = attributes_state(looked_for)
    clashes += [f"the attribute {(row or put[key] or {})['name']}" for key, row in looked_for.items() if now[key] != row]
    numbers = dict(models.Attribute.objects.filter(identity__in=list(put)).values_list("identity", "pk"))
    models.Attribute.objects.filter(pk__in=list(numbers.values())).delete()
    left = [number for key, number in numbers.items() if put[key] is None]  # an attribute that has another name keeps its number
    for key, row in put.items():
        if row is not None:
            number = numbers.get(key) or (left.pop(0) if left else None)
            attribute = models.Attribute.objects.create(pk=number, **{name: row[name] for name in ATTRIBUTE})
            models.AttributeValue.objects.bulk_create(models.AttributeValue(attribute=attribute, **value) for value in row["values"])


def _turn_categories(kept: dict[str, State] | None, way: _Way, clashes: list[str]) -> None:
    if not kept:
        return
    looked_for, put = kept[way.looked_for], kept[way.put]
    now = categories_state(map(int, looked_for))
    clashes += [f"the category {(row or put[key] or {})['name']}" for key, row in looked_for.items() if not same_category(now[key], row)]
    if way.anyway or not clashes:
        _put_categories(put, nearest=way.nearest)


def _put_categories(rows: State, *, nearest: bool) -> None:
    """Put categories into a state, those above first; what they are called now is out of the way first."""
    for row in models.Category.objects.filter(pk__in=list(map(int, rows))):
        models.Category.objects.filter(pk=row.pk).update(path_identity=f"\x01{row.pk}", slug=f"\x01{row.pk}")
    waiting = {int(key): row for key, row in rows.items() if row is not None}
    there = dict(models.Category.objects.values_list("pk", "name"))
    while waiting:
        ready = [key for key, row in waiting.items() if row["parent"] not in waiting]
        for key in ready:
            row = waiting.pop(key)
            parent = _parent_left(row, there, nearest=nearest)
            others = models.Category.objects.filter(path_identity=row["path_identity"]).exclude(pk=key)
            if parent == row["parent"] and others.exists():
                raise Refused(_("there is another category %(name)s in its place by now. Rename that one first.") % {"name": row["name"]})
            plain = {name: row[name] for name in CATEGORY}
            models.Category.objects.update_or_create(pk=key, defaults={**plain, "parent_id": parent})
            there[key] = row["name"]
    models.Category.objects.filter(pk__in=[int(key) for key, row in rows.items() if row is None]).delete()
    repath(int(key) for key, row in rows.items() if row is not None)


def _parent_left(row: dict[str, Any], there: dict[int, str], *, nearest: bool) -> int | None:
    """Return below which category one goes back. Raises ParentGone where that is gone and no other was agreed to."""
    parent: int | None = row["parent"]
    if parent is None or parent in there:
        return parent
    above: list[list[Any]] = row.get("above", [])
    left = next((key for key, _ in above if key in there), None)
    if not nearest:
        raise ParentGone(row["name"], above[0][1] if above else "a category", there[left] if left else "the top")
    return left
