"""Background jobs of the worker itself."""

from __future__ import annotations

from procrastinate import JobContext
from procrastinate.contrib.django import app

from . import stalled


@app.periodic(cron="* * * * * */15", periodic_id="stalled")
@app.task(queue="forecasts", queueing_lock="stalled", pass_context=True)
async def take_up_stalled(context: JobContext, timestamp: int) -> None:
    """Run the jobs of a killed worker again."""
    await stalled.run_again(context.app)
