"""Background jobs of the tally, run by the worker. Two that do the same at once do no harm, and a job that died blocks none."""

import logging

from procrastinate import JobContext
from procrastinate.contrib.django import app
from procrastinate.jobs import Status

from .activity import Stopped
from .snapshot_job import is_snapshot_due, make_snapshot

_log = logging.getLogger(__name__)


@app.task(name="tally.write_snapshot", queueing_lock="snapshot")
def write_snapshot() -> None:
    """Write a snapshot of the catalogue as it is now."""
    try:
        make_snapshot()
    except Stopped:
        _log.warning("writing a snapshot was cancelled")


@app.periodic(cron="* * * * *")
@app.task(name="tally.keep_snapshot", queueing_lock="keep_snapshot")
def keep_snapshot(timestamp: int) -> None:
    """Every minute: write a snapshot where the newest one is too far behind."""
    if is_snapshot_due():
        write_snapshot()


@app.periodic(cron="*/5 * * * *")
@app.task(name="tally.clear_stalled", queueing_lock="clear_stalled", pass_context=True)
async def clear_stalled(context: JobContext, timestamp: int) -> None:
    """Take away the jobs whose worker died; what they were to do is asked for again where it is needed."""
    for job in await context.app.job_manager.get_stalled_jobs():
        await context.app.job_manager.finish_job(job, Status.FAILED, delete_job=True)
