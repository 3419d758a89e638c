"""Every write to services, in a transaction, with who and when."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.utils import timezone

from kitchen.accounts.models import Kitchen, Person

from . import planning
from .models import Dish, PlanningJob, Service
from .other_settings import minutes_at
from .planning import hold
from .presenters import tasks_of
from .sharing import Share

MOST_BACK = 20  # ways out that can be taken back


class ServiceError(Exception):
    """An action that a service does not allow at the moment, in words for the cook."""


@transaction.atomic
def create(kitchen: Kitchen, person: Person, values: Mapping[str, Any]) -> Service:
    """Create a service without dishes."""
    return Service.objects.create(kitchen=kitchen, updated_by=person, **values)


@transaction.atomic
def change(service: Service, person: Person, values: Mapping[str, Any]) -> Service:
    """Change name, covers, cooks or hours, and plan it again."""
    held = hold(service)
    for key, value in values.items():
        setattr(held, key, value)
    return _stale(held, person)


def _stale(service: Service, person: Person) -> Service:
    service.updated_by, service.proposal = person, None
    service.revision, service.ways_back = service.revision + 1, []
    if service.started_at is None:
        service.schedule = service.asked = None
    service.save()
    return service


@transaction.atomic
def put_dish(service: Service, person: Person, values: Mapping[str, Any], dish: Dish | None = None) -> Dish:
    """Add or change a dish. Raises ServiceError once the service runs."""
    held = hold(service)
    if held.started_at is not None:
        raise ServiceError("The service has started: its dishes cannot be changed. Re-plan it, or end it first.")
    if dish is None:
        dish = Dish(service=held)
    for key, value in values.items():
        setattr(dish, key, value)
    dish.save()
    _stale(held, person)
    return dish


@transaction.atomic
def remove_dish(dish: Dish, person: Person) -> None:
    """Remove a dish. Raises ServiceError once the service runs."""
    held = hold(dish.service)
    if held.started_at is not None:
        raise ServiceError("The service has started: its dishes cannot be changed.")
    dish.delete()
    _stale(held, person)


@transaction.atomic
def work_out(service: Service, person: Person | None = None) -> PlanningJob:
    """Start planning; if nothing fits, the answer explains the clash and what would fit. Raises ServiceError without a
    dish.
    """
    held = hold(service)
    if not held.dishes.exists():
        raise ServiceError("Add a dish first.")
    return planning.begin(held, person or held.updated_by)


@transaction.atomic
def choose(service: Service, person: Person, dish: Dish, task: str, choice: Mapping[str, Any]) -> PlanningJob:
    """Change a task's time, setting or oven; None removes a choice.

    If no plan exists with it everything stays as it was, and the job gives the reason. Raises ServiceError for a
    setting that would change the result.
    """
    held = hold(service)
    dish = Dish.objects.select_for_update().get(pk=dish.pk, service=held)
    before = planning.snapshot(held) if held.fits else None
    if choice.get("setting_c") is not None:
        minutes = minutes_at(dish, task, choice["setting_c"], held.kitchen.standard)
        if minutes is None:
            raise ServiceError(f"At {choice['setting_c']:.1f} °C it would be something else: change its plan.")
        choice = {**choice, "minutes": minutes}
    own = {**dish.choice(task), **choice}
    choices = {key: value for key, value in own.items() if value not in (None, "", {})}
    dish.choices = {**dish.choices, task: choices} if choices else {k: v for k, v in dish.choices.items() if k != task}
    dish.save(update_fields=["choices"])
    _changed(held, person)
    arguments = {"dish": str(dish.pk), "task": task, "choice": choice}
    return planning.begin(held, person, PlanningJob.Kind.CHOOSE, arguments, before)


def _changed(service: Service, person: Person) -> None:
    """Count a change of what is planned, which discards plans in progress."""
    service.revision, service.updated_by = service.revision + 1, person
    service.save(update_fields=["revision", "updated_by", "ways_back", "hands"])


@transaction.atomic
def share(service: Service, person: Person, key: str, taken: Share) -> PlanningJob:
    """Put two tasks at one setting into one bath or oven; if that does not fit everything stays as it was."""
    held = hold(service)
    before = planning.snapshot(held)
    task = next(task for task in tasks_of(held.answer) if task.key == key)
    use = next(use for use in taken.other.uses if use.setting_c is not None)
    kind = held.machines[use.equipment].kind
    for each, at in ((task, taken.mine), (taken.other, taken.theirs)):
        dish = held.dishes.select_for_update().get(pk=each.dish)
        own = dict(dish.choice(each.id))
        own |= {"setting_c": taken.setting_c, "minutes": at.minutes}
        own["equipment"] = {**own.get("equipment", {}), kind: use.equipment}
        dish.choices = {**dish.choices, each.id: own}
        dish.save(update_fields=["choices"])
    held.ways_back = [*held.ways_back, before | {"text": f"{task.name} and {taken.other.name} together"}][-MOST_BACK:]
    _changed(held, person)
    refused = {"refused": "Together they do not fit: there is not enough room."}
    return planning.begin(held, person, arguments=refused, before=before if held.fits else None)


@transaction.atomic
def take_way_out(service: Service, person: Person, number: int) -> PlanningJob:
    """Apply one of the changes that would fit. Raises ServiceError for an unknown one."""
    held = hold(service)
    conflict = held.answer.conflict if held.answer else None
    ways = conflict.would_fit if conflict else []
    if not 0 <= number < len(ways):
        raise ServiceError("That option no longer applies. Look again.")
    before, change = planning.snapshot(held), ways[number].change
    if "plate_ups" in change or "plate_up" in change:
        for key, at in (change.get("plate_ups") or {change["dish"]: change["plate_up"]}).items():
            dish = held.dishes.get(pk=key)
            dish.plate_up = dt.datetime.fromisoformat(at)
            dish.save(update_fields=["plate_up"])
    elif "task" in change:
        key, _, task = change["task"].partition(":")
        dish = held.dishes.get(pk=key)
        own = dict(dish.choice(task))
        if "setting_c" in change:
            own |= {"setting_c": change["setting_c"], "minutes": change["minutes"]}
        else:
            kind = held.machines[change["equipment"]].kind
            own["equipment"] = {**own.get("equipment", {}), kind: change["equipment"]}
        dish.choices = {**dish.choices, task: own}
        dish.save(update_fields=["choices"])
    elif change.get("equipment") == "hands":
        held.hands = change["capacity"]
    elif "without" in change:
        raise ServiceError("Remove a dish in the menu.")
    else:
        raise ServiceError("Add it under Equipment.")
    held.ways_back = [*held.ways_back, before | {"text": ways[number].text}][-MOST_BACK:]
    _changed(held, person)
    return planning.begin(held, person)


@transaction.atomic
def take_back(service: Service, person: Person) -> PlanningJob:
    """Undo the way out taken last. Raises ServiceError if there is none, or the service is running."""
    held = hold(service)
    if held.started_at is not None or not held.ways_back:
        raise ServiceError("There is nothing to undo.")
    *held.ways_back, last = held.ways_back
    planning.put_back(held, last)
    _changed(held, person)
    return planning.begin(held, person)


@transaction.atomic
def put_away(service: Service) -> None:
    """Archive it."""
    Service.objects.filter(pk=service.pk).update(deleted_at=timezone.now())


@transaction.atomic
def put_back(service: Service) -> None:
    """Restore it."""
    Service.objects.filter(pk=service.pk).update(deleted_at=None)
