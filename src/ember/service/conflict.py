"""Why a service cannot be planned: a minimal set of tasks and equipment that clash."""

from __future__ import annotations

import time
from collections.abc import Callable, Collection
from typing import Any

from ..files.service import Conflict, TaskOut
from .hearing import say
from .model import HANDS, Relaxed, make_model
from .problem import Problem
from .reading import in_order, task_out, waits_of
from .solve import run
from .would_fit import fits, least_late, spell, would_fit

FIND_S, FIT_S = 6.0, 6.0  # to find what clashes, and what would fit: somebody waits for it
DRAW_S = 1.0
MOST_NAMED = 5


def _least(all_: list[Any], still_clashes: Callable[[list[Any]], bool]) -> list[Any]:
    """A minimal set that clashes: each is left out in turn, for good if it clashes without it."""
    remaining = list(all_)
    for one in all_:
        without = [other for other in remaining if other != one]
        if still_clashes(without):
            remaining = without
    return remaining


def explain(problem: Problem) -> Conflict:
    """The clash of a service without a plan, and what would fit."""
    say("No plan fits: finding the clash")
    until = time.perf_counter() + FIND_S
    request = problem.request
    equipment = [equipment_row.id for equipment_row in request.equipment if equipment_row.id in problem.on]
    dishes = [dish.id for dish in request.dishes]

    def relaxed(rows: Collection[str], plates: Collection[str], uses: Collection[int] | None = None) -> Relaxed:
        numbers = range(len(problem.uses))
        return Relaxed(
            frozenset(e for e in equipment if e not in rows), frozenset(d for d in dishes if d not in plates),
            frozenset() if uses is None else frozenset(n for n in numbers if n not in uses),
        )  # fmt: skip

    def clash(rows: Collection[str], plates: Collection[str], uses: Collection[int] | None = None) -> bool:
        return time.perf_counter() < until and fits(problem, relaxed(rows, plates, uses)) is False

    rows = _least(equipment, lambda some: clash(some, dishes))
    plates = _least(dishes, lambda some: bool(some) and clash(rows, some))
    mine = [
        n for n, use in enumerate(problem.uses)
        if use.equipment.id in rows and problem.steps[use.step].dish.id in plates
    ]  # fmt: skip
    uses = _least(mine, lambda some: clash(rows, plates, some))
    steps = sorted({problem.uses[n].step for n in uses})
    if not rows:
        steps = [step.index for step in problem.steps if step.dish.id in plates]
    return Conflict(
        tasks=list(dict.fromkeys(problem.steps[i].key for i in steps)), equipment=rows,
        text=_text(problem, steps, rows, plates), drawn=_drawn(problem, frozenset(rows)),
        would_fit=would_fit(problem, steps, rows, plates, time.perf_counter() + FIT_S),
    )  # fmt: skip


def _drawn(problem: Problem, equipment: frozenset[str]) -> list[TaskOut]:
    model = make_model(problem, Relaxed(equipment))
    starts = run(model, DRAW_S).starts
    if not starts:
        return []
    waits = waits_of(problem, starts)
    return [task_out(problem, step, starts, waits, slack=0) for step in in_order(problem, starts)]


def _text(problem: Problem, steps: list[int], rows: list[str], plates: list[str]) -> str:
    names = {equipment_row.id: equipment_row for equipment_row in problem.request.equipment}
    titles = _titles(problem, steps)
    dishes = {dish.id: dish for dish in problem.request.dishes}
    if not rows or not titles:
        return " ".join(_too_short(problem, dishes[key].title, key) for key in plates)
    if len(rows) > 1:
        if short := [key for key in dishes if _is_too_short(problem, key)]:  # no equipment would help these
            return " ".join(_too_short(problem, dishes[key].title, key) for key in short)
        where = " and ".join(names[key].title for key in rows)
        return f"{where} have no room for {_list(titles)} in that time."
    only = names[rows[0]]
    mine = (use.setting_c for use in problem.uses if use.step in steps and use.equipment.id == only.id)
    settings = sorted({celsius for celsius in mine if celsius is not None})
    if len(settings) > 1:
        wanted = " and ".join(f"{celsius:g}" for celsius in settings[:3])
        return f"{only.title} is wanted at {wanted} °C at once: {_list(titles)}."
    if only.kind == HANDS:
        return f"There are not enough cooks ({only.capacity}) for {_list(titles)} in that time."
    return f"{only.title} has no room for {_list(titles)} in that time."


def _titles(problem: Problem, steps: list[int]) -> list[str]:
    """Display names of tasks; with their dish if two have the same."""
    tasks = list({problem.steps[i].key: problem.steps[i] for i in steps}.values())
    names = [step.task.title for step in tasks]
    return [
        step.task.title if names.count(step.task.title) == 1 else f"{step.task.title} ({step.dish.title})"
        for step in tasks
    ]


def _too_short(problem: Problem, title: str, dish: str) -> str:
    late = _latest(problem, frozenset(equipment_row.id for equipment_row in problem.request.equipment), dish)
    if late is None:
        return f"{title}: its tasks contradict each other, so no plating time works."
    return f"{title} takes {spell(problem.minutes(late))} longer than there is until its plate-up."


def _is_too_short(problem: Problem, dish: str) -> bool:
    """Whether a dish does not fit even on its own."""
    late = _latest(problem, frozenset(equipment_row.id for equipment_row in problem.request.equipment), dish)
    return late is None or late > 0


def _latest(problem: Problem, equipment: frozenset[str], dish: str) -> int | None:
    """How much later a dish must be plated to fit on its own, grid units; None if no time would do."""
    others = frozenset(other_dish.id for other_dish in problem.request.dishes if other_dish.id != dish)
    latest = least_late(problem, Relaxed(equipment, others), frozenset([dish]), 10_000.0)
    return latest.late[dish] if latest.starts else None


def _list(titles: list[str]) -> str:
    if len(titles) > MOST_NAMED:
        titles = [*titles[: MOST_NAMED - 1], f"{len(titles) - MOST_NAMED + 1} more"]
    return titles[0] if len(titles) == 1 else f"{', '.join(titles[:-1])} and {titles[-1]}"
