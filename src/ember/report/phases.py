"""What a plan does beside cooking, held against the standard: cooling, reheating, holding."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from ..files.plan import Plan
from ..files.result import SafetyOut
from ..files.stages import Chill, Hold, IceBath, Reheat
from ..heat.trajectory import Trajectory
from ..judge.phases import judge_phase
from ..judge.standards import Standard
from .outcome import safety_out

HOT_FROM_C = 40.0  # a hold set above it is a hot one
COOKED_FROM_C = 50.0  # what was never so hot is chilled raw
SAMPLES = 400


def phases_of(plan: Plan, rules: Standard, trajectory: Trajectory) -> list[SafetyOut]:
    """One entry a phase of the plan that the standard has a rule for; each asks for a reading."""
    grid = trajectory.grid
    found = []
    for phase, begins, ends in _stretches(plan, trajectory):
        if phase not in rules.phases or ends <= begins:
            continue
        t = np.linspace(begins, ends, SAMPLES)
        T = trajectory.profile(t)[:, grid.eaten_from :]
        cold = phase in ("cool", "hold-cold")
        verdict = judge_phase(rules, phase, t, T.max(axis=1) if cold else T.min(axis=1), "open", plan.house)
        found.append(safety_out(rules, replace(verdict, needs_probe=True)))
    return found


def _stretches(plan: Plan, trajectory: Trajectory) -> Iterator[tuple[str, float, float]]:
    """(phase, from, to), s: cooling from the end of the last heat to the end of the last cold stage in a row."""
    runs = trajectory.stages
    cooked = False
    cooling: tuple[float, float] | None = None
    for i, (stage, run) in enumerate(zip(plan.stages, runs, strict=True)):
        cold = isinstance(stage, Chill | IceBath)
        if cold and cooked:
            cooling = (cooling[0] if cooling else run.start_s, run.end_s)
        elif cooling:
            yield "cool", *cooling
            cooling = None
        if isinstance(stage, Reheat):
            yield "reheat", run.start_s, run.end_s
        if isinstance(stage, Hold):
            setting = stage.air_c if stage.air_c is not None else stage.water_c or 0.0
            yield ("hold-hot" if setting > HOT_FROM_C else "hold-cold"), run.start_s, run.end_s
        cooked = cooked or float(trajectory.core_c[runs[i].last]) > COOKED_FROM_C
    if cooling:
        yield "cool", *cooling
