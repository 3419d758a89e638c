"""A plan at another setting, and a common setting for several plans: by the heat model, with the cost."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import EmberError
from ..evaluate import evaluate
from ..files.plan import Plan
from ..files.result import Result
from ..files.stages import Until, lasting
from ..heat.media import medium_c

KEYS = {"bath": "water_c", "oven": "air_c"}
STEPS_C = {"bath": 0.5, "oven": 10.0}
MOST_STEPS = 10


@dataclass(frozen=True)
class AtSetting:
    """A stage at a setting: its minutes, and the result: word, peak, whether the rule is met."""

    setting_c: float
    minutes: float
    word: str
    peak_c: float
    met: bool
    same: bool


def at_setting(plan: Plan, stage: int, setting_c: float) -> AtSetting | None:
    """The plan with one stage at another setting, ended so that its core peaks as before; None if impossible.

    A stage of fixed minutes keeps them: its food was to be held that long.
    """
    if plan.stages[stage].kind not in KEYS:
        return None
    before = evaluate(plan)
    try:
        result = evaluate(plan_at_setting(plan, before, stage, setting_c))
    except EmberError:
        return None
    run = result.stages[stage]
    return AtSetting(
        setting_c, float(math.ceil((run.end_s - run.start_s) / 60.0 - 1e-6)), result.doneness.word,
        round(result.core.peak_c, 1), bool(result.safety[0].met),
        result.doneness.word == before.doneness.word and bool(result.safety[0].met) >= bool(before.safety[0].met),
    )  # fmt: skip


def plan_at_setting(plan: Plan, before: Result, stage: int, setting_c: float) -> Plan:
    """The plan with one stage in a bath or oven at another setting, ended so that its core peaks as before.

    `before`: the result of the plan. A stage of fixed minutes keeps them.
    """
    key = KEYS[plan.stages[stage].kind]
    there = plan.stages[stage].model_copy(update={key: setting_c})
    if plan.pull_stage == stage and plan.stages[stage].until is not None:
        there = there.model_copy(update={"until": Until(peak_c=round(before.core.peak_c, 2)), "minutes": None})
    elif plan.pull_stage != stage:
        there = lasting(there, before.stages[stage].end_s - before.stages[stage].start_s)
    return plan.model_copy(update={"stages": [there if i == stage else each for i, each in enumerate(plan.stages)]})


def shared_settings(plans: Sequence[tuple[Plan, int]]) -> list[tuple[float, list[AtSetting]]]:
    """Settings at which several plans can share one bath or oven, (°C, each plan there), the least change first.

    Only those at which every piece keeps its doneness and its rule.
    """
    settings_c = [float(medium_c(plan.stages[stage]) or 0.0) for plan, stage in plans]
    step = STEPS_C.get(plans[0][0].stages[plans[0][1]].kind, 1.0)
    low, high = min(settings_c), max(settings_c)
    count = min(round((high - low) / step), MOST_STEPS)
    tried = sorted({round(low + (high - low) * k / max(count, 1), 1) for k in range(count + 1)} | set(settings_c))
    shared = []
    for celsius in tried:
        rows = [at_setting(plan, stage, celsius) for plan, stage in plans]
        good = [candidate for candidate in rows if candidate is not None and candidate.same]
        if len(good) == len(plans):
            shared.append((celsius, good))
    return sorted(shared, key=lambda candidate: sum(abs(candidate[0] - c) for c in settings_c))
