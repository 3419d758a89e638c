"""Background jobs of the line: forecasts, at intervals and right after an event."""

from __future__ import annotations

import logging
import time
import uuid

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued, ConnectorException

from kitchen.worker.beats import beat
from kitchen.worker.models import Beat

from . import forecasting
from .models import Cook

log = logging.getLogger(__name__)

BUDGET_S = 8.0  # one sweep works no longer: what is left comes with the next
TOGETHER = 10


@app.task(queue="forecasts", pass_context=False)
def refresh_cook(cook_id: str) -> None:
    """Forecast one cook, after an event."""
    cook = Cook.objects.select_related("kitchen").filter(pk=uuid.UUID(cook_id)).first()
    if cook is not None and not cook.goes_by_steps:
        forecasting.refresh(cook)


@app.periodic(cron="* * * * * */2", periodic_id="sweep")
@app.task(queue="forecasts", queueing_lock="sweep", lock="sweep")
def sweep(timestamp: int) -> None:
    """Forecast all cooks whose forecast is old."""
    end = time.monotonic() + BUDGET_S
    due = forecasting.due_cooks()
    for i in range(0, len(due), TOGETHER):
        if time.monotonic() > end:
            break
        forecasting.refresh_some(due[i : i + TOGETHER])
    beat(Beat.SWEEP)


def enqueue_forecast(cook: Cook) -> None:
    """Request a cook's forecast after commit; eggs have none."""
    if cook.goes_by_steps:
        return

    def ask() -> None:
        try:
            with transaction.atomic():
                refresh_cook.configure(queueing_lock=f"cook-{cook.pk}").defer(cook_id=str(cook.pk))
        except AlreadyEnqueued:
            return
        except ConnectorException:
            log.warning("no forecast was asked for of cook %s", cook.pk, exc_info=True)

    transaction.on_commit(ask)
