"""Progress of a cook: from the steps done and the last reading, when the next step is due."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..files.result import CurvesOut
from .rounds import round_of
from .steps import ASIDE, Step, next_step

FloatArray = NDArray[np.float64]

# A reading counts for the forecast when it moves along the planned curve at least this fast; slower than that (a
# bath near its end) a tenth of a degree would move the forecast by minutes.
LEAST_SLOPE_K_S = 0.2 / 60.0


@dataclass(frozen=True)
class Progress:
    """The present of a cook; times in s from its start.

    `plan_s`: the corresponding time on the plan's own curve: the place of the last reading on it if there is one, else
    the time since the last step. `due_s`: when the next step is due, `reading_c`: what a probe would show now by the
    plan.
    """

    done: int
    next: Step | None
    due_s: float
    plan_s: float
    reading_c: float
    measured: bool
    reached: bool

    def late_s(self, now_s: float) -> float:
        """How overdue the next step is, s; 0 while it is ahead."""
        return max(0.0, now_s - self.due_s) if self.next else 0.0


def progress(
    steps: list[Step],
    curves: CurvesOut,
    done_at_s: Mapping[int, float],
    now_s: float,
    last_reading: tuple[float, float] | None,
) -> Progress:
    """The state of a cook from the steps done (number → time) and its last reading (time, °C)."""
    t, c = np.array(curves.t_s), np.array(curves.reading_c)
    done = max((n for n in done_at_s if steps[n].kind not in ASIDE), default=-1)
    following = next_step(steps, done_at_s)
    begun = done_at_s.get(done, 0.0)
    planned = steps[done].at_s if done >= 0 else 0.0
    reached_s = planned + max(now_s - begun, 0.0)
    if following is None:
        plan_s = min(reached_s, float(t[-1]))
        return Progress(done, None, begun, plan_s, float(np.interp(plan_s, t, c)), False, False)
    if _is_before_the_heat(steps, following):
        due_s = _due_before_the_heat(steps, following, now_s)
        return Progress(done, following, due_s, min(now_s, 0.0), float(c[0]), False, False)
    if (again := round_of(steps, following.number)) is not None:  # it runs by itself, to its last time
        plan_s, last_s = min(reached_s, again.times_s[-1]), again.times_s[-1]
        due_s = next((s for s in again.times_s if s > reached_s and s >= following.at_s - 1e-6), last_s)
        due = begun + due_s - planned
        return Progress(done, following, due, plan_s, float(np.interp(plan_s, t, c)), False, False)
    by_plan = Progress(
        done, following, begun + (following.at_s - planned), min(reached_s, following.at_s), 0.0, False, False
    )
    known = by_plan
    if last_reading is not None and last_reading[0] >= begun and following.reading_c is not None:
        known = _by_reading(by_plan, following, following.reading_c, planned, (t, c), last_reading, now_s)
    return replace(known, reading_c=float(np.interp(known.plan_s, t, c)))


def _by_reading(
    by_plan: Progress, step: Step, wanted_c: float, planned_s: float, curve: tuple[FloatArray, FloatArray],
    last_reading: tuple[float, float], now_s: float,
) -> Progress:  # fmt: skip
    """Progress by a reading since the last step: `step` waits for `wanted_c`."""
    read_s, read_c = last_reading
    rising = wanted_c >= float(np.interp(planned_s, *curve))
    if read_c >= wanted_c if rising else read_c <= wanted_c:
        due_s = min(by_plan.due_s, read_s)
        return replace(by_plan, due_s=due_s, plan_s=step.at_s, measured=True, reached=True)
    place = _place_on_curve(*curve, planned_s, step.at_s, read_c)
    if place is not None:
        plan_s = min(place + (now_s - read_s), step.at_s)
        return replace(by_plan, due_s=read_s + (step.at_s - place), plan_s=plan_s, measured=True)
    # The time is up but the reading is not there: stay with the reading.
    return replace(by_plan, due_s=max(by_plan.due_s, now_s))


def _is_before_the_heat(steps: list[Step], following: Step) -> bool:
    """Whether the next step is the start, or preparation before it: these keep their planned time."""
    return following.number <= next((step.number for step in steps if step.kind == "start"), -1)


def _due_before_the_heat(steps: list[Step], step: Step, now_s: float) -> float:
    """When a step before the heat is due, s: preparation first to begin, and from then on to be done."""
    if step.kind != "prep" or now_s < step.at_s:
        return step.at_s
    return next(each.at_s for each in steps[step.number + 1 :] if each.kind not in ASIDE)


def _place_on_curve(t: np.ndarray, c: np.ndarray, from_s: float, to_s: float, reading_c: float) -> float | None:
    """When the planned reading passes `reading_c` between two times; None if the curve is too flat."""
    inside = (t >= from_s - 1e-6) & (t <= to_s + 1e-6)
    tt, cc = t[inside], c[inside]
    if len(tt) < 2:
        return None
    above = cc >= reading_c if cc[-1] > cc[0] else cc <= reading_c
    if above[0]:
        return float(tt[0])
    if not above.any():
        return None
    i = int(np.argmax(above))
    slope = abs((cc[i] - cc[i - 1]) / (tt[i] - tt[i - 1])) if tt[i] > tt[i - 1] else 0.0
    if slope < LEAST_SLOPE_K_S:
        return None
    return float(tt[i - 1] + (reading_c - cc[i - 1]) / (cc[i] - cc[i - 1]) * (tt[i] - tt[i - 1]))
