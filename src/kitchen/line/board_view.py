"""The line as the template needs it: next hands in order, one lane a cook."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ember.heat.media import medium_c
from ember.quantities import show_duration
from ember.track.hands import BOARD
from kitchen.accounts.models import Kitchen
from kitchen.drawings.lane_chart import LaneChart, lane_chart
from kitchen.drawings.ramp import hex_colour
from kitchen.plans.models import Plan

from .hands import hands_of, hot_handles
from .queries import Following, fixed_readings, running

PAST_MIN = 9.0
FUTURE_MIN = 40.0
LAST_TICK_MIN = 32.0  # its label must fit on a tablet
PX_PER_MIN = 14.1
LANE_PX = 92.0
TICKS = 4
QUEUE_SHOWN = 5
LATEST_SHOWN = 5
OFF_K = 0.3  # a bath at its set point shows no second number


@dataclass(frozen=True)
class Lane:
    """A cook's lane."""

    following: Following
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


def _medium_c(following: Following) -> float | None:
    """What the piece's surroundings are set to; None on the board and on the plate."""
    stages = following.plan.stages
    if following.stage >= len(stages) or following.place in (BOARD, "plate"):
        return None
    return medium_c(stages[following.stage])


def _found_c(following: Following, fixed: Mapping[int, float]) -> float | None:
    """What the probe that stays in its bath or oven shows, where that is off the setting; else None."""
    setting = _medium_c(following)
    found = fixed.get(following.kit.get(following.stage, {}).get("id", -1))
    return found if found is not None and setting is not None and abs(found - setting) >= OFF_K else None


def _lane(following: Following, fixed: Mapping[int, float]) -> Lane:
    progress, now_s = following.progress, following.now_s
    past = [(s - now_s, c) for s, c in following.readings if s <= now_s]
    t, c = np.array(following.curves.t_s), np.array(following.curves.reading_c)
    if not past:  # worked out: the plan's own curve since the last step
        since = np.linspace(max(progress.plan_s - PAST_MIN * 60, 0.0), progress.plan_s, 20)
        past = [(float(s - progress.plan_s), float(np.interp(s, t, c))) for s in since if s - progress.plan_s >= -now_s]
    future: list[tuple[float, float]] = []
    rule = None
    due_s = progress.due_s - now_s
    if progress.next is not None:
        rule = progress.next.reading_c
        left = max(progress.next.at_s - progress.plan_s, 0.0)
        ahead = np.linspace(0.0, left, 24) if left > 0 else np.array([0.0])
        offset = following.present_c - float(np.interp(progress.plan_s, t, c)) if following.is_measured else 0.0
        fade = 1.0 - ahead / left if left > 0 else np.array([1.0])
        future = [
            (float(s), float(np.interp(progress.plan_s + s, t, c) + offset * f))
            for s, f in zip(ahead, fade, strict=True)
        ]
    chart = lane_chart(
        past[-400:], future, following.present_c, rule, due_s,
        PX_PER_MIN, PAST_MIN * PX_PER_MIN, FUTURE_MIN * PX_PER_MIN, LANE_PX - 24,
    )  # fmt: skip
    late = int(progress.late_s(now_s) // 60)
    stage = following.plan.stages[following.stage].kind if following.stage < len(following.plan.stages) else "plate"
    if following.place == BOARD:
        stage = BOARD
    curves = following.curves
    outside = float(np.interp(progress.plan_s, curves.t_s, curves.surface_c))
    inside = following.present_c
    sample = tuple(
        (i * 8.4, hex_colour(outside + (inside - outside) * (1 - (abs(i - 3.5) / 3.5) ** 2))) for i in range(8)
    )
    return Lane(
        following, chart, sample, stage, _medium_c(following), late, following.word_now, following.word_if_left,
        following.rests_s, _rule(following), _found_c(following, fixed),
    )  # fmt: skip


def _rule(following: Following) -> str:
    """Whether the rule is met by plan yet, or in how long."""
    result = following.cook.result
    if "rule_met_s" not in result:  # begun before this was kept
        return ""
    at_s = result["rule_met_s"]
    if at_s is None:
        return "rule not met by plan"
    left = at_s - following.progress.plan_s
    return f"rule met by plan in {show_duration(left)}" if left > 1 else "rule met by plan"


def board(kitchen: Kitchen) -> dict[str, Any]:
    """Context of the board."""
    now = kitchen.now()
    found = running(kitchen)
    hands, fixed = hands_of(found, now), fixed_readings(kitchen, now)
    soon = sum(1 for hand in hands if hand.in_s <= 600)
    soon_after = now + dt.timedelta(minutes=5)
    first_tick = soon_after.replace(minute=soon_after.minute // 10 * 10, second=0, microsecond=0)
    ticks = []
    for i in range(TICKS + 2):
        at = first_tick + dt.timedelta(minutes=10 * i)
        ahead = (at - now).total_seconds() / 60
        if 2.5 < ahead < LAST_TICK_MIN:
            ticks.append({"at": at, "x": ahead * PX_PER_MIN})
    return {
        "now": now,
        "lanes": [_lane(f, fixed) for f in sorted(found, key=lambda f: f.cook.started_at)],
        "hand": hands[0] if hands else None,
        "queue": hands[1:QUEUE_SHOWN],
        "waiting": max(len(hands) - QUEUE_SHOWN, 0),
        "soon": soon,
        "ticks": ticks,
        "future_px": FUTURE_MIN * PX_PER_MIN,
        "past_px": PAST_MIN * PX_PER_MIN,
        "hot": hot_handles(kitchen, now, found),
        "rate": kitchen.clock_rate if kitchen.is_demo else 1.0,
        "latest": [] if found else Plan.objects.of(kitchen).current().order_by("-updated_at")[:LATEST_SHOWN],
    }
