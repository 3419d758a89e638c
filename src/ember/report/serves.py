"""Portions of a batch, amounts to buy, and hands-on time."""

from __future__ import annotations

from collections.abc import Sequence

from ..files.piece import Piece
from ..files.plan import Plan
from ..files.result import ServesOut
from ..files.stages import BY_SIDES, Baste, Oven, Pan, Stage, Torch
from ..food.catalogue import Cut

# What stays on the board when nobody weighed it; common practice, unsure.
BIRD_BONE_PCT, BONE_PCT = 35.0, 20.0


def usual_bone_pct(cut_entry: Cut, bone: bool | None) -> float:
    """Usual bone content of the cooked piece, % of its mass, for a cut on the bone."""
    if cut_entry.thigh_share is not None:
        return BIRD_BONE_PCT
    has_bone = cut_entry.bone or cut_entry.bone_share > 0 or "bone" in cut_entry.tissue
    return BONE_PCT if (has_bone if bone is None else bone) else 0.0


def serves_of(piece: Piece, cut_entry: Cut, mass_g: float, yield_share: float) -> ServesOut:
    """Portions and masses; `mass_g` is of one piece as it goes on the heat."""
    bone = piece.bone_pct if piece.bone_pct is not None else usual_bone_pct(cut_entry, piece.bone)
    eaten_g = mass_g * yield_share * (1.0 - bone / 100.0)
    return ServesOut(
        portions=piece.count * piece.portions,
        portion_g=round(eaten_g / piece.portions, 1),
        bought_g=round(piece.count * mass_g / (1.0 - piece.trim_pct / 100.0), 1),
        bone_pct=bone,
    )


# Minutes a stage takes beside what must be stood by; common practice.
SET_UP_MIN = {
    "temper": 1.0, "bath": 2.0, "pan": 1.0, "plancha": 1.0, "grill": 1.5, "oven": 1.5, "fry": 1.5, "steam": 1.5,
    "simmer": 1.5, "poach": 1.5, "boil": 1.5, "rest": 0.5, "hold": 0.5, "ice_bath": 1.5, "chill": 1.0, "reheat": 1.5,
    "torch": 1.0, "brine": 3.0, "medium": 0.0, "pressure": 3.0, "freeze": 1.0, "thaw": 1.0,
}  # fmt: skip
TURN_MIN = 0.25
BASTE_MIN = 1.5
ALWAYS_BY_MIN = 10.0  # a longer pan stage is left alone between its turns


def _stood_by_min(stage: Stage, minutes: float) -> float:
    """Hands-on minutes of a stage of that length."""
    if isinstance(stage, Torch):
        return minutes
    if isinstance(stage, Oven) and stage.baste_every_min is not None:
        return BASTE_MIN * (minutes // stage.baste_every_min)
    if not isinstance(stage, BY_SIDES):
        return 0.0
    basted = isinstance(stage, Pan) and isinstance(stage.baste, Baste)
    if basted or minutes <= ALWAYS_BY_MIN:
        return minutes
    turns = minutes * 60.0 / stage.side_s if stage.side_s else 1.0
    return min(ALWAYS_BY_MIN + TURN_MIN * turns, minutes)


def hands_on_min(plan: Plan, durations_min: Sequence[float]) -> float:
    """Hands-on minutes of all stages and preparation steps."""
    stages = sum(
        SET_UP_MIN[stage.kind] + _stood_by_min(stage, minutes)
        for stage, minutes in zip(plan.stages, durations_min, strict=True)
    )
    return round(stages + sum(step.minutes for step in plan.prep if step.kind not in ("dry", "press", "season")), 1)
