"""A cook's pictures: from planned and measured values to the geometry of drawings."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ember.errors import EmberError
from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.food.catalogue import cut
from ember.track.as_done import plan_from_here
from ember.track.full_steps import BOARD
from ember.track.steps import MOVES
from kitchen.drawings.cut_face import CutFace
from kitchen.drawings.forecast_chart import ForecastChart, forecast_chart
from kitchen.drawings.heat_strip import HeatStrip, heat_strip
from kitchen.drawings.plan_chart import time_columns
from kitchen.drawings.record_chart import RecordChart, record_chart
from kitchen.plans.pictures import face_of

from .cook_status import CookStatus
from .models import CookEvent
from .track_events import track_events

STRIP_PX, STRIP_HIGH_PX = 572.0, 84.0
MOST_ROWS = 300
ESTIMATED_POINTS = 120
NO_END_C = 90.0  # the last word has no upper end


def cook_chart(status: CookStatus) -> RecordChart:
    """Planned and measured core of a cook, running or finished."""
    curves, result = status.curves, status.cook.result
    planned = list(zip(curves.t_s, curves.reading_c, strict=True))
    low, high = result["doneness"].get("target_low_c"), result["doneness"].get("target_high_c")
    band = (low, high) if low is not None and high is not None else None
    checks = [
        ((event.at - status.cook.started_at).total_seconds(), event.data.get("core_c"))
        for event in status.cook.history
        if event.kind == CookEvent.Kind.CHECKED
    ]
    planned_stages = [(s["kind"], s["start_s"], s["end_s"]) for s in result["stages"]]
    forecast_view = status.forecast_view
    fan = None
    if (
        forecast_view is not None
        and forecast_view.is_by_readings
        and forecast_view.forecast.fan
        and status.planned_pull_s is not None
    ):
        t, core = np.array(forecast_view.forecast.fan["t_s"]), np.array(forecast_view.forecast.fan["core_c"])
        keep = t <= (forecast_view.span_s[1] if forecast_view.span_s else t[-1])
        fan = (t[keep], core[:, keep]) if keep.sum() > 1 else None
    return record_chart(
        planned, status.readings, band, checks, planned_stages, done_stages(status), fan,
        forecast_view.fault_since_s if forecast_view else None, estimated_course(status),
    )  # fmt: skip


def estimated_course(status: CookStatus) -> list[tuple[float, float]]:
    """(s, °C) that a probe would have shown so far, by the steps as tapped; empty if there are readings or the plan
    still holds.
    """
    course = status.course
    if course is None or status.readings:
        return []
    return [(float(s), course.reading_at(float(s))) for s in np.linspace(0.0, status.now_s, ESTIMATED_POINTS)]


def forecasts_moved(status: CookStatus) -> ForecastChart | None:
    """How the prediction of the pull moved, with the actual pull; None if there is too little of it."""
    start = status.cook.started_at
    rows = []
    for forecast in status.cook.forecasts.exclude(p50_s=None).order_by("at", "id").only("at", "answer"):
        reaches = forecast.answer["reaches_want_at_s"]
        if forecast.answer["by"] == "readings" and None not in (reaches["p10"], reaches["p90"]):
            rows.append(((forecast.at - start).total_seconds(), reaches["p10"], reaches["p50"], reaches["p90"]))
    step = status.pull_step
    pulled = status.done.get(step.number) if step else None
    actual = (pulled.at - start).total_seconds() if pulled else None
    rows = [point for point in rows if actual is None or point[0] <= actual]
    return forecast_chart(rows[:: max(len(rows) // MOST_ROWS, 1)], step.at_s if step else None, actual)


def done_stages(status: CookStatus) -> list[tuple[str, float, float]]:
    """Stages as they really ran: (kind, start s, end s)."""
    begun: dict[int, float] = {}
    for number, event in status.done.items():
        step = status.steps[number]
        if step.kind in MOVES and step.to_place != BOARD:
            begun[step.stage] = (event.at - status.cook.started_at).total_seconds()
    stages = status.plan.stages
    ends = [begun.get(i + 1, status.now_s) for i in range(len(stages))]
    return [(stage.kind, begun[i], max(ends[i], begun[i])) for i, stage in enumerate(stages) if i in begun]


@dataclass(frozen=True)
class InsideNow:
    """Heat through the piece, the place of now on it, px, and the cut face as it would be sliced now.

    `as_done`: by the steps as tapped; otherwise by the plan.
    """

    strip: HeatStrip
    width: float
    now_x: float
    seams: tuple[float, ...]
    face: CutFace
    as_done: bool


def inside_now(status: CookStatus) -> InsideNow | None:
    """The piece's inside at present; None if it cannot be computed."""
    as_done = status.course is not None
    try:
        plan = parse_plan({**status.cook.document, "depth_map": True})
        if as_done:
            rest = plan_from_here(plan, status.planned_stages_s, track_events(status), status.now_s)
            plan = rest.model_copy(update={"depth_map": True})
        result = evaluate(plan)
    except EmberError:
        return None
    time = time_columns(result, plan.stages, STRIP_PX)
    low, high = result.doneness.target_low_c, result.doneness.target_high_c
    level = None if low is None or high is None else low if high > NO_END_C else 0.5 * (low + high)
    now_s = status.now_s if as_done else status.progress.plan_s
    now_x = float(time(min(now_s, result.stages[-1].end_s)))
    face = face_of(plan, cut(plan.piece.cut), result, time).at(now_x / time.width)
    strip = heat_strip(result, plan.stages, time, STRIP_HIGH_PX, level)
    return InsideNow(strip, time.width, now_x, tuple(float(x) for x in time.x[1:-1]), face, as_done)
