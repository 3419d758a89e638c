"""Retention of raw readings. Records, signatures and the chain stay for good; each deletion is recorded."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.db import connection, transaction
from django.utils import timezone

from kitchen.accounts.models import LEAST_KEPT_MONTHS, Kitchen, Person
from kitchen.line.models import Forecast, Reading

from .models import Entry

AT_ONCE = 50_000
OLD = "SELECT now() - make_interval(months => %s)"


class RetentionError(Exception):
    """A retention period that is not allowed."""


@transaction.atomic
def keep_for(kitchen: Kitchen, person: Person, months: int | None) -> Entry | None:
    """Set how long readings are kept, with who decided it.

    Raises RetentionError for less than half a year.
    """
    if months is not None and months < LEAST_KEPT_MONTHS:
        raise RetentionError(f"Readings are kept for {LEAST_KEPT_MONTHS} months at least.")
    kitchen = Kitchen.objects.select_for_update().get(pk=kitchen.pk)
    if kitchen.readings_kept_months == months:
        return None
    kitchen.readings_kept_months = months
    kitchen.save(update_fields=["readings_kept_months"])
    period = "indefinitely" if months is None else f"for {months} months"
    return Entry.objects.create(
        kitchen=kitchen, kind=Entry.Kind.RETENTION, by=person, at=kitchen.now(), what=f"Readings are kept {period}"
    )


def forget_old(kitchen: Kitchen) -> int:
    """Delete readings and forecasts past the retention period; returns the number of readings."""
    if kitchen.readings_kept_months is None:
        return 0
    before = _before(kitchen.readings_kept_months)
    gone = 0
    while took := _some(kitchen, before):
        gone += took
    if gone:
        last = Entry.objects.of(kitchen).filter(kind=Entry.Kind.RETENTION).first()
        if last is not None:
            Entry.objects.create(
                kitchen=kitchen, kind=Entry.Kind.RETENTION, by=last.by, at=kitchen.now(),
                what=f"{gone} readings from before {before:%-d %B %Y} were deleted",
            )  # fmt: skip
    return gone


def _before(months: int) -> dt.datetime:
    with connection.cursor() as cursor:
        cursor.execute(OLD, [months])
        moment: dt.datetime = cursor.fetchone()[0]
        return min(moment, timezone.now())


@transaction.atomic
def _some(kitchen: Kitchen, before: dt.datetime) -> int:
    old: Any = Reading.objects.of(kitchen).filter(at__lt=before).values("pk")[:AT_ONCE]
    took, _ = Reading.objects.filter(pk__in=list(old.values_list("pk", flat=True))).delete()
    Forecast.objects.of(kitchen).filter(at__lt=before).delete()
    return took
