"""How much more a compact piece takes up than its thickness alone says: a factor κ on the heat flow of the
one-dimensional body, by stage, so that its core follows that of the sections.

Followers of many members (estimates, forecasts) stay one-dimensional with it. It depends on the stage's heat transfer,
and little on what an ensemble varies; a pan works through the faces alone, so that κ is 1 there.
"""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np

from ..errors import BadInput, NeverReached
from ..files.plan import Plan
from . import terms
from .chain import Block, State, run_from, run_stage
from .grid import FloatArray
from .numerics import bracketed_root
from .problem import Problem, make_problem, make_row_problem

LEAST, MOST = 0.7, 4.0
COARSE, COARSE_K = 0.5, 0.1
TELLS_K = 0.3  # a stage whose core answers less than this to twice the heat keeps 1
MATCHED_AT = 0.7  # of the core's change in a stage: near the pull, and in a bath's long end no less sure
WITHIN_K, WITHIN = 0.02, 1e-3
BY_THE_FACES = ("pan", "plancha", "torch")


def scaled(body: terms.Body, kappa: float) -> terms.Body:
    """A body that takes up κ times the heat."""
    return body._replace(conduct=body.conduct * kappa, face_area=body.face_area * kappa)


@lru_cache(maxsize=64)
def _kappas(text: str) -> tuple[float, ...]:
    plan = Plan.model_validate_json(text)
    rows, one = make_row_problem(plan), make_problem(plan, COARSE_K, COARSE)
    start, begun = np.zeros((4, *rows.shape)), np.zeros((4, *one.shape))
    start[:2] = begun[:2] = plan.piece.start_c
    try:
        blocks = run_from(rows, 0, State(start))
    except (BadInput, NeverReached):
        return (1.0,) * len(plan.stages)
    state, found = State(begun), []
    for index in range(len(plan.stages)):
        there = [block for block in blocks if block.stage == index]
        by_faces = plan.stages[index].kind in BY_THE_FACES
        kappa = 1.0 if by_faces else _of_stage(one, index, state, there, *_moment(there, rows.grid.core))
        found.append(kappa)
        state = _through(one, index, state, there, kappa)[-1].state(-1)
    return tuple(found)


def _through(one: Problem, index: int, state: State, there: list[Block], kappa: float) -> list[Block]:
    """The stage as long as the sections took for it."""
    seconds = max(sum(block.end_s for block in there), 1e-3)
    stop = terms.Stop(seconds, terms.STOP_TIME, 0.0, True)
    return run_stage(replace(one, body=scaled(one.body, kappa)), index, state, stop)


def _curve(blocks: list[Block], core: int) -> tuple[FloatArray, FloatArray]:
    """Times from the stage's start, s, and the core, °C."""
    begins = np.cumsum([0.0, *(block.end_s for block in blocks[:-1])])
    t = np.concatenate([block.t_s + begun for block, begun in zip(blocks, begins, strict=True)])
    return t, np.concatenate([block.history[:, core] for block in blocks])


def _moment(there: list[Block], core: int) -> tuple[float, float]:
    """When the core had most of its change in a stage behind it, s, and where it was, °C."""
    t, T = _curve(there, core)
    wanted = T[0] + MATCHED_AT * (T[int(np.argmax(abs(T - T[0])))] - T[0])
    i = int(np.argmax(abs(T - T[0]) >= abs(wanted - T[0])))
    return float(t[i]), float(T[i])


def _of_stage(one: Problem, index: int, state: State, there: list[Block], at_s: float, wanted: float) -> float:
    """The κ with which the core is where that of the sections was at a moment."""

    def off(kappa: float) -> float:
        t, T = _curve(_through(one, index, state, there, kappa), one.grid.core)
        return float(np.interp(at_s, t, T)) - wanted

    low, high = off(LEAST), off(MOST)
    if abs(high - low) < TELLS_K or low * high > 0.0:
        return 1.0
    sign = 1.0 if high > low else -1.0
    return float(bracketed_root(lambda kappa: sign * off(kappa), LEAST, MOST, WITHIN_K, WITHIN))


def kappas(plan: Plan) -> tuple[float, ...]:
    """κ by stage; 1 without an outline."""
    if plan.piece.outline is None:
        return (1.0,) * len(plan.stages)
    return _kappas(plan.model_dump_json(exclude={"name", "target", "prep", "depth_map"}))


def problem_to_follow(plan: Plan, tolerance_k: float, refine: float = 1.0, finest_m: float | None = None) -> Problem:
    """The one-dimensional problem with κ by stage, for ensembles. Raises BadInput as make_problem."""
    return replace(make_problem(plan, tolerance_k, refine, finest_m=finest_m), kappas=kappas(plan))
