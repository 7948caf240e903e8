"""The index of this process, brought up to date before every answer.

A reader asks what was committed since its position (one query), applies it, then answers. Where very much changed at
once, a job in the background makes a snapshot; until it is there the counts of before are served, and marked so.
"""

import gc
from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import timedelta
from functools import cached_property, lru_cache
from threading import RLock
from typing import Any, TypeVar

import numpy as np
from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateWorker

from binsort.catalog.models import Product as Row
from binsort.catalog.store.category_paths import category_identities, category_paths
from binsort.catalog.store.product_rows import products_of, read_products
from binsort.core.answers.answer import RackIndex
from binsort.core.answers.matching import Facet
from binsort.core.facets.spec import FacetSpec
from binsort.core.index.bins import TREE
from binsort.core.index.catalogue_index import Index, Tree
from binsort.core.index.codes import CURRENCY, gather
from binsort.core.index.collector import without_collecting
from binsort.core.index.facts import Facts, build_facts
from binsort.core.index.orders import Order
from binsort.core.products.product import Product
from binsort.core.values.dates import now_in_seconds
from binsort.core.values.numbers import Number

from . import feed, snapshots
from .activity import COUNTING, rests_until

INLINE = 20_000  # products that a reader catches up with before it answers
_KEPT_RACKS = 64
_SHOPPERS_RACKS = 48  # listings differ in what they show
_KEPT_PRODUCTS = 5_000  # that pages showed, whole
_WORKER_SILENT = timedelta(seconds=30)


Read = TypeVar("Read")


class NotReady(Exception):
    """There are no counts yet: they are being made for the first time."""


@dataclass
class Current:
    """The catalogue as this process knows it."""

    position: str
    index: Index
    snapshot: int = 0  # the number of the snapshot it began with
    racks: dict[tuple[FacetSpec, ...], RackIndex] = field(default_factory=dict)  # the one used last at the end
    used: set[tuple[FacetSpec, ...]] = field(default_factory=set)  # racks that somebody asked for
    of_shoppers: list[tuple[FacetSpec, ...]] = field(default_factory=list)  # those that shoppers see, the newest first
    behind: bool = False  # newer changes are being prepared in the background
    within: int | None = None  # the transaction for which alone it is
    kept: tuple[str, dict[Hashable, Any]] = field(default_factory=lambda: ("", {}))  # a position, and what was read at it
    read: dict[str, Product] = field(default_factory=dict)  # visible products that pages showed, as they are at this position

    def beside(self, key: Hashable, read: Callable[[], Read]) -> Read:
        """Return what the database has besides products, read once while nothing at all was committed to it.

        Args:
            key: what is read.
            read: asks the database.
        """
        if self.within is not None:
            return read()  # what a transaction writes itself is in no position
        kept = self.kept
        if kept[0] != self.position:
            kept = self.kept = (self.position, {})
        if key not in kept[1]:
            kept[1][key] = read()
        return kept[1][key]  # type: ignore[no-any-return]

    def products_of(self, identities: Iterable[str]) -> dict[str, Product]:
        """Return the visible products of some identities by them; what was shown before is not read again while it stays as it is."""
        wanted = list(identities)
        if self.behind:
            return products_of(wanted)
        known = {identity: product for identity in wanted if (product := self.read.get(identity)) is not None}
        if missing := [identity for identity in wanted if identity not in known]:
            found = products_of(missing, paths=self.beside("paths", category_paths))
            if len(self.read) > _KEPT_PRODUCTS:
                self.read.clear()
            self.read.update(found)
            known.update(found)
        return known

    @property
    def now(self) -> Number:
        """The moment whose sale prices the index holds."""
        return self.index.now

    @cached_property
    def currency(self) -> str:
        """The currency of the catalogue: the first that an offer names."""
        facts = self.index.facts
        codes = np.flatnonzero(facts.field(CURRENCY).counts).tolist()
        return str(facts.items(CURRENCY)[facts.first(CURRENCY, codes)[1]]) if codes else ""

    def rack(self, specs: Sequence[FacetSpec], *, for_shoppers: bool = False) -> RackIndex:
        """Return the facets cut from this index; columns are shared, so an edited facet re-cuts only itself.

        Args:
            specs: the facets.
            for_shoppers: the rack is what shoppers see, and is not let go of for the sake of others.
        """
        key = tuple(specs)
        self.index.day = timezone.localdate().toordinal()
        if any(spec.order.removeprefix("-") == TREE for spec in key):
            self.index.tree = _places_of(self.beside("tree", category_identities))
        wanted = self.racks.pop(key, None)
        if wanted is None:
            known = {facet.spec: facet for rack in list(self.racks.values()) for facet in rack.facets}
            wanted = RackIndex.of_known(self.index, key, known)
        self.racks[key] = wanted
        self.used.add(key)
        if for_shoppers and key not in self.of_shoppers[:1]:
            self.of_shoppers = [key, *(other for other in self.of_shoppers if other != key)][:_SHOPPERS_RACKS]
        self._let_go()
        return wanted

    def _let_go(self) -> None:
        """Forget the racks that nobody used for longest, never those of shoppers."""
        spare = len(self.racks) - _KEPT_RACKS
        for key in [key for key in list(self.racks) if key not in self.of_shoppers][: max(0, spare)]:
            self.racks.pop(key, None)
            self.used.discard(key)

    @property
    def in_use(self) -> set[tuple[FacetSpec, ...]]:
        """The racks that come along when the catalogue changes."""
        return self.used | set(self.of_shoppers)


@lru_cache(maxsize=2)
def _places_of(paths: tuple[tuple[str, ...], ...]) -> Tree:
    return {path: place for place, path in enumerate(paths)}


@dataclass(frozen=True, slots=True)
class _Own:
    """What a transaction sees that has written and not committed: for it alone."""

    transaction: int
    change: int  # the newest change row taken in
    current: Current


_lock = RLock()
_held: Current | None = None
_own: _Own | None = None


def current() -> Current:
    """Return the index of the catalogue as committed before this call; one query where nothing changed.

    Raises:
        NotReady: the first counts of a big catalogue are still being made.
    """
    global _held
    held = _held
    if held is None:
        own = feed.position()[1]
        with _lock:
            if feed.has_written(own):
                return _within_own(own)
            held = _held = _held or _first()
    news = feed.news(held.position)
    if news.wrote:
        with _lock:
            return _within_own(news.own)
    if not news.complete or news.transactions or _is_late(held):
        with _lock:
            held = _held = _caught_up(_held or held)
    else:
        held.position, held.behind = news.position, False
    return held


def are_behind() -> bool:
    """Tell whether the counts that are served are those of before a large change, which is still being counted."""
    try:
        return current().behind
    except NotReady:
        return True


def forget() -> None:
    """Drop what this process knows; the next call of :func:`current` starts afresh."""
    global _held, _own
    with _lock:
        _held = _own = None


def _is_late(held: Current) -> bool:
    until = held.index.until
    return until is not None and now_in_seconds() >= until


def _first() -> Current:
    """Start from a snapshot, or from the rows."""
    feed.settle()
    first = _from_snapshot() or _from_rows()
    gc.freeze()  # what stays is not looked at by every collection
    return first


def _from_snapshot(above: int = 0) -> Current | None:
    snapshot = snapshots.newest(above)
    with without_collecting():
        loaded = snapshots.load(snapshot) if snapshot else None
    if not snapshot or not loaded:
        return None
    return started(snapshot.position, *loaded, snapshot=snapshot.pk)


def started(position: str, facts: Facts, extra: dict[str, np.ndarray[Any, Any]], snapshot: int = 0) -> Current:
    """Return an index of facts as of a position."""
    index = Index(facts, now_in_seconds())
    if "name" in extra:
        index.orders.name = Order(extra["name"])
    return Current(position, index, snapshot)


def _from_rows() -> Current:
    """Read every row, or have a job do it where that takes long and there is somebody to do it."""
    if Row.objects.count() > INLINE and is_worker_alive():
        ask_for_snapshot()
        raise NotReady
    return built(lambda done, total: None)


def built(progress: Callable[[int, int], None]) -> Current:
    """Build the index from every row of the catalogue, telling how far it is."""
    with feed.one_sight():
        position, _ = feed.position()
        total = Row.objects.count()
        return Current(position, Index(build_facts(_counted(read_products(brief=True), total, progress)), now_in_seconds()))


def _counted(
    rows: Iterator[tuple[int, int, Product]], total: int, progress: Callable[[int, int], None]
) -> Iterator[tuple[int, int, Product]]:
    for number, row in enumerate(rows, 1):
        if number % 500 == 0:
            progress(number, total)
        yield row


def _caught_up(held: Current) -> Current:
    """Bring an index up to date, or to as far as can be done before answering."""
    with feed.one_sight():
        news = feed.news(held.position)
        keys = feed.changed_products(news.transactions) if news.complete else {None}
        if len(keys) <= INLINE and None not in keys:
            return _with_changes(held, news.position, [key for key in keys if key is not None])
    newer = _from_snapshot(above=held.snapshot)
    if newer is not None:
        later = feed.news(newer.position)
        if later.complete:
            _warm(newer, held)
            return _caught_up(newer) if later.transactions else newer
    if is_worker_alive() and news.complete:
        ask_for_snapshot()
        held.behind = True
        return held
    anew = built(lambda done, total: None)
    _warm(anew, held)
    return anew


def _warm(new: Current, held: Current) -> None:
    """Cut the racks that are in use before anybody has to wait for them."""
    for specs in held.in_use:
        new.rack(specs)
    new.of_shoppers = held.of_shoppers


def _with_changes(held: Current, position: str, keys: Sequence[int]) -> Current:
    """Return an index with some products read anew; racks that were in use come along."""
    index, changes = later_index(held.index, keys)
    if index.facts.wasteful:
        next_one = started(position, index.facts.renumbered(), {}, held.snapshot)
        _warm(next_one, held)
        return next_one
    known: dict[FacetSpec, Facet] = {}  # racks share facets
    racks = {specs: rack.later(index, changes, known) for specs, rack in list(held.racks.items()) if specs in held.in_use}
    kept, changed = dict(held.read), {*_identities(held.index, keys), *_identities(index, keys)}
    read = {identity: product for identity, product in kept.items() if identity not in changed}
    return Current(position, index, held.snapshot, racks, of_shoppers=held.of_shoppers, read=read)


def _identities(index: Index, keys: Sequence[int]) -> list[str]:
    return index.ids.many([slot for slot in index.facts.slots(keys) if slot is not None])


def later_index(index: Index, keys: Sequence[int]) -> tuple[Index, Any]:
    """Return an index with some products read anew from the database, at this moment; and what changed in its columns."""
    facts = index.facts
    gathered = gather(read_products(keys, brief=True), facts.vocabularies)
    return index.later(*facts.changed(gathered, list(set(keys).difference(gathered.keys))), now_in_seconds())


def _within_own(number: int | None) -> Current:
    """Answer a transaction that has written and not committed: with what it sees, for itself alone."""
    global _own
    assert number is not None
    base = _own if _own and _own.transaction == number else None
    last, keys = feed.changed_within(number, base.change if base else 0)
    if base is None or keys is None or None in keys:
        anew = built(lambda done, total: None)
    elif keys or _is_late(base.current):
        anew = _with_changes(base.current, base.current.position, [key for key in keys if key is not None])
    else:
        return base.current
    anew.within = number
    _own = _Own(number, last, anew)
    return anew


def is_worker_alive() -> bool:
    """Tell whether a worker is there to do long work."""
    return ProcrastinateWorker.objects.filter(last_heartbeat__gt=timezone.now() - _WORKER_SILENT).exists()


def ask_for_snapshot() -> None:
    """Have a job make a snapshot; asking twice makes one, and after somebody cancelled it there is a rest."""
    from procrastinate.exceptions import AlreadyEnqueued

    from .tasks import write_snapshot

    if rests_until(COUNTING) is None:
        with suppress(AlreadyEnqueued), transaction.atomic():
            write_snapshot.defer()
