"""What to do about a cook that will be late: more heat, or waiting, each with its cost."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..files.stages import Stage
from ..files.track import Event
from .estimate import Estimate, Planned
from .thermal_history import set_to_c, thermal_history

LATE_S, LATE_SHARE = 120.0, 0.03  # late by less is in time
# The most a stage may be turned up, K, and what it is never turned up past, °C (common practice).
HOTTER_K = {"oven": 60.0, "bath": 4.0, "pan": 30.0, "plancha": 30.0, "simmer": 8.0, "poach": 8.0, "fry": 15.0}
HOTTEST_C = {"oven": 250.0, "bath": 90.0, "pan": 250.0, "plancha": 250.0, "simmer": 98.0, "poach": 98.0, "fry": 190.0}
STEP_C = {"bath": 0.5}
USUAL_STEP_C = 5.0
TRIED = 4


@dataclass(frozen=True)
class WayOut:
    """Turned up to `setting_c`, or left to wait: remaining lateness, s, and the peak, °C."""

    kind: Literal["hotter", "wait"]
    setting_c: float | None
    late_s: float
    peak_c: float


def is_late(late_s: float, planned_s: float) -> bool:
    """Whether lateness by that much of a stage is worth reporting."""
    return late_s >= max(LATE_S, LATE_SHARE * planned_s)


def ways_out(
    estimated: Estimate, known: Planned, events: Sequence[Event], now_s: float, due_s: float, stage: Stage, index: int
) -> list[WayOut]:
    """Ways out for a cook in its pull stage `stage` that should have been pulled at `due_s`, s.

    The smallest increase of heat that brings it in time, else the largest possible; and waiting.
    """
    crossed, peak = _with(estimated, known, events, now_s)
    wait = WayOut("wait", None, crossed - due_s, peak)
    if not np.isfinite(crossed):
        return []
    now_c = set_to_c(stage, index, events)
    most = min(now_c + HOTTER_K.get(stage.kind, 0.0), HOTTEST_C.get(stage.kind, now_c))
    step = STEP_C.get(stage.kind, USUAL_STEP_C)
    if most < now_c + step:
        return [wait]
    best: WayOut | None = None
    for setting in np.linspace(now_c, most, TRIED + 1)[1:]:
        celsius = float(now_c + step * np.ceil((setting - now_c) / step - 1e-9))
        events_then = [*events, Event(kind="setting", s=now_s, stage=index, c=celsius)]
        crossed, peak = _with(estimated, known, events_then, now_s)
        if np.isfinite(crossed):
            best = WayOut("hotter", celsius, crossed - due_s, peak)
            if crossed <= due_s:
                break
    return [best, wait] if best is not None and best.late_s < wait.late_s - step else [wait]


def _with(estimated: Estimate, known: Planned, events: Sequence[Event], now_s: float) -> tuple[float, float]:
    """When the likeliest cook reaches its target, s, and its peak, °C, with these events."""
    course, _ = thermal_history(estimated.course.problem, known.seconds, events, now_s, True)
    grid = course.problem.grid
    members = estimated.unknowns.members(estimated.fit.z[None])
    followed = course.follow(members, np.array([now_s]), np.array([grid.core]), estimated.want_c)
    return float(followed.crossed_s[0]), float(followed.peak_c[0])
