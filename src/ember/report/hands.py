"""How long a pair of hands is needed."""

from __future__ import annotations

from ..files.plan import Plan
from ..files.stages import BY_SIDES, Baste, Pan, Stage, Torch

# Minutes a stage takes beside what must be stood by; common practice.
SET_UP_MIN = {
    "temper": 1.0, "bath": 2.0, "pan": 1.0, "plancha": 1.0, "grill": 1.5, "oven": 1.5, "fry": 1.5, "steam": 1.5,
    "simmer": 1.5, "poach": 1.5, "boil": 1.5, "rest": 0.5, "hold": 0.5, "ice_bath": 1.5, "chill": 1.0, "reheat": 1.5,
    "torch": 1.0, "brine": 3.0, "medium": 0.0,
}  # fmt: skip
TURN_MIN = 0.25
ALWAYS_BY_MIN = 10.0  # a longer pan stage is left alone between its turns


def _stood_by_min(stage: Stage) -> float:
    if isinstance(stage, Torch):
        return float(stage.minutes or 1.0)
    if not isinstance(stage, BY_SIDES) or stage.total_min is None:
        return 0.0
    basted = isinstance(stage, Pan) and isinstance(stage.baste, Baste)
    if basted or stage.total_min <= ALWAYS_BY_MIN:
        return stage.total_min
    turns = stage.total_min * 60.0 / stage.side_s if stage.side_s else 1.0
    return ALWAYS_BY_MIN + TURN_MIN * turns


def hands_on_min(plan: Plan) -> float:
    """Minutes of hands over all stages and preparation steps."""
    stages = sum(SET_UP_MIN[stage.kind] + _stood_by_min(stage) for stage in plan.stages)
    return round(stages + sum(step.minutes for step in plan.prep if step.kind not in ("dry", "press", "season")), 1)
