"""The change feed: which products changed between two moments, exactly, whatever order transactions ended in.

A moment is a PostgreSQL snapshot, as ``pg_current_snapshot()`` writes it: it says of every transaction whether it had
ended. What a reader lacks is what transactions wrote that had not ended in its snapshot and have in the newest one.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from django.db import connection, transaction

from .models import Change, Horizon, Snapshot, Writing

_NEWS = """
SELECT pg_current_snapshot()::text,
       pg_current_xact_id_if_assigned()::text::bigint,
       COALESCE((SELECT transaction FROM tally_horizon), 0),
       pg_snapshot_xmin(%(since)s::pg_snapshot)::text::bigint,
       pg_snapshot_xmax(%(since)s::pg_snapshot) <= pg_snapshot_xmax(pg_current_snapshot()),
       ARRAY(
           SELECT transaction FROM tally_writing
           WHERE transaction >= pg_snapshot_xmin(%(since)s::pg_snapshot)::text::bigint
             AND (NOT pg_visible_in_snapshot(transaction::text::xid8, %(since)s::pg_snapshot)
                  OR transaction = pg_current_xact_id_if_assigned()::text::bigint)
       )
"""


@dataclass(frozen=True, slots=True)
class News:
    """What happened since a position."""

    position: str  # now
    transactions: tuple[int, ...]  # that changed the catalogue, this connection's own among them
    own: int | None  # the transaction that this connection is in and has written in
    complete: bool  # False: changes since then were forgotten, or the database is another one

    @property
    def wrote(self) -> bool:
        """Tell whether this connection changed the catalogue and has not committed yet."""
        return self.own in self.transactions


def news(since: str) -> News:
    """Ask what happened since a position; one query."""
    with connection.cursor() as cursor:
        cursor.execute(_NEWS, {"since": since})
        position, own, horizon, earliest, forwards, changed = cursor.fetchone()
    return News(position, tuple(changed), own, complete=earliest >= horizon and forwards)


def position() -> tuple[str, int | None]:
    """Return the position now, and this connection's own transaction if it has written."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_current_snapshot()::text, pg_current_xact_id_if_assigned()::text::bigint")
        read: tuple[str, int | None] = cursor.fetchone()
    return read


def changed_products(transactions: tuple[int, ...]) -> set[int | None]:
    """Return the primary keys of the products that transactions changed; None among them stands for all."""
    return set(Change.objects.filter(transaction__in=transactions).values_list("product", flat=True).distinct())


def changed_within(transaction: int, after: int) -> tuple[int, set[int | None] | None]:
    """Return the newest change row of an open transaction, and what it changed after a row; None where that was rolled back."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT COALESCE(max(id), 0), COALESCE(bool_or(id = %(after)s), FALSE) OR %(after)s = 0,"
            " COALESCE(array_agg(DISTINCT product) FILTER (WHERE id > %(after)s), '{}') FROM tally_change WHERE transaction = %(here)s",
            {"after": after, "here": transaction},
        )
        last, is_there, products = cursor.fetchone()
    return last, set(products) if is_there else None


def has_written(of_transaction: int | None) -> bool:
    """Tell whether a transaction changed the catalogue."""
    return of_transaction is not None and Writing.objects.filter(pk=of_transaction).exists()


@contextmanager
def one_sight() -> Iterator[None]:
    """See the database as it is at one moment for several queries; within a transaction that is open already, as it is."""
    if connection.in_atomic_block:
        yield
        return
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        yield


def cluster() -> str:
    """Return which database cluster this is; transaction numbers mean nothing in another."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT system_identifier::text FROM pg_control_system()")
        name: str = cursor.fetchone()[0]
    return name


def settle() -> None:
    """Make sure that what is kept of transactions belongs to this cluster; forget what a restored copy brought along."""
    here = cluster()
    if Horizon.objects.filter(cluster=here).exists():
        return
    with transaction.atomic():
        is_new = Horizon.objects.update_or_create(pk=1, defaults={"cluster": here, "transaction": 0})[1]
        if not is_new:
            Snapshot.objects.all().delete()
            Change.objects.all().delete()
            Writing.objects.all().delete()
