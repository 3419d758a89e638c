"""Refreshing forecasts: from a cook's events and readings to the stored prediction."""

from __future__ import annotations

import datetime as dt
import logging
import time
from collections import defaultdict

import numpy as np
from django.db.models import Max, Q
from django.utils import timezone

from ember.errors import EmberError
from ember.heat.media import medium_c
from ember.track.estimate import Estimate, Planned, estimate, result_of
from ember.track.ways_out import WayOut, is_late, ways_out
from kitchen.accounts.models import Kitchen

from .models import Cook, Forecast, Reading
from .queries import Following, readings_of
from .told import track_events

EVERY_S = 20.0  # a cook's forecast is refreshed at most so often, but at once after an event
SOONEST_S = 2.0  # of real time, however fast a demonstration's clock runs
MOST_READINGS = 4000  # of a probe; of more the older ones are thinned out
WHOLE_S = 1200.0  # the last minutes are looked at whole: that is where a needle slips
OWN_PROBE_S = 600.0
OWN_PROBE_LEAST = 3
OWN_PROBE_SURE_K = {"bath": 0.3}
USUALLY_SURE_K = 3.0

log = logging.getLogger(__name__)

Readings = list[tuple[float, float | None]]


def planned_of(following: Following) -> Planned:
    """What its plan said when it began."""
    result = following.cook.result
    seconds = tuple(stage["end_s"] - stage["start_s"] for stage in result["stages"])
    pull = result.get("pull")
    return Planned(seconds, pull["core_c"] if pull else None)


def readings_by_probe(cook: Cook, start: dt.datetime) -> list[Readings]:
    """Readings of each probe that was in the piece, the one put in first in front; those typed in where none was."""
    found: dict[int | None, Readings] = defaultdict(list)
    rows = readings_of(cook).filter(at__gte=start).values_list("probe_id", "at", "celsius")
    for probe, at, celsius in rows:
        found[probe].append(((at - start).total_seconds(), celsius))
    typed = found.pop(None, [])
    order = list(dict.fromkeys(use.probe_id for use in sorted(cook.probe_uses.all(), key=lambda use: use.pk)))
    by_probe = [thinned(found[probe]) for probe in order if found.get(probe)]
    return by_probe or ([typed] if typed else [])


def thinned(readings: Readings) -> Readings:
    """At most about MOST_READINGS: the last minutes whole, of what is older every so many."""
    if len(readings) <= MOST_READINGS:
        return readings
    border = readings[-1][0] - WHOLE_S
    old = [reading for reading in readings if reading[0] < border]
    return old[:: max(len(old) * 2 // MOST_READINGS, 1)] + readings[len(old) :]


def medium_seen(following: Following) -> tuple[float, float] | None:
    """What the probe that stays in its bath or oven says of it: (K hotter than set, how surely)."""
    pull = following.plan.pull_stage
    if pull is None or following.stage != pull or pull not in following.kit:
        return None
    since = following.now - dt.timedelta(seconds=OWN_PROBE_S)
    rows = Reading.objects.of(following.cook.kitchen).filter(
        probe__fixed_in_id=following.kit[pull]["id"], at__gte=max(since, following.cook.started_at)
    )
    found = list(rows.values_list("celsius", flat=True))
    if len(found) < OWN_PROBE_LEAST:
        return None
    stage = following.plan.stages[pull]
    return float(np.mean(found)) - medium_c(stage), OWN_PROBE_SURE_K.get(stage.kind, USUALLY_SURE_K)


def _estimate(following: Following, start: list[float] | None) -> Estimate:
    """By the first probe that can be believed; by the first one where none can."""
    first: Estimate | None = None
    by_probe = readings_by_probe(following.cook, following.cook.started_at) or [[]]
    for readings in by_probe:
        found = estimate(
            following.plan, planned_of(following), track_events(following), readings, following.now_s, as_told=True,
            start=None if start is None else np.array(start), medium_seen=medium_seen(following),
        )  # fmt: skip
        if found.probe.state == "ok":
            return found
        first = first or found
    assert first is not None  # noqa: S101  (there is at least one list)
    return first


def _ways(following: Following, found: Estimate, late_s: float, due_s: float) -> list[WayOut]:
    pull = following.plan.pull_stage
    known = planned_of(following)
    if pull is None or following.stage != pull or not found.used or not is_late(late_s, known.seconds[pull]):
        return []
    events = track_events(following)
    return ways_out(found, known, events, following.now_s, due_s, following.plan.stages[pull], pull)


def refresh(cook: Cook) -> Forecast | None:
    """Make and keep a forecast of a running cook; None for one that is finished or cannot be followed."""
    following = Following(cook, cook.kitchen.now())
    if cook.finished_at is not None or following.progress.next is None:
        return None
    last = cook.forecasts.first()
    began = time.perf_counter()
    try:
        found = _estimate(following, last.mode if last and last.mode else None)
    except (EmberError, np.linalg.LinAlgError) as error:
        log.warning("no forecast of cook %s: %s", cook.pk, error)
        return None
    answer = result_of(found)
    reaches = answer.reaches_want_at_s
    due_s = following.planned_pull_s
    late_s = reaches.p50 - due_s if reaches and reaches.p50 is not None and due_s is not None else None
    ways = _ways(following, found, late_s, due_s) if late_s is not None and due_s is not None else []
    fan = found.draws.fan
    return Forecast.objects.create(
        kitchen=cook.kitchen, cook=cook, at=following.now, stage=following.stage,
        p50_s=reaches.p50 if reaches else None, late_s=late_s, answer=answer.model_dump(mode="json"),
        fan={"t_s": np.round(fan.t_s, 1).tolist(), "core_c": np.round(fan.core_c, 2).tolist()},
        hottest_c=max((c for _, c in found.probe.believed), default=None),
        ways=[vars(way) for way in ways], mode=np.round(found.fit.z, 4).tolist() if found.used else [],
        took_ms=1e3 * (time.perf_counter() - began),
    )  # fmt: skip


def due_cooks(kitchens: list[Kitchen] | None = None) -> list[Cook]:
    """Running cooks whose forecast is old, those without one first, then the oldest."""
    cooks = Cook.objects.filter(finished_at=None).select_related("kitchen")
    if kitchens is not None:
        cooks = cooks.filter(kitchen__in=kitchens)
    cooks = cooks.annotate(made=Max("forecasts__made_at")).prefetch_related("events", "probe_uses")
    now = timezone.now()
    found = []
    for cook in cooks.filter(Q(made=None) | Q(made__lt=now - dt.timedelta(seconds=SOONEST_S))).order_by("made"):
        rate = cook.kitchen.clock_rate if cook.kitchen.is_demo else 1.0
        every = dt.timedelta(seconds=max(EVERY_S / max(rate, 1.0), SOONEST_S))
        if cook.made is None or now - cook.made >= every:
            found.append(cook)
    return sorted(found, key=lambda cook: cook.made or dt.datetime.min.replace(tzinfo=dt.UTC))
