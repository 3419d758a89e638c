"""What the page of a service shows: lanes, the selected task with what it follows and what waits for it, the clash."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ember.quantities import Units
from ember.service.task_ref import TaskRef
from kitchen.drawings.service_lanes import BarIn, LaneIn, ServiceChart, SettingIn, service_lanes
from kitchen.units.number_text import figure

from .models import Dish, Service
from .schedule_request import companion_amount_g, companion_kind, dish_meat_g
from .state import Key, events_of

ORDER = ("oven", "bath", "cupboard", "hob", "plancha", "grill", "fryer", "shelf", "chiller", "fridge", "hands")
PATTERNS = {
    "oven": "oven", "bath": "bath", "cupboard": "hold", "hob": "pan", "plancha": "plancha", "grill": "grill",
    "fryer": "fry", "shelf": "rest", "chiller": "chill", "fridge": "chill",
}  # fmt: skip


@dataclass(frozen=True)
class Task:
    """A task of a schedule as pages speak of it."""

    key: str
    dish: str
    id: str
    n: int
    name: str
    start: dt.datetime
    end: dt.datetime
    uses: tuple[Mapping[str, Any], ...]
    waits_min: float
    slack_min: float

    @property
    def ref(self) -> TaskRef:
        """What kind of task it is."""
        return TaskRef.of(self.id)

    @property
    def short(self) -> str:
        """Its name without its dish: "oven"."""
        return self.name.rpartition(", ")[2]

    @property
    def of(self) -> str:
        """Its name without what is done: the dish, or a companion's own name."""
        return self.name.rpartition(", ")[0] or self.name

    def by_hands(self) -> tuple[dt.datetime, dt.datetime] | None:
        """When hands are at it; None where none are."""
        use = next((use for use in self.uses if use["equipment"] == "hands"), None)
        if use is None:
            return None
        if use.get("first_min") is not None:
            return self.start, min(self.start + dt.timedelta(minutes=use["first_min"]), self.end)
        if use.get("last_min") is not None:
            return max(self.end - dt.timedelta(minutes=use["last_min"]), self.start), self.end
        return self.start, self.end


def tasks_of(schedule: Mapping[str, Any] | None) -> list[Task]:
    """The tasks of a schedule; of one that clashes, as they would lie if what clashes had no limits."""
    if not schedule:
        return []
    rows = schedule["tasks"] or (schedule.get("conflict") or {}).get("drawn", [])
    return [
        Task(
            f"{task_row['dish']}:{task_row['id']}:{task_row['n']}", task_row["dish"], task_row["id"], task_row["n"],
            task_row["name"],
            dt.datetime.fromisoformat(task_row["start"]), dt.datetime.fromisoformat(task_row["end"]),
            tuple(task_row["uses"]),
            task_row["waits_min"], task_row["slack_min"],
        )
        for task_row in rows
    ]  # fmt: skip


def clashing(schedule: Mapping[str, Any] | None) -> tuple[set[str], set[str]]:
    """Tasks ("dish:task") and equipment that clash."""
    conflict = (schedule or {}).get("conflict") or {}
    return set(conflict.get("tasks", [])), set(conflict.get("equipment", []))


def chart_of(
    service: Service, tasks: list[Task], units: Units, selected: str = "", related: frozenset[str] = frozenset()
) -> ServiceChart | None:
    """The lanes of a service; None without tasks."""
    if not tasks or not service.asked:
        return None
    bad, where = clashing(service.schedule)
    done = events_of(service) if service.started_at else {}
    settings = _settings(service, units)
    bars = []
    for task in tasks:
        state = _state(task, selected, related, f"{task.dish}:{task.id}" in bad, done, service)
        bars += [bar for use in task.uses if (bar := _bar(task, use, state, None if settings else units)) is not None]
    now = service.kitchen.now()
    plates = sorted({_seconds(dish["plate_up"]) for dish in service.asked["dishes"]})
    offset = now.astimezone(service.kitchen.zone).utcoffset() or dt.timedelta()
    return service_lanes(
        _lanes(service.asked, tasks, where), bars, settings, plates, now=now.timestamp(),
        offset_s=offset.total_seconds(),
    )  # fmt: skip


def _lanes(request: Mapping[str, Any], tasks: Sequence[Task], clashes: Any) -> list[LaneIn]:
    """A lane for each piece of equipment that is used, and for the hands, in the order of a kitchen."""
    used = {use["equipment"] for task in tasks for use in task.uses}
    machines = [machine for machine in request["equipment"] if machine["id"] in used]
    machines.sort(key=lambda m: (ORDER.index(m["kind"]) if m["kind"] in ORDER else len(ORDER), m["name"]))
    return [
        LaneIn(machine["id"], machine["name"], _note(machine, clashes), PATTERNS.get(machine["kind"], ""))
        for machine in machines
    ]


def _settings(service: Service, units: Units) -> list[SettingIn]:
    return [
        SettingIn(
            machine["equipment"], _degrees(machine["setting_c"], units), _seconds(machine["on_the_way"]),
            _seconds(machine["there"]), _seconds(machine["until"]),
        )
        for machine in (service.schedule or {}).get("settings", [])
    ]  # fmt: skip


def _degrees(celsius: float, units: Units) -> str:
    return f"{figure(units.temperature_value(celsius), 1)}\u00b0"


def _bar(task: Task, use: Mapping[str, Any], state: str, setting_in: Units | None) -> BarIn | None:
    """A task on one of its lanes; None where it needs no hands. `setting_in`: units where the bar says its setting."""
    is_hands = use["equipment"] == "hands"
    span = task.by_hands() if is_hands else (task.start, task.end)
    if span is None:
        return None
    words = f"{task.of} {task.short}" if is_hands and task.of != task.short else task.of
    if setting_in is not None and use.get("setting_c") is not None:
        words = f"{task.of} {_degrees(use['setting_c'], setting_in)}"
    short = task.short if is_hands else task.of
    return BarIn(task.key, use["equipment"], span[0].timestamp(), span[1].timestamp(), words, short, state)


def _seconds(text: str) -> float:
    return dt.datetime.fromisoformat(text).timestamp()


def _note(task_row: Mapping[str, Any], where: set[str]) -> str:
    if task_row["id"] in where:
        return "clash"
    if task_row["kind"] == "hands":
        return f"{task_row['capacity']} pair{'s' if task_row['capacity'] > 1 else ''}"
    return f"{task_row['capacity']} places" if task_row["capacity"] > 1 else ""


def _state(
    task: Task, selected: str, related: frozenset[str], clashes: bool, done: Mapping[Key, Any], service: Service
) -> str:
    """How a bar is drawn: what matters most of it."""
    if task.key == selected:
        return "selected"
    if clashes:
        return "clash"
    events = done.get((task.dish, task.id, task.n), ())
    if any(event.kind == "done" for event in events):
        return "done"
    if events:
        return "begun"
    return "related" if task.key in related else ""


@dataclass(frozen=True)
class TaskDetail:
    """The selected task, what it follows and what waits for it."""

    task: Task
    follows: list[Task]
    waits: list[Task]
    equipment: list[tuple[str, str, list[tuple[str, str]]]]
    setting_c: float | None
    is_put: bool


def beside(service: Service, tasks: list[Task], key: str) -> TaskDetail | None:
    """What is said of a task; None where it is not there."""
    task = next((task for task in tasks if task.key == key), None)
    if task is None or not service.asked:
        return None
    rows = next((_tasks_by_id(dish) for dish in service.asked["dishes"] if dish["id"] == task.dish), {})
    mine = rows.get(task.id, {})
    of_dish = [t for t in tasks if t.dish == task.dish and t.n == 0]
    follows = [t for t in of_dish if t.id in _before(mine) | {mine.get("during", {}).get("task")}]
    waits = [t for t in of_dish if task.id in _before(rows.get(t.id, {}))]
    setting = next((use["setting_c"] for use in task.uses if use.get("setting_c") is not None), None)
    return TaskDetail(task, follows, waits, _other_machines(service.asked, task), setting, "at" in mine)


def _other_machines(request: Mapping[str, Any], task: Task) -> list[tuple[str, str, list[tuple[str, str]]]]:
    """(kind, the one it is on, all of that kind) of each piece of equipment there is a choice of."""
    by_id = {machine["id"]: machine for machine in request["equipment"]}
    choices = []
    for use in task.uses:
        machine = by_id[use["equipment"]]
        same = [(other["id"], other["name"]) for other in by_id.values() if other["kind"] == machine["kind"]]
        if len(same) > 1:
            choices.append((machine["kind"], machine["id"], same))
    return choices


def _tasks_by_id(dish: Mapping[str, Any]) -> dict[str, Mapping[str, Any]]:
    return {task["id"]: task for task in dish["tasks"]}


def _before(task_row: Mapping[str, Any]) -> set[str]:
    return set(task_row.get("after", [])) | {task_row.get("ends_with", ""), task_row.get("starts_with", "")}


def side_dishes_of(dish: Dish) -> list[dict[str, Any]]:
    """What stands beside a dish, with how much is made and how long it takes."""
    mass_g = dish_meat_g(dish)
    rows = []
    for side in dish.companions:
        kind = companion_kind(side)
        amount = companion_amount_g(side, dish.portions, mass_g)
        minutes = float(side.get("minutes") or kind.minutes_for(amount, kind.setting_c))
        rows.append({"row": side, "name": side.get("name") or kind.name, "amount_g": amount, "minutes": minutes,
                     "setting_c": kind.setting_c})  # fmt: skip
    return rows
