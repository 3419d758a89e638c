"""The answer to a service request: planned backwards by CP-SAT, or why it is impossible."""

from __future__ import annotations

import datetime as dt
import time

from ..files.service import ServiceAnswer, ServiceRequest
from .conflict import explain
from .hearing import say
from .model import Model, make_model
from .problem import make_problem
from .reading import changes_of, hands_peak, in_order, settings_of, task_out, waits_of
from .solve import Found, run

NEAR = 1e-9
FIRST_S = 10.0  # without any plan by the time asked for, so long is gone on for a first one


def plan_service(request: ServiceRequest) -> ServiceAnswer:
    """The plan of a service within the seconds it allows; if there is none, what clashes and what would fit.

    Raises BadInput for tasks that refer to missing ones.
    """
    began = time.perf_counter()
    problem = make_problem(request)
    model = make_model(problem)
    say("Looking for the best plan")
    solution = run(model, request.seconds)
    if solution.status == "unknown":
        say("Looking for any plan that fits")
        solution = run(make_model(problem, goals=False), FIRST_S, first_only=True)
        solution.status = "feasible" if solution.starts else solution.status
    if not solution.starts:
        conflict = explain(problem) if request.explain else None
        return ServiceAnswer(
            status="infeasible", objective=None, bound=None, gap=None, seconds=_since(began), first_s=None,
            setting_changes=0, hands_peak=0, moved_min=None, tasks=[], settings=[], conflict=conflict,
        )  # fmt: skip
    return answer_of(model, solution, began)


def _since(began: float) -> float:
    return round(time.perf_counter() - began, 3)


def answer_of(model: Model, solution: Found, began: float) -> ServiceAnswer:
    """The content of a plan that was found."""
    problem, starts = model.problem, solution.starts
    waits = waits_of(problem, starts)
    objective = sum(problem.minutes(waits[wait.step]) * wait.weight for wait in problem.waits)
    bound = objective if solution.status == "optimal" else min(model.waiting_bound(solution.bound), objective)
    settings = settings_of(problem, starts)
    moved = [abs(starts[step.index] - step.was) for step in problem.steps if step.was is not None]
    return ServiceAnswer(
        status="optimal" if solution.status == "optimal" else "feasible", objective=round(objective, 2),
        bound=round(bound, 2), gap=0.0 if objective <= NEAR else round((objective - bound) / objective, 4),
        seconds=_since(began), first_s=None if solution.first_s is None else round(solution.first_s, 3),
        setting_changes=changes_of(settings), hands_peak=hands_peak(problem, starts),
        moved_min=round(problem.minutes(sum(moved)), 2) if moved else None,
        tasks=[task_out(problem, step, starts, waits) for step in in_order(problem, starts)], settings=settings,
        conflict=None,
    )  # fmt: skip


TRY_S = 0.8


def may_begin(request: ServiceRequest, dish: str, task: str) -> tuple[dt.datetime, dt.datetime] | None:
    """The earliest and latest start of a task in any plan that holds, as far as found within the time of a try.

    None for an unknown task, and if there is no plan at all.
    """
    problem = make_problem(request)
    step = next((s for s in problem.steps if (s.dish.id, s.task.id) == (dish, task) and s.n == 0), None)
    if step is None:
        return None
    ranges = []
    for sign in (1, -1):
        model = make_model(problem, goals=False)
        model.cp.minimize(sign * model.start[step.index])
        starts = run(model, TRY_S).starts
        if not starts:
            return None
        ranges.append(problem.moment(starts[step.index]))
    return ranges[0], ranges[1]
