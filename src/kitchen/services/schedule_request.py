"""A service as the core's request: dishes as tasks, equipment and cooks, and what has happened so far."""

from __future__ import annotations

import copy
import datetime as dt
import json
from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from ember.eggs.answer import answer as answer_egg
from ember.files.egg import parse_egg
from ember.files.plan import parse_plan
from ember.files.service import TaskOut
from ember.files.stages import Bath, Fry, Load, Oven, Stage
from ember.heat.load import preheat_min
from ember.heat.media import medium_c
from ember.kit.equipment import HAS_SETTING, tolerance_k
from ember.service.companions import CompanionKind, companion_kinds
from ember.service.of_plan import tasks_of_plan
from ember.service.task_ref import TaskKind, TaskRef
from ember.solve.batches import split_loads
from kitchen.eggs.models import EggPlan
from kitchen.kit.allocation import ROOM, Allocation, Wanted, room_of
from kitchen.kit.calibration import fill_load
from kitchen.kit.models import Equipment
from kitchen.plans.evaluated import evaluated

from .models import Dish, Service
from .scale import for_portions, meat_g
from .state import Key, TaskActual
from .words import KIND_NAMES

ALONE = HAS_SETTING  # each is one of its own; of other kinds all are one with many places
# Where nobody measured: °C a minute up and down; common practice.
RATES = {"oven": (10.0, 3.5), "bath": (1.5, 0.4), "cupboard": (4.0, 1.0), "fryer": (12.0, 2.0), "plancha": (15.0, 4.0)}
COLD_C = 20.0
# What equipment is usually heated to, as a stage: how fast it gets there by its own heater is reckoned for this.
HEATS_TO: dict[str, Stage] = {
    "oven": Oven(air_c=180, minutes=1),
    "bath": Bath(water_c=60, minutes=1),
    "fryer": Fry(oil_c=175, minutes=1),
}
PLATE, EGGS = str(TaskRef(TaskKind.PLATE)), str(TaskRef(TaskKind.EGGS))
EGG_HANDS_MIN = 4.0
PAN_WAITS_MIN = 30.0  # a sauce is made while its pan or its juices are warm; common practice


@dataclass
class ScheduleRequest:
    """The request, and the names of its equipment by id."""

    request: dict[str, Any]
    equipment: dict[str, str] = field(default_factory=dict)


@lru_cache(maxsize=256)
def _plan_tasks(document: str, portions: int) -> str:
    values = json.loads(document)
    plan = parse_plan(values)
    result = evaluated(plan)
    if (split := split_loads(values, result)) is not None:
        plan = parse_plan(split)
        result = evaluated(plan)
    return json.dumps(tasks_of_plan(plan, result, portions))


def plan_tasks(document: Mapping[str, Any], portions: int) -> list[dict[str, Any]]:
    """A plan's tasks, cached by its document and portions."""
    tasks: list[dict[str, Any]] = json.loads(_plan_tasks(json.dumps(document, sort_keys=True), portions))
    return tasks


def schedule_request(service: Service, now: dt.datetime, happened: Mapping[Key, TaskActual]) -> ScheduleRequest:
    """The whole request from `now` on."""
    kitchen = service.kitchen
    there = list(Equipment.objects.of(kitchen).current())
    dishes = list(service.dishes.select_related("plan", "eggs"))
    tasks = {dish.pk: dish_tasks(dish, kitchen.standard) for dish in dishes}
    kinds = {use["equipment"] for rows in tasks.values() for task in rows for use in task["uses"]}
    equipment = _equipment(service, there, kinds)
    _assign(dishes, tasks, there)
    _with_loads(dishes, tasks, there, kitchen.standard)
    last = max(dish.plate_up for dish in dishes)
    rows = [
        {
            "id": str(dish.pk), "name": dish.name, "plate_up": dish.plate_up.isoformat(),
            "tasks": [_as_it_went(task, happened, str(dish.pk)) for task in tasks[dish.pk]],
        }
        for dish in dishes
    ]  # fmt: skip
    hands = _hands(service, now, last)
    request: dict[str, Any] = {
        "format": "open-ember/service", "version": 1, "now": now.isoformat(), "equipment": [*equipment, hands],
        "dishes": rows,
    }  # fmt: skip
    return ScheduleRequest(request, {machine["id"]: machine["name"] for machine in request["equipment"]})


def dish_tasks(dish: Dish, standard: str, machines: Mapping[int, Equipment] | None = None) -> list[dict[str, Any]]:
    """A dish's tasks with companions and choices, on kinds of equipment; `machines`: those of stages, by stage, that
    say what they hold.
    """
    if dish.plan is not None:
        document = for_portions({**dish.plan.document, "standard": standard}, dish.portions)
        if machines:
            document = {**document, "stages": copy.deepcopy(document["stages"])}
            for i, stage in enumerate(document["stages"]):
                if i in machines:
                    fill_load(stage, machines[i])
        tasks = plan_tasks(document, dish.portions)
        for task in tasks:
            task["name"] = f"{dish.name}, {task['name'].lower()}"
    elif dish.eggs is not None:
        tasks = _egg_tasks(dish, dish.eggs)
    else:
        tasks = [{"id": PLATE, "name": f"{dish.name}, plate", "minutes": 3, "uses": [{"equipment": "hands"}]}]
    mass_g = dish_meat_g(dish)
    plate = tasks[-1]
    for side in dish.companions:
        found = companion_task(side, dish.portions, mass_g, tasks)
        plate.setdefault("after", []).append(found["id"])
        tasks.insert(-1, found)
    for task in tasks:
        _choose(task, dish.choice(task["id"]))
    return tasks


def _with_loads(
    dishes: Iterable[Dish], tasks: dict[Any, list[dict[str, Any]]], there: Iterable[Equipment], standard: str
) -> None:
    """Plan dishes again whose equipment says what it holds: its load may be more than it bears at once."""
    machines = {key_of(machine): machine for machine in there if machine.load}
    for dish in dishes:
        on = {
            stage: machines[use["equipment"]]
            for task in tasks[dish.pk]
            if (stage := TaskRef.of(task["id"]).stage) is not None
            for use in task["uses"]
            if use["equipment"] in machines
        }
        if dish.plan is None or not on:
            continue
        assigned = {task["id"]: task["uses"] for task in tasks[dish.pk]}
        tasks[dish.pk] = dish_tasks(dish, standard, on)
        for task in tasks[dish.pk]:
            for use, before in zip(task["uses"], assigned[task["id"]], strict=True):
                use |= {key: before[key] for key in ("equipment", "amount") if key in before}


def dish_meat_g(dish: Dish) -> float:
    """Meat of a dish, g; 0 without a plan."""
    return 0.0 if dish.plan is None else meat_g(for_portions(dish.plan.document, dish.portions))


def _egg_tasks(dish: Dish, eggs: EggPlan) -> list[dict[str, Any]]:
    result = answer_egg(parse_egg(eggs.document)).model_dump(mode="json")
    minutes = max(float(result.get("total_s") or 60.0 * (result.get("minutes") or 5.0)) / 60.0, 1.0)
    uses = [{"equipment": "hob"}, {"equipment": "hands", "first_min": min(EGG_HANDS_MIN, minutes)}]
    cook = {"id": EGGS, "name": dish.name, "minutes": round(minutes + 0.499), "uses": uses, "max_wait_min": 5}
    return [
        cook,
        {"id": PLATE, "name": f"{dish.name}, plate", "minutes": 4, "uses": [{"equipment": "hands"}],
         "after": [EGGS], "max_wait_min": 2, "freshness": 2},
    ]  # fmt: skip


def companion_kind(side: Mapping[str, Any]) -> CompanionKind:
    """A companion's kind, with the values this one overrides."""
    kind = companion_kinds()[side["kind"]]
    own = {key: side[key] for key in ("setting_c", "width_mm", "burner_kw", "size_mm") if side.get(key)}
    return kind.model_copy(update=own)


def companion_amount_g(side: Mapping[str, Any], portions: int, mass_g: float) -> float:
    """Amount to make, g."""
    return float(side.get("amount_g") or companion_kind(side).amount_g(portions, mass_g))


def companion_task(
    side: Mapping[str, Any], portions: int, mass_g: float, tasks: Iterable[Mapping[str, Any]]
) -> dict[str, Any]:
    """A companion as a task, tied to a stage of the dish's plan if its kind says so."""
    kind = companion_kind(side)
    minutes = float(side.get("minutes") or kind.minutes_for(companion_amount_g(side, portions, mass_g), kind.setting_c))
    hands: dict[str, Any] = {"equipment": "hands"}
    if not kind.all_hands:
        hands["first_min"] = min(max(kind.hands_min, 1.0), minutes)
    uses = [hands]
    task: dict[str, Any] = {
        "id": side["id"], "name": side.get("name") or kind.name, "minutes": minutes, "uses": uses,
        "freshness": kind.freshness,
    }  # fmt: skip
    if kind.waits_min is not None:
        task["max_wait_min"] = kind.waits_min
    if kind.chilled_days is not None:
        task["chilled_wait_max_min"] = 1440.0 * kind.chilled_days
    host = _host(kind, tasks)
    if kind.uses:
        setting_c = _setting_of(kind, host)
        uses.insert(0, {"equipment": kind.uses, **({"setting_c": setting_c} if setting_c else {})})
    if host is not None and kind.last_of and minutes <= host["minutes"]:
        task["ends_with"] = host["id"]
    elif host is not None and kind.after:
        task |= {"after": [host["id"]], "max_gap_min": PAN_WAITS_MIN}
    return task


def _setting_of(kind: CompanionKind, host: Mapping[str, Any] | None) -> float | None:
    """Setting of a companion's equipment, °C: that of the stage it shares it with, else its own."""
    if kind.last_of and host is not None:
        return next((use.get("setting_c") for use in host["uses"] if use["equipment"] == kind.uses), None)
    return kind.setting_c


def _host(kind: CompanionKind, tasks: Iterable[Mapping[str, Any]]) -> Mapping[str, Any] | None:
    """The stage a companion is tied to: the longest in an oven, the last on the hob, the rest."""
    stands = {"roast": "oven", "pan": "hob", "rest": "shelf"}.get(kind.last_of or kind.after)
    rows = [t for t in tasks if "during" not in t and any(u["equipment"] == stands for u in t["uses"])]
    if not rows:
        return None
    return max(rows, key=lambda task_row: task_row["minutes"]) if kind.last_of else rows[-1]


def _choose(task: dict[str, Any], choice: Mapping[str, Any]) -> None:
    """Apply a person's choices to a task."""
    if choice.get("minutes"):
        task["minutes"] = choice["minutes"]
    if choice.get("at"):
        task["at"] = choice["at"]
    for use in task["uses"]:
        if choice.get("setting_c") is not None and use.get("setting_c") is not None:
            use["setting_c"] = choice["setting_c"]
        if own := (choice.get("equipment") or {}).get(use["equipment"]):
            use["own"] = own


def _as_it_went(task: Mapping[str, Any], happened: Mapping[Key, TaskActual], dish: str) -> dict[str, Any]:
    task_done = {**task, "uses": [{k: v for k, v in use.items() if k != "own"} for use in task["uses"]]}
    went = happened.get((dish, task["id"], 0))
    if went is not None and "during" not in task:
        task_done.pop("at", None)
        task_done["started"] = went.started.isoformat()
        if went.ended is not None:
            task_done["ended"] = went.ended.isoformat()
        elif went.minutes is not None:
            task_done["minutes"] = went.minutes
    return task_done


def as_it_was(request: dict[str, Any], placed: Iterable[TaskOut], dish: str, task: str) -> dict[str, Any]:
    """The request with the previous start of each other task, so that it moves as little as possible."""
    was = {(each.dish, each.id): each.start.isoformat() for each in placed if not each.n}
    for dish_in in request["dishes"]:
        for task_in in dish_in["tasks"]:
            key = (dish_in["id"], task_in["id"])
            if key != (dish, task) and key in was and "during" not in task_in:
                task_in["was"] = was[key]
    return request


# Equipment ----------------------------------------------------------------------------------------------------------


def _equipment(service: Service, there: list[Equipment], kinds: set[str]) -> list[dict[str, Any]]:
    """The equipment for the tasks: ovens and baths singly, the rest by kind; one of each kind the kitchen lacks."""
    by_kind: dict[str, list[Equipment]] = defaultdict(list)
    for machine in there:
        by_kind[machine.kind].append(machine)
    machines: list[dict[str, Any]] = []
    for kind in sorted(kinds - {"hands"}):
        rows = by_kind.get(kind, [])
        if kind in ALONE and rows:
            machines += [_alone(machine, service) for machine in rows]
            continue
        room = sum(machine.places or ROOM.get(kind, 1) for machine in rows) or ROOM.get(kind, 1)
        name = KIND_NAMES.get(kind, kind) if len(rows) != 1 else rows[0].name
        machines.append(
            {
                "id": kind,
                "kind": kind,
                "name": name if rows else f"{name}, none in the equipment list",
                "capacity": room,
            }
        )
    return machines


def _heats_c_per_min(machine: Equipment) -> float | None:
    """How fast equipment heats, by its own volume and heater; None where nobody said them."""
    if machine.kind not in HEATS_TO or not machine.load:
        return None
    stage = HEATS_TO[machine.kind].model_copy(update={"load": Load(**machine.load)})
    set_c = medium_c(stage)
    minutes = preheat_min(stage, set_c)
    return None if not minutes else round((set_c - COLD_C) / minutes, 2)


def _alone(machine: Equipment, service: Service) -> dict[str, Any]:
    heat, cool = RATES.get(machine.kind, (None, None))
    heat = machine.heat_c_per_min or _heats_c_per_min(machine) or heat
    values: dict[str, Any] = {
        "id": key_of(machine), "kind": machine.kind, "name": machine.name, "capacity": room_of(machine),
        "setting_tolerance_c": tolerance_k(machine.kind),
    }  # fmt: skip
    if heat:
        values["heat_c_per_min"] = heat
    if rate := machine.cool_c_per_min or cool:
        values["cool_c_per_min"] = rate
    if service.started_at is None and machine.kind in RATES:
        values["start_c"] = COLD_C
    return values


def _hands(service: Service, now: dt.datetime, last: dt.datetime) -> dict[str, Any]:
    zone = service.kitchen.zone
    day, shifts = now.astimezone(zone).date(), []
    while day <= last.astimezone(zone).date():
        opens = dt.datetime.combine(day, service.opens, zone)
        closes = dt.datetime.combine(day, service.closes, zone)
        shifts.append([opens.isoformat(), closes.isoformat()])
        day += dt.timedelta(days=1)
    return {"id": "hands", "kind": "hands", "name": "Hands", "capacity": service.hands, "shifts": shifts}


def _assign(dishes: list[Dish], tasks: Mapping[Any, list[dict[str, Any]]], there: list[Equipment]) -> None:
    """Choose ovens and baths: the chosen one, else where the piece is already, else by allocation."""
    alone = {key_of(machine): machine for machine in there if machine.kind in ALONE}
    allocation = Allocation(list(alone.values()))
    for dish in dishes:
        stays: dict[str, str] = {}  # a piece that goes on in an oven stays in that oven
        for task in tasks[dish.pk]:
            for use in task["uses"]:
                kind, is_stage = use["equipment"], TaskRef.of(task["id"]).stage is not None
                machine_key = use.get("own") or (stays.get(kind) if is_stage else None)
                wanted = Wanted(kind, use.get("setting_c"), use.get("amount", 1))
                chosen = alone.get(machine_key) if machine_key in alone else allocation.choose(wanted)
                if chosen is None:
                    continue
                use["amount"] = min(wanted.amount, room_of(chosen))
                use["equipment"] = key_of(chosen)
                if is_stage:
                    stays[kind] = key_of(chosen)
                allocation.occupy(chosen, task["minutes"], wanted.setting_c)


def key_of(equipment: Equipment) -> str:
    """The id of an oven or a bath in a request."""
    return f"e{equipment.pk}"


def equipment_of(key: str) -> int | None:
    """The equipment of an id in a request; None for a kind."""
    return int(key[1:]) if key[:1] == "e" and key[1:].isdigit() else None
