"""A plan as it was really cooked: its stages for as long as the piece was in them."""

from __future__ import annotations

from collections.abc import Sequence

from ..errors import EmberError
from ..files.plan import Plan
from ..files.result import SafetyOut
from ..files.stages import BY_SIDES, Rest, Stage, lasting
from ..files.track import Event
from ..food.catalogue import cut
from ..heat.simulate import simulate
from ..judge.standards import standard
from ..report.outcome import outcome_of, safety_out
from .stage_intervals import OFF_HEAT, stage_intervals
from .thermal_history import stage_as_set

SHORTEST_S = 1.0


def plan_as_done(
    plan: Plan, planned_s: Sequence[float], events: Sequence[Event], end_s: float, as_told: bool = False
) -> Plan:  # fmt: skip
    """The plan with the reported times, up to `end_s`; at least a second of its first stage.

    `planned_s`: planned duration of each stage. Between two stages the piece lies on a rack. `as_told`: it stays where
    the last event put it, whatever the plan says.
    """
    stages: list[Stage] = []
    for stay in stage_intervals(plan, planned_s, events, end_s, as_told):
        seconds = stay.to_s - stay.from_s
        if seconds < SHORTEST_S:
            continue
        if stay.stage == OFF_HEAT:
            stages.append(Rest(minutes=seconds / 60.0))
        else:
            stages.append(lasting(stage_as_set(plan.stages[stay.stage], stay.stage, events), seconds))
    return plan.model_copy(update={"stages": stages or [lasting(plan.stages[0], SHORTEST_S)], "depth_map": False})


def plan_from_here(plan: Plan, planned_s: Sequence[float], events: Sequence[Event], now_s: float) -> Plan:
    """The plan as it was done up to `now_s`, then the rest of it as planned.

    `planned_s`: planned duration of each stage. Its preparation is left out.
    """
    intervals = stage_intervals(plan, planned_s, events, now_s, as_told=True)
    stages = list(plan_as_done(plan, planned_s, events, now_s, as_told=True).stages)
    begun = max((stay.stage for stay in intervals), default=OFF_HEAT)
    last = next((stay for stay in reversed(intervals) if stay.stage == begun), None)
    if last is not None and not last.ended and (left := planned_s[begun] - (now_s - last.from_s)) > SHORTEST_S:
        stages.append(lasting(stage_as_set(plan.stages[begun], begun, events), left))
    for i in range(begun + 1, len(plan.stages)):
        stages.append(lasting(stage_as_set(plan.stages[i], i, events), planned_s[i]))
    return plan.model_copy(update={"stages": stages, "prep": [], "depth_map": False})


def stage_min(stage: Stage) -> float:
    """Duration of a stage of a plan as done, min."""
    if isinstance(stage, BY_SIDES) and stage.seconds_a_side is not None:
        return stage.seconds_a_side * (stage.exposures or 1) / 60.0
    return float(getattr(stage, "minutes", None) or 0.0)


def verdict_as_done(
    plan: Plan, planned_s: Sequence[float], events: Sequence[Event], end_s: float
) -> SafetyOut | None:  # fmt: skip
    """The cooking rule judged on the plan as it was done, by the model; None if it cannot be simulated."""
    done = plan_as_done(plan, planned_s, events, end_s)
    rules = standard(done.standard)
    try:
        outcome = outcome_of(done, cut(done.piece.cut), rules, simulate(done))
    except EmberError:
        return None
    return safety_out(rules, outcome.verdict)
