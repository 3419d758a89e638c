"""Inverse questions on a plan: pull, minutes, medium or thickness for a goal.

Every search is bounded; if no value within the bounds meets the goal, NeverReached says how close it came.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..errors import BadInput, EmberError, NeverReached
from ..evaluate import evaluate
from ..files.base import MAX_PLAN_S, MAX_STAGE_S
from ..files.plan import Plan
from ..files.result import Result
from ..files.solve import Find, SolveRequest
from ..files.stages import BY_SIDES, Stage, Until, lasting
from ..food.catalogue import cut
from ..food.geometry import body_size, with_size
from ..heat.numerics import bracketed_root
from ..heat.problem import density_of
from ..heat.simulate import simulate
from ..heat.trajectory import Trajectory
from .log_ends import killing_in, with_log_ends

# What a stage's medium is called, and how far it may be turned.
MEDIUM_KEYS = {
    "water_c": (0.0, 100.0), "air_c": (-40.0, 320.0), "pan_c": (40.0, 500.0), "plate_c": (40.0, 500.0),
    "oil_c": (60.0, 230.0), "source_c": (200.0, 900.0), "medium_c": (-40.0, 500.0), "temp_c": (-2.0, 40.0),
}  # fmt: skip
AIR_MOST_C = {"temper": 60.0, "rest": 60.0, "chill": 60.0, "hold": 120.0}
AIR_LEAST_C = {"oven": 30.0, "reheat": 30.0}
THICKNESS_MM = (1.0, 600.0)
SCAN = 9  # places a range is looked at before it is narrowed
TOLERANCE = {"peak_c": 0.05, "core_c": 0.02, "log10": 0.02, "ready_s": 5e-4}
UNITS = {"pull": "°C", "minutes": "min", "medium_c": "°C", "thickness_mm": "mm"}


@dataclass(frozen=True)
class Found:
    """The value, its unit and the result of the changed plan."""

    value: float
    unit: str
    result: Result


def find(request: SolveRequest) -> Found:
    """Answer a question.

    Raises BadInput for a question that does not apply to this plan, NeverReached if nothing within bounds meets the
    goal.
    """
    plan, target = request.plan, request.find
    index = target.stage if target.stage is not None else plan.pull_stage
    if index is None:
        raise BadInput("nothing in this plan heats; say which stage", "find.stage")
    wish = target.so_that
    if target.what == "pull":
        if wish.peak_c is None:
            raise BadInput("a pull is found for a peak_c", "find.so_that")
        changed = _pulled(plan, index, wish.peak_c)
        result = evaluate(changed)
        return Found(result.stages[index].reading_c, "°C", result)
    change, low, high = change_of(plan, index, target)
    value = search_value(lambda x: met_by(change(x), index, target), low, high, target, f"stages[{index}]")
    digits = 3 if target.what != "medium_c" else 2
    return Found(round(value, digits), UNITS[target.what], evaluate(change(value)))


def _pulled(plan: Plan, index: int, peak_c: float) -> Plan:
    stage = plan.stages[index]
    if isinstance(stage, BY_SIDES) and stage.exposures is not None:
        seconds = search_value(
            lambda s: simulate(with_log_ends(_with(plan, index, lasting(stage, s)))).peak()[0] - peak_c,
            1.0 * stage.exposures, 7200.0,
            Find.model_validate({"what": "pull", "stage": index, "so_that": {"peak_c": peak_c}}), f"stages[{index}]",
        )  # fmt: skip
        return _with(plan, index, lasting(stage, seconds))
    most = stage.until.max_minutes if stage.until else None
    return _with(
        plan, index, stage.model_copy(update={"minutes": None, "until": Until(peak_c=peak_c, max_minutes=most)})
    )


def _with(plan: Plan, index: int, stage: Stage) -> Plan:
    return plan.model_copy(update={"stages": [*plan.stages[:index], stage, *plan.stages[index + 1 :]]})


def change_of(plan: Plan, index: int, target: Find) -> tuple[Callable[[float], Plan], float, float]:
    """(the plan with the unknown at x, lowest x, highest x)."""
    stage = plan.stages[index]
    if target.what == "minutes":
        return (lambda x: _with(plan, index, lasting(stage, 60.0 * x))), 1 / 60, MAX_STAGE_S / 60.0
    if target.what == "thickness_mm":
        cut_entry, density = cut(plan.piece.cut), density_of(plan)
        size = body_size(plan.piece, cut_entry, density).size_mm

        def sized(x: float) -> Plan:
            # Its mass was weighed at its own thickness.
            piece = with_size(plan.piece, cut_entry, density, x)
            if piece.mass_g is not None:
                piece = piece.model_copy(update={"mass_g": min(max(piece.mass_g * x / size, 1.0), 60_000.0)})
            return plan.model_copy(update={"piece": piece})

        return sized, *THICKNESS_MM
    key = next((key for key in MEDIUM_KEYS if getattr(stage, key, None) is not None), None)
    if key is None:
        raise BadInput(f"a {stage.kind} has no medium of its own to find", f"stages[{index}]")
    low, high = MEDIUM_KEYS[key]
    if key == "air_c":
        low, high = max(low, AIR_LEAST_C.get(stage.kind, low)), min(high, AIR_MOST_C.get(stage.kind, high))
    if target.so_that.ready_s is not None and stage.until is None:
        raise BadInput("how hot changes nothing in a stage that ends by minutes; give it an until", "find.stage")
    return (lambda x: _with(plan, index, stage.model_copy(update={key: x}))), low, high


def met_by(plan: Plan, index: int, target: Find) -> float:
    """How far the plan is past the goal: negative if short of it. For a time the logarithm of the ratio; a stage that
    never ends counts as very late.
    """
    wish = target.so_that
    if wish.ready_s is not None:
        try:
            return math.log(max(simulate(with_log_ends(plan)).end_s, 1e-3) / wish.ready_s)
        except NeverReached:
            return math.log(MAX_PLAN_S / wish.ready_s) + 1.0
    run = simulate(with_log_ends(plan))
    if wish.peak_c is not None:
        return run.peak()[0] - wish.peak_c
    if wish.core_c is not None:
        return float(run.core_c[run.stages[index].last]) - wish.core_c
    return _killed(plan, run, wish.organism or "salmonella") - float(wish.log10 or 0.0)


def _killed(plan: Plan, run: Trajectory, organism: str) -> float:
    t = run.fine_s
    return float(killing_in(plan, organism).steps(t, run.profile(t)).sum(axis=0).min())


def search_value(miss: Callable[[float], float], low: float, high: float, target: Find, at: str) -> float:
    """x where `miss` changes its sign: searched from the low end, on a logarithmic scale where that helps."""
    spread = low > 0 and high / low > 50
    places = np.geomspace(low, high, 2 * SCAN) if spread else np.linspace(low, high, SCAN)
    wish = next(key for key in ("peak_c", "core_c", "log10", "ready_s") if getattr(target.so_that, key) is not None)
    seen: list[tuple[float, float]] = []
    for x in (float(place) for place in places):
        try:
            now = miss(x)
        except EmberError:  # this value does not cook at all; others may
            seen.clear()
            continue
        if seen and (seen[-1][1] > 0) != (now > 0):
            before = seen[-1][0]
            return bracketed_root(miss, before, x, TOLERANCE[wish], 1e-6 * max(abs(x), 1.0), 60)
        if abs(now) <= TOLERANCE[wish]:
            return x
        seen.append((x, now))
    wanted = float(getattr(target.so_that, wish))
    if not seen:
        raise NeverReached(f"No {target.what} from {low:g} to {high:g} can be cooked to its end.", at, math.nan)
    near = min((now for _, now in seen), key=abs)
    best = wanted * math.exp(near) if wish == "ready_s" else wanted + near
    raise NeverReached(
        f"No {target.what} from {low:g} to {high:g} makes {wish} {wanted:g}: the nearest comes to {best:.1f}.", at, best
    )
