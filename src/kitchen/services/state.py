"""What has happened of a service: tasks tapped, and steps of the cooks it sent to the line."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass

from ember.files.service import ServiceAnswer, TaskOut
from ember.service.task_ref import TaskKind, TaskRef, stage_task
from kitchen.line.cook_status import CookStatus
from kitchen.line.models import Cook
from kitchen.line.queries import status_of

from .models import Service, TaskEvent

Key = tuple[str, str, int]
LATE_MIN = 3  # less than this is no news


@dataclass(frozen=True)
class TaskActual:
    """When a task began and ended; `minutes`: its expected duration, if that differs from the plan."""

    started: dt.datetime
    ended: dt.datetime | None = None
    minutes: float | None = None


def placed(schedule: ServiceAnswer | None) -> list[TaskOut]:
    """The tasks of a schedule; if it clashes, as they would lie without the limits that clash."""
    if schedule is None:
        return []
    return schedule.tasks or (schedule.conflict.drawn if schedule.conflict else [])


def scheduled(service: Service) -> list[TaskOut]:
    """The tasks of a service's schedule; empty if it clashes."""
    answer = service.answer
    return answer.tasks if answer else []


def events_of(service: Service) -> dict[Key, tuple[TaskEvent, ...]]:
    """The events of each task, after undos."""
    found: dict[Key, tuple[TaskEvent, ...]] = {}
    for event in service.events.select_related("by", "cook"):
        key = (str(event.dish_id), event.task, event.n)
        if event.kind == TaskEvent.Kind.UNDONE:
            found[key] = found.get(key, ())[:-1]
        else:
            found[key] = (*found.get(key, ()), event)
    return {key: events for key, events in found.items() if events}


def task_actuals(service: Service) -> dict[Key, TaskActual]:
    """Every task that was begun."""
    actuals: dict[Key, TaskActual] = {}
    was = {(task.dish, task.id, task.n): task.start for task in scheduled(service)}
    for key, events in events_of(service).items():
        done = next((event.at for event in events if event.kind == TaskEvent.Kind.DONE), None)
        started = events[0].at
        if events[0].kind == TaskEvent.Kind.DONE:  # told once, when it was over
            planned = was.get(key)
            started = min(planned, started) if planned else started
        actuals[key] = TaskActual(started, done)
        cook = next((event.cook for event in events if event.cook is not None), None)
        if cook is not None and not cook.goes_by_steps:
            actuals |= dict(_of_cook(key[0], cook))
    return actuals


def _of_cook(dish: str, cook: Cook) -> Iterator[tuple[Key, TaskActual]]:
    """The stages of a cook as tasks of its dish."""
    status = status_of(cook)
    begun = _begun(status)
    last = len(status.plan.stages)
    for i in range(last):
        if i not in begun:
            return
        ended = begun.get(i + 1) or cook.finished_at
        minutes = None if ended is not None else _expected_min(status, i, begun[i])
        yield (dish, stage_task(i), 0), TaskActual(begun[i], ended, minutes)


def _begun(status: CookStatus) -> dict[int, dt.datetime]:
    """When each stage began."""
    begun: dict[int, dt.datetime] = {}
    for number, event in sorted(status.done.items()):
        step = status.steps[number]
        if step.kind in ("start", "move", "pull", "lay", "end"):
            begun.setdefault(step.stage, event.at)
    return begun


def _expected_min(status: CookStatus, stage: int, since: dt.datetime) -> float | None:
    """Expected duration of the running stage by its forecast, whole minutes."""
    due = status.due_at
    step = status.progress.next
    if step is None or step.kind not in ("move", "pull", "end") or step.stage != stage + 1:
        return None
    return float(max(round((due - since).total_seconds() / 60.0), 1))


@dataclass(frozen=True)
class OffTime:
    """A task that ends, or should have begun, later than planned, by whole minutes."""

    key: Key
    name: str
    minutes: int


def off_time(service: Service, now: dt.datetime) -> list[OffTime]:
    """Late tasks, the latest first: those running, and those that nobody began."""
    went = task_actuals(service)
    late_tasks = []
    for task in scheduled(service):
        key = (task.dish, task.id, task.n)
        known = went.get(key)
        if known is None:
            late = now - task.start if _is_waited_for(TaskRef.of(task.id)) else dt.timedelta()
        elif known.ended is not None:
            continue
        else:
            length = dt.timedelta(minutes=known.minutes) if known.minutes is not None else task.end - task.start
            late = max(known.started + length, now) - task.end
        minutes = int(late.total_seconds() // 60)
        if minutes >= LATE_MIN:
            late_tasks.append(OffTime(key, task.name, minutes))
    return sorted(late_tasks, key=lambda late: -late.minutes)


def _is_waited_for(task: TaskRef) -> bool:
    """Whether a task that was not begun can be late by itself: a cook's later tasks follow the first."""
    return task.kind in (TaskKind.PLATE, TaskKind.SIDE, TaskKind.EGGS) or (
        task.kind in (TaskKind.STAGE, TaskKind.PREP) and task.number == 0
    )
