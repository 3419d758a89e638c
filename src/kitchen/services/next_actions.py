"""The next actions of running services, for the line: what is to be begun, and what is to be taken out or done."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from kitchen.accounts.models import Kitchen

from .models import Service, TaskEvent
from .presenters import Task, tasks_of
from .state import Key, events_of

AHEAD_H = 6.0  # what is further away is for the lists
EARLY_S = 120.0


@dataclass(frozen=True)
class ServiceAction:
    """A thing to do next of a service: `begins` says whether something goes in, or comes out and is done; `sets` is the
    oven or bath that is to be set.
    """

    service: Service
    task: Task
    begins: bool
    due_at: dt.datetime
    in_s: float
    token: uuid.UUID
    sets: str = ""
    template: str = "services/_action.html"
    early_s: float = EARLY_S
    goes_by_steps: bool = False

    @property
    def is_early(self) -> bool:
        """Whether it is time to make ready."""
        return self.in_s <= self.early_s

    @property
    def starts_a_cook(self) -> bool:
        """Whether the tap sends a plan or eggs to the line."""
        return self.begins and self.task.ref.starts_a_cook

    @cached_property
    def where(self) -> str:
        """What it stands on, by the kitchen's own name."""
        names = {machine["id"]: machine["name"] for machine in (self.service.asked or {}).get("equipment", [])}
        place = next((use["equipment"] for use in self.task.uses if use["equipment"] != "hands"), "")
        return str(names.get(place, ""))

    @property
    def setting_c(self) -> float | None:
        """What it is set to."""
        return next((use["setting_c"] for use in self.task.uses if use.get("setting_c") is not None), None)


def service_actions(kitchen: Kitchen, now: dt.datetime) -> list[ServiceAction]:
    """The next actions of all running services, in no order."""
    running = Service.objects.of(kitchen).current().filter(started_at__isnull=False, ended_at=None)
    return [action for service in running.select_related("kitchen") for action in _of(service, now)]


def _of(service: Service, now: dt.datetime) -> Iterator[ServiceAction]:
    done = events_of(service)
    tasks = tasks_of(service.schedule)
    yield from _sets(service, tasks, set(done), now)
    for task in tasks:
        events = done.get((task.dish, task.id, task.n), ())
        if not _is_ours(task) or any(event.kind == TaskEvent.Kind.DONE for event in events):
            continue
        span = task.by_hands()
        if span is None:
            continue
        leaves = span[1] < task.end  # hands leave it before it is over
        begins = not events
        due = task.start if begins else task.end
        if not begins and not leaves:
            continue
        if task.ref.starts_a_cook and events:
            continue  # its cook tells the rest
        if (due - now).total_seconds() <= AHEAD_H * 3600.0:
            yield ServiceAction(service, task, begins, due, (due - now).total_seconds(), uuid.uuid4())


def _is_ours(task: Task) -> bool:
    """Whether the service tells of it: the stages after the first, and what is done between them, a cook does."""
    return not task.ref.is_done_by_a_cook


def _sets(service: Service, tasks: list[Task], done: set[Key], now: dt.datetime) -> Iterator[ServiceAction]:
    """Each oven and bath that is to be set, in time for what goes in first."""
    names = {machine["id"]: machine["name"] for machine in (service.asked or {}).get("equipment", [])}
    for machine in (service.schedule or {}).get("settings", []):
        there = dt.datetime.fromisoformat(machine["there"])
        first = next((t for t in tasks if t.start == there and _at(t, machine["equipment"])), None)
        due = dt.datetime.fromisoformat(machine["on_the_way"])
        in_s = (due - now).total_seconds()
        if first is None or in_s > AHEAD_H * 3600.0:
            continue
        use = {"equipment": machine["equipment"], "setting_c": machine["setting_c"]}
        key = f"set-{machine['equipment']}-{first.id}"
        if (first.dish, key, 0) in done or any(k[:2] == (first.dish, first.id) for k in done):
            continue
        name = names.get(machine["equipment"], machine["equipment"])
        task = Task(f"{first.dish}:{key}:0", first.dish, key, 0, name, due, there, (use,), 0.0, 0.0)
        yield ServiceAction(service, task, True, due, in_s, uuid.uuid4(), sets=name)


def _at(task: Task, equipment: str) -> bool:
    return any(use["equipment"] == equipment for use in task.uses)
