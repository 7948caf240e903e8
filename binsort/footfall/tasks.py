"""Background jobs of footfall, run by the worker."""

from procrastinate.contrib.django import app

from .counting import forget_old


@app.periodic(cron="17 3 * * *")
@app.task(name="footfall.forget_old", queueing_lock="forget_old")
def forget_old_sums(timestamp: int) -> None:
    """Every night: delete the sums of days that are too long ago."""
    forget_old()
