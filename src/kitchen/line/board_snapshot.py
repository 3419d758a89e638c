"""Snapshots of cooks for the board: what never changes once they began, and the few readings a board needs.

A full kitchen's board is rendered many times a second; reading every plan and reading each time would be most of the
work.
"""

from __future__ import annotations

import datetime as dt
import uuid
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from django.db.models import OuterRef, Q, Subquery
from django.db.models.functions import JSONObject

from ember.files.plan import Plan, parse_plan
from ember.files.result import CurvesOut
from ember.track.steps import Step, step_from
from kitchen.accounts.models import Kitchen
from kitchen.kit.models import Probe

from .models import Cook, Forecast, Reading

REMEMBERED = 1024  # cooks a process keeps in mind
PAST = dt.timedelta(minutes=4.5)  # a little more than a lane shows
FOR_LANES = ("fan", "mode")  # of a forecast, what only a lane or the next forecast needs


@dataclass(frozen=True)
class BoardSnapshot:
    """A cook's plan, planned curves as arrays, steps (None for a cook without stored steps), and result."""

    plan: Plan
    curves: CurvesOut
    steps: list[Step] | None
    result: dict[str, Any]


@lru_cache(maxsize=REMEMBERED)
def snapshot_of(pk: uuid.UUID) -> BoardSnapshot:
    """The snapshot of a cook; each process reads it from the database once."""
    cook = Cook.objects.only("document", "result").get(pk=pk)
    curves: dict[str, Any] = {name: np.array(values) for name, values in cook.result["curves"].items()}
    steps = cook.result.get("steps")
    result = {key: value for key, value in cook.result.items() if key not in ("curves", "steps")}
    return BoardSnapshot(
        parse_plan(cook.document), CurvesOut.model_construct(None, **curves),
        None if not steps else [step_from(step) for step in steps], result,
    )  # fmt: skip


def first_probe_of(cook: Cook) -> int | None:
    """The probe in the piece; of several the one inserted first."""
    uses = [use for use in cook.probe_history if use.during.upper is None]
    return min(uses, key=lambda use: use.pk).probe_id if uses else None


@dataclass(frozen=True)
class CookInputs:
    """Data of a cook read together with others': its snapshot, newest forecast and newest readings."""

    snapshot: BoardSnapshot
    forecast: Forecast | None = None
    readings: tuple[tuple[dt.datetime, float], ...] = ()


def inputs_of(
    kitchen: Kitchen, cooks: Sequence[Cook], without: Sequence[str] = FOR_LANES
) -> dict[uuid.UUID, CookInputs]:
    """By cook: snapshot, newest forecast (without the fields in `without`), newest readings."""
    last = Forecast.objects.filter(cook=OuterRef("pk")).order_by("-at", "-id").values("pk")[:1]
    with_newest = Cook.objects.filter(pk__in=[cook.pk for cook in cooks]).annotate(newest=Subquery(last))
    rows = Forecast.objects.filter(pk__in=with_newest.values("newest")).defer(*without)
    forecasts = {forecast.cook_id: forecast for forecast in rows}
    readings = _newest(kitchen, cooks)
    return {
        cook.pk: CookInputs(snapshot_of(cook.pk), forecasts.get(cook.pk), tuple(readings[cook.pk])) for cook in cooks
    }


def _newest(kitchen: Kitchen, cooks: Sequence[Cook]) -> dict[uuid.UUID, list[tuple[dt.datetime, float]]]:
    """The newest reading of each cook, typed or of its first probe."""
    readings: dict[uuid.UUID, list[tuple[dt.datetime, float]]] = defaultdict(list)
    typed = Reading.objects.of(kitchen).filter(cook__in=cooks).order_by("cook_id", "-at", "-id").distinct("cook_id")
    for pk, at, celsius in typed.values_list("cook_id", "at", "celsius"):
        readings[pk].append((at, celsius))
    by_probe = {probe: cook for cook in cooks if (probe := first_probe_of(cook)) is not None}
    since = min((_put_in(cook, probe) for probe, cook in by_probe.items()), default=kitchen.now())
    last = Reading.objects.filter(probe=OuterRef("pk"), at__gte=since).order_by("-at", "-id")
    newest = JSONObject(at="at", celsius="celsius")
    probes = Probe.objects.of(kitchen).filter(pk__in=by_probe)
    for probe, shown in probes.annotate(shown=Subquery(last.values(shown=newest)[:1])).values_list("pk", "shown"):
        if shown is None:
            continue
        at, celsius = dt.datetime.fromisoformat(shown["at"]), shown["celsius"]
        cook = by_probe[probe]
        if at >= _put_in(cook, probe):
            readings[cook.pk].append((at, celsius))
    for pk in readings:
        readings[pk].sort()
    return readings


def _put_in(cook: Cook, probe: int) -> dt.datetime:
    put_in: dt.datetime = min(use.during.lower for use in cook.probe_history if use.probe_id == probe)
    return max(put_in, cook.started_at)


def with_past(
    kitchen: Kitchen, cooks: Sequence[Cook], inputs: Mapping[uuid.UUID, CookInputs], now: dt.datetime
) -> dict[uuid.UUID, CookInputs]:
    """The inputs with what lanes show besides: the last minutes of readings, and the forecast's fan."""
    numbers = [known.forecast.pk for cook in cooks if (known := inputs[cook.pk]).forecast is not None]
    forecasts = {forecast.cook_id: forecast for forecast in Forecast.objects.filter(pk__in=numbers)}
    by_probe = {probe: cook for cook in cooks if (probe := first_probe_of(cook)) is not None}
    since = {probe: _put_in(cook, probe) for probe, cook in by_probe.items()}
    past: dict[uuid.UUID, set[tuple[dt.datetime, float]]] = defaultdict(set)
    theirs = Q(probe_id__in=by_probe) | Q(cook_id__in=[cook.pk for cook in cooks])
    rows = Reading.objects.of(kitchen).filter(theirs, at__gte=now - PAST)
    for probe, pk, at, celsius in rows.values_list("probe_id", "cook_id", "at", "celsius"):
        if probe not in since:
            past[pk].add((at, celsius))
        elif at >= since[probe]:
            past[by_probe[probe].pk].add((at, celsius))
    return {
        cook.pk: replace(
            known, forecast=forecasts.get(cook.pk), readings=tuple(sorted(past[cook.pk] | set(known.readings)))
        )
        for cook in cooks
        if (known := inputs[cook.pk])
    }
