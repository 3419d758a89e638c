"""Background jobs of the demonstration: its evening from the start."""

from __future__ import annotations

from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from kitchen.accounts.models import Kitchen

from .build import build_again


@app.task(queue="slow", lock="slow")
def restart_evening(kitchen_id: int) -> None:
    """Build a new galley for the people of a demonstration kitchen; nothing if that was done already."""
    kitchen = Kitchen.objects.filter(pk=kitchen_id, is_demo=True).first()
    if kitchen is not None and kitchen.memberships.filter(left_at=None).exists():
        build_again(kitchen)


def restart_soon(kitchen: Kitchen) -> None:
    """Hand it to the worker, once however often it is asked for."""
    try:
        restart_evening.configure(queueing_lock=f"evening-{kitchen.pk}").defer(kitchen_id=kitchen.pk)
    except AlreadyEnqueued:
        return
