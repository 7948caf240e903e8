"""Background jobs of the tally, run by the worker."""

import logging

from procrastinate.contrib.django import app

from .activity import Stopped
from .keeping import is_snapshot_due, make_snapshot

_log = logging.getLogger(__name__)


@app.task(name="tally.write_snapshot", lock="snapshot", queueing_lock="snapshot")
def write_snapshot() -> None:
    """Write a snapshot of the catalogue as it is now."""
    try:
        make_snapshot()
    except Stopped:
        _log.warning("writing a snapshot was cancelled")


@app.periodic(cron="* * * * *")
@app.task(name="tally.keep_snapshot", lock="snapshot", queueing_lock="keep_snapshot", pass_context=False)
def keep_snapshot(timestamp: int) -> None:
    """Every minute: write a snapshot where the newest one is too far behind."""
    if is_snapshot_due():
        write_snapshot.func()
