"""Which other settings a task could be done at, by the heat model: offered where a service clashes."""

from __future__ import annotations

import json
from collections import defaultdict
from functools import lru_cache, partial
from typing import Any

from ember.files.plan import parse_plan
from ember.service.settings import at_setting
from ember.service.task_ref import TaskRef

from .models import Dish, Service
from .scale import for_portions
from .schedule_request import companion_amount_g, companion_kind, dish_meat_g

NEAR_C = {"bath": 4.0, "oven": 45.0}  # a setting further away is another dish
MOST = 4


@lru_cache(maxsize=512)
def _at(document: str, stage: int, setting_c: float) -> float | None:
    found = at_setting(parse_plan(json.loads(document)), stage, setting_c)
    return found.minutes if found is not None and found.same else None


def _apart(one_c: float, other_c: float) -> float:
    return abs(other_c - one_c)


def with_other_settings(service: Service, request: dict[str, Any]) -> dict[str, Any]:
    """The request with, for each task in an oven or bath, the settings of its neighbours at which it could be done."""
    kinds = {machine["id"]: machine["kind"] for machine in request["equipment"]}
    tasks = [(dish["id"], task) for dish in request["dishes"] for task in dish["tasks"]]
    wanted: dict[str, set[float]] = defaultdict(set)
    for use in (use for _, task in tasks for use in task["uses"] if use.get("setting_c") is not None):
        wanted[kinds[use["equipment"]]].add(use["setting_c"])
    rows = {str(dish.pk): dish for dish in service.dishes.select_related("plan")}
    for dish, task in tasks:
        use = next((u for u in task["uses"] if u.get("setting_c") is not None), None)
        if use is not None and "started" not in task:
            kind = kinds[use["equipment"]]
            near = _near(use["setting_c"], wanted[kind], kind)
            task["other_settings"] = _options(rows[dish], task["id"], near, service.kitchen.standard)
    return request


def _options(dish: Dish, task: str, settings_c: list[float], standard: str) -> list[dict[str, float]]:
    """Settings at which a task could be done, with its minutes there."""
    options = [(celsius, minutes_at(dish, task, celsius, standard)) for celsius in settings_c]
    return [{"setting_c": celsius, "minutes": minutes} for celsius, minutes in options if minutes is not None]


def _near(setting_c: float, wanted: set[float], kind: str) -> list[float]:
    """Settings used on this kind of equipment near another one, nearest first."""
    near = [c for c in wanted if 0 < abs(c - setting_c) <= NEAR_C.get(kind, 0.0)]
    return sorted(near, key=partial(_apart, setting_c))[:MOST]


def minutes_at(dish: Dish, task: str, setting_c: float, standard: str) -> float | None:
    """Duration of a task at a setting, min; None if the result would differ, or cannot be computed."""
    side = next((side for side in dish.companions if side["id"] == task), None)
    if side is not None:
        kind = companion_kind(side)
        if kind.takes != "roast":
            return None
        mass_g = dish_meat_g(dish)
        return kind.minutes_for(companion_amount_g(side, dish.portions, mass_g), setting_c)
    stage = TaskRef.of(task).stage
    if dish.plan is None or stage is None:
        return None
    document = json.dumps(for_portions({**dish.plan.document, "standard": standard}, dish.portions), sort_keys=True)
    return _at(document, stage, setting_c)
