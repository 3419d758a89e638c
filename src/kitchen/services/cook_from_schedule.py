"""What a service decided for a dish: equipment and settings of its stages, and when the first is due."""

from __future__ import annotations

import datetime as dt
import json
from functools import lru_cache
from typing import Any

from ember.errors import BadInput
from ember.files.plan import parse_plan
from ember.heat.media import medium_c
from ember.service.settings import KEYS, plan_at_setting
from ember.service.task_ref import TaskRef
from kitchen.plans.actions import as_document
from kitchen.plans.evaluated import REMEMBERED, evaluated

from .models import Dish, Service
from .scale import for_portions
from .schedule_request import equipment_of
from .state import scheduled

SHOWN_K = 0.05  # a schedule keeps settings to one decimal


def cook_from_schedule(service: Service, dish: Dish) -> tuple[dict[str, Any], dict[int, int], dt.datetime | None]:
    """(the plan's document for its portions and at its settings, {stage: equipment}, when it is due to begin).

    Raises EmberError if a stage cannot be cooked at its chosen setting.
    """
    if dish.plan is None:
        raise BadInput("This dish has no plan.")
    document = for_portions({**dish.plan.document, "standard": service.kitchen.standard}, dish.portions)
    chosen: dict[int, int] = {}
    due_at = None
    for task in scheduled(service):
        stage = TaskRef.of(task.id).stage
        if task.dish != str(dish.pk) or task.n or stage is None:
            continue
        if stage == 0:
            due_at = task.start
        for use in task.uses:
            if (equipment := equipment_of(use.equipment)) is not None:
                chosen[stage] = equipment
            if use.setting_c is not None:
                document = _at(document, stage, use.setting_c)
    return document, chosen, due_at


def _at(document: dict[str, Any], stage: int, setting_c: float) -> dict[str, Any]:
    """The document with a stage at a setting; unchanged if that is its own."""
    plan = parse_plan(document)
    there = plan.stages[stage]
    own_c = medium_c(there)
    if there.kind not in KEYS or own_c is None or abs(own_c - setting_c) < SHOWN_K:
        return document
    return {**document, "stages": json.loads(_moved(json.dumps(document, sort_keys=True), stage, setting_c))}


@lru_cache(maxsize=REMEMBERED)
def _moved(document: str, stage: int, setting_c: float) -> str:
    plan = parse_plan(json.loads(document))
    return json.dumps(as_document(plan_at_setting(plan, evaluated(plan), stage, setting_c))["stages"])
