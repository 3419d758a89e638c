"""Fields of the chill desk from a cook: its piece as it came out, when it left the heat, and how hot it was."""

from __future__ import annotations

import datetime as dt
from typing import Any

from ember.files.stages import HEATING, Hold
from ember.food.catalogue import cut
from ember.food.geometry import body_size
from ember.heat.media import hottest_c
from ember.heat.problem import density_of
from ember.judge.cooling import cools_from_c, whole_time_h
from ember.judge.standards import standard
from ember.quantities import Units
from ember.track.stage_intervals import OFF_HEAT, stage_intervals
from kitchen.line.cook_readings import readings_of
from kitchen.line.cook_status import CookStatus
from kitchen.line.models import Cook, CookEvent
from kitchen.line.track_events import track_events

from .forms import ChillForm

SHAPES = ("slab", "cylinder", "sphere")  # by the exponent of the body, rounded


def _last_c(cook: Cook) -> float:
    """Latest core reading of a cook, typed or by probe; else the planned core at its end, °C."""
    reading = readings_of(cook).last()
    checked = cook.events.filter(kind=CookEvent.Kind.CHECKED, data__core_c__isnull=False).order_by("at").last()
    if reading is not None and (checked is None or reading.at >= checked.at):
        return float(reading.celsius)
    if checked is not None:
        return float(checked.data["core_c"])
    return float(cook.result["core"]["end_c"])


def heat_ended_at(cook: Cook, now: dt.datetime) -> dt.datetime:
    """When a cook of a plan left its last heat: by the steps as tapped, else as planned."""
    status = CookStatus(cook, now)
    upper_c = cools_from_c(standard(cook.kitchen.standard))
    planned_s = [stage["end_s"] - stage["start_s"] for stage in status.result["stages"]]
    hot = [
        interval.to_s
        for interval in stage_intervals(status.plan, planned_s, track_events(status), status.now_s)
        if interval.stage != OFF_HEAT and _is_hot(status.plan.stages[interval.stage], upper_c)
    ]
    return cook.started_at + dt.timedelta(seconds=max(hot, default=0.0))


def _is_hot(stage: Any, upper_c: float) -> bool:
    return stage.kind in HEATING or (isinstance(stage, Hold) and hottest_c(stage) >= upper_c)


def why_not_chilled(cook: Cook, now: dt.datetime) -> str:
    """Why the rest of a cook cannot become a batch; empty if it can."""
    ended = heat_ended_at(cook, now)
    hours = whole_time_h(standard(cook.kitchen.standard).phases["cool"])
    zone = cook.kitchen.zone
    if ended > now:
        return f"{cook.name} is in the heat until {ended.astimezone(zone):%H:%M}. Chill it after that."
    if now - ended > dt.timedelta(hours=hours):
        out = f"{ended.astimezone(zone):%d %B, %H:%M}".lstrip("0")
        return f"{cook.name} left the heat on {out}: the {hours:g} h its cooling may take are over. Discard it."
    return ""


def _mass_after_g(cook: Cook) -> float | None:
    """Mass of one piece after cooking, g: by the last check that weighed it, else by the planned yield."""
    weighed = [e.data["weighed_g"] for e in cook.history if e.kind == "checked" and e.data.get("weighed_g")]
    if weighed:
        return float(weighed[-1]) / cook.pieces
    went_in = cook.document["piece"].get("mass_g")
    return None if went_in is None else went_in * float(cook.result.get("yield_pct", 100.0)) / 100.0


def chill_of(cook: Cook, units: Units) -> dict[str, Any]:
    """The chill desk's fields for the rest of a cook."""
    now = cook.kitchen.now()
    plan = CookStatus(cook, now).plan
    piece, cut_entry = plan.piece, cut(plan.piece.cut)
    waited_min = max((now - heat_ended_at(cook, now)).total_seconds() / 60.0, 0.0)
    size = body_size(piece, cut_entry, density_of(plan))
    document: dict[str, Any] = {
        "piece": {"cut": piece.cut, "start_c": round(min(max(_last_c(cook), 20.0), 95.0), 1), "count": cook.pieces},
        "wait_min": round(min(waited_min, 720.0)),
    }  # fmt: skip
    if (mass := _mass_after_g(cook)) is not None:
        document["piece"]["mass_g"] = mass
    values: dict[str, Any] = {**ChillForm(None, units).data, **ChillForm.data_of(document, units)}
    shown_size = ChillForm(None, units).fields["size"].prepare_value(round(size.size_mm, 1))
    values |= {"shape": SHAPES[round(min(max(size.exponent, 0.0), 2.0))], "size": shown_size}
    portions = piece.count * int(piece.portions or 1)
    bagged = any(getattr(stage, "bagged", False) for stage in plan.stages)
    return values | {
        "name": cook.name[:70], "portions": portions, "bagged": "on" if bagged else "", "cook": str(cook.pk),
        "packed": "cook-chill" if bagged else "open",
    }  # fmt: skip
