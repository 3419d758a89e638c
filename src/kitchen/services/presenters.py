"""What the page of a service shows: lanes, the selected task with what it follows and what waits for it, the clash."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ember.quantities import Units
from ember.service.task_ref import TaskRef
from kitchen.drawings.service_lanes import BarIn, LaneIn, ServiceChart, SettingIn, service_lanes
from kitchen.units.number_text import figure

from .models import Service
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
    used = {use["equipment"] for task in tasks for use in task.uses}
    rows = [machine for machine in service.asked["equipment"] if machine["id"] in used]
    rows.sort(key=lambda machine: (ORDER.index(machine["kind"]) if machine["kind"] in ORDER else 50, machine["name"]))
    lanes = [
        LaneIn(machine["id"], machine["name"], _note(machine, where), PATTERNS.get(machine["kind"], ""))
        for machine in rows
    ]
    settings = [
        SettingIn(
            machine["equipment"], f"{figure(units.temperature_value(machine['setting_c']), 1)}\u00b0",
            _seconds(machine["on_the_way"]), _seconds(machine["there"]), _seconds(machine["until"]),
        )
        for machine in (service.schedule or {}).get("settings", [])
    ]  # fmt: skip
    bars = []
    for task in tasks:
        state = _state(task, selected, related, f"{task.dish}:{task.id}" in bad, done, service)
        for use in task.uses:
            span = (task.start, task.end) if use["equipment"] != "hands" else task.by_hands()
            if span is None:
                continue
            hands = use["equipment"] == "hands"
            words = f"{task.of} {task.short}" if hands and task.of != task.short else task.of
            if use.get("setting_c") is not None and not settings:
                words = f"{task.of} {figure(units.temperature_value(use['setting_c']), 1)}\u00b0"
            short = task.short if hands else task.of
            bars.append(
                BarIn(task.key, use["equipment"], span[0].timestamp(), span[1].timestamp(), words, short, state)
            )
    now = service.kitchen.now()
    plates = sorted({_seconds(machine["plate_up"]) for machine in service.asked["dishes"]})
    offset = now.astimezone(service.kitchen.zone).utcoffset() or dt.timedelta()
    return service_lanes(lanes, bars, settings, plates, now=now.timestamp(), offset_s=offset.total_seconds())


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
    rows = {(d["id"], t["id"]): t for d in service.asked["dishes"] for t in d["tasks"]}
    mine = rows.get((task.dish, task.id), {})
    before = set(mine.get("after", [])) | {mine.get("ends_with"), mine.get("starts_with")}
    if "during" in mine:
        before.add(mine["during"]["task"])
    follows = [t for t in tasks if t.dish == task.dish and t.id in before and t.n == 0]
    waits = [
        t for t in tasks
        if t.dish == task.dish and t.n == 0 and task.id in _before(rows.get((t.dish, t.id), {}))
    ]  # fmt: skip
    kinds = {machine["id"]: machine for machine in service.asked["equipment"]}
    choices = []
    for use in task.uses:
        machine = kinds[use["equipment"]]
        same = [(r["id"], r["name"]) for r in service.asked["equipment"] if r["kind"] == machine["kind"]]
        if len(same) > 1:
            choices.append((machine["kind"], machine["id"], same))
    setting = next((use["setting_c"] for use in task.uses if use.get("setting_c") is not None), None)
    return TaskDetail(task, follows, waits, choices, setting, "at" in mine)


def _before(task_row: Mapping[str, Any]) -> set[str]:
    return set(task_row.get("after", [])) | {task_row.get("ends_with", ""), task_row.get("starts_with", "")}
