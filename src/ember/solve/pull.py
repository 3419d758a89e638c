"""When to pull so that carryover lands on the target, and how long one may be late."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import EmberError
from ..files.plan import Plan
from ..files.stages import BY_SIDES, BySides, Stage, Until
from ..heat.media import hottest_c
from ..heat.root import bracketed_root
from ..heat.simulate import peak_after, simulate_from
from ..heat.trajectory import Trajectory

WINDOW_MAX_S = 7200.0
WINDOW_FIRST_LOOK_S = 20.0
PEAK_TOLERANCE_K = 0.05
WINDOW_TOLERANCE_K = 0.15
ADVICE_TOLERANCE_K = 0.1
LOOKS = 4


def timed(plan: Plan, trajectory: Trajectory) -> Plan:
    """The plan with every stage's end turned into the minutes it took: what a batch of other sizes goes through."""
    stages = [
        stage
        if stage.until is None
        else stage.model_copy(update={"until": None, "minutes": max((run.end_s - run.start_s) / 60.0, 1 / 60)})
        for stage, run in zip(plan.stages, trajectory.stages, strict=True)
    ]
    return plan.model_copy(update={"stages": stages})


@dataclass(frozen=True)
class Pull:
    """Another end of the pull stage: the stage so changed, how long it takes, s, what the probe shows at its end, and
    the peak that follows, °C.
    """

    stage: Stage
    seconds: float
    reading_c: float
    peak_c: float


def for_peak(plan: Plan, peak_c: float, known: Trajectory) -> Pull | None:
    """The end of the pull stage after which the core peaks at `peak_c`; None when no length of it does.

    `known`: the trajectory of the plan as it stands.
    """
    index = plan.pull_stage
    if index is None:
        return None
    stage = plan.stages[index]
    if isinstance(stage, BY_SIDES) and stage.exposures is not None:
        return _sides_for_peak(plan, index, stage, stage.exposures, peak_c, known)
    state = known.stages[index].state
    earlier_c = float(known.core_c[: known.stages[index].first + 1].max())

    def by_clock(aim_c: float) -> float:
        until = stage.model_copy(update={"minutes": None, "until": Until(peak_c=aim_c)})
        run = simulate_from(_with_stage(plan, index, until), index, state, rough=True).stages[0]
        return run.end_s - run.start_s

    aim_c = peak_c
    try:
        for _ in range(LOOKS):
            seconds = by_clock(aim_c)
            timed_stage = stage.model_copy(update={"minutes": seconds / 60.0, "until": None})
            run = simulate_from(_with_stage(plan, index, timed_stage), index, state)
            found_c = max(run.peak()[0], earlier_c)
            if abs(found_c - peak_c) < ADVICE_TOLERANCE_K:
                return Pull(timed_stage, seconds, float(run.reading_c(run.stages[0].end_s)[0]), found_c)
            aim_c += peak_c - found_c  # what the rough grid is off by
    except EmberError:
        return None
    return None


def _sides_for_peak(
    plan: Plan, index: int, stage: BySides, exposures: int, peak_c: float, known: Trajectory
) -> Pull | None:
    state = known.stages[index].state

    def with_seconds(seconds: float) -> Plan:
        return _with_stage(plan, index, stage.model_copy(update={"seconds_a_side": round(seconds, 1)}))

    def miss(seconds: float) -> float:
        return peak_after(with_seconds(seconds), index, state) - peak_c

    try:
        seconds = bracketed_root(miss, 1.0, 7200.0 / exposures, PEAK_TOLERANCE_K, 0.1)
    except ValueError:
        return None
    better = with_seconds(seconds)
    run = simulate_from(better, index, state)
    first = run.stages[0]
    return Pull(better.stages[index], first.end_s, float(run.reading_c(first.end_s)[0]), run.peak()[0])


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

    known = {0.0: -missing}

    def over(extra_s: float) -> float:
        if extra_s not in known:
            known[extra_s] = peak_late(extra_s) - high_c
        return known[extra_s]

    def peak_late(extra_s: float) -> float:
        longer: Stage
        if isinstance(stage, BY_SIDES) and stage.seconds_a_side is not None:
            longer = stage.model_copy(
                update={"seconds_a_side": stage.seconds_a_side + extra_s / (stage.exposures or 1)}
            )
        else:
            longer = stage.model_copy(update={"minutes": (stage.minutes or 0.0) + extra_s / 60.0})
        return peak_after(_with_stage(fixed, index, longer), index, run.state, rough=True)

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
