"""When to pull so that carryover lands on the target, and how long one may be late."""

from __future__ import annotations

from ..errors import EmberError
from ..files.plan import Plan
from ..files.stages import BY_SIDES, Stage, Until
from ..heat.media import hottest_c
from ..heat.root import bracketed_root
from ..heat.simulate import peak_after, simulate
from ..heat.trajectory import Trajectory

WINDOW_MAX_S = 7200.0
WINDOW_FIRST_LOOK_S = 20.0
PEAK_TOLERANCE_K = 0.05
WINDOW_TOLERANCE_K = 0.15


def timed(plan: Plan, trajectory: Trajectory) -> Plan:
    """The plan with every stage's end turned into the minutes it took: what a batch of other sizes goes through."""
    stages = [
        stage
        if stage.until is None
        else stage.model_copy(update={"until": None, "minutes": max((run.end_s - run.start_s) / 60.0, 1 / 60)})
        for stage, run in zip(plan.stages, trajectory.stages, strict=True)
    ]
    return plan.model_copy(update={"stages": stages})


def for_peak(plan: Plan, peak_c: float, known: Trajectory) -> Plan | None:
    """The plan with its pull stage ended so that the core peaks at `peak_c`; None when no length of it does.

    `known`: the trajectory of the plan as it stands.
    """
    index = plan.pull_stage
    if index is None:
        return None
    stage = plan.stages[index]
    if not (isinstance(stage, BY_SIDES) and stage.exposures is not None):
        changed = stage.model_copy(update={"minutes": None, "until": Until(peak_c=peak_c)})
        candidate = _with_stage(plan, index, changed)
        try:
            trajectory = simulate(candidate)
        except EmberError:
            return None
        return candidate if abs(trajectory.peak()[0] - peak_c) < 0.2 else None

    state, exposures = known.stages[index].state, stage.exposures

    def with_seconds(seconds: float) -> Plan:
        return _with_stage(plan, index, stage.model_copy(update={"seconds_a_side": round(seconds, 1)}))

    def miss(seconds: float) -> float:
        return peak_after(with_seconds(seconds), index, state) - peak_c

    try:
        seconds = bracketed_root(miss, 1.0, 7200.0 / exposures, PEAK_TOLERANCE_K, 0.1)
    except ValueError:
        return None
    return with_seconds(seconds)


def window_s(plan: Plan, trajectory: Trajectory, high_c: float) -> float | None:
    """How much longer the pull may wait before the peak passes `high_c`, s; None when two hours do not."""
    index = plan.pull_stage
    if index is None:
        return None
    fixed = timed(plan, trajectory)
    stage, run = fixed.stages[index], trajectory.stages[index]
    missing = high_c - trajectory.peak()[0]
    if missing <= 0:
        return 0.0

    carried = trajectory.peak()[0] - float(trajectory.core_c[run.last])
    if hottest_c(stage) + max(carried, 0.0) < high_c - WINDOW_TOLERANCE_K:
        return None  # the core comes no nearer than its medium, and a flatter piece carries less

    def over(extra_s: float) -> float:
        if extra_s == 0.0:
            return -missing
        longer: Stage
        if isinstance(stage, BY_SIDES) and stage.seconds_a_side is not None:
            longer = stage.model_copy(
                update={"seconds_a_side": stage.seconds_a_side + extra_s / (stage.exposures or 1)}
            )
        else:
            longer = stage.model_copy(update={"minutes": (stage.minutes or 0.0) + extra_s / 60.0})
        return peak_after(_with_stage(fixed, index, longer), index, run.state, rough=True) - high_c

    # The peak moves about as fast as the core does at the pull.
    slope = max(float(trajectory.slope_k_s[run.last, trajectory.grid.core]), 1e-6)
    late = min(max(1.3 * missing / slope, WINDOW_FIRST_LOOK_S), WINDOW_MAX_S)
    early = 0.0
    if 0 <= (first := over(late)) <= missing:
        return late * missing / (missing + first)  # near enough to a straight line between the two
    while over(late) < 0:
        if late >= WINDOW_MAX_S:
            return None
        early, late = late, min(late * 2.5, WINDOW_MAX_S)
    return bracketed_root(over, early, late, WINDOW_TOLERANCE_K, 2.0)


def _with_stage(plan: Plan, index: int, stage: Stage) -> Plan:
    stages = [stage if i == index else old for i, old in enumerate(plan.stages)]
    return plan.model_copy(update={"stages": stages})
