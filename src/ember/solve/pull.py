"""When to pull so that carryover reaches the target, and how late the pull may be."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..errors import EmberError
from ..files.plan import Plan
from ..files.stages import BY_SIDES, BySides, Stage, Until
from ..heat.kappa import kappas_along
from ..heat.media import hottest_c
from ..heat.numerics import bracketed_root
from ..heat.simulate import peak_after, simulate_from
from ..heat.trajectory import Trajectory

WINDOW_MAX_S = 7200.0
WINDOW_FIRST_LOOK_S = 20.0
PEAK_TOLERANCE_K = 0.05
WINDOW_TOLERANCE_K = 0.15
ADVICE_TOLERANCE_K = 0.1
LOOKS = 6
LEAST_SLOPE_K_S = 1e-5
SHORTEST_S, MOST_TIMES = 5.0, 8.0  # of a pull stage, and of what it is now


def timed(plan: Plan, trajectory: Trajectory) -> Plan:
    """The plan with every stage's end converted to its duration, for pieces of other sizes in the batch."""
    stages = [
        stage
        if stage.until is None
        else stage.model_copy(update={"until": None, "minutes": max((run.end_s - run.start_s) / 60.0, 1 / 60)})
        for stage, run in zip(plan.stages, trajectory.stages, strict=True)
    ]
    return plan.model_copy(update={"stages": stages})


@dataclass(frozen=True)
class Pull:
    """Another end of the pull stage: the changed stage, its duration, s, the probe reading at its end, and the peak
    that follows, °C.
    """

    stage: Stage
    seconds: float
    reading_c: float
    peak_c: float


def for_peak(plan: Plan, peak_c: float, known: Trajectory) -> Pull | None:
    """The end of the pull stage after which the core peaks at `peak_c`; None if there is none.

    `known`: the trajectory of the plan as it stands.
    """
    index = plan.pull_stage
    if index is None:
        return None
    stage = plan.stages[index]
    if isinstance(stage, BY_SIDES) and stage.exposures is not None:
        return _sides_for_peak(plan, index, stage, stage.exposures, peak_c, known)
    run = known.stages[index]
    earlier_c = float(known.core_c[: run.first + 1].max())
    hottest = max(hottest_c(later) for later in plan.stages[index:])
    if not earlier_c - ADVICE_TOLERANCE_K < peak_c < hottest:
        return None

    def after(seconds: float) -> Pull:
        changed = stage.model_copy(update={"minutes": seconds / 60.0, "until": None})
        rest = simulate_from(_with_stage(plan, index, changed), index, run.state)
        reading_c = float(rest.reading_c(rest.stages[0].end_s)[0])
        return Pull(changed, seconds, reading_c, max(rest.peak()[0], earlier_c))

    try:
        found = _by_secant(after, run.end_s - run.start_s, peak_c, known, index)
        if found is None:
            until = stage.model_copy(update={"minutes": None, "until": Until(peak_c=peak_c)})
            exact = simulate_from(_with_stage(plan, index, until), index, run.state).stages[0]
            found = after(exact.end_s - exact.start_s)
    except EmberError:
        return None
    return found if abs(found.peak_c - peak_c) < 2 * ADVICE_TOLERANCE_K else None


def _by_secant(
    after: Callable[[float], Pull], now_s: float, peak_c: float, known: Trajectory, index: int
) -> Pull | None:
    """The length that leads to the peak, from where the plan stands; None where the secants do not settle.

    The peak moves about as fast as the core does at the pull: that is the first slope.
    """
    run = known.stages[index]
    slope = float(known.slope_k_s[run.last, known.grid.core])
    before_s, before_c = now_s, float(known.core_c[run.first :].max())
    for _ in range(LOOKS):
        if slope <= LEAST_SLOPE_K_S:
            return None
        seconds = before_s + (peak_c - before_c) / slope
        if not SHORTEST_S < seconds < MOST_TIMES * now_s:
            return None
        reached = after(seconds)
        if abs(reached.peak_c - peak_c) < ADVICE_TOLERANCE_K:
            return reached
        if seconds == before_s:
            return None
        slope = (reached.peak_c - before_c) / (seconds - before_s)
        before_s, before_c = seconds, reached.peak_c
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

    kappas = kappas_along(plan, trajectory) if trajectory.row is not None else ()
    known = {0.0: -missing}

    def over(extra_s: float) -> float:
        if extra_s not in known:
            known[extra_s] = peak_late(extra_s) - off_k - high_c
        return known[extra_s]

    def peak_late(extra_s: float) -> float:
        longer: Stage
        if isinstance(stage, BY_SIDES) and stage.seconds_a_side is not None:
            longer = stage.model_copy(
                update={"seconds_a_side": stage.seconds_a_side + extra_s / (stage.exposures or 1)}
            )
        else:
            longer = stage.model_copy(update={"minutes": (stage.minutes or 0.0) + extra_s / 60.0})
        return peak_after(_with_stage(fixed, index, longer), index, run.state, rough=True, kappas=kappas)

    off_k = peak_late(0.0) - trajectory.peak()[0] if kappas else 0.0
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
