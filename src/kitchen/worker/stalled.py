"""Jobs of a worker that was killed: found by its heartbeat, and run again."""

from __future__ import annotations

import logging

from procrastinate import App
from procrastinate.exceptions import ConnectorException
from procrastinate.jobs import Job, Status

log = logging.getLogger(__name__)

SILENT_S = 20.0  # a worker silent for so long is gone; it gives a sign of life every HEARTBEAT_S


async def run_again(app: App, silent_s: float = SILENT_S) -> int:
    """Give the jobs of workers that went silent back to the queue; returns their number."""
    stalled = list(await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=silent_s))
    for job in stalled:
        await _again(app, job)
    if stalled:
        log.warning("%d jobs of a worker that went silent were taken up again", len(stalled))
    return len(stalled)


async def _again(app: App, job: Job) -> None:
    try:
        await app.job_manager.retry_job(job)
    except ConnectorException:  # the same work waits in the queue already, under the same lock
        await app.job_manager.finish_job(job, Status.FAILED, delete_job=True)
