"""Incoming readings: typed, sent by devices, imported from a file."""

from __future__ import annotations

import datetime as dt
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from django.db import connection, transaction

from kitchen.accounts.models import Kitchen, Person
from kitchen.kit.models import Probe

from .actions import lock, must_run
from .errors import LineError
from .models import Cook, Reading
from .taps import tapped_at
from .tasks import enqueue_forecast

REPEATED_FOR = dt.timedelta(days=61)  # a device may send readings of the last 30 days
ONE_POST_AT_A_TIME = "SELECT pg_advisory_xact_lock(hashtextextended(%s, 0))"


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


@transaction.atomic
def keep_readings(kitchen: Kitchen, rows: Sequence[ProbeReading]) -> int:
    """Store a device's readings. Returns the number of new ones; repeats are left out, also by another post of the same
    device at the same time.
    """
    if not rows:
        return 0
    now = kitchen.now()
    sent = {_key(reading): reading for reading in (Reading(kitchen=kitchen, received_at=now, **vars(r)) for r in rows)}
    with connection.cursor() as cursor:
        cursor.execute(ONE_POST_AT_A_TIME, [f"readings of {rows[0].probe.device_id}"])
    known = _known(sent, now)
    new = [reading for key, reading in sent.items() if key not in known]
    Reading.objects.bulk_create(new, batch_size=1000)
    return len(new)


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


def _known(sent: Collection[_Key], now: dt.datetime) -> set[_Key]:
    """Those that are stored already; a device may repeat what it sent within REPEATED_FOR."""
    times = [claimed_at for _, _, _, claimed_at, _ in sent]
    known = Reading.objects.filter(
        probe_id__in={probe for probe, *_ in sent}, claimed_at__gte=min(times), claimed_at__lte=max(times),
        at__gte=now - REPEATED_FOR,
    )  # fmt: skip
    return set(known.values_list("probe_id", "boot", "number", "claimed_at", "celsius"))
