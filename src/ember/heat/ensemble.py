"""A plan with its uncertainties: members that differ in size, start, media and heat transfer, on a coarser grid."""

from __future__ import annotations

import numpy as np

from ..files.plan import Plan
from ..files.stages import HEATING
from .chain import State, run_from
from .ensemble_runner import Members, Stretch, ThermalHistory, processors
from .grid import FloatArray
from .problem import make_problem

COARSE = 0.5  # of the grid's intervals: within 0.2 °C at the core, checked in the tests
COARSE_TOLERANCE_K = 0.1


def members_of(size: FloatArray, start_c: FloatArray, medium_k: FloatArray, transfer: FloatArray) -> Members:
    """Members whose media differ alike in all stages that heat; one entry a member each."""
    nothing, one = np.zeros(len(size)), np.ones(len(size))
    return Members(size, one, start_c, np.stack([nothing, medium_k], 1), np.stack([one, transfer], 1))


def ensemble(plan: Plan, members: Members, at_s: FloatArray) -> FloatArray:
    """Core temperature [member, time] at the ascending times `at_s`, s from the start.

    Every member goes through the stages as long as the plan itself would. Works on every processor there is.
    Raises NeverReached where the plan itself cannot reach an end.
    """
    problem = make_problem(plan, COARSE_TOLERANCE_K, COARSE)
    start = np.zeros((4, len(problem.grid.x_m)))
    start[:2] = plan.piece.start_c
    course = ThermalHistory(
        problem,
        tuple(
            Stretch(block.segment, block.end_s, 1 if plan.stages[block.stage].kind in HEATING else 0, "apart")
            for block in run_from(problem, 0, State(start))
        ),
    )
    watched = np.array([problem.grid.core])
    return course.follow(members, at_s, watched, workers=processors()).temperature_c[:, :, 0]
