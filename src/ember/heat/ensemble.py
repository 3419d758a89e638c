"""A plan with its uncertainties: members that differ in size, start, media and heat transfer, on a coarser grid."""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from ..files.plan import Plan
from ..files.stages import HEATING
from .chain import MAX_STEPS, State, run_from
from .grid import FloatArray
from .problem import make_problem

COARSE = 0.5  # of the grid's intervals: within 0.2 °C at the core, checked in the tests
COARSE_TOLERANCE_K = 0.1


@dataclass(frozen=True)
class Members:
    """One entry a member: `size` and `transfer` are factors, `start_c` °C, `medium_k` K on every medium that heats."""

    size: FloatArray
    start_c: FloatArray
    medium_k: FloatArray
    transfer: FloatArray


def ensemble(plan: Plan, members: Members, at_s: FloatArray) -> FloatArray:
    """Core temperature [member, time] at the ascending times `at_s`, s from the start.

    Every member goes through the stages as long as the plan itself would. Works on every processor there is.
    Raises NeverReached where the plan itself cannot reach an end.
    """
    from .members import run_members

    problem = make_problem(plan, COARSE_TOLERANCE_K, COARSE)
    start = np.zeros((4, len(problem.grid.x_m)))
    start[:2] = plan.piece.start_c
    blocks = run_from(problem, 0, State(start))
    segments = [block.segment for block in blocks]
    starts = [np.nan if s.around_start_c is None else s.around_start_c for s in segments]
    shared = (
        problem.body, problem.food,
        np.array([s.faces for s in segments]), np.array([tuple(s.around) for s in segments]), np.array(starts),
        np.array([s.boil_c for s in segments]), np.array([block.end_s for block in blocks]),
        np.array([plan.stages[block.stage].kind in HEATING for block in blocks]),
        COARSE_TOLERANCE_K, MAX_STEPS, np.asarray(at_s, dtype=float),
    )  # fmt: skip
    core_c = np.empty((len(members.size), len(at_s)))
    workers = os.cpu_count() or 1
    parts = np.array_split(np.arange(len(members.size)), workers)

    def follow(part: FloatArray) -> None:
        own = core_c[part[0] : part[-1] + 1]
        run_members(
            members.size[part], members.start_c[part], members.medium_k[part], members.transfer[part], *shared, own
        )

    with ThreadPoolExecutor(workers) as pool:
        list(pool.map(follow, [part for part in parts if len(part)]))
    return core_c
