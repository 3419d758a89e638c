"""A service on its day: sent to the line, tapped task by task, planned anew when something runs late."""

from __future__ import annotations

import uuid

from django.db import transaction

from ember.service.task_ref import TaskKind, TaskRef
from kitchen.accounts.models import Person
from kitchen.line.models import Cook
from kitchen.line.starting import start as start_cook
from kitchen.line.step_actions import start_steps
from kitchen.line.taps import tapped_at, was_done

from . import planning
from .actions import ServiceError
from .cook_from_schedule import cook_from_schedule
from .models import Dish, PlanningJob, Service, TaskEvent
from .planning import hold
from .proposals import late_signature
from .state import events_of


@transaction.atomic
def begin(service: Service, person: Person) -> Service:
    """Send it to the line: its tasks come as next actions. Raises ServiceError while it clashes."""
    held = hold(service)
    if held.started_at is not None:
        return held
    if planning.plans_of(held).filter(finished_at=None, stop=False).exists():
        raise ServiceError("The service is being planned. Send it when the plan is ready.")
    if not held.fits:
        raise ServiceError("Resolve the clash first.")
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
def tap(
    service: Service, person: Person, dish: Dish, task: str, n: int, token: uuid.UUID, means: str = ""
) -> Cook | None:  # fmt: skip
    """A cook did the next thing of a task: began it, or finished it. The first stage of a plan starts its cook.

    Once for a token. `means`: "begin" or "end", what the page offered; where somebody else was quicker nothing is done,
    so that a tap that begins never ends what another tap began. Returns the cook that was started.
    """
    held = hold(service)
    if TaskEvent.objects.filter(token=token, service=held).exists():
        return None
    if not held.is_running:
        raise ServiceError("This service is not running.")
    known = events_of(held).get((str(dish.pk), task, n), ())
    is_done = any(event.kind == TaskEvent.Kind.DONE for event in known)
    if is_done or (means and (means == "begin") != (not known)):
        if known:
            was_done(known[-1].by, known[-1].at)
        return None
    cook = None if known else _begun_cook(held, person, dish, TaskRef.of(task))
    kind = TaskEvent.Kind.STARTED if not known and _takes_time(held, dish, task, n) else TaskEvent.Kind.DONE
    at = tapped_at(held.kitchen, held.started_at)
    TaskEvent.objects.create(
        service=held, dish=dish, task=task, n=n, kind=kind, at=at, by=person, cook=cook, token=token
    )
    return cook


def _begun_cook(service: Service, person: Person, dish: Dish, task: TaskRef) -> Cook | None:
    """The cook that the beginning of a task sends to the line; None for a task that sends none."""
    if task.stage == 0 and dish.plan is not None:
        document, chosen, planned = cook_from_schedule(service, dish)
        return start_cook(dish.plan, person, None, uuid.uuid4(), document, planned, chosen)
    if task.kind is TaskKind.EGGS and dish.eggs is not None:
        return start_steps(service.kitchen, person, dish.name, dish.eggs.document, uuid.uuid4())
    return None


def _takes_time(service: Service, dish: Dish, task: str, n: int) -> bool:
    """Whether a task has a beginning and an end: its hands leave it before it is over."""
    for task_row in (service.schedule or {}).get("tasks", []):
        if (task_row["dish"], task_row["id"], task_row["n"]) == (str(dish.pk), task, n):
            return any(use["equipment"] == "hands" and use["first_min"] is not None for use in task_row["uses"])
    return False


@transaction.atomic
def untap(service: Service, person: Person, dish: Dish, task: str, n: int, event: int | None = None) -> None:
    """Take the last tap on a task back; not where it started a cook. `event`: the one that is meant."""
    held = hold(service)
    known = events_of(held).get((str(dish.pk), task, n), ())
    if not known or (event is not None and known[-1].pk != event):
        return
    if known[-1].cook_id is not None:
        raise ServiceError("This task started a cook: stop the cook on the line.")
    TaskEvent.objects.create(
        service=held, dish=dish, task=task, n=n, kind=TaskEvent.Kind.UNDONE, at=held.kitchen.now(), by=person
    )


@transaction.atomic
def replan(service: Service, person: Person) -> PlanningJob:
    """A proposal from now on: what has begun stays, the rest moves as little as it must. Raises ServiceError."""
    held = hold(service)
    if not held.is_running:
        raise ServiceError("This service is not running.")
    return planning.begin(held, person, PlanningJob.Kind.REPLAN)


@transaction.atomic
def watch(service: Service, person: Person) -> Service:
    """Plan anew by itself where something runs late that no proposal speaks of yet, nor was left as it is."""
    held = hold(service)
    if not held.is_running or planning.plans_of(held).filter(finished_at=None, stop=False).exists():
        return held
    late = late_signature(held)
    if late and late != (held.proposal or {}).get("late"):
        planning.begin(held, person, PlanningJob.Kind.REPLAN)
    return held


@transaction.atomic
def accept(service: Service, person: Person) -> Service:
    """The chef takes the proposal: it is the schedule now. Raises ServiceError where there is no plan in it."""
    held = hold(service)
    proposal = held.proposal or {}
    if "schedule" not in proposal or proposal["schedule"]["status"] == "infeasible":
        raise ServiceError("There is no new plan to accept.")
    held.asked, held.schedule = proposal["asked"], proposal["schedule"]
    held.planned_at, held.proposal, held.updated_by = held.kitchen.now(), None, person
    held.save(update_fields=["asked", "schedule", "planned_at", "proposal", "updated_by"])
    return held


@transaction.atomic
def dismiss(service: Service) -> None:
    """The proposal is not taken: it is not made again for the same."""
    held = hold(service)
    held.proposal = {"late": (held.proposal or {}).get("late")}
    held.save(update_fields=["proposal"])
