"""A service on its day: sent to the line, tapped task by task, planned anew when something runs late."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Mapping
from typing import Any

from django.db import transaction

from ember.files.service import parse_service
from ember.service.answer import plan_service
from kitchen.accounts.models import Person
from kitchen.line.models import Cook
from kitchen.line.starting import start as start_cook
from kitchen.line.step_actions import start_steps

from .actions import AGAIN_S, ServiceError, hold
from .asked import as_it_was, asked
from .models import Dish, Service, TaskEvent
from .scale import for_portions
from .state import events_of, happened, off_time

MOVED_MIN = 0.5  # a task that moves by less has not moved


@transaction.atomic
def begin(service: Service, person: Person) -> Service:
    """Send it to the line: its tasks come as next hands. Raises ServiceError while it clashes."""
    held = hold(service)
    if held.started_at is not None:
        return held
    if not held.fits:
        raise ServiceError("Settle what clashes first.")
    held.started_at, held.updated_by = held.kitchen.now(), person
    held.save(update_fields=["started_at", "updated_by"])
    return held


@transaction.atomic
def end(service: Service, person: Person) -> Service:
    """It is over; its cooks go on."""
    held = hold(service)
    held.ended_at, held.updated_by = held.kitchen.now(), person
    held.save(update_fields=["ended_at", "updated_by"])
    return held


@transaction.atomic
def tap(service: Service, person: Person, dish: Dish, task: str, n: int, token: uuid.UUID) -> Cook | None:
    """A hand did the next thing of a task: began it, or was done. The first stage of a plan starts its cook.

    Once for a token. Returns the cook that was started.
    """
    held = hold(service)
    if TaskEvent.objects.filter(token=token, service=held).exists():
        return None
    if not held.is_running:
        raise ServiceError("This service does not run.")
    known = events_of(held).get((str(dish.pk), task, n), ())
    if any(event.kind == TaskEvent.Kind.DONE for event in known):
        return None
    cook = None
    first = not known
    if first and task == "s0" and dish.plan is not None:
        cook = start_cook(dish.plan, person, None, uuid.uuid4(), for_portions(dish.plan.document, dish.portions))
    elif first and task == "eggs" and dish.eggs is not None:
        cook = start_steps(held.kitchen, person, dish.name, dish.eggs.document, uuid.uuid4())
    kind = TaskEvent.Kind.STARTED if first and _takes_time(held, dish, task, n) else TaskEvent.Kind.DONE
    TaskEvent.objects.create(
        service=held, dish=dish, task=task, n=n, kind=kind, at=held.kitchen.now(), by=person, cook=cook, token=token
    )
    return cook


def _takes_time(service: Service, dish: Dish, task: str, n: int) -> bool:
    """Whether a task has a beginning and an end: its hands leave it before it is over."""
    for row in (service.schedule or {}).get("tasks", []):
        if (row["dish"], row["id"], row["n"]) == (str(dish.pk), task, n):
            return any(use["equipment"] == "hands" and use["first_min"] is not None for use in row["uses"])
    return False


@transaction.atomic
def untap(service: Service, person: Person, dish: Dish, task: str, n: int) -> None:
    """Take the last tap on a task back; not where it started a cook."""
    held = hold(service)
    known = events_of(held).get((str(dish.pk), task, n), ())
    if not known:
        return
    if known[-1].cook_id is not None:
        raise ServiceError("It started a cook: stop that on the line.")
    TaskEvent.objects.create(
        service=held, dish=dish, task=task, n=n, kind=TaskEvent.Kind.UNDONE, at=held.kitchen.now(), by=person
    )


@transaction.atomic
def replan(service: Service) -> Service:
    """A proposal from now on: what has begun stays, the rest moves as little as it must."""
    held = hold(service)
    if not held.is_running:
        raise ServiceError("This service does not run.")
    now = held.kitchen.now()
    found = asked(held, now, happened(held))
    found.request = as_it_was(found.request, held.schedule or {"tasks": []}, "", "")
    answer = plan_service(parse_service({**found.request, "seconds": AGAIN_S, "explain": True}))
    held.proposal = {
        "at": now.isoformat(), "late": _signature(held), "asked": found.request,
        "schedule": answer.model_dump(mode="json"),
        "moves": _moves(held.schedule or {"tasks": []}, answer.model_dump(mode="json")),
    }  # fmt: skip
    held.save(update_fields=["proposal"])
    return held


def _moves(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[dict[str, Any]]:
    """What changes for whom, by the clock."""
    was = {(row["dish"], row["id"], row["n"]): row for row in before["tasks"]}
    found = []
    for row in after["tasks"]:
        old = was.get((row["dish"], row["id"], row["n"]))
        if old is None:
            continue
        times = [dt.datetime.fromisoformat(each["start"]) for each in (old, row)]
        by = (times[1] - times[0]).total_seconds() / 60.0
        if abs(by) >= MOVED_MIN:
            found.append({"name": row["name"], "n": row["n"], "was": old["start"], "start": row["start"], "by_min": by})
    return found


@transaction.atomic
def watch(service: Service) -> Service:
    """Plan anew by itself where something runs late that no proposal speaks of yet, nor was left as it is."""
    held = hold(service)
    if not held.is_running:
        return held
    late = _signature(held)
    before = (held.proposal or {}).get("late")
    return replan(held) if late and late != before else held


def _signature(service: Service) -> list[list[Any]]:
    """What is late, and by how much: to five minutes, so that a proposal stands for a while."""
    return [[*row.key, row.minutes // 5] for row in off_time(service, service.kitchen.now())]


@transaction.atomic
def accept(service: Service, person: Person) -> Service:
    """The chef takes the proposal: it is the schedule now. Raises ServiceError where there is no plan in it."""
    held = hold(service)
    if "schedule" not in (held.proposal or {}) or held.proposal["schedule"]["status"] == "infeasible":
        raise ServiceError("There is no plan to take over.")
    held.asked, held.schedule = held.proposal["asked"], held.proposal["schedule"]
    held.planned_at, held.proposal, held.updated_by = held.kitchen.now(), None, person
    held.save(update_fields=["asked", "schedule", "planned_at", "proposal", "updated_by"])
    return held


@transaction.atomic
def dismiss(service: Service) -> None:
    """The proposal is not taken: it is not made again for the same."""
    held = hold(service)
    held.proposal = {"late": (held.proposal or {}).get("late")}
    held.save(update_fields=["proposal"])
