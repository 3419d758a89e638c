"""A service on its day: sent to the line, tapped task by task, planned again if something runs late."""

from __future__ import annotations

import uuid
from contextlib import suppress

from django.db import transaction

from ember.errors import EmberError
from ember.service.task_ref import TaskKind, TaskRef
from kitchen.accounts.models import Person
from kitchen.line.errors import LineError
from kitchen.line.models import Cook
from kitchen.line.starting import settle_first
from kitchen.line.starting import start as start_cook
from kitchen.line.step_actions import settle_steps, start_steps
from kitchen.line.taps import tapped_at, was_done

from . import planning
from .actions import ServiceError
from .cook_from_schedule import cook_from_schedule
from .models import Dish, PlanningJob, Service, TaskEvent
from .planning import hold
from .presenters import HANDS
from .proposals import late_signature
from .state import events_of, scheduled


@transaction.atomic
def begin(service: Service, person: Person) -> Service:
    """Send a service to the line. Raises ServiceError while it clashes."""
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
    """End a service; its cooks go on."""
    held = hold(service)
    held.ended_at, held.updated_by = held.kitchen.now(), person
    held.save(update_fields=["ended_at", "updated_by"])
    return held


@transaction.atomic
def tap(
    service: Service, person: Person, dish: Dish, task: str, n: int, token: uuid.UUID, means: str = ""
) -> Cook | None:  # fmt: skip
    """Record the next action of a task: begun, or finished. The first stage of a plan starts its cook.

    Once for a token. `means`: "begin" or "end", as the page offered; nothing is done if somebody else was quicker, so
    that a tap that begins never ends what another tap began. Returns the cook that was started.
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


def settle(service: Service, dish: Dish, task: str) -> None:
    """Calculate what starting a task will ask for, before anything is locked."""
    with suppress(ServiceError, LineError, EmberError):
        if TaskRef.of(task).stage == 0 and dish.plan is not None:
            document, chosen, _ = cook_from_schedule(service, dish)
            settle_first(service.kitchen, document, chosen, waits=False)
        elif TaskRef.of(task).kind is TaskKind.EGGS and dish.eggs is not None:
            settle_steps(dish.eggs.document)


def _begun_cook(service: Service, person: Person, dish: Dish, task: TaskRef) -> Cook | None:
    """The cook that starting a task sends to the line; None for a task that sends none."""
    if task.stage == 0 and dish.plan is not None:
        document, chosen, planned = cook_from_schedule(service, dish)
        return start_cook(dish.plan, person, None, uuid.uuid4(), document, planned, chosen)
    if task.kind is TaskKind.EGGS and dish.eggs is not None:
        return start_steps(service.kitchen, person, dish.name, dish.eggs.document, uuid.uuid4())
    return None


def _takes_time(service: Service, dish: Dish, task: str, n: int) -> bool:
    """Whether a task is begun and ended separately, since it needs no hands in between."""
    for each in scheduled(service):
        if (each.dish, each.id, each.n) == (str(dish.pk), task, n):
            return any(use.equipment == HANDS and use.first_min is not None for use in each.uses)
    return False


@transaction.atomic
def untap(service: Service, person: Person, dish: Dish, task: str, n: int, event: int | None = None) -> None:
    """Undo the last tap on a task, unless it started a cook. `event`: the one that is meant."""
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
    """Start planning from now on: what has begun stays, the rest moves as little as possible. Raises ServiceError."""
    held = hold(service)
    if not held.is_running:
        raise ServiceError("This service is not running.")
    return planning.begin(held, person, PlanningJob.Kind.REPLAN)


@transaction.atomic
def watch(service: Service, person: Person) -> Service:
    """Plan again automatically if something runs late that no proposal covers and no chef has dismissed."""
    held = hold(service)
    if not held.is_running or planning.plans_of(held).filter(finished_at=None, stop=False).exists():
        return held
    late = late_signature(held)
    if late and (held.proposed is None or late != held.proposed.late):
        planning.begin(held, person, PlanningJob.Kind.REPLAN)
    return held


@transaction.atomic
def accept(service: Service, person: Person) -> Service:
    """Accept the proposal as the schedule. Raises ServiceError if there is no plan in it."""
    held = hold(service)
    proposal = held.proposed
    if proposal is None or proposal.schedule is None or not proposal.fits:
        raise ServiceError("There is no new plan to accept.")
    held.asked, held.schedule = proposal.asked, proposal.schedule.model_dump(mode="json")
    held.planned_at, held.proposal, held.updated_by = held.kitchen.now(), None, person
    held.save(update_fields=["asked", "schedule", "planned_at", "proposal", "updated_by"])
    return held


@transaction.atomic
def dismiss(service: Service) -> None:
    """Dismiss the proposal; it is not made again for the same lateness."""
    held = hold(service)
    held.proposal = {"late": held.proposed.late if held.proposed else None}
    held.save(update_fields=["proposal"])
