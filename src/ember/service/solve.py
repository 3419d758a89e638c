"""Running CP-SAT on a model."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from ortools.sat.python import cp_model

from .hearing import Stopped, hearing
from .model import Model

LEAST_WORKERS = 8  # strategies side by side: two processors do well with them; of more processors each gets one
ASK_S = 0.25


@dataclass
class Found:
    """Starts by step on the grid, with the solver's status. `starts` is empty if there are none."""

    status: str
    starts: dict[int, int] = field(default_factory=dict)
    late: dict[str, int] = field(default_factory=dict)
    bound: float = 0.0
    value: float = 0.0
    first_s: float | None = None


class _Watch(cp_model.CpSolverSolutionCallback):
    """Records when the first plan was found."""

    def __init__(self) -> None:
        super().__init__()
        self.began = time.perf_counter()
        self.first_s: float | None = None

    def on_solution_callback(self) -> None:
        if self.first_s is None:
            self.first_s = time.perf_counter() - self.began


@contextmanager
def _stoppable(solver: cp_model.CpSolver) -> Iterator[threading.Event]:
    """Stop the solver soon after its listener asks for it; the event is then set."""
    stopped, over, who = threading.Event(), threading.Event(), hearing()
    if who is None:
        yield stopped
        return

    def ask() -> None:
        while not over.wait(ASK_S):
            if who.is_stopped():
                stopped.set()
                solver.stop_search()
                return

    thread = threading.Thread(target=ask, daemon=True)
    thread.start()
    try:
        yield stopped
    finally:
        over.set()
        thread.join()


def workers_here() -> int:
    """Number of parallel search workers on this machine."""
    return max(LEAST_WORKERS, len(os.sched_getaffinity(0)))


def run(model: Model, seconds: float, *, first_only: bool = False, workers: int | None = None) -> Found:
    """Run the solver on a model for a time, or until its listener stops it.

    Raises Stopped if it was stopped without a plan.
    """
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = workers or workers_here()
    solver.parameters.random_seed = 1
    solver.parameters.stop_after_first_solution = first_only
    watch = _Watch()
    with _stoppable(solver) as stopped:
        status = solver.solve(model.cp, watch)
    if stopped.is_set() and status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        raise Stopped
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
