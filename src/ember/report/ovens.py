"""The ovens of a plan, as a table for whole roasts asks for them."""

from __future__ import annotations

from collections.abc import Sequence

from ..files.plan import Plan
from ..files.stages import Bath, Boil, Medium, Oven, Poach, Simmer, Stage, Steam
from ..heat.media import medium_c
from ..judge.roast_ovens import OvenUse

HUMID_SHARE, HUMID_MIN = 0.9, 60.0  # US Food Code 3-401.11(B): over 90 % for an hour or more
IN_WATER = Bath | Simmer | Poach | Boil | Steam  # as in a bag that lets no moisture through: 100 % humid


def ovens_of(plan: Plan, minutes: Sequence[float]) -> tuple[OvenUse, ...] | None:
    """Each oven, bath or pot the piece is heated in, in order; None where the plan is a bare medium for exact checks.

    `minutes`: how long each stage of the plan lasts.
    """
    if any(isinstance(stage, Medium) for stage in plan.stages):
        return None
    humid_min = sum(lasts for stage, lasts in zip(plan.stages, minutes, strict=True) if _is_humid(stage))
    return tuple(
        _use(stage, humid_min >= HUMID_MIN) for stage in plan.stages if isinstance(stage, Oven | IN_WATER)
    )  # fmt: skip


def _is_humid(stage: Stage) -> bool:
    return isinstance(stage, Oven) and (stage.humid_share or 0.0) > HUMID_SHARE - 1e-9


def _use(stage: Stage, humid_enough: bool) -> OvenUse:
    if not isinstance(stage, Oven):
        return OvenUse("humid", medium_c(stage))
    if _is_humid(stage) and humid_enough:
        return OvenUse("humid", stage.air_c)
    return OvenUse("fan" if stage.mode in ("fan", "combi") else "still", stage.air_c)
