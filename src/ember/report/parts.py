"""The parts of a whole bird or stuffed piece, each with its own core and rule."""

from __future__ import annotations

import numpy as np

from ..files.plan import Plan
from ..files.result import PartOut
from ..food.catalogue import Cut
from ..heat.simulate import simulate
from ..heat.trajectory import Trajectory
from ..judge.record import TemperatureRecord
from ..judge.standards import Standard
from ..judge.verdict import judge
from ..solve.pull import timed
from .curves import CURVE_POINTS, curve_times, rounded
from .outcome import food_of, safety_out


def parts_of(plan: Plan, cut_entry: Cut, rules: Standard, trunk: Trajectory) -> list[PartOut]:
    """The parts to probe one by one; empty if the piece is one body.

    `trunk`: the plan's trajectory. The thigh goes through the same times.
    """
    bird = cut_entry.thigh_share is not None and plan.piece.properties is None
    grid = trunk.grid
    parts: list[tuple[str, Trajectory, int]] = []
    if bird:
        parts.append(("breast", trunk, grid.flesh))
        parts.append(("thigh", simulate(timed(plan, trunk), part="thigh"), 0))
    if plan.piece.stuffed and grid.flesh > 0:
        if not bird:
            parts.append(("flesh", trunk, grid.flesh))
        parts.append(("stuffing", trunk, grid.core))
    return [_part(plan, cut_entry, rules, name, trajectory, node) for name, trajectory, node in parts]


def _part(plan: Plan, cut_entry: Cut, rules: Standard, name: str, trajectory: Trajectory, node: int) -> PartOut:
    history = plan.history if name == "stuffing" else [done for done in plan.history if done != "stuffed"]
    t = trajectory.fine_s
    core = trajectory.node_c(t, node)
    face = trajectory.node_c(t, -1)
    verdict = judge(rules, food_of(plan, cut_entry, trajectory, history), TemperatureRecord(t, core), face)
    pull_s = trajectory.end_s if plan.pull_stage is None else trajectory.stages[plan.pull_stage].end_s
    peak = int(np.argmax(core))
    return PartOut(
        part=name, pull_c=round(float(np.interp(pull_s, t, core)), 2), peak_c=round(float(core[peak]), 2),
        peak_s=round(float(t[peak]), 1), end_c=round(float(core[-1]), 2),
        curve_c=rounded(trajectory.node_c(curve_times(trajectory, CURVE_POINTS), node), 3),
        safety=safety_out(rules, verdict),
    )  # fmt: skip
