"""Stages that end by log reduction, converted to minutes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..errors import NeverReached
from ..files.base import MAX_STAGE_S
from ..files.plan import Plan
from ..food.catalogue import cut
from ..heat.grid import FloatArray
from ..heat.simulate import simulate
from ..judge.inactivation import Inactivation, inactivation_of
from ..judge.standards import standard
from ..report.outcome import Question, food_of, question_of

FIRST_LOOK_MIN = 60.0
MOST_STEPS = 6


def killing_in(plan: Plan, organism: str) -> Inactivation:
    """Inactivation of an organism in a plan's piece under its standard."""
    return inactivation_of(standard(plan.standard), food_of(plan, cut(plan.piece.cut)), organism)


def _dose(killing: Inactivation, t: FloatArray, T: FloatArray) -> FloatArray:
    """Log reduction at the coldest point up to each time, [time]."""
    return np.concatenate([[0.0], killing.steps(t, T).cumsum(axis=0).min(axis=1)])


def minutes_to(plan: Plan, index: int, log10: float, killing: Inactivation, longest_min: float) -> float:
    """Minutes of stage `index` after which the coldest point has a log reduction of `log10` since the plan began.

    Earlier stages end by minutes or temperatures. Raises NeverReached with how far it got.
    """
    stage = plan.stages[index]

    def dosed(minutes: float) -> tuple[FloatArray, FloatArray, float]:
        looked = stage.model_copy(update={"until": None, "minutes": minutes})
        run = simulate(plan.model_copy(update={"stages": [*plan.stages[:index], looked]}))
        return run.fine_s, _dose(killing, run.fine_s, run.profile(run.fine_s)), run.stages[index].start_s

    horizon = min(FIRST_LOOK_MIN, longest_min)
    while True:
        t, dose, begins_s = dosed(horizon)
        if dose[-1] >= log10:
            i = int(np.argmax(dose >= log10))
            share = (log10 - dose[i - 1]) / (dose[i] - dose[i - 1]) if i else 0.0
            at = t[i - 1] + share * (t[i] - t[i - 1]) if i else 0.0
            return _long_enough(lambda minutes: dosed(minutes)[:2], log10, max(float(at - begins_s) / 60.0, 1 / 60))
        if horizon >= longest_min:
            raise NeverReached(
                f"Stage {index + 1} ({stage.kind}) never brings {log10:g} log of {killing.name} at the coldest point: "
                f"it comes to {dose[-1]:.1f}. A hotter medium would; below {killing.floor_c:.1f} °C nothing counts.",
                f"stages[{index}].until", float(dose[-1]),
            )  # fmt: skip
        horizon = min(horizon * 3.0, longest_min)


def _long_enough(
    dosed: Callable[[float], tuple[FloatArray, FloatArray]], log10: float, minutes: float
) -> float:  # fmt: skip
    """The minutes, plus the few seconds that linear interpolation between two samples fell short."""
    for _ in range(MOST_STEPS):
        t, dose = dosed(minutes)
        short = log10 - float(dose[-1])
        if short <= 0:
            break
        minutes += 1.02 * short / max(float(dose[-1] - dose[-2]), 1e-9) * float(t[-1] - t[-2]) / 60.0
    return minutes


def with_log_ends(plan: Plan) -> Plan:
    """The plan with every end by log reduction converted to minutes; the same plan if there is none.

    Raises NeverReached for a stage that never gets there.
    """
    for index, stage in enumerate(plan.stages):
        until = stage.until
        if until is None or until.log10 is None:
            continue
        longest = until.max_minutes or MAX_STAGE_S / 60.0
        minutes = minutes_to(plan, index, until.log10, killing_in(plan, until.organism or "salmonella"), longest)
        stages = [*plan.stages]
        stages[index] = stage.model_copy(update={"until": None, "minutes": minutes})
        plan = plan.model_copy(update={"stages": stages})
    return plan


NEAR_S = 5.0


def rule_met_s(plan: Plan) -> float | None:
    """Time from the start after which the plan's first rule is met, s, to five seconds; None if it never is.

    Found by bisection: once met a rule stays met. Raises EmberError if the plan cannot be cooked.
    """
    question = question_of(plan, cut(plan.piece.cut), standard(plan.standard), simulate(with_log_ends(plan)))
    if not question.verdict().met:
        return None
    low, high = _rows_around(question)
    t = question.time_s
    between = np.arange(t[low - 1], t[high - 1], NEAR_S)[1:]  # a long bath's rows lie minutes apart
    question = question.at(np.union1d(t, between))
    return round(float(question.time_s[_rows_around(question)[1] - 1]), 1)


def _rows_around(question: Question) -> tuple[int, int]:
    """How many rows do not meet the rule yet, and how many do."""
    t = question.time_s
    low, high = 1, len(t)
    while high - low > 1 and t[high - 1] - t[low - 1] > NEAR_S:
        middle = (low + high) // 2
        low, high = (low, middle) if question.verdict(middle).met else (middle, high)
    return low, high
