"""Plates: how many were up, and how many of them late."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from django.db.models import Count, F, Q

from ember.service.task_ref import TaskKind
from kitchen.accounts.models import Kitchen

from .models import TaskEvent

LATE = dt.timedelta(minutes=3)


@dataclass(frozen=True)
class Plates:
    """Plates that were tapped as up, and those of them that were late."""

    up: int
    late: int


def plates_of(kitchen: Kitchen, begin: dt.datetime, end: dt.datetime) -> Plates:
    """The plates of a period."""
    plated = TaskEvent.objects.filter(
        service__kitchen=kitchen, task=str(TaskKind.PLATE), kind=TaskEvent.Kind.DONE, at__gte=begin, at__lt=end
    )
    counted = plated.aggregate(up=Count("pk"), late=Count("pk", filter=Q(at__gt=F("dish__plate_up") + LATE)))
    return Plates(counted["up"], counted["late"])
