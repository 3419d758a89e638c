"""From a plan to its trajectory."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..errors import BadInput
from ..files.base import MAX_PLAN_S
from ..files.plan import Plan
from ..files.stages import BY_SIDES
from .brown import browning_c
from .chain import ACROSS, AROUND, Block, RowBlock, State, highest_core_c, run_from
from .grid import FloatArray
from .problem import Part, Problem, as_cooked, freezes, grid_of, make_problem, make_row_problem
from .row_course import RowCourse
from .trajectory import StageRun, Trajectory

TOLERANCE_K = 0.03
ROUGH_K, ROUGH_REFINE = 0.2, 0.4
ROUGH_ROWS = 0.75  # of their sections, which are few as it is: half the time, and a peak within 0.2 K


def simulate(plan: Plan, tolerance_k: float = TOLERANCE_K, refine: float = 1.0, part: Part = "trunk") -> Trajectory:
    """Simulate a plan through all its stages; for a whole bird its trunk, breast and stuffing, or its `part`.

    `tolerance_k` limits the error of one time step; `refine` divides the grid. Raises BadInput for an unknown cut or a
    plan that is too long, NeverReached for a stage that cannot reach its end.
    """
    plan = followed(plan)
    if plan.piece.outline is not None and part == "trunk":
        problem = make_row_problem(plan, ROUGH_ROWS if refine < 1.0 else 1.0)
    else:
        problem = make_problem(plan, tolerance_k, refine, part)
    start = np.zeros((4, *problem.shape))
    start[0] = start[1] = plan.piece.start_c
    return _join(problem, run_from(problem, 0, State(start)))


def followed(plan: Plan) -> Plan:
    """The plan with the piece that cooks; one that freezes is followed by its thickness alone, without its outline."""
    plan = as_cooked(plan)
    if plan.piece.outline is None or not freezes(plan):
        return plan
    return plan.model_copy(update={"piece": plan.piece.model_copy(update={"outline": None})})


def simulate_roughly(plan: Plan) -> Trajectory:
    """The same on half the grid, with times accurate to a quarter of a per cent: for comparing plans. Sections keep
    three quarters of theirs.
    """
    return simulate(plan, TOLERANCE_K, 0.5)


def simulate_from(plan: Plan, stage: int, state: State, rough: bool = False) -> Trajectory:
    """Simulate the stages from `stage` on; the trajectory's first stage is that one.

    `state`: by StageRun.state. `rough`: on half the grid with long steps, to about 0.2 °C.
    """
    problem, begins = _from_state(plan, state, rough)
    return _join(problem, run_from(problem, stage, begins))


def peak_after(
    plan: Plan, stage: int, state: State, rough: bool = False, kappas: tuple[float, ...] = ()
) -> float:  # fmt: skip
    """Highest core from the start of `stage` on, °C, without a trajectory. Like simulate_from; `rough` sections are one
    dimension with their `kappas`.
    """
    problem, begins = _from_state(plan, state, rough, kappas)
    return highest_core_c(run_from(problem, stage, begins), problem.grid.core)


def _from_state(
    plan: Plan, state: State, rough: bool, kappas: tuple[float, ...] = ()
) -> tuple[Problem, State]:  # fmt: skip
    plan = followed(plan)
    if plan.piece.outline is not None:
        rows = make_row_problem(plan)
        if not (rough and kappas and rows.row is not None):
            return rows, state
        one = replace(make_problem(plan, ROUGH_K, ROUGH_REFINE), kappas=kappas)
        deep, fine = one.grid.x_m / one.grid.x_m[-1], rows.grid.x_m / rows.grid.x_m[-1]
        core = state.food[:, rows.row.body.section]
        return one, replace(state, food=np.array([np.interp(deep, fine, profile) for profile in core]))
    if not rough:
        return make_problem(plan, TOLERANCE_K), state
    problem = make_problem(plan, ROUGH_K, ROUGH_REFINE)
    fine = grid_of(plan).x_m
    return problem, replace(state, food=np.array([np.interp(problem.grid.x_m, fine, rows) for rows in state.food]))


def _ended_by(plan: Plan, index: int) -> str:
    stage = plan.stages[index]
    if stage.until is None:
        return "sides" if isinstance(stage, BY_SIDES) and stage.exposures is not None else "minutes"
    return next(key for key in ("core_c", "surface_c", "peak_c", "log10") if getattr(stage.until, key) is not None)


def _join(problem: Problem, blocks: list[Block]) -> Trajectory:
    nodes = len(problem.grid.x_m)
    offset = 0.0
    rows = 0
    times: list[FloatArray] = []
    runs: list[StageRun] = []
    for number, block in enumerate(blocks):
        times.append(block.t_s + offset)
        begins = offset
        offset += block.end_s
        rows += len(block.t_s)
        if number and blocks[number - 1].stage == block.stage:
            previous = runs.pop()
            begins, first, state = previous.start_s, previous.first, previous.state
        else:
            first, state = rows - len(block.t_s), block.state(0)
        ended = _ended_by(problem.plan, block.stage)
        runs.append(StageRun(problem.plan.stages[block.stage].kind, begins, offset, ended, first, rows - 1, state))
    if offset > MAX_PLAN_S:
        raise BadInput("The whole plan takes more than 30 days.", "stages")
    sums = np.sum([block.sums[-1, :AROUND] for block in blocks], axis=0)
    with_body = [block.segment.around.heat_j_m2k > 0 for block in blocks]
    around = [
        b.sums[:, AROUND] if has else np.full(len(b.t_s), np.nan) for b, has in zip(blocks, with_body, strict=True)
    ]
    return Trajectory(
        grid=problem.grid,
        t_s=np.concatenate(times),
        temperature_c=np.concatenate([block.history[:, :nodes] for block in blocks]),
        slope_k_s=np.concatenate([block.history[:, nodes : 2 * nodes] for block in blocks]),
        pressed_kg_m3=tuple(block.history[:, 3 * nodes : 4 * nodes] for block in blocks),
        boiled_kg_m3=tuple(block.history[:, 4 * nodes :] for block in blocks),
        around_c=np.concatenate(around),
        brown=lambda: browning_c(problem, blocks),
        state=blocks[-1].core_state(-1),
        heat_j=sums[:2],
        dried_kg=sums[2:4],
        vapour_kg=float(sums[4]),
        across_j=0.0 if problem.row is not None else float(sum(block.sums[-1, ACROSS] for block in blocks)),
        rho_kg_m3=np.asarray(problem.food.rho),
        water_kg_m3=problem.water_kg_m3,
        stages=tuple(runs),
        row=_row_course(problem, blocks),
    )


def _row_course(problem: Problem, blocks: list[Block]) -> RowCourse | None:
    """All sections of a piece with an outline."""
    if problem.row is None:
        return None
    there = [block for block in blocks if isinstance(block, RowBlock)]
    n, last = len(problem.grid.x_m), there[-1].state(-1).food
    return RowCourse(
        part=problem.row,
        temperature_c=np.concatenate([block.rows[:, :, :n] for block in there]),
        slope_k_s=np.concatenate([block.rows[:, :, n : 2 * n] for block in there]),
        state=last,
    )  # fmt: skip
