"""The page of a service: lanes, the selected task with its dependencies, the clash."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ember.files.service import EquipmentIn, ServiceAnswer, ServiceRequest, TaskIn, UseIn
from ember.quantities import Units
from ember.service.task_ref import TaskKind, TaskRef
from kitchen.drawings.service_lanes import BarIn, LaneIn, ServiceChart, SettingIn, service_lanes
from kitchen.units.number_text import figure

from .models import Dish, Service
from .schedule_request import companion_amount_g, companion_kind, dish_meat_g
from .state import Key, events_of, placed

HANDS = "hands"
ORDER = ("oven", "bath", "cupboard", "hob", "plancha", "grill", "fryer", "shelf", "chiller", "fridge", "hands")
PATTERNS = {
    "oven": "oven", "bath": "bath", "cupboard": "hold", "hob": "pan", "plancha": "plancha", "grill": "grill",
    "fryer": "fry", "shelf": "rest", "chiller": "chill", "fridge": "chill",
}  # fmt: skip


@dataclass(frozen=True)
class Task:
    """A task of a schedule for pages."""

    key: str
    dish: str
    id: str
    n: int
    name: str
    start: dt.datetime
    end: dt.datetime
    uses: tuple[UseIn, ...]
    waits_min: float
    slack_min: float

    @property
    def ref(self) -> TaskRef:
        """The kind of task."""
        return TaskRef.of(self.id)

    @property
    def short(self) -> str:
        """Its name without its dish: "oven"."""
        return self.name.rpartition(", ")[2]

    @property
    def of(self) -> str:
        """Its name without the action: the dish, or a companion's own name."""
        return self.name.rpartition(", ")[0] or self.name

    @property
    def setting_c(self) -> float | None:
        """Setting of its equipment, °C; None without one."""
        return next((use.setting_c for use in self.uses if use.setting_c is not None), None)

    @property
    def may_tick(self) -> bool:
        """Whether a list can tick it: it starts no cook."""
        return self.ref.kind in (TaskKind.PREP, TaskKind.SIDE, TaskKind.SETTING, TaskKind.PLATE)

    @property
    def place(self) -> str:
        """The equipment it uses; empty if it needs cooks only."""
        return next((use.equipment for use in self.uses if use.equipment != HANDS), "")

    def by_hands(self) -> tuple[dt.datetime, dt.datetime] | None:
        """When cooks work on it; None if they do not."""
        use = next((use for use in self.uses if use.equipment == HANDS), None)
        if use is None:
            return None
        if use.first_min is not None:
            return self.start, min(self.start + dt.timedelta(minutes=use.first_min), self.end)
        if use.last_min is not None:
            return max(self.end - dt.timedelta(minutes=use.last_min), self.start), self.end
        return self.start, self.end


def tasks_of(schedule: ServiceAnswer | None) -> list[Task]:
    """The tasks of a schedule; if it clashes, as they would lie without the limits that clash."""
    return [
        Task(
            f"{task.dish}:{task.id}:{task.n}", task.dish, task.id, task.n, task.name, task.start, task.end,
            tuple(task.uses), task.waits_min, task.slack_min,
        )
        for task in placed(schedule)
    ]  # fmt: skip


def clashing(schedule: ServiceAnswer | None) -> tuple[set[str], set[str]]:
    """Tasks ("dish:task") and equipment that clash."""
    conflict = schedule.conflict if schedule else None
    return (set(conflict.tasks), set(conflict.equipment)) if conflict else (set(), set())


def chart_of(
    service: Service, tasks: list[Task], units: Units, selected: str = "", related: frozenset[str] = frozenset()
) -> ServiceChart | None:
    """The lanes of a service; None without tasks."""
    request, answer = service.request, service.answer
    if not tasks or request is None:
        return None
    bad, where = clashing(answer)
    done = events_of(service) if service.started_at else {}
    settings = _settings(answer, units)
    bars = []
    for task in tasks:
        state = _state(task, selected, related, f"{task.dish}:{task.id}" in bad, done, service)
        bars += [bar for use in task.uses if (bar := _bar(task, use, state, None if settings else units)) is not None]
    now = service.kitchen.now()
    plates = sorted({dish.plate_up.timestamp() for dish in request.dishes})
    offset = now.astimezone(service.kitchen.zone).utcoffset() or dt.timedelta()
    return service_lanes(
        _lanes(request, tasks, where), bars, settings, plates, now=now.timestamp(),
        offset_s=offset.total_seconds(),
    )  # fmt: skip


def _lanes(request: ServiceRequest, tasks: Sequence[Task], clashes: set[str]) -> list[LaneIn]:
    """A lane for each piece of equipment in use, and for the cooks, in the order of a kitchen."""
    used = {use.equipment for task in tasks for use in task.uses}
    machines = [machine for machine in request.equipment if machine.id in used]
    machines.sort(key=lambda m: (ORDER.index(m.kind) if m.kind in ORDER else len(ORDER), m.name))
    return [
        LaneIn(machine.id, machine.name, _note(machine, clashes), PATTERNS.get(machine.kind, ""))
        for machine in machines
    ]  # fmt: skip


def _settings(schedule: ServiceAnswer | None, units: Units) -> list[SettingIn]:
    return [
        SettingIn(
            machine.equipment, _degrees(machine.setting_c, units), machine.on_the_way.timestamp(),
            machine.there.timestamp(), machine.until.timestamp(),
        )
        for machine in (schedule.settings if schedule else [])
    ]  # fmt: skip


def _degrees(celsius: float, units: Units) -> str:
    return f"{figure(units.temperature_value(celsius), 1)}\u00b0"


def _bar(task: Task, use: UseIn, state: str, setting_in: Units | None) -> BarIn | None:
    """A task on one of its lanes; None if it is not on it. `setting_in`: units in which the bar shows its setting."""
    is_hands = use.equipment == HANDS
    span = task.by_hands() if is_hands else (task.start, task.end)
    if span is None:
        return None
    words = f"{task.of} {task.short}" if is_hands and task.of != task.short else task.of
    if setting_in is not None and use.setting_c is not None:
        words = f"{task.of} {_degrees(use.setting_c, setting_in)}"
    short = task.short if is_hands else task.of
    return BarIn(task.key, use.equipment, span[0].timestamp(), span[1].timestamp(), words, short, state)


def _note(machine: EquipmentIn, clashes: set[str]) -> str:
    if machine.id in clashes:
        return "clash"
    if machine.kind == HANDS:
        return f"{machine.capacity} pair{'s' if machine.capacity > 1 else ''}"
    return f"{machine.capacity} places" if machine.capacity > 1 else ""


def _state(
    task: Task, selected: str, related: frozenset[str], clashes: bool, done: Mapping[Key, Any], service: Service
) -> str:
    """The most important state of a bar."""
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
    """The selected task, its predecessors and successors."""

    task: Task
    follows: list[Task]
    waits: list[Task]
    equipment: list[tuple[str, str, list[tuple[str, str]]]]
    setting_c: float | None
    is_put: bool


def beside(service: Service, tasks: list[Task], key: str) -> TaskDetail | None:
    """Details of a task; None if it does not exist."""
    task, request = _by_key(tasks, key), service.request
    if task is None or request is None:
        return None
    of_dish = [t for t in tasks if t.dish == task.dish and t.n == 0]
    asked = {each.id: each for dish in request.dishes if dish.id == task.dish for each in dish.tasks}
    mine = asked.get(task.id)
    follows = [t for t in of_dish if t.id in _before(mine) | _host(mine)]
    waits = [t for t in of_dish if task.id in _before(asked.get(t.id))]
    is_put = mine is not None and mine.at is not None
    return TaskDetail(task, follows, waits, _other_machines(service.machines, task), task.setting_c, is_put)


def _by_key(tasks: list[Task], key: str) -> Task | None:
    return next((task for task in tasks if task.key == key), None)


def _other_machines(machines: Mapping[str, EquipmentIn], task: Task) -> list[tuple[str, str, list[tuple[str, str]]]]:
    """(kind, the one in use, all of that kind) of equipment with alternatives."""
    choices = []
    for use in task.uses:
        machine = machines[use.equipment]
        same = [(other.id, other.name) for other in machines.values() if other.kind == machine.kind]
        if len(same) > 1:
            choices.append((machine.kind, machine.id, same))
    return choices


def _host(task: TaskIn | None) -> set[str]:
    """The task during which it is repeated."""
    return {task.during.task} if task and task.during else set()


def _before(task: TaskIn | None) -> set[str | None]:
    """Tasks it follows, or begins or ends with."""
    return {*task.after, task.ends_with, task.starts_with} - {None} if task else set()


def side_dishes_of(dish: Dish) -> list[dict[str, Any]]:
    """Companions of a dish, with amount and duration."""
    mass_g = dish_meat_g(dish)
    rows = []
    for side in dish.companions:
        kind = companion_kind(side)
        amount = companion_amount_g(side, dish.portions, mass_g)
        minutes = float(side.get("minutes") or kind.minutes_for(amount, kind.setting_c))
        rows.append({"row": side, "name": side.get("name") or kind.name, "amount_g": amount, "minutes": minutes,
                     "setting_c": kind.setting_c})  # fmt: skip
    return rows
