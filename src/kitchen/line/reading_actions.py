"""Readings come in: typed by hand, sent by devices, taken from a file."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from django.db import IntegrityError, transaction

from kitchen.accounts.models import Kitchen, Person
from kitchen.kit.models import Probe

from .actions import LineError, lock, must_run
from .models import Cook, Reading
from .tasks import soon


@transaction.atomic
def type_reading(cook: Cook, person: Person, celsius: float, at: dt.datetime | None = None) -> Reading:
    """A reading somebody took by hand."""
    cook = lock(cook)
    must_run(cook)
    when = at or cook.kitchen.now()
    soon(cook)
    return Reading.objects.create(
        kitchen=cook.kitchen, cook=cook, at=when, claimed_at=when, celsius=celsius, entered_by=person
    )


@dataclass(frozen=True)
class ProbeReading:
    """A reading as a device sent it: the kitchen's time, the device's own, °C, and its set point where it tells it."""

    probe: Probe
    at: dt.datetime
    claimed_at: dt.datetime
    celsius: float
    set_c: float | None = None


def keep_readings(kitchen: Kitchen, rows: Sequence[ProbeReading]) -> int:
    """Keep a device's readings. Returns how many were new; repeats are left out."""
    all_ = [Reading(kitchen=kitchen, **vars(row)) for row in rows]
    readings = list({(r.probe_id, r.claimed_at, r.celsius): r for r in all_}.values())
    try:  # nearly always all of them are new
        with transaction.atomic():
            Reading.objects.bulk_create(readings, batch_size=1000)
        return len(readings)
    except IntegrityError:
        before = _known(readings)
        Reading.objects.bulk_create(readings, ignore_conflicts=True, batch_size=1000)
    return len({(r.probe_id, r.claimed_at, r.celsius) for r in readings} - before)


@transaction.atomic
def take_in_readings(cook: Cook, person: Person, rows: Sequence[tuple[dt.datetime, float]]) -> int:
    """Readings from a file, as somebody's. Returns how many were new: taken in again they are not doubled.

    Raises LineError for one from before the cook began or from the future.
    """
    cook = lock(cook)
    must_run(cook)
    now = cook.kitchen.now()
    for at, _ in rows:
        if not cook.started_at <= at <= now:
            raise LineError(f"{at.astimezone(cook.kitchen.zone):%H:%M:%S} is not within this cook.")
    there = set(cook.typed_readings.values_list("at", "celsius"))
    new = [row for row in dict.fromkeys(rows) if row not in there]
    Reading.objects.bulk_create(
        Reading(kitchen=cook.kitchen, cook=cook, at=at, claimed_at=at, celsius=celsius, entered_by=person)
        for at, celsius in new
    )
    soon(cook)
    return len(new)


def _known(readings: list[Reading]) -> set[tuple[int | None, dt.datetime, float]]:
    if not readings:
        return set()
    times = [r.claimed_at for r in readings]
    found = Reading.objects.filter(
        probe_id__in={r.probe_id for r in readings}, claimed_at__gte=min(times), claimed_at__lte=max(times)
    )
    return set(found.values_list("probe_id", "claimed_at", "celsius"))
