"""Finished cooks, and their rows in lists."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from django.db.models import Q

from ember.food.search import search
from ember.judge.states import State
from kitchen.accounts.models import Kitchen
from kitchen.line.models import Cook
from kitchen.plans.models import Plan
from kitchen.web import day_in

from .record import record_of, record_state

MOST_CUTS = 8


@dataclass(frozen=True)
class LogRow:
    """A row of a list; `state` of the verdict; `peak`: measured, °C."""

    cook: Cook
    state: State
    signed: bool
    peak: float | None
    stopped: bool


def finished(kitchen: Kitchen) -> Any:
    """Finished cooks, newest first, with everything a row reads."""
    return (
        Cook.objects.of(kitchen)
        .filter(finished_at__isnull=False)
        .select_related("kitchen", "plan", "started_by", "sign_off__by")
        .with_history()
        .order_by("-finished_at")
    )


def found(kitchen: Kitchen, text: str) -> Any:
    """Finished cooks that match a text: name, person, cut, note or day ("2031-05-07")."""
    cooks = finished(kitchen)
    if not text:
        return cooks
    day = day_in(text)
    if day is None:
        named = Q(name__icontains=text) | Q(started_by__name__icontains=text) | Q(sign_off__by__name__icontains=text)
        cuts = [hit.id for hit in search(text)][:MOST_CUTS]
        noted = Cook.objects.of(kitchen).filter(events__data__note__icontains=text)
        added = Cook.objects.of(kitchen).filter(additions__note__icontains=text)
        by_cut = Q(document__piece__cut__in=cuts)
        return cooks.filter(named | by_cut | Q(pk__in=noted.values("pk")) | Q(pk__in=added.values("pk")))
    begin = dt.datetime.combine(day, dt.time(), kitchen.zone)
    return cooks.filter(finished_at__gte=begin, finished_at__lt=begin + dt.timedelta(days=1))


def row_of(cook: Cook) -> LogRow:
    """A row of the list: from the record if it is signed, else from the events."""
    signed = getattr(cook, "sign_off", None)
    record = signed.record if signed else record_of(cook)
    return LogRow(
        cook=cook,
        state=record_state(record),
        signed=signed is not None,
        peak=next((difference["done"] for difference in record["off_plan"] if difference["what"] == "Peak core"), None),
        stopped=any(difference["kind"] == "stopped" for difference in record["corrections"]),
    )


def cooks_of_plan(plan: Plan, most: int) -> tuple[list[LogRow], int]:
    """The newest finished cooks of a plan, at most that many; and how many there are."""
    cooks = finished(plan.kitchen).filter(plan=plan)
    return [row_of(cook) for cook in cooks[:most]], cooks.count()
