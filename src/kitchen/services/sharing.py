"""One bath or oven for two dishes: settings at which both keep their result, and how long each then takes."""

from __future__ import annotations

from dataclasses import dataclass

from ember.files.plan import parse_plan
from ember.service.settings import AtSetting, shared_settings
from ember.service.task_ref import TaskRef

from .models import Dish, Service
from .other_settings import NEAR_C
from .presenters import Task, tasks_of
from .scale import for_portions

MOST_OTHERS, MOST_SETTINGS = 3, 3


@dataclass(frozen=True)
class Share:
    """Two tasks at `setting_c`, with what each then takes."""

    other: Task
    setting_c: float
    mine: AtSetting
    theirs: AtSetting


def shares_of(service: Service, key: str) -> list[Share]:
    """Tasks that can share a task's bath or oven, the least change first; empty if it has no setting."""
    tasks = {task.key: task for task in tasks_of(service.answer)}
    task = tasks.get(key)
    kinds = {machine.id: machine.kind for machine in service.machines.values()}
    mine = _place(task, kinds) if task and _is_stage(task) else None
    if task is None or mine is None:
        return []
    dishes = {str(dish.pk): dish for dish in service.dishes.select_related("plan")}
    near = [other for other in tasks.values() if other.dish != task.dish and _is_near(mine, other, kinds)]
    shares: list[Share] = []
    for other in near:
        if len(shares) < MOST_OTHERS * MOST_SETTINGS:
            shares += _with(dishes, task, other, service)
    return shares[: MOST_OTHERS * MOST_SETTINGS]


def _is_near(mine: tuple[str, float], other: Task, kinds: dict[str, str]) -> bool:
    """Whether a stage uses the same kind of equipment at a different setting near enough to share."""
    theirs = _place(other, kinds) if _is_stage(other) else None
    return theirs is not None and theirs[0] == mine[0] and 0.05 < abs(theirs[1] - mine[1]) <= NEAR_C.get(mine[0], 0.0)


def _is_stage(task: Task) -> bool:
    return TaskRef.of(task.id).stage is not None


def _place(task: Task, kinds: dict[str, str]) -> tuple[str, float] | None:
    for use in task.uses:
        if use.setting_c is not None:
            return kinds[use.equipment], use.setting_c
    return None


def _with(dishes: dict[str, Dish], task: Task, other: Task, service: Service) -> list[Share]:
    plans = []
    for task_row in (task, other):
        dish = dishes[task_row.dish]
        if dish.plan is None:
            return []
        document = for_portions({**dish.plan.document, "standard": service.kitchen.standard}, dish.portions)
        plans.append((parse_plan(document), TaskRef.of(task_row.id).stage or 0))
    rows = shared_settings(plans)[:MOST_SETTINGS]
    return [Share(other, celsius, mine, theirs) for celsius, (mine, theirs) in rows]
