"""Retention of raw readings. Records, signatures and the chain stay for good; what is taken is recorded.

Readings lie in a table of each month. A function of the database, which only the owner of the tables may call, thins
and deletes by what each kitchen decided (migration 0008); the application has no right to.
"""

from __future__ import annotations

import datetime as dt
from itertools import groupby
from typing import Any

from django.db import connection, transaction
from django.utils import timezone

from kitchen.accounts.models import LEAST_KEPT_MONTHS, LEAST_THINNED_DAYS, Kitchen, Person
from kitchen.line.models import Forecast

from .models import Entry, Retirement

AHEAD = dt.timedelta(days=92)
BEFORE = "SELECT now() - make_interval(months => %s)"
MONTHS = """
SELECT to_timestamp(right(c.relname, 7) || ' +00', 'YYYY_MM TZH')
FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid
WHERE i.inhparent = 'line_reading'::regclass AND c.relname <> 'line_reading_other' ORDER BY 1
"""
SIZE = "SELECT pg_relation_size(oid), reltuples FROM pg_class WHERE oid = %s::regclass"
LOOSE_B, SMALL_B = 250, 8 << 20  # a reading takes about 125 bytes; a table of a few megabytes is left as it is
THINNED = "{count} readings from {since} to {until} were thinned to one a minute and each extreme"
GONE = "{count} readings from before {until} were deleted"


class RetentionError(Exception):
    """A retention period that is not allowed."""


@transaction.atomic
def keep_for(kitchen: Kitchen, person: Person, months: int | None) -> Entry | None:
    """Set how long readings are kept, with who decided it.

    Raises RetentionError for less than half a year.
    """
    if months is not None and months < LEAST_KEPT_MONTHS:
        raise RetentionError(f"Readings are kept for {LEAST_KEPT_MONTHS} months at least.")
    period = "indefinitely" if months is None else f"for {months} months"
    return _decide(kitchen, person, "readings_kept_months", months, f"Readings are kept {period}")


@transaction.atomic
def thin_after(kitchen: Kitchen, person: Person, days: int | None) -> Entry | None:
    """Set after how long readings are thinned, with who decided it.

    Raises RetentionError for less than five weeks.
    """
    if days is not None and days < LEAST_THINNED_DAYS:
        raise RetentionError(f"Readings are kept whole for {LEAST_THINNED_DAYS} days at least.")
    period = "Readings are never thinned" if days is None else f"Readings are thinned after {days} days"
    return _decide(kitchen, person, "readings_thinned_days", days, period)


@transaction.atomic
def keep_photos_for(kitchen: Kitchen, person: Person, months: int | None) -> Entry | None:
    """Set how long photographs of cut faces are kept, with who decided it. What was measured on them stays.

    Raises RetentionError for less than a month.
    """
    if months is not None and months < 1:
        raise RetentionError("Photographs are kept for a month at least.")
    period = "indefinitely" if months is None else f"for {months} months"
    return _decide(kitchen, person, "photos_kept_months", months, f"Photographs are kept {period}")


def _decide(kitchen: Kitchen, person: Person, field: str, value: int | None, what: str) -> Entry | None:
    kitchen = Kitchen.objects.select_for_update().get(pk=kitchen.pk)
    if getattr(kitchen, field) == value:
        return None
    setattr(kitchen, field, value)
    kitchen.save(update_fields=[field])
    return Entry.objects.create(kitchen=kitchen, kind=Entry.Kind.RETENTION, by=person, at=kitchen.now(), what=what)


def keep_months() -> int:
    """Make the tables of the coming months; returns how many. As the owner of the tables."""
    now = timezone.now()
    with connection.cursor() as cursor:
        cursor.execute("SELECT ember_reading_months(%s, %s)", [now, now + AHEAD])
        return int(cursor.fetchone()[0])


def retire() -> list[Retirement]:
    """Thin and delete what each kitchen decided, month by month, and enter it in their books. As the owner of the
    tables.
    """
    with connection.cursor() as cursor:
        cursor.execute(MONTHS)
        months = [row[0] for row in cursor.fetchall()]
    taken = [row for month in months for row in _retire_month(month)]
    for kitchen in Kitchen.objects.all():
        if kitchen.readings_kept_months is not None:
            Forecast.objects.of(kitchen).filter(at__lt=_before(kitchen.readings_kept_months)).delete()
    return taken


def compact() -> list[str]:
    """Give back the room of months that were thinned; returns their tables. As the owner of the tables, outside a
    transaction.
    """
    made = []
    with connection.cursor() as cursor:
        cursor.execute(MONTHS)
        for month in [row[0] for row in cursor.fetchall()]:
            name = connection.ops.quote_name(f"line_reading_{month:%Y_%m}")
            cursor.execute(f"ANALYZE {name}")
            cursor.execute(SIZE, [name])
            size, rows = cursor.fetchone()
            if size > max(rows, 1) * LOOSE_B + SMALL_B:
                cursor.execute(f"VACUUM (FULL, ANALYZE) {name}")
                made.append(name)
    return made


@transaction.atomic
def _retire_month(month: dt.datetime) -> list[Retirement]:
    """What was taken of a month, which the month's tables and the books say together or not at all."""
    sql = "SELECT * FROM ember_retire_readings(%s)"
    taken: list[Any] = [row for row in Retirement.objects.raw(sql, [month]) if row.count]
    for kitchen_id, rows in groupby(taken, key=lambda row: row.kitchen_id):
        decided = Entry.objects.filter(kitchen_id=kitchen_id, kind=Entry.Kind.RETENTION).first()
        if decided is not None:
            Entry.objects.bulk_create(_entry(decided, row) for row in rows)
    return taken


def _entry(decided: Entry, taken: Retirement) -> Entry:
    words = THINNED if taken.what == Retirement.What.THINNED else GONE
    zone = decided.kitchen.zone
    what = words.format(
        count=taken.count, since=f"{taken.since.astimezone(zone):%-d %B %Y}",
        until=f"{taken.until.astimezone(zone):%-d %B %Y}",
    )  # fmt: skip
    kitchen = decided.kitchen
    return Entry(kitchen=kitchen, kind=Entry.Kind.RETENTION, by_id=decided.by_id, at=kitchen.now(), what=what)


def _before(months: int) -> dt.datetime:
    with connection.cursor() as cursor:
        cursor.execute(BEFORE, [months])
        moment: dt.datetime = cursor.fetchone()[0]
        return moment
