"""One service request in, one answer out: planned backwards by CP-SAT, or why it cannot be."""

from __future__ import annotations

import time
from dataclasses import dataclass, field

from ortools.sat.python import cp_model

from ..files.service import ServiceAnswer, ServiceRequest
from .model import Model, make_model
from .problem import make_problem
from .reading import changes_of, hands_peak, in_order, settings_of, task_out, waits_of

WORKERS = 8  # strategies side by side; two processors do well with them
NEAR = 1e-9
FIRST_S = 10.0  # without any plan by the time asked for, so long is gone on for a first one


@dataclass
class Found:
    """Starts by step on the grid, and what the solver says of them. `starts` is empty where there are none."""

    status: str
    starts: dict[int, int] = field(default_factory=dict)
    late: dict[str, int] = field(default_factory=dict)
    bound: float = 0.0
    value: float = 0.0
    first_s: float | None = None


class _Watch(cp_model.CpSolverSolutionCallback):
    """When the first plan stood."""

    def __init__(self) -> None:
        super().__init__()
        self.began = time.perf_counter()
        self.first_s: float | None = None

    def on_solution_callback(self) -> None:
        if self.first_s is None:
            self.first_s = time.perf_counter() - self.began


def run(model: Model, seconds: float, *, first_only: bool = False, workers: int = WORKERS) -> Found:
    """Let the solver work on a model for so long."""
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = workers
    solver.parameters.random_seed = 1
    solver.parameters.stop_after_first_solution = first_only
    watch = _Watch()
    status = solver.solve(model.cp, watch)
    word = {cp_model.OPTIMAL: "optimal", cp_model.FEASIBLE: "feasible", cp_model.INFEASIBLE: "infeasible"}.get(
        status, "unknown"
    )
    if word not in ("optimal", "feasible"):
        return Found(word)
    return Found(
        word, {i: int(solver.value(var)) for i, var in model.start.items()},
        {key: int(solver.value(var)) for key, var in model.late.items()}, solver.best_objective_bound,
        solver.objective_value, watch.first_s,
    )  # fmt: skip


def plan_service(request: ServiceRequest) -> ServiceAnswer:
    """The plan of a service within the seconds it asks for; where there is none, what clashes and what would fit.

    Raises BadInput for tasks that go by others that are not there.
    """
    began = time.perf_counter()
    problem = make_problem(request)
    model = make_model(problem)
    found = run(model, request.seconds)
    if found.status == "unknown":
        found = run(make_model(problem, goals=False), FIRST_S, first_only=True)
        found.status = "feasible" if found.starts else found.status
    if not found.starts:
        from .conflict import explain  # it asks for plans of its own

        conflict = explain(problem) if request.explain else None
        return ServiceAnswer(
            status="infeasible", objective=None, bound=None, gap=None, seconds=_since(began), first_s=None,
            setting_changes=0, hands_peak=0, moved_min=None, tasks=[], settings=[], conflict=conflict,
        )  # fmt: skip
    return answer_of(model, found, began)


def _since(began: float) -> float:
    return round(time.perf_counter() - began, 3)


def answer_of(model: Model, found: Found, began: float) -> ServiceAnswer:
    """What stands in a found plan."""
    problem, starts = model.problem, found.starts
    waits = waits_of(problem, starts)
    objective = sum(problem.minutes(waits[row.step]) * row.weight for row in problem.waits)
    bound = objective if found.status == "optimal" else min(model.waiting_bound(found.bound), objective)
    settings = settings_of(problem, starts)
    moved = [abs(starts[step.index] - step.was) for step in problem.steps if step.was is not None]
    return ServiceAnswer(
        status="optimal" if found.status == "optimal" else "feasible", objective=round(objective, 2),
        bound=round(bound, 2), gap=0.0 if objective <= NEAR else round((objective - bound) / objective, 4),
        seconds=_since(began), first_s=None if found.first_s is None else round(found.first_s, 3),
        setting_changes=changes_of(settings), hands_peak=hands_peak(problem, starts),
        moved_min=round(problem.minutes(sum(moved)), 2) if moved else None,
        tasks=[task_out(problem, step, starts, waits) for step in in_order(problem, starts)], settings=settings,
        conflict=None,
    )  # fmt: skip
