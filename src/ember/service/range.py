"""From when to when a task may begin, with all else moving as it has to."""

from __future__ import annotations

import datetime as dt

from ..files.service import ServiceRequest
from .model import make_model
from .problem import make_problem
from .solve import run

TRY_S = 0.8


def may_begin(request: ServiceRequest, dish: str, task: str) -> tuple[dt.datetime, dt.datetime] | None:
    """The earliest and the latest start of a task in any plan that holds, as far as is found in the time of a try.

    None for a task that is not there, and where there is no plan at all.
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
