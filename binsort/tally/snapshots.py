"""Snapshots: the facts of the catalogue kept in the database, so that a process loads them instead of reading every row."""

from datetime import timedelta
from typing import Any

import numpy as np
from django.db import connection, transaction
from django.db.models import Min
from django.utils import timezone

from binsort.catalog.store.batches import batched
from binsort.core.index.facts import Facts
from binsort.core.index.snapshot_format import UnreadableSnapshot, freeze, thaw

from .models import Change, Horizon, Part, Snapshot, Writing

_PART = 4 << 20  # bytes
_KEPT = timedelta(hours=1)  # changes stay this long for processes that follow them


def newest(above: int = 0) -> Snapshot | None:
    """Return the newest snapshot, if it is newer than that of a number."""
    return Snapshot.objects.filter(pk__gt=above).order_by("-pk").first()


def load(snapshot: Snapshot) -> tuple[Facts, dict[str, np.ndarray[Any, Any]]] | None:
    """Return the facts of a snapshot, None where it cannot be read (an older format, or gone by now)."""
    try:
        return thaw(b"".join(map(bytes, snapshot.parts.values_list("data", flat=True))))
    except UnreadableSnapshot:
        return None


def save(position: str, facts: Facts, extra: dict[str, np.ndarray[Any, Any]]) -> Snapshot:
    """Keep facts as of a position; earlier snapshots go, and with them the changes that nobody will ask for."""
    frozen = freeze(facts, extra)
    with transaction.atomic():
        snapshot = Snapshot.objects.create(position=position, products=facts.size, size=len(frozen))
        pieces = [frozen[at : at + _PART] for at in range(0, len(frozen), _PART)]
        for batch in batched(enumerate(pieces), 8):
            Part.objects.bulk_create(Part(snapshot=snapshot, number=number, data=data) for number, data in batch)
        Snapshot.objects.filter(pk__lt=snapshot.pk).delete()
        _forget(position)
    return snapshot


def _forget(covered: str) -> None:
    """Delete the changes that a snapshot covers and that are too old for a running process to lack."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_snapshot_xmin(%s::pg_snapshot)::text::bigint", [covered])
        horizon: int = cursor.fetchone()[0]
    recent = Writing.objects.filter(at__gt=timezone.now() - _KEPT).aggregate(first=Min("transaction"))["first"]
    horizon = horizon if recent is None else min(horizon, recent)
    Change.objects.filter(transaction__lt=horizon).delete()
    Writing.objects.filter(transaction__lt=horizon).delete()
    Horizon.objects.filter(pk=1).update(transaction=horizon)
