"""Incoming readings: typed, sent by devices, imported from a file."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from django.db import IntegrityError, transaction

from kitchen.accounts.models import Kitchen, Person
from kitchen.kit.models import Probe

from .actions import lock, must_run
from .errors import LineError
from .models import Cook, Reading
from .taps import tapped_at
from .tasks import enqueue_forecast


@transaction.atomic
def type_reading(cook: Cook, person: Person, celsius: float, at: dt.datetime | None = None) -> Reading:
    """Record a reading typed by a person."""
    cook = lock(cook)
    must_run(cook)
    when = at or tapped_at(cook.kitchen)
    enqueue_forecast(cook)
    return Reading.objects.create(
        kitchen=cook.kitchen,
        cook=cook,
        at=when,
        claimed_at=when,
        received_at=cook.kitchen.now(),
        celsius=celsius,
        entered_by=person,
        by_hand=True,
    )


@dataclass(frozen=True)
class ProbeReading:
    """A reading as a device sent it: kitchen's time, device's time, °C, set point, boot and number."""

    probe: Probe
    at: dt.datetime
    claimed_at: dt.datetime
    celsius: float
    set_c: float | None = None
    boot: str = ""
    number: int = 0


def keep_readings(kitchen: Kitchen, rows: Sequence[ProbeReading]) -> int:
    """Store a device's readings. Returns the number of new ones; repeats are left out."""
    now = kitchen.now()
    sent = [Reading(kitchen=kitchen, received_at=now, **vars(values)) for values in rows]
    readings = list({_key(reading): reading for reading in sent}.values())
    try:  # nearly always all of them are new
        with transaction.atomic():
            Reading.objects.bulk_create(readings, batch_size=1000)
        return len(readings)
    except IntegrityError:
        before = _known(readings)
        Reading.objects.bulk_create(readings, ignore_conflicts=True, batch_size=1000)
    return len({_key(reading) for reading in readings} - before)


@transaction.atomic
def take_in_readings(cook: Cook, person: Person, rows: Sequence[tuple[dt.datetime, float]]) -> int:
    """Import readings from a file for a person. Returns the number of new ones; importing twice adds none.

    Raises LineError for a reading from before the cook began or from the future.
    """
    cook = lock(cook)
    must_run(cook)
    now = cook.kitchen.now()
    for at, _ in rows:
        if not cook.started_at <= at <= now:
            raise LineError(f"{at.astimezone(cook.kitchen.zone):%H:%M:%S} is not within this cook.")
    there = set(cook.typed_readings.values_list("at", "celsius"))
    new = [reading for reading in dict.fromkeys(rows) if reading not in there]
    Reading.objects.bulk_create(
        Reading(
            kitchen=cook.kitchen,
            cook=cook,
            at=at,
            claimed_at=at,
            received_at=now,
            celsius=celsius,
            entered_by=person,
        )
        for at, celsius in new
    )
    enqueue_forecast(cook)
    return len(new)


_Key = tuple[int | None, str, int, dt.datetime, float]


def _key(reading: Reading) -> _Key:
    return reading.probe_id, reading.boot, reading.number, reading.claimed_at, reading.celsius


def _known(readings: list[Reading]) -> set[_Key]:
    if not readings:
        return set()
    times = [r.claimed_at for r in readings]
    known = Reading.objects.filter(
        probe_id__in={r.probe_id for r in readings}, claimed_at__gte=min(times), claimed_at__lte=max(times)
    )
    return set(known.values_list("probe_id", "boot", "number", "claimed_at", "celsius"))
