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
from ..files.stages import Stage
from . import terms
from .chain import Block, State, run_stage
from .grid import FloatArray
from .numerics import bracketed_root
from .problem import Problem, as_cooked, make_problem
from .simulate import simulate
from .trajectory import Trajectory

LEAST, MOST = 0.7, 4.0
COARSE, COARSE_K = 0.5, 0.1
TELLS_K = 0.3  # a stage whose core answers less than this to several times the heat keeps 1
MATCHED_AT = 0.7  # of the core's change in a stage that no temperature ends: a bath's long end tells nothing
WITHIN_K, WITHIN = 0.02, 1e-3
BY_THE_FACES = ("pan", "plancha", "torch")


def kappas(plan: Plan) -> tuple[float, ...]:
    """κ by stage; 1 without an outline, and for a plan that cannot be simulated."""
    plan = as_cooked(plan)
    if plan.piece.outline is None:
        return (1.0,) * len(plan.stages)
    return _kappas(plan.model_dump_json(exclude={"name", "target", "prep", "depth_map"}))


@lru_cache(maxsize=64)
def _kappas(text: str) -> tuple[float, ...]:
    plan = Plan.model_validate_json(text)
    try:
        return kappas_along(plan, simulate(plan))
    except (BadInput, NeverReached):
        return (1.0,) * len(plan.stages)


def kappas_along(plan: Plan, known: Trajectory) -> tuple[float, ...]:
    """κ by stage, with which one dimension follows the core of a trajectory in sections."""
    one = make_problem(plan, COARSE_K, COARSE)
    start = np.zeros((4, *one.shape))
    start[:2] = plan.piece.start_c
    state, found = State(start), []
    for index, (stage, run) in enumerate(zip(plan.stages, known.stages, strict=True)):
        t = known.t_s[run.first : run.last + 1] - run.start_s
        core_c = known.core_c[run.first : run.last + 1]
        kappa = 1.0 if stage.kind in BY_THE_FACES else _of_stage(one, index, state, t, core_c, stage)
        found.append(kappa)
        state = _through(one, index, state, float(t[-1]), kappa)[-1].state(-1)
    return tuple(found)


def _through(one: Problem, index: int, state: State, seconds: float, kappa: float) -> list[Block]:
    """The stage as long as the sections took for it."""
    stop = terms.Stop(max(seconds, 1e-3), terms.STOP_TIME, 0.0, True)
    return run_stage(replace(one, kappas=(kappa,) * len(one.plan.stages)), index, state, stop)


def _of_stage(one: Problem, index: int, state: State, t: FloatArray, core_c: FloatArray, stage: Stage) -> float:
    """The κ with which the core is where that of the sections was, at the stage's end or with most of its change
    behind it.
    """
    i = len(t) - 1
    if stage.until is None:
        farthest = core_c[int(np.argmax(abs(core_c - core_c[0])))]
        i = int(np.argmax(abs(core_c - core_c[0]) >= MATCHED_AT * abs(farthest - core_c[0])))
    at_s, wanted = float(t[i]), float(core_c[i])

    def off(kappa: float) -> float:
        blocks = _through(one, index, state, float(t[-1]), kappa)
        begins = np.cumsum([0.0, *(block.end_s for block in blocks[:-1])])
        times = np.concatenate([block.t_s + begun for block, begun in zip(blocks, begins, strict=True)])
        core = np.concatenate([block.history[:, one.grid.core] for block in blocks])
        return float(np.interp(at_s, times, core)) - wanted

    low, high = off(LEAST), off(MOST)
    if abs(high - low) < TELLS_K or low * high > 0.0:
        return 1.0
    sign = 1.0 if high > low else -1.0
    return float(bracketed_root(lambda kappa: sign * off(kappa), LEAST, MOST, WITHIN_K, WITHIN))


def problem_to_follow(plan: Plan, tolerance_k: float, refine: float = 1.0, finest_m: float | None = None) -> Problem:
    """The one-dimensional problem with κ by stage, for ensembles. Raises BadInput as make_problem."""
    return replace(make_problem(plan, tolerance_k, refine, finest_m=finest_m), kappas=kappas(plan))
