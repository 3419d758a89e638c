"""Readings of cooks: which belong to them, which came in time, and those of fixed probes."""

from __future__ import annotations

import datetime as dt

from django.db.models import Q, QuerySet

from kitchen.accounts.models import Kitchen
from kitchen.kit.models import Probe

from .models import Cook, Reading

STALE_AFTER_S = 90.0  # of kitchen time: then the probe is not heard from


def readings_of(cook: Cook) -> QuerySet[Reading]:
    """Readings of a cook: typed for it, and of its probes while they were in its piece.

    For a signed cook only those received before the signature: later ones never change a signed record.
    """
    readings = _all_readings(cook)
    signed = getattr(cook, "sign_off", None) if cook.finished_at else None
    return readings if signed is None else readings.filter(in_time(signed.at))


def _all_readings(cook: Cook) -> QuerySet[Reading]:
    wanted = Q(cook=cook)
    for use in cook.probe_history:
        mine = Q(probe_id=use.probe_id, at__gte=use.during.lower)
        if use.during.upper is not None:
            mine &= Q(at__lt=use.during.upper)
        wanted |= mine
    return Reading.objects.of(cook.kitchen).filter(wanted).order_by("at", "id")


def in_time(moment: dt.datetime) -> Q:
    """Readings received by a moment."""
    return Q(received_at=None) | Q(received_at__lte=moment)


def came_late(cook: Cook) -> tuple[int, int]:
    """Number of readings received after a cook was finished, and of those after it was signed."""
    if cook.finished_at is None:
        return 0, 0
    signed = getattr(cook, "sign_off", None)
    late = _all_readings(cook).exclude(in_time(cook.finished_at))
    return late.count(), 0 if signed is None else late.exclude(in_time(signed.at)).count()


def fixed_readings(kitchen: Kitchen, now: dt.datetime) -> dict[int, float]:
    """{equipment: °C} by the newest fresh reading of each fixed probe."""
    since = now - dt.timedelta(seconds=STALE_AFTER_S)
    fixed = Probe.objects.of(kitchen).filter(fixed_in__isnull=False)
    rows = Reading.objects.of(kitchen).filter(probe__in=fixed, at__gte=since).order_by("at")
    return dict(rows.values_list("probe__fixed_in_id", "celsius"))
