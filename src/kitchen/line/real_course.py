"""The core of an unmeasured cook, by when its steps were really done."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ember.errors import EmberError
from ember.files.track import Event
from ember.heat.simulate import simulate_roughly
from ember.solve.log_ends import rule_met_s
from ember.track.as_done import plan_as_done
from ember.track.steps import ASIDE, MOVES

from .board_snapshot import snapshot_of
from .cook_steps import CookSteps
from .track_events import track_events

FloatArray = NDArray[np.float64]

OFF_SHARE, OFF_S = 0.05, 20.0  # a move so far from its time that the planned curve no longer stands for the piece
AHEAD_S = 3 * 3600.0  # how far it is followed past the last that was done, or past now where that is later
HEAT_CHANGES = ("setting", "interrupted", "resumed", "opened", "closed")  # told events the planned curve knows not of
POINTS = 360
REMEMBERED = 512


@dataclass(frozen=True)
class RealCourse:
    """Probe reading, centre and colder face, °C, at times in s from the start of the cook.

    The piece stays where the last tap put it. `rule_met_s`: when its rule would be met there; None if never.
    """

    t_s: FloatArray
    reading_c: FloatArray
    core_c: FloatArray
    surface_c: FloatArray
    rule_met_s: float | None

    def reading_at(self, s: float) -> float:
        """Probe reading at a time, °C."""
        return float(np.interp(s, self.t_s, self.reading_c))

    def surface_at(self, s: float) -> float:
        """The colder face at a time, °C."""
        return float(np.interp(s, self.t_s, self.surface_c))

    def hottest_by(self, s: float) -> float:
        """Hottest centre up to a time, °C."""
        return float(self.core_c[self.t_s <= s + 1e-6].max(initial=float(self.core_c[0])))


def real_course(so_far: CookSteps) -> RealCourse | None:
    """The course of a cook with steps tapped far off their times, or a changed setting; None if the plan still
    holds.
    """
    reported = track_events(so_far)
    changed = any(event.kind in HEAT_CHANGES for event in reported)
    if not changed and not _is_off(so_far) and not _is_overdue(so_far):
        return None
    last_s = max((event.s for event in reported), default=0.0)
    stretches = 1 + int(max(so_far.now_s - last_s, 0.0) // AHEAD_S)
    events = tuple((e.kind, round(e.s, 1), e.stage, e.c) for e in reported)
    return _simulated(so_far.cook.pk, so_far.planned_stages_s, events, last_s + stretches * AHEAD_S)


def _is_far(planned_s: float, took_s: float) -> bool:
    return abs(took_s - planned_s) > max(OFF_S, OFF_SHARE * planned_s)


def _is_overdue(so_far: CookSteps) -> bool:
    """Whether the piece stays in its stage far longer than planned."""
    chain = [n for n in so_far.done if so_far.steps[n].kind not in ASIDE]
    moves = [step for step in so_far.steps if step.kind in MOVES and step.number > max(chain, default=-1)]
    if not chain or not moves:
        return False
    last = so_far.steps[max(chain)]
    since_s = so_far.now_s - (so_far.done[last.number].at - so_far.cook.started_at).total_seconds()
    planned_s = moves[0].at_s - last.at_s
    return since_s > planned_s and _is_far(planned_s, since_s)


def _is_off(so_far: CookSteps) -> bool:
    moves = sorted(
        (so_far.steps[n].at_s, (event.at - so_far.cook.started_at).total_seconds())
        for n, event in so_far.done.items()
        if so_far.steps[n].kind in MOVES and not event.data.get("skipped")
    )
    before = (0.0, 0.0)
    for planned, done in moves:
        planned_s, took_s = planned - before[0], done - before[1]
        if _is_far(planned_s, took_s):
            return True
        before = (planned, done)
    return False


@lru_cache(maxsize=REMEMBERED)
def _simulated(
    cook: uuid.UUID, planned_s: tuple[float, ...], events: tuple[tuple[Any, ...], ...], end_s: float
) -> RealCourse | None:  # fmt: skip
    plan = snapshot_of(cook).plan
    reported = [Event(kind=kind, s=s, stage=stage, c=c) for kind, s, stage, c in events]
    done = plan_as_done(plan, planned_s, reported, end_s, as_told=True)
    try:
        trajectory = simulate_roughly(done)
        met_s = rule_met_s(done)
    except EmberError:
        return None
    t = np.linspace(0.0, trajectory.end_s, POINTS)
    core, under, top, _ = trajectory.core_faces_mean_c(t).T
    return RealCourse(t, trajectory.reading_c(t), core, np.minimum(under, top), met_s)
