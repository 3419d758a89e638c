"""Refreshing forecasts: from a cook's events and readings to the stored prediction."""

from __future__ import annotations

import datetime as dt
import logging
import time
import uuid
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db.models import Max, Q, QuerySet, prefetch_related_objects
from django.utils import timezone

from ember.errors import EmberError
from ember.files.track import Event, TrackResult
from ember.track.estimate import Estimate, Planned, estimate, result_of
from ember.track.spread import confirms
from ember.track.ways_out import WayOut, is_late, ways_out
from kitchen.accounts.models import Kitchen

from .board_snapshot import CookInputs, first_probe_of, inputs_of
from .cook_status import CookStatus
from .models import HISTORY, Cook, Forecast, Reading
from .track_events import setting_c, track_events

EVERY_S = 20.0  # a cook's forecast is looked at so often, and at once after an event
STANDS_S = 180.0  # it is estimated anew at least so often, however well the readings bear it out
SOONEST_S = 2.0  # of real time, however fast a demonstration's clock runs
MOST_READINGS = 4000  # of a probe; of more the older ones are thinned out
WHOLE_S = 1200.0  # the last minutes are looked at whole: that is where a needle slips
OWN_PROBE_S = 600.0
OWN_PROBE_LEAST = 3
OWN_PROBE_SURE_K = {"bath": 0.3}
USUALLY_SURE_K = 3.0
LONG_AGO = dt.datetime.min.replace(tzinfo=dt.UTC)

log = logging.getLogger(__name__)

Readings = list[tuple[float, float | None]]


def planned_of(status: CookStatus) -> Planned:
    """What the plan predicted when it began."""
    pull = status.result.get("pull")
    return Planned(status.planned_stages_s, pull["core_c"] if pull else None)


def readings_by_probe(cook: Cook) -> Iterator[Readings]:
    """Readings of each probe in the piece, the first inserted in front, then typed ones."""
    start = cook.started_at
    uses = sorted(cook.probe_history, key=lambda use: use.pk)
    nothing = True
    for probe in dict.fromkeys(use.probe_id for use in uses):
        readings: Readings = []
        for use in (use for use in uses if use.probe_id == probe):
            rows = Reading.objects.filter(probe_id=probe, at__gte=max(use.during.lower, start))
            if use.during.upper is not None:
                rows = rows.filter(at__lt=use.during.upper)
            readings += [
                ((at - start).total_seconds(), c) for at, c in rows.order_by("at").values_list("at", "celsius")
            ]
        if readings:
            nothing = False
            yield thinned(readings)
    typed = cook.typed_readings.filter(at__gte=start).order_by("at").values_list("at", "celsius")
    by_hand: Readings = [((at - start).total_seconds(), c) for at, c in typed]
    if by_hand or nothing:
        yield thinned(by_hand)


def thinned(readings: Readings) -> Readings:
    """About MOST_READINGS at most: the last minutes in full, older ones thinned."""
    if len(readings) <= MOST_READINGS:
        return readings
    border = readings[-1][0] - WHOLE_S
    old = [reading for reading in readings if reading[0] < border]
    return old[:: max(len(old) * 2 // MOST_READINGS, 1)] + readings[len(old) :]


def medium_seen(status: CookStatus) -> tuple[float, float] | None:
    """The medium by its fixed probe: (K hotter than its setting, standard deviation)."""
    pull = status.plan.pull_stage
    if pull is None or status.stage != pull or pull not in status.kit:
        return None
    since = status.now - dt.timedelta(seconds=OWN_PROBE_S)
    rows = Reading.objects.of(status.cook.kitchen).filter(
        probe__fixed_in_id=status.kit[pull]["id"], at__gte=max(since, status.cook.started_at)
    )
    temperatures = list(rows.values_list("celsius", flat=True))
    if len(temperatures) < OWN_PROBE_LEAST:
        return None
    stage = status.plan.stages[pull]
    return float(np.mean(temperatures)) - setting_c(status, pull), OWN_PROBE_SURE_K.get(stage.kind, USUALLY_SURE_K)


@dataclass(frozen=True)
class _Told:
    """A cook as the estimator needs it, read once."""

    status: CookStatus
    known: Planned
    events: list[Event]

    def estimate(self, last: Forecast | None) -> Estimate:
        """The estimate by the first trusted probe, or by the first if none is. Continues from the last forecast."""
        by_probe = readings_by_probe(self.status.cook)
        start = np.array(last.mode) if last and last.mode else None
        return estimate(
            self.status.plan, self.known, self.events, next(by_probe), self.status.now_s, as_told=True,
            start=start, medium_seen=medium_seen(self.status), spare=by_probe,
            searched_misfit=last.misfit if last and _searched_lately(last, self.status.now) else None,
        )  # fmt: skip

    def ways(self, estimated: Estimate, answer: TrackResult, due_s: float) -> list[WayOut]:
        """Ways out for a cook that is late with 90 % probability."""
        pull, reaches = self.status.plan.pull_stage, answer.reaches_want_at_s
        if pull is None or self.status.stage != pull or not estimated.used:
            return []
        if reaches is None or reaches.p10 is None or reaches.p50 is None or reaches.p10 <= due_s:
            return []
        if not is_late(reaches.p50 - due_s, self.known.seconds[pull]):
            return []
        stage = self.status.plan.stages[pull]
        return ways_out(estimated, self.known, self.events, self.status.now_s, due_s, stage, pull)


def refresh(cook: Cook, inputs: CookInputs | None = None) -> Forecast | None:
    """Make and store a forecast of a running cook; None if it is finished or cannot be followed.

    `inputs`: its data read together with others', with the whole forecast; read here if omitted.
    """
    inputs = inputs or inputs_of(cook.kitchen, [cook], without=())[cook.pk]
    status = CookStatus(cook, cook.kitchen.now(), inputs)
    last = inputs.forecast
    if cook.finished_at is not None or cook.waits or status.progress.next is None:
        return None
    began = time.perf_counter()
    try:
        known = _Told(status, planned_of(status), track_events(status))
        estimated = known.estimate(last)
    except (EmberError, np.linalg.LinAlgError) as error:
        log.warning("no forecast of cook %s: %s", cook.pk, error)
        return None
    took_ms = 1e3 * (time.perf_counter() - began)
    return Forecast.objects.create(
        kitchen=cook.kitchen, cook=cook, at=status.now, stage=status.stage, took_ms=took_ms,
        **_foretold(known, estimated), **_kept_for_the_next(estimated, last, status.now),
    )  # fmt: skip


def _foretold(known: _Told, estimated: Estimate) -> dict[str, Any]:
    """The fields of a forecast with its prediction, and the ways out if the pull will be late."""
    answer, due_s = result_of(estimated), known.status.planned_pull_s
    p50_s = answer.reaches_want_at_s.p50 if answer.reaches_want_at_s else None
    fan = estimated.draws.fan
    return {
        "p50_s": p50_s,
        "late_s": p50_s - due_s if p50_s is not None and due_s is not None else None,
        "ways": [vars(way) for way in known.ways(estimated, answer, due_s)] if due_s is not None else [],
        "answer": answer.model_dump(mode="json"),
        "hottest_c": max((c for _, c in estimated.probe.believed), default=None),
        "fan": {
            "t_s": np.round(fan.t_s, 1).tolist(),
            "core_c": np.round(fan.core_c, 2).tolist(),
            "probe_c": np.round(estimated.draws.probe_c, 2).tolist(),
        },
    }


def _kept_for_the_next(estimated: Estimate, last: Forecast | None, now: dt.datetime) -> dict[str, Any]:
    """The fields of a forecast that the next estimate continues from."""
    fit = estimated.fit
    mode = np.round(fit.z, 4).tolist() if estimated.used else []
    if last is not None and not fit.is_searched and _searched_lately(last, now):
        return {"mode": mode, "misfit": last.misfit, "searched_at": last.searched_at}
    return {"mode": mode, "misfit": fit.misfit_a_bin, "searched_at": now if fit.is_searched else None}


def _searched_lately(last: Forecast, now: dt.datetime) -> bool:
    """Whether the best fit of this cook's readings was searched recently."""
    return last.searched_at is not None and 0.0 <= (now - last.searched_at).total_seconds() <= STANDS_S


def newest_made_at(cooks: QuerySet[Cook]) -> dict[uuid.UUID, dt.datetime]:
    """When the newest forecast of each cook was made, by cook."""
    newest = Forecast.objects.filter(cook__in=cooks).values_list("cook").annotate(Max("made_at"))
    return dict(newest.order_by())


def due_cooks() -> list[Cook]:
    """Running cooks whose forecast is old, with the data for a new one; those without one first, then the oldest."""
    cooks = (
        Cook.objects.of_plans()
        .filter(finished_at=None, waits=False)
        .defer("document", "result")
        .select_related("kitchen")
    )
    now = timezone.now()
    due: dict[Kitchen, list[Cook]] = defaultdict(list)
    made: dict[Cook, dt.datetime] = {}
    made_at = newest_made_at(cooks)
    for cook in cooks:
        rate = cook.kitchen.clock_rate if cook.kitchen.is_demo else 1.0
        every = dt.timedelta(seconds=max(EVERY_S / max(rate, 1.0), SOONEST_S))
        last = made_at.get(cook.pk)
        if last is None or now - last >= every:
            due[cook.kitchen].append(cook)
            made[cook] = last or LONG_AGO
    return sorted((cook for some in due.values() for cook in some), key=made.__getitem__)


def refresh_some(cooks: Sequence[Cook]) -> None:
    """Make forecasts of a few cooks, with shared data read once."""
    by_kitchen: dict[Kitchen, list[Cook]] = defaultdict(list)
    for cook in cooks:
        by_kitchen[cook.kitchen].append(cook)
    for kitchen, own in by_kitchen.items():
        prefetch_related_objects(own, *HISTORY)
        inputs = inputs_of(kitchen, own, without=())
        now = kitchen.now()
        newer = readings_since_forecast(kitchen, own, inputs)
        for cook in own:
            last = inputs[cook.pk].forecast
            if last is not None and stands(cook, inputs[cook.pk], newer[cook.pk], now):
                confirm(last, newer[cook.pk], now)
            else:
                refresh(cook, inputs[cook.pk])


def readings_since_forecast(
    kitchen: Kitchen, cooks: Sequence[Cook], inputs: Mapping[uuid.UUID, CookInputs]
) -> dict[uuid.UUID, Readings]:
    """Readings of each cook's first probe since its newest forecast: s from its start, °C."""
    since = Q()
    by_probe: dict[int, Cook] = {}
    for cook in cooks:
        last, probe = inputs[cook.pk].forecast, first_probe_of(cook)
        if last is not None and probe is not None:
            by_probe[probe] = cook
            since |= Q(probe=probe, at__gt=last.at)
    readings: dict[uuid.UUID, Readings] = defaultdict(list)
    if by_probe:
        rows = Reading.objects.of(kitchen).filter(since).order_by("at")
        for probe, at, celsius in rows.values_list("probe_id", "at", "celsius"):
            cook = by_probe[probe]
            readings[cook.pk].append(((at - cook.started_at).total_seconds(), celsius))
    return readings


def stands(cook: Cook, inputs: CookInputs, newer: Readings, now: dt.datetime) -> bool:
    """Whether a cook's newest forecast still holds: no event since, and readings as predicted."""
    last = inputs.forecast
    if last is None or not 0.0 <= (now - last.at).total_seconds() <= STANDS_S:
        return False
    is_typed_in = any(at > last.at for at, _ in inputs.readings[-1:]) and not newer
    if is_typed_in or any(event.at > last.at for event in cook.history):
        return False
    if last.answer["by"] == "plan":
        return not newer
    since_s = ((last.confirmed_at or last.at) - cook.started_at).total_seconds()
    return any(s > since_s for s, _ in newer) and _confirmed_by(last, newer)


def _confirmed_by(last: Forecast, newer: Readings) -> bool:
    """Whether all readings since a forecast was made agree with it."""
    if last.answer["probe"]["state"] != "ok" or "probe_c" not in last.fan:
        return False
    believed = [(s, celsius) for s, celsius in newer if celsius is not None]
    return len(believed) == len(newer) and confirms(last.fan["t_s"], last.fan["probe_c"], believed)


def confirm(last: Forecast, newer: Readings, now: dt.datetime) -> None:
    """Record that a forecast was confirmed up to now."""
    hottest = max([c for _, c in newer if c is not None] + ([last.hottest_c] if last.hottest_c else []), default=None)
    Forecast.objects.filter(pk=last.pk).update(confirmed_at=now, made_at=timezone.now(), hottest_c=hottest)
