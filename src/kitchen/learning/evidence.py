"""A kitchen's finished cooks as evidence for calibration."""

from __future__ import annotations

import datetime as dt
import logging
from collections.abc import Callable
from typing import Any

import numpy as np

from ember.errors import EmberError
from ember.files.piece import FromMass
from ember.files.stages import Pan
from ember.learn.evidence import watching
from ember.learn.face_evidence import FaceSeen
from ember.learn.pool import Observed
from ember.learn.study import Cook as Learned
from kitchen.accounts.models import Kitchen
from kitchen.line.cook_status import CookStatus
from kitchen.line.forecasting import planned_of, thinned
from kitchen.line.models import Cook
from kitchen.line.track_events import track_events
from kitchen.logbook.corrected_readings import corrected

LONGEST_AGO = dt.timedelta(days=180)
MOST_COOKS = 240
EQUIPMENT = ("oven", "bath", "pan")

log = logging.getLogger(__name__)


def finished_cooks(kitchen: Kitchen, most: int = MOST_COOKS) -> Any:
    """Cooks to learn from: finished, of a plan, of the last half year, newest first, at most so many."""
    since = kitchen.now() - LONGEST_AGO
    rows = Cook.objects.of(kitchen).of_plans().filter(finished_at__gte=since).order_by("-finished_at")
    return rows.select_related("kitchen").with_history()[:most]


def learned_from(cook: Cook) -> Learned | None:
    """One cook as evidence; None if its readings say nothing about the kitchen's equipment."""
    status = CookStatus(cook, cook.kitchen.now())
    plan = status.plan
    if plan.pull_stage is None:
        return None
    stage, place = plan.stages[plan.pull_stage], status.kit.get(plan.pull_stage)
    by_mass = isinstance(plan.piece.shape, FromMass)
    equipment = (stage.kind, str(place["id"])) if place and stage.kind in EQUIPMENT else None
    named_pan = isinstance(stage, Pan) and stage.pan is not None
    things = (
        ("cut", plan.piece.cut) if by_mass else None,
        equipment if stage.kind in ("oven", "bath") else None,
        equipment if named_pan else None,
    )
    if not any(things):
        return None
    readings = thinned([(s, c) for s, c in corrected(cook).readings])
    try:
        seen = watching(plan, planned_of(status), track_events(status), readings, status.now_s, face_seen(cook))
    except (EmberError, np.linalg.LinAlgError) as error:
        log.info("nothing is learned of cook %s: %s", cook.pk, error)
        return None
    if seen is None:
        return None
    medium = stage.kind if stage.kind in EQUIPMENT else "other"
    spreads = ("size:mass" if by_mass else "size:measured", f"medium:{medium}",
               "transfer:pan" if stage.kind == "pan" else "transfer:other")  # fmt: skip
    name = f"{cook.name}, {cook.started_at.astimezone(cook.kitchen.zone):%-d %b %H:%M}"
    return Learned(name, seen, Observed(seen.evidence, things, spreads))


def face_seen(cook: Cook) -> FaceSeen | None:
    """The newest photograph of a cook's cut face that could be read; None without one."""
    for photo in cook.faces.order_by("-at").prefetch_related("measures"):
        measure = photo.measure
        if measure is not None and measure.reading is not None:
            at_s = max((photo.at - cook.started_at).total_seconds(), 1.0)
            return FaceSeen.of(photo.cut, measure.reading, measure.mm, at_s)
    return None


def cooks_of(kitchen: Kitchen, on_progress: Callable[[int, int], None], most: int = MOST_COOKS) -> list[Learned]:
    """All cooks with evidence, of the newest `most`. `on_progress(done, total)` is called after each."""
    rows = list(finished_cooks(kitchen, most))
    learned = []
    for number, cook_row in enumerate(rows, start=1):
        one = learned_from(cook_row)
        on_progress(number, len(rows))
        if one is not None:
            learned.append(one)
    return learned
