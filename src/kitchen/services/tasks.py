"""Background jobs of services: planning."""

from __future__ import annotations

from procrastinate.contrib.django import app

from .models import PlanningJob
from .planning import JobHearing, run


@app.task(queue="planning", lock="planning")
def plan(job_id: int) -> None:
    """Run one planning job; does nothing if it is over or gone."""
    job = PlanningJob.objects.select_related("service__kitchen").filter(pk=job_id, finished_at=None).first()
    if job is not None:
        run(job, JobHearing(job))


def plan_soon(job: PlanningJob) -> None:
    """Hand a job to the worker, within the transaction that created it."""
    plan.defer(job_id=job.pk)
