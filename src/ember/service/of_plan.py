"""A plan as tasks of a service: each stage on its kind of equipment, with hands-on time and tolerance for waiting.

Equipment is named by kind here ("oven", "bath"); the kitchen chooses which one.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

from ..chill.keep import Stored, keep_of
from ..files.plan import Plan
from ..files.result import Result, StageOut
from ..files.stages import BY_SIDES, Chill, Hold, Oven, Rest, Stage, Torch
from ..food.catalogue import cut
from ..heat.media import medium_c
from ..judge.standards import standard
from ..kit.equipment import A_PLACE_EACH, HAS_SETTING, stands_on
from ..methods.prep import prep_kinds
from ..report.outcome import food_of
from ..report.serves import ALWAYS_BY_MIN, SET_UP_MIN
from ..solve.batches import batches_of
from .model import HANDS
from .task_ref import TaskKind, TaskRef, stage_task

NAMES = {
    "temper": "Temper", "bath": "Bath", "pan": "Sear", "plancha": "Plancha", "grill": "Grill", "oven": "Oven",
    "fry": "Fry", "steam": "Steam", "simmer": "Simmer", "poach": "Poach", "boil": "Boil", "rest": "Rest",
    "hold": "Hold", "ice_bath": "Ice bath", "chill": "Chill", "reheat": "Reheat", "torch": "Torch", "brine": "Brine",
    "medium": "Medium",
    "pressure": "Pressure cooker", "freeze": "Freeze", "thaw": "Thaw",
}  # fmt: skip
# Common practice, minutes.
PLATE_MIN, PLATE_A_PORTION_MIN, PLATE_MOST_MIN = 2.0, 0.35, 15.0
SERVED_WITHIN_MIN, PULLED_WITHIN_MIN = 10.0, 30.0
LONG_MIN = 240.0  # what takes so long bears half an hour more
BASTE_MIN, BASTE_SLACK_MIN = 2, 4.0
COLD_FRESH = 0.02  # what waits cold loses little
PREPARED_AHEAD_MIN = 1440.0
BRINED_LONGER_MIN = 60.0


def _whole(minutes: float) -> float:
    return float(max(math.ceil(minutes - 1e-6), 1))


def tasks_of_plan(plan: Plan, result: Result, portions: int) -> list[dict[str, Any]]:
    """The tasks in the form of an `open-ember/service` request, in order; the last is plating."""
    tasks: list[dict[str, Any]] = []
    last = len(plan.stages)
    for i, (stage, run) in enumerate(zip(plan.stages, result.stages, strict=True)):
        _add_prep(tasks, plan, i)
        _add(tasks, _stage_task(plan, i, stage, run))
        if isinstance(stage, Oven) and stage.baste_every_min is not None:
            during = {"task": stage_task(i), "every_min": stage.baste_every_min, "slack_min": BASTE_SLACK_MIN}
            baste = {"id": str(TaskRef(TaskKind.BASTE, i)), "name": "Baste", "minutes": BASTE_MIN}
            tasks.append(baste | {"during": during, "freshness": 0, "uses": [_hands()]})
    _limit_waits(tasks, plan, result)
    _add_prep(tasks, plan, last)
    plate = min(PLATE_MIN + PLATE_A_PORTION_MIN * portions, PLATE_MOST_MIN)
    _add(tasks, {"id": str(TaskRef(TaskKind.PLATE)), "name": "Plate", "minutes": _whole(plate), "uses": [_hands()]})
    tasks[-1] |= {"max_wait_min": 2.0, "freshness": 2.0}
    return tasks


def _hands(**part: float) -> dict[str, Any]:
    return {"equipment": HANDS, "amount": 1, **part}


def _add(tasks: list[dict[str, Any]], task: dict[str, Any]) -> None:
    """Add a task after the one before it, immediately unless that one may wait."""
    before = next((task_before for task_before in reversed(tasks) if "during" not in task_before), None)
    if before is not None:
        task["after"] = [before["id"]]
    tasks.append(task)


def _add_prep(tasks: list[dict[str, Any]], plan: Plan, before: int) -> None:
    """Add the preparation before a stage, as one task of cooks."""
    last = len(plan.stages)
    steps = [step for step in plan.prep if min(step.before, last) == before and step.minutes > 0]
    if not steps:
        return
    names = " and ".join(prep_kinds()[step.kind].name.lower() for step in steps)
    task: dict[str, Any] = {
        "id": str(TaskRef(TaskKind.PREP, before)), "name": names.capitalize(),
        "minutes": _whole(sum(step.minutes for step in steps)), "uses": [_hands()],
    }  # fmt: skip
    pressed = next((step for step in steps if step.kind == "press"), None)
    if pressed is not None:
        task["uses"] = [_hands(first_min=min(5.0, pressed.minutes)), {"equipment": "fridge", "amount": 1}]
    if before == 0 or (before < last and plan.stages[before - 1].kind == "chill"):
        task |= {"chilled_wait_max_min": PREPARED_AHEAD_MIN, "freshness": COLD_FRESH}
    elif before < last:
        task |= {"max_wait_min": SERVED_WITHIN_MIN}
    _add(tasks, task)


def _stage_task(plan: Plan, i: int, stage: Stage, run: StageOut) -> dict[str, Any]:
    batches = batches_of(plan, i, run)
    kind, minutes = (
        stands_on(stage),
        _whole((run.end_s - run.start_s) / 60.0 + (batches.longer_min if batches else 0.0)),
    )
    uses: list[dict[str, Any]] = []
    if kind:
        amount = plan.piece.count if kind in A_PLACE_EACH else 1
        use: dict[str, Any] = {"equipment": kind, "amount": amount}
        celsius = medium_c(stage)
        if kind in HAS_SETTING and celsius is not None:
            use["setting_c"] = round(celsius, 1)
        uses.append(use)
    by = _stood_by_min(stage, minutes)
    uses.append(_hands() if by >= minutes else _hands(first_min=by))
    name = f"{NAMES[stage.kind]}, {batches}" if batches else NAMES[stage.kind]
    return {"id": stage_task(i), "name": name, "minutes": minutes, "uses": uses}


def _stood_by_min(stage: Stage, minutes: float) -> float:
    """Whole minutes of hands-on time at a stage's beginning."""
    if isinstance(stage, Torch) or (isinstance(stage, BY_SIDES) and minutes <= ALWAYS_BY_MIN):
        return minutes
    if isinstance(stage, BY_SIDES):
        return _whole(ALWAYS_BY_MIN)
    return _whole(SET_UP_MIN[stage.kind])


def _limit_waits(tasks: list[dict[str, Any]], plan: Plan, result: Result) -> None:
    """Limit how long the food of each stage may wait for the next."""
    days = keep_of(standard(plan.standard), Stored("cook-chill", 3.0, food_of(plan, cut(plan.piece.cut)).category)).days
    for task_row in tasks:
        i = TaskRef.of(task_row["id"]).stage
        if i is None:
            continue
        stage, after = plan.stages[i], plan.stages[i + 1] if i + 1 < len(plan.stages) else None
        if isinstance(stage, Chill) or stage.kind == "ice_bath":
            cold = 1440.0 * max((days or 1.0) - 1.0, 0.0) if isinstance(stage, Chill) else SERVED_WITHIN_MIN
            task_row |= {"chilled_wait_max_min": cold, "freshness": COLD_FRESH}
        elif stage.kind == "brine":
            task_row |= {"chilled_wait_max_min": BRINED_LONGER_MIN, "freshness": COLD_FRESH}
        elif isinstance(stage, (Rest, Hold)) or after is None:
            task_row["max_wait_min"] = SERVED_WITHIN_MIN
        else:
            task_row["max_wait_min"] = _may_stay_min(plan, result, i)


def _may_stay_min(plan: Plan, result: Result, i: int) -> float:
    """Whole minutes a piece may stay in its heat past its time with the same result."""
    if result.stages[i].end_s - result.stages[i].start_s >= LONG_MIN * 60.0:
        return PULLED_WITHIN_MIN
    if plan.pull_stage != i:
        return 0.0
    window = result.doneness.window_s
    return PULLED_WITHIN_MIN if window is None else float(math.floor(min(window / 60.0, PULLED_WITHIN_MIN)))


def kinds_of(tasks: Iterable[dict[str, Any]]) -> set[str]:
    """The kinds of equipment that tasks use."""
    return {use["equipment"] for task in tasks for use in task.get("uses", [])}
