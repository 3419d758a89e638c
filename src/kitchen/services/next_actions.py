"""The next actions of running services, for the line: tasks to begin, and to take out or finish."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ember.files.service import SettingOut, UseIn
from kitchen.accounts.models import Kitchen

from .models import Service, TaskEvent
from .presenters import Task, tasks_of
from .state import Key, events_of

AHEAD_H = 6.0  # what is further away is for the lists
EARLY_S = 120.0


@dataclass(frozen=True)
class ServiceAction:
    """A next action of a service: `begins` tells whether something goes in, or comes out and is done; `sets` is the
    oven or bath to be set, `where` what the task uses, both by the kitchen's name.
    """

    service: Service
    task: Task
    begins: bool
    due_at: dt.datetime
    in_s: float
    token: uuid.UUID
    where: str
    sets: str = ""
    template: str = "services/_action.html"
    early_s: float = EARLY_S
    goes_by_steps: bool = False

    @property
    def is_early(self) -> bool:
        """Whether it is time to get ready."""
        return self.in_s <= self.early_s

    @property
    def starts_a_cook(self) -> bool:
        """Whether the tap sends a plan or eggs to the line."""
        return self.begins and self.task.ref.starts_a_cook

    @property
    def setting_c(self) -> float | None:
        """Temperature setting, °C."""
        return self.task.setting_c


def service_actions(kitchen: Kitchen, now: dt.datetime) -> list[ServiceAction]:
    """The next actions of all running services, unordered."""
    running = Service.objects.of(kitchen).current().filter(started_at__isnull=False, ended_at=None)
    return [action for service in running.select_related("kitchen") for action in _of(service, now)]


def _of(service: Service, now: dt.datetime) -> Iterator[ServiceAction]:
    done = events_of(service)
    answer, names = service.answer, {machine.id: machine.name for machine in service.machines.values()}
    tasks = tasks_of(answer)
    for setting in answer.settings if answer else ():
        yield from _set_in_time(service, setting, names, tasks, set(done), now)
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
            where = names.get(task.place, "")
            yield ServiceAction(service, task, begins, due, (due - now).total_seconds(), uuid.uuid4(), where)


def _is_ours(task: Task) -> bool:
    """Whether the service announces it: a cook announces its own later stages and preparation."""
    return not task.ref.is_done_by_a_cook


def _set_in_time(
    service: Service, setting: SettingOut, names: Mapping[str, str], tasks: list[Task], done: set[Key], now: dt.datetime
) -> Iterator[ServiceAction]:  # fmt: skip
    """The action that sets an oven or bath, in time for what goes in first."""
    first = next((t for t in tasks if t.start == setting.there and _stands_in(t, setting.equipment)), None)
    in_s = (setting.on_the_way - now).total_seconds()
    if first is None or in_s > AHEAD_H * 3600.0:
        return
    key = f"set-{setting.equipment}-{first.id}"
    if (first.dish, key, 0) in done or any(k[:2] == (first.dish, first.id) for k in done):
        return
    name = names.get(setting.equipment, setting.equipment)
    use = UseIn(equipment=setting.equipment, setting_c=setting.setting_c)
    task = Task(
        f"{first.dish}:{key}:0", first.dish, key, 0, name, setting.on_the_way, setting.there, (use,), 0.0, 0.0
    )  # fmt: skip
    yield ServiceAction(service, task, True, setting.on_the_way, in_s, uuid.uuid4(), name, sets=name)


def _stands_in(task: Task, equipment: str) -> bool:
    return any(use.equipment == equipment for use in task.uses)
