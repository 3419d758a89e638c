"""CP-SAT at work on a model."""

from __future__ import annotations

import time
from dataclasses import dataclass, field

from ortools.sat.python import cp_model

from .model import Model

WORKERS = 8  # strategies side by side; two processors do well with them


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
