"""Keeping snapshots: when one is due, and making it."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta

from django.db import connection
from django.utils import timezone

from binsort.catalog.models import Product

from . import current, feed, snapshots
from .activity import COUNTING, Progress, rests_until, work
from .models import Change, Snapshot

_LOCK = 7_265_318  # of writing snapshots, among the advisory locks
_MANY = 1000  # changes that are worth a snapshot at once
_STEP = 2000  # products between two reports of progress
_OLD = timedelta(minutes=10)  # with any change at all


def is_snapshot_due() -> bool:
    """Tell whether the newest snapshot is missing or too far behind."""
    if rests_until(COUNTING):
        return False
    feed.settle()
    newest = snapshots.newest()
    if newest is None:
        return Product.objects.exists()
    news = feed.news(newest.position)
    changes = Change.objects.filter(transaction__in=news.transactions)[:_MANY].count()
    return changes >= _MANY or not news.complete or (changes > 0 and newest.at < timezone.now() - _OLD)


def make_snapshot() -> Snapshot | None:
    """Write a snapshot of the catalogue as it is now, from the newest one and the changes since, or from every row.

    Returns:
        The snapshot; None where another process is writing one.

    Raises:
        Stopped: somebody asked for it on the Activity page.
    """
    with _alone() as alone:
        return _make() if alone else None


@contextmanager
def _alone() -> Iterator[bool]:
    """Tell whether no other process writes a snapshot; the database lets go of the lock where a process dies."""
    own = connection.copy()
    try:
        with own.cursor() as cursor:
            cursor.execute("SELECT pg_try_advisory_lock(%s)", [_LOCK])
            yield bool(cursor.fetchone()[0])
    finally:
        own.close()


def _make() -> Snapshot:
    with work(COUNTING) as progress:
        feed.settle()
        source = _from_newest(progress) or current.built(progress)
        facts = source.index.facts.renumbered()
        fresh = current.started(source.position, facts, {})
        progress(facts.size, facts.size)
        return snapshots.save(source.position, facts, {"name": fresh.index.orders.name.slots})


def _from_newest(progress: Progress) -> current.Current | None:
    """Return the newest snapshot with the changes since, None where reading every row is better."""
    newest = snapshots.newest()
    loaded = snapshots.load(newest) if newest else None
    if newest is None or loaded is None:
        return None
    with feed.one_sight():
        news = feed.news(newest.position)
        keys = feed.changed_products(news.transactions)
        if not news.complete or None in keys or len(keys) > newest.products // 3:
            return None
        held = current.started(newest.position, *loaded)
        listed = sorted(key for key in keys if key is not None)
        for at in range(0, len(listed), _STEP):
            progress(at, len(listed))
            held.index, _ = current.later_index(held.index, listed[at : at + _STEP])
        held.position = news.position
    return held
