"""The line as the template needs it: next actions in order, one lane a cook."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from operator import attrgetter
from typing import Any

import numpy as np

from ember.files.actions import Place
from ember.files.track import Belief
from ember.quantities import Units
from ember.track.full_steps import BOARD
from kitchen.accounts.models import Kitchen
from kitchen.drawings.lane_chart import Fan, LaneChart, LaneSize, lane_chart
from kitchen.drawings.raster import hex_colour
from kitchen.plans.models import Plan

from .board_snapshot import with_past
from .cook_readings import fixed_readings
from .cook_status import CookStatus
from .lane_text import age_of_forecasts_s, lanes_as_text
from .next_actions import hot_handles, next_actions_of
from .queries import running
from .sources import other_actions
from .step_cooks import StepCookStatus, step_actions_of, steps_running
from .track_events import setting_c

PAST_MIN = 4.25  # 60 px: the trace has a column of its own, beside the figure
FUTURE_MIN = 40.0
LAST_TICK_MIN = 32.0  # its label must fit on a tablet
PX_PER_MIN = 14.1
LANE = LaneSize(PX_PER_MIN, PAST_MIN * PX_PER_MIN, FUTURE_MIN * PX_PER_MIN, 68.0)
PAST_S, MOST_POINTS = PAST_MIN * 60.0, 400
TICKS = 4
QUEUE_SHOWN = 5
SOON_S = 600.0
RINGS = 6
LATEST_SHOWN = 5
MOST_LANES = 24  # more than a screen can show; the rest is a tap away
TOLD_OLD_S = 30.0  # forecasts older than this are told so
OFF_K = 0.3  # a bath at its set point shows no second number


@dataclass(frozen=True)
class Lane:
    """A cook's lane."""

    status: CookStatus
    chart: LaneChart
    sample: tuple[tuple[float, str], ...]
    stage_kind: str
    medium_c: float | None
    late_min: int
    word_now: str
    word_left: str
    rests_s: float | None
    rule: str
    found_c: float | None
    trouble: Trouble | None
    give_or_take_s: float | None
    belief: Belief | None


@dataclass(frozen=True)
class Way:
    """A way out of being late: its letter, action and cost."""

    letter: str
    kind: str
    setting_c: float | None
    late_min: int
    peak_k: float
    token: uuid.UUID


@dataclass(frozen=True)
class Trouble:
    """What is wrong in a lane, why, and the ways out."""

    head: str
    words: str
    beliefs: tuple[Belief, ...]
    needle: bool
    ways: tuple[Way, ...]
    late_s: float


def _medium_c(status: CookStatus) -> float | None:
    """The setting of the piece's surroundings as last changed, °C; None on the board and on the plate."""
    stages = status.plan.stages
    if status.stage >= len(stages) or status.place_kind in (BOARD, Place.PLATE):
        return None
    return setting_c(status, status.stage)


def _found_c(status: CookStatus, fixed: Mapping[int, float]) -> float | None:
    """Reading of the probe fixed in its bath or oven, if it is off the setting; else None."""
    setting = _medium_c(status)
    item = fixed.get(status.kit.get(status.stage, {}).get("id", -1))
    return item if item is not None and setting is not None and abs(item - setting) >= OFF_K else None


Points = list[tuple[float, float]]


def _past(status: CookStatus, believed: Points) -> Points:
    """The trace left of now as (s from now, °C): readings, else the core by the model."""
    now_s = status.now_s
    if (course := status.course) is not None:
        return [(float(s), course.reading_at(now_s + s)) for s in np.linspace(-min(PAST_S, now_s), 0.0, 20)]
    if believed:
        return believed[-MOST_POINTS:]
    plan_s, curves = status.progress.plan_s, status.curves
    since = np.linspace(max(plan_s - PAST_S, 0.0), plan_s, 20)  # the plan's own curve since the last step
    shown = np.interp(since, curves.t_s, curves.reading_c)
    return [(float(s - plan_s), float(c)) for s, c in zip(since, shown, strict=True) if s - plan_s >= -now_s]


def _future(status: CookStatus, due_s: float) -> Points:
    """The trace until the next step: the core by the model, else the planned curve joined to the present reading."""
    progress, curves = status.progress, status.curves
    if progress.next is None:
        return []
    if (course := status.course) is not None:
        ahead = np.linspace(0.0, max(due_s, 60.0), 24)
        return [(float(s), course.reading_at(status.now_s + s)) for s in ahead]
    left_s = max(progress.next.at_s - progress.plan_s, 0.0)
    ahead = np.linspace(0.0, left_s, 24) if left_s > 0 else np.array([0.0])
    fade = 1.0 - ahead / left_s if left_s > 0 else np.array([1.0])
    planned = np.interp(progress.plan_s + ahead, curves.t_s, curves.reading_c)
    offset_k = status.present_c - float(planned[0]) if status.is_measured else 0.0
    return list(zip(ahead.tolist(), (planned + offset_k * fade).tolist(), strict=True))


def _chart(status: CookStatus) -> LaneChart:
    """The chart: trusted and doubted readings, the prediction, and the target reading it ends on."""
    now_s, progress, view = status.now_s, status.progress, status.forecast_view
    fault_s = view.fault_since_s if view and view.fault_since_s is not None else np.inf
    believed = [(s - now_s, c) for s, c in status.readings if s <= now_s and s < fault_s]
    doubted = [(s - now_s, c) for s, c in status.readings if s >= fault_s]
    rule_c = progress.next.reading_c if progress.next is not None else None
    due_s = progress.due_s - now_s
    return lane_chart(
        _past(status, believed), _future(status, due_s), status.present_c, rule_c, due_s, LANE,
        _fan(status, rule_c), _span(status), doubted[:: max(len(doubted) // RINGS, 1)],
    )  # fmt: skip


def _sample(status: CookStatus) -> tuple[tuple[float, str], ...]:
    """The piece from face to face as colours: surface outside, core inside, a parabola between."""
    course, curves = status.course, status.curves
    planned = float(np.interp(status.progress.plan_s, curves.t_s, curves.surface_c))
    outside, inside = course.surface_at(status.now_s) if course else planned, status.present_c
    return tuple(
        (i * 8.4, hex_colour(outside + (inside - outside) * (1 - (abs(i - 3.5) / 3.5) ** 2))) for i in range(8)
    )


def _lane(status: CookStatus, fixed: Mapping[int, float]) -> Lane:
    view, stages = status.forecast_view, status.plan.stages
    kind = stages[status.stage].kind if status.stage < len(stages) else "plate"
    late_min = int(status.progress.late_s(status.now_s) // 60)
    return Lane(
        status, _chart(status), _sample(status), BOARD if status.place_kind == BOARD else kind, _medium_c(status),
        late_min, status.word_now, status.word_if_left, status.rests_s, _rule(status), _found_c(status, fixed),
        _trouble(status), view.give_or_take_s if view and _span(status) else None,
        view.beliefs[0] if view and view.beliefs else None,
    )  # fmt: skip


def _pulls_next(status: CookStatus) -> bool:
    """Whether the forecast is about the next step."""
    step, coming = status.pull_step, status.progress.next
    return step is not None and coming is not None and coming.number == step.number and status.forecast_view is not None


def _span(status: CookStatus) -> tuple[float, float] | None:
    """The interval in which the pull may be due, s from now."""
    forecast_view = status.forecast_view
    if (
        forecast_view is None
        or forecast_view.span_s is None
        or not _pulls_next(status)
        or not forecast_view.is_by_readings
    ):
        return None
    late = 60.0 * status.put_off_min(status.progress.next)
    return forecast_view.span_s[0] + late - status.now_s, forecast_view.span_s[1] + late - status.now_s


def _fan(status: CookStatus, rule_c: float | None) -> Fan | None:
    """The forecast's fan in probe readings: from what the probe shows now to the target reading."""
    forecast_view = status.forecast_view
    if (
        forecast_view is None
        or not _pulls_next(status)
        or not forecast_view.forecast.fan
        or not forecast_view.is_by_readings
    ):
        return None
    t = np.array(forecast_view.forecast.fan["t_s"]) - status.now_s
    core = np.array(forecast_view.forecast.fan["core_c"])
    want = forecast_view.answer.want_c
    now_c = forecast_view.core_at_c(status.now_s)
    if rule_c is None or want is None or abs(want - now_c) < 0.2:
        return None
    share = (rule_c - status.present_c) / (want - now_c)
    return Fan(t, status.present_c + (core - now_c) * share)


def _way(letter: str, way: dict[str, Any], late_s: float, wait_peak_c: float | None) -> Way:
    late = late_s if way["kind"] == "wait" else way["late_s"]
    price = way["peak_c"] - (wait_peak_c if wait_peak_c is not None else way["peak_c"])
    return Way(letter, way["kind"], way["setting_c"], max(round(late / 60), 0), price, uuid.uuid4())


def _trouble(status: CookStatus) -> Trouble | None:
    """An untrusted probe, or a late pull: with its cause and the ways out."""
    forecast_view = status.forecast_view
    if forecast_view is None:
        return None
    ways = forecast_view.ways
    late_s = forecast_view.forecast.late_s or 0.0
    if not forecast_view.fault and not ways:
        return None
    beliefs = () if forecast_view.fault else tuple(forecast_view.beliefs)
    head = forecast_view.fault or f"Late {max(round(late_s / 60), 1)} min"
    words = forecast_view.fault_words if forecast_view.fault else "" if beliefs else "It heats more slowly than planned"
    peak = next((way["peak_c"] for way in ways if way["kind"] == "wait"), None)
    told = tuple(_way("AB"[i], way, late_s, peak) for i, way in enumerate(ways[:2]))
    return Trouble(head, words, beliefs, forecast_view.needle_helps and bool(forecast_view.fault), told, late_s)


def _rule(status: CookStatus) -> str:
    """Whether the rule is met, or when: by the plan, or by the steps as tapped if these are far off it."""
    result = status.result
    if (course := status.course) is not None:
        return _rule_words(status, course.rule_met_s, status.now_s, "from times tapped")
    if "rule_met_s" not in result:  # begun before this was kept
        return ""
    return _rule_words(status, result["rule_met_s"], status.progress.plan_s, "on plan")


def _rule_words(status: CookStatus, met_s: float | None, now_s: float, by: str) -> str:
    """The rule in words short enough to stand beside the doneness: "rule at 09:51 on plan"."""
    if met_s is None:
        return f"rule not met {by}"
    left_s = met_s - now_s
    if left_s <= 1:
        return f"rule met {by}"
    at = (status.now + dt.timedelta(seconds=left_s)).astimezone(status.cook.kitchen.zone)
    return f"rule at {at:%H:%M} {by}"


def lanes(kitchen: Kitchen, statuses: list[CookStatus], now: dt.datetime) -> list[Lane]:
    """Lanes of these cooks, the earliest first, with the last minutes of their readings."""
    fixed = fixed_readings(kitchen, now)
    cooks = sorted((f.cook for f in statuses), key=lambda cook: cook.started_at)
    inputs = with_past(kitchen, cooks, {f.cook.pk: f.inputs for f in statuses if f.inputs}, now)
    return [_lane(CookStatus(cook, now, inputs[cook.pk]), fixed) for cook in cooks]


def _ticks(now: dt.datetime) -> list[dict[str, Any]]:
    """Ticks at the tens of minutes ahead whose labels fit."""
    soon_after = now + dt.timedelta(minutes=5)
    first = soon_after.replace(minute=soon_after.minute // 10 * 10, second=0, microsecond=0)
    times = [first + dt.timedelta(minutes=10 * i) for i in range(TICKS + 2)]
    ahead = [(at, (at - now).total_seconds() / 60) for at in times]
    return [{"at": at, "x": minutes * PX_PER_MIN} for at, minutes in ahead if 2.5 < minutes < LAST_TICK_MIN]


def action_queue(
    kitchen: Kitchen, statuses: Sequence[CookStatus], by_steps: Sequence[StepCookStatus], now: dt.datetime
) -> list[Any]:
    """The next actions of plans, of cooks that go by steps and of other apps, the one due first in front."""
    actions = [*next_actions_of(statuses, now), *step_actions_of(by_steps), *other_actions(kitchen, now)]
    return sorted(actions, key=attrgetter("due_at"))


def _latest(kitchen: Kitchen) -> Any:
    """Recently changed plans, offered while nothing is cooking."""
    return Plan.objects.of(kitchen).current().order_by("-updated_at")[:LATEST_SHOWN]


def _queue_context(queue: list[Any]) -> dict[str, Any]:
    return {
        "first_action": queue[0] if queue else None,
        "queue": queue[1:QUEUE_SHOWN],
        "waiting": max(len(queue) - QUEUE_SHOWN, 0),
        "soon": sum(action.in_s <= SOON_S for action in queue),
    }


def board(
    kitchen: Kitchen, everything: bool = False, units: Units | None = None, oldest_s: float = 0.0
) -> dict[str, Any]:  # fmt: skip
    """Context of the board; with `everything` a lane for every cook, however many.

    `oldest_s`: how old a rendered lane may be if nothing happened in it.
    """
    now = kitchen.now()
    everyone = running(kitchen)
    cooking = [status for status in everyone if not status.cook.waits]
    by_steps = steps_running(kitchen, now)
    queue = action_queue(kitchen, everyone, by_steps, now)
    shown = cooking if everything else cooking[:MOST_LANES]
    ticks = _ticks(now)
    old_s = age_of_forecasts_s(cooking)
    return {
        "now": now,
        "token": uuid.uuid4(),
        "lanes": lanes_as_text(
            shown,
            units or Units(),
            oldest_s,
            lambda some: lanes(kitchen, some, now),
            {"ticks": ticks, "kitchen": kitchen, "token": uuid.uuid4()},
        ),
        "oldest_forecast_s": old_s,
        "forecasts_old_s": 60.0 * round(old_s / 60.0) if old_s and old_s > TOLD_OLD_S else None,
        "step_lanes": by_steps,
        "waiting_lanes": [status for status in everyone if status.cook.waits],
        "everything": everything,
        "cooks": {f.cook.pk for f in cooking},
        "more_lanes": len(cooking) - len(shown),
        **_queue_context(queue),
        "ticks": ticks,
        "future_px": FUTURE_MIN * PX_PER_MIN,
        "past_px": PAST_MIN * PX_PER_MIN,
        "hot": hot_handles(kitchen, now, cooking),
        "rate": kitchen.clock_rate if kitchen.is_demo else 1.0,
        "latest": [] if everyone or by_steps else _latest(kitchen),
    }
