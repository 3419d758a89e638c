"""The line as the template needs it: next hands in order, one lane a cook."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ember.files.track import Belief
from ember.quantities import show_duration
from ember.track.hands import BOARD
from kitchen.accounts.models import Kitchen
from kitchen.drawings.lane_chart import Fan, LaneChart, lane_chart
from kitchen.drawings.ramp import hex_colour
from kitchen.plans.models import Plan

from .hands import hands_of, hot_handles
from .kept import put_past_beside
from .queries import Following, fixed_readings, running
from .sources import other_hands
from .step_cooks import step_hands, steps_running
from .track_events import setting_c

PAST_MIN = 9.0
FUTURE_MIN = 40.0
LAST_TICK_MIN = 32.0  # its label must fit on a tablet
PX_PER_MIN = 14.1
LANE_PX = 92.0
TICKS = 4
QUEUE_SHOWN = 5
RINGS = 6
LATEST_SHOWN = 5
MOST_LANES = 24  # more than a screen can show; the rest is a tap away
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
    trouble: Trouble | None
    give_or_take_s: float | None
    belief: Belief | None


@dataclass(frozen=True)
class Way:
    """A way out of being late, with its letter, what it does and what it costs."""

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


def _medium_c(following: Following) -> float | None:
    """What the piece's surroundings are set to, as it was told last; None on the board and on the plate."""
    stages = following.plan.stages
    if following.stage >= len(stages) or following.place in (BOARD, "plate"):
        return None
    return setting_c(following, following.stage)


def _found_c(following: Following, fixed: Mapping[int, float]) -> float | None:
    """What the probe that stays in its bath or oven shows, where that is off the setting; else None."""
    setting = _medium_c(following)
    found = fixed.get(following.kit.get(following.stage, {}).get("id", -1))
    return found if found is not None and setting is not None and abs(found - setting) >= OFF_K else None


def _lane(following: Following, fixed: Mapping[int, float]) -> Lane:
    progress, now_s = following.progress, following.now_s
    outlook = following.outlook
    since = outlook.fault_since_s if outlook else None
    past = [(s - now_s, c) for s, c in following.readings if s <= now_s and (since is None or s < since)]
    doubted = [(s - now_s, c) for s, c in following.readings if since is not None and s >= since]
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
        _fan(following, rule), _span(following), doubted[:: max(len(doubted) // RINGS, 1)],
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
        following.rests_s, _rule(following), _found_c(following, fixed), _trouble(following),
        outlook.give_or_take_s if outlook and _span(following) else None,
        outlook.beliefs[0] if outlook and outlook.beliefs else None,
    )  # fmt: skip


def _pulls_next(following: Following) -> bool:
    """Whether the forecast is of the step that comes next."""
    step, coming = following.pull_step, following.progress.next
    return step is not None and coming is not None and coming.number == step.number and following.outlook is not None


def _span(following: Following) -> tuple[float, float] | None:
    """From when to when the pull may be due, s from now."""
    outlook = following.outlook
    if outlook is None or outlook.span_s is None or not _pulls_next(following) or not outlook.is_by_readings:
        return None
    late = 60.0 * following.put_off_min(following.progress.next)
    return outlook.span_s[0] + late - following.now_s, outlook.span_s[1] + late - following.now_s


def _fan(following: Following, rule_c: float | None) -> Fan | None:
    """The forecast's fan as the probe would show it: from what it shows now to what the pull waits for."""
    outlook = following.outlook
    if outlook is None or not _pulls_next(following) or not outlook.forecast.fan or not outlook.is_by_readings:
        return None
    t = np.array(outlook.forecast.fan["t_s"]) - following.now_s
    core = np.array(outlook.forecast.fan["core_c"])
    want = outlook.answer.want_c
    now_c = outlook.core_at_c(following.now_s)
    if rule_c is None or want is None or abs(want - now_c) < 0.2:
        return None
    share = (rule_c - following.present_c) / (want - now_c)
    return Fan(t, following.present_c + (core - now_c) * share)


def _way(letter: str, way: dict[str, Any], late_s: float, wait_peak_c: float | None) -> Way:
    late = late_s if way["kind"] == "wait" else way["late_s"]
    price = way["peak_c"] - (wait_peak_c if wait_peak_c is not None else way["peak_c"])
    return Way(letter, way["kind"], way["setting_c"], max(round(late / 60), 0), price, uuid.uuid4())


def _trouble(following: Following) -> Trouble | None:
    """A probe that is not to be believed, or a pull that will be late: with the cause and two ways out."""
    outlook = following.outlook
    if outlook is None:
        return None
    ways = outlook.ways
    late_s = outlook.forecast.late_s or 0.0
    if not outlook.fault and not ways:
        return None
    beliefs = () if outlook.fault else tuple(outlook.beliefs)
    head = outlook.fault or f"Late {max(round(late_s / 60), 1)} min"
    words = outlook.fault_words if outlook.fault else "" if beliefs else "It heats more slowly than planned"
    peak = next((way["peak_c"] for way in ways if way["kind"] == "wait"), None)
    told = tuple(_way("AB"[i], way, late_s, peak) for i, way in enumerate(ways[:2]))
    return Trouble(head, words, beliefs, outlook.needle_helps and bool(outlook.fault), told, late_s)


def _rule(following: Following) -> str:
    """Whether the rule is met by plan yet, or in how long."""
    result = following.result
    if "rule_met_s" not in result:  # begun before this was kept
        return ""
    at_s = result["rule_met_s"]
    if at_s is None:
        return "rule not met by plan"
    left = at_s - following.progress.plan_s
    return f"rule met by plan in {show_duration(left)}" if left > 1 else "rule met by plan"


def _shown(kitchen: Kitchen, found: list[Following], now: dt.datetime, everything: bool) -> list[Following]:
    """The cooks that get a lane, with the last minutes of their readings: all, or those that need a hand first."""
    shown = found if everything else found[:MOST_LANES]
    put_past_beside(kitchen, [f.cook for f in shown], now)
    return [Following(f.cook, now) for f in sorted(shown, key=lambda f: f.cook.started_at)]


def board(kitchen: Kitchen, everything: bool = False) -> dict[str, Any]:
    """Context of the board; with `everything` a lane for every cook, however many."""
    now = kitchen.now()
    found = running(kitchen)
    by_steps, fixed = steps_running(kitchen, now), fixed_readings(kitchen, now)
    hands = sorted(
        [*hands_of(found, now), *step_hands(by_steps), *other_hands(kitchen, now)], key=lambda hand: hand.due_at
    )
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
        "token": uuid.uuid4(),
        "lanes": [_lane(f, fixed) for f in _shown(kitchen, found, now, everything)],
        "step_lanes": by_steps,
        "everything": everything,
        "more_lanes": 0 if everything else max(len(found) - MOST_LANES, 0),
        "hand": hands[0] if hands else None,
        "queue": hands[1:QUEUE_SHOWN],
        "waiting": max(len(hands) - QUEUE_SHOWN, 0),
        "soon": soon,
        "ticks": ticks,
        "future_px": FUTURE_MIN * PX_PER_MIN,
        "past_px": PAST_MIN * PX_PER_MIN,
        "hot": hot_handles(kitchen, now, found),
        "rate": kitchen.clock_rate if kitchen.is_demo else 1.0,
        "latest": []
        if found or by_steps
        else Plan.objects.of(kitchen).current().order_by("-updated_at")[:LATEST_SHOWN],
    }
