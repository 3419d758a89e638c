"""What a plan does besides cooking, judged by the standard: cooling, reheating, holding, standing."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ..files.plan import Plan
from ..files.result import SafetyOut
from ..files.stages import HEATING, Chill, Freeze, Hold, IceBath, Reheat, Stage, Thaw
from ..heat.grid import FloatArray
from ..heat.media import hottest_c, medium_c
from ..heat.trajectory import StageRun, Trajectory
from ..judge.cooling import cools_from_c
from ..judge.phases import PhaseFood, judge_phase
from ..judge.record import TemperatureRecord
from ..judge.standards import Standard
from ..judge.states import State
from ..judge.verdict import Verdict
from ..judge.words import marked
from ..quantities import show_duration
from .outcome import safety_out

HOT_FROM_C = 40.0  # a hold set above it is a hot one
COOKED_FROM_C = 50.0  # what was never so hot is chilled raw

Span = tuple[float, float]


@dataclass(frozen=True)
class _Stretch:
    """Consecutive stages without heat: the part that is cooling, and the part that stands; `cooked`: after the heat."""

    cooked: bool
    cooling: Span | None
    standing: Span | None


def phases_of(plan: Plan, rules: Standard, trajectory: Trajectory, category: str) -> list[SafetyOut]:
    """One entry for each phase of the plan with a rule in the standard; each asks for a reading."""
    food = PhaseFood(category=category, house=plan.house)
    verdicts: list[Verdict] = []

    def judged(phase: str, span: Span) -> None:
        if phase in rules.phases and span[1] > span[0]:
            verdicts.append(judge_phase(rules, phase, _record(trajectory, span, warmest=phase in COLD_PHASES), food))

    for stretch in _stretches(plan, rules, trajectory):
        if stretch.cooling:
            judged("cool", stretch.cooling)
        if stretch.standing and (stood := _stood_too_long(rules, trajectory, stretch.standing, stretch.cooked)):
            verdicts.append(stood)
    for stage, run in zip(plan.stages, trajectory.stages, strict=True):
        if isinstance(stage, Reheat):
            judged("reheat", (run.start_s, run.end_s))
        if isinstance(stage, Hold):
            judged("hold-hot" if medium_c(stage) > HOT_FROM_C else "hold-cold", (run.start_s, run.end_s))
        if isinstance(stage, Thaw):
            judged("thaw", (run.start_s, run.end_s))
        if isinstance(stage, Freeze) and category in WITH_PARASITES:
            judged("freeze", (run.start_s, run.end_s))
    return [safety_out(rules, replace(verdict, needs_probe=True)) for verdict in verdicts]


COLD_PHASES = frozenset({"cool", "hold-cold", "thaw", "freeze"})
WITH_PARASITES = frozenset({"fish", "molluscs"})


def _times(trajectory: Trajectory, span: Span) -> FloatArray:
    t = trajectory.fine_s
    return np.unique(np.concatenate([[span[0]], t[(t > span[0]) & (t < span[1])], [span[1]]]))


def _record(trajectory: Trajectory, span: Span, warmest: bool) -> TemperatureRecord:
    t = _times(trajectory, span)
    T = trajectory.profile(t)[:, trajectory.grid.eaten_from :]
    return TemperatureRecord(t, T.max(axis=1) if warmest else T.min(axis=1))


def _heats(stage: Stage, run: StageRun, upper_c: float, trajectory: Trajectory) -> bool:
    """Whether a stage cooks or holds hot: hotter than where cooling begins, or than the food that enters it."""
    hottest = hottest_c(stage)
    if stage.kind not in HEATING:
        return isinstance(stage, Hold) and hottest >= upper_c
    return hottest >= upper_c or hottest > float(trajectory.temperature_c[run.first].max())


def _stretches(plan: Plan, rules: Standard, trajectory: Trajectory) -> Iterator[_Stretch]:
    """Consecutive stages without heat; cooling runs from the end of the heat to the end of the last cold stage."""
    cooked, upper_c = False, cools_from_c(rules)
    begin = cold_end = None
    for stage, run in zip(plan.stages, trajectory.stages, strict=True):
        if _heats(stage, run, upper_c, trajectory):
            if begin is not None:
                yield _stretch(cooked, begin, cold_end, run.start_s)
            begin = cold_end = None
            cooked = cooked or float(trajectory.core_c[run.last]) > COOKED_FROM_C
            continue
        begin = run.start_s if begin is None else begin
        if isinstance(stage, Chill | IceBath | Freeze):
            cold_end = run.end_s
        cooked = cooked or float(trajectory.core_c[run.first : run.last + 1].max()) > COOKED_FROM_C
    if begin is not None:
        yield _stretch(cooked, begin, cold_end, trajectory.end_s)


def _stretch(cooked: bool, begin_s: float, cold_end_s: float | None, end_s: float) -> _Stretch:
    if cooked and cold_end_s is not None:
        return _Stretch(cooked, (begin_s, cold_end_s), (cold_end_s, end_s) if end_s > cold_end_s else None)
    return _Stretch(cooked, None, (begin_s, end_s))


def _stood_too_long(rules: Standard, trajectory: Trajectory, span: Span, cooked: bool) -> Verdict | None:
    """The verdict on food left neither hot nor cold for longer than time alone allows; None if it was not."""
    clock, hot, cold = (rules.phases.get(name) for name in ("time-control", "hold-hot", "hold-cold"))
    if clock is None or hot is None or cold is None or clock.hours is None:
        return None
    hours = clock.hours if cooked else max(clock.hours, cold.allowed_h)
    t = _times(trajectory, span)
    T = trajectory.profile(t)[:, trajectory.grid.eaten_from :]
    cold_c, hot_c = cold.most_c(cold.limit or 0.0), hot.least_c(hot.limit or 0.0)
    out = (T.max(axis=1) > cold_c) & (T.min(axis=1) < hot_c)
    minutes = float((np.diff(t) * (out[1:] & out[:-1])).sum()) / 60.0
    if minutes <= 60.0 * hours:
        return None
    spent, most = show_duration(60.0 * minutes), show_duration(3600.0 * hours)
    return Verdict(
        clock, State.NOT_MET, 60.0 * hours - minutes, "min", {"minutes": 60.0 * hours}, {"minutes": round(minutes, 1)},
        reason=f"{spent} between {marked(cold_c)} and {marked(hot_c)} without heat or cold (at most {most})",
    )  # fmt: skip
