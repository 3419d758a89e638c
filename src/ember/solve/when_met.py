"""When in a plan its rule is met."""

from __future__ import annotations

from ..files.plan import Plan
from ..food.catalogue import cut
from ..heat.simulate import simulate
from ..judge.standards import standard
from ..report.outcome import question_of
from .log_ends import with_log_ends

NEAR_S = 5.0


def rule_met_s(plan: Plan) -> float | None:
    """The time from the start after which the plan's first rule is met, s, to five seconds; None if it never is.

    Found by halving: once a rule is met it stays met. Raises EmberError where the plan cannot be cooked.
    """
    question = question_of(plan, cut(plan.piece.cut), standard(plan.standard), simulate(with_log_ends(plan)))
    t = question.time_s
    low, high = 1, len(t)
    if not question.verdict().met:
        return None
    while high - low > 1 and t[high - 1] - t[low - 1] > NEAR_S:
        middle = (low + high) // 2
        low, high = (low, middle) if question.verdict(middle).met else (middle, high)
    return round(float(t[high - 1]), 1)
