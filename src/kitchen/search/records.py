"""Records that match a text: cooks, batches, the daily log and equipment checks."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from django.db.models import Q, QuerySet

from ember.quantities import Units
from kitchen.accounts.models import Kitchen
from kitchen.batches.models import Batch
from kitchen.book.models import Entry
from kitchen.book.rows import Row, of_batches, of_checks, of_cooks, of_entries
from kitchen.kit.models import KitCheck
from kitchen.logbook.queries import found as cooks_found
from kitchen.web import day_in

MOST = 12  # of each kind


@dataclass(frozen=True)
class RecordGroup:
    """Matches of one kind, newest first; `more`: how many beyond those shown."""

    name: str
    rows: list[Row]
    more: int


def _in(rows: QuerySet[Any], kitchen: Kitchen, text: str, when: str, *fields: str) -> QuerySet[Any]:
    """Rows that contain a text in one of the fields, or are of that day."""
    day = day_in(text)
    if day is None:
        wanted = Q()
        for field in fields:
            wanted |= Q(**{f"{field}__icontains": text})
        return rows.filter(wanted).distinct()
    begin = dt.datetime.combine(day, dt.time(), kitchen.zone)
    return rows.filter(**{f"{when}__gte": begin, f"{when}__lt": begin + dt.timedelta(days=1)})


def record_groups(kitchen: Kitchen, text: str, units: Units) -> list[RecordGroup]:
    """Matches for a text by name, person, note or day, only of kinds with any."""
    cooks = cooks_found(kitchen, text)
    batches = _in(Batch.objects.of(kitchen), kitchen, text, "out_at", "name", "out_by__name", "events__note")
    entries = _in(Entry.objects.of(kitchen).exclude(kind=Entry.Kind.ADDITION), kitchen, text, "at", "what", "note",
                  "by__name")  # fmt: skip
    checks = _in(KitCheck.objects.of(kitchen), kitchen, text, "at", "equipment__name", "probe__name", "by__name")
    kinds = (
        ("Cooks", cooks, list(of_cooks(_first(cooks), units))),
        ("Batches", batches, list(of_batches(_first(batches), kitchen.now()))),
        ("Daily log", entries, list(of_entries(_first(entries), units))),
        ("Equipment checks", checks, list(of_checks(_first(checks), units))),
    )
    return [RecordGroup(name, rows, query.count() - len(rows)) for name, query, rows in kinds if rows]


def _first(rows: QuerySet[Any]) -> QuerySet[Any]:
    own: QuerySet[Any] = rows.model._default_manager.filter(pk__in=list(rows.values_list("pk", flat=True)[:MOST]))
    return own
