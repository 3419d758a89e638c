"""Stages that end when enough has died: their log reduction turned into minutes."""

from __future__ import annotations

import numpy as np

from ..errors import NeverReached
from ..files.base import MAX_STAGE_S
from ..files.plan import Plan
from ..heat.grid import FloatArray
from ..heat.simulate import simulate
from ..kinetics.lethality import Organism, log_steps, organisms

FIRST_LOOK_MIN = 60.0


def _dose(organism: Organism, t: FloatArray, T: FloatArray) -> FloatArray:
    """Log reduction at the coldest point up to each time, [time]."""
    return np.concatenate([[0.0], log_steps(organism, t, T).cumsum(axis=0).min(axis=1)])


def minutes_to(plan: Plan, index: int, log10: float, organism: Organism, longest_min: float) -> float:
    """Minutes of stage `index` after which the coldest point has lost `log10` powers of ten since the plan began.

    The stages before it end by minutes or temperatures. Raises NeverReached with how far it came.
    """
    stage = plan.stages[index]
    horizon = min(FIRST_LOOK_MIN, longest_min)
    while True:
        looked = stage.model_copy(update={"until": None, "minutes": horizon})
        run = simulate(plan.model_copy(update={"stages": [*plan.stages[:index], looked]}))
        t = run.fine_s
        T = run.profile(t)
        dose = _dose(organism, t, T)
        if dose[-1] >= log10:
            i = int(np.argmax(dose >= log10))
            share = (log10 - dose[i - 1]) / (dose[i] - dose[i - 1]) if i else 0.0
            at = t[i - 1] + share * (t[i] - t[i - 1]) if i else 0.0
            return max(float(at - run.stages[index].start_s) / 60.0, 1 / 60)
        if horizon >= longest_min:
            raise NeverReached(
                f"Stage {index + 1} ({stage.kind}) never brings {log10:g} log of {organism.name} at the coldest point: "
                f"it comes to {dose[-1]:.1f}. A hotter medium would; below 54.4 °C nothing counts.",
                f"stages[{index}].until", float(dose[-1]),
            )  # fmt: skip
        horizon = min(horizon * 3.0, longest_min)


def with_log_ends(plan: Plan) -> Plan:
    """The plan with every end by log reduction turned into minutes; the same plan when there is none.

    Raises NeverReached for a stage that never gets there.
    """
    for index, stage in enumerate(plan.stages):
        until = stage.until
        if until is None or until.log10 is None:
            continue
        longest = until.max_minutes or MAX_STAGE_S / 60.0
        minutes = minutes_to(plan, index, until.log10, organisms()[until.organism or "salmonella"], longest)
        stages = [*plan.stages]
        stages[index] = stage.model_copy(update={"until": None, "minutes": minutes})
        plan = plan.model_copy(update={"stages": stages})
    return plan
