"""Every write to services, in a transaction, with who and when."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.utils import timezone

from ember.files.service import ServiceAnswer, parse_service
from ember.service.answer import plan_service
from ember.service.range import may_begin
from kitchen.accounts.models import Kitchen, Person

from .asked import Asked, as_it_was, asked
from .models import Dish, Service
from .other_settings import minutes_at, with_other_settings
from .sharing import Share
from .show import tasks_of
from .state import happened

FIRST_S, AGAIN_S = 3.0, 1.0


class ServiceError(Exception):
    """Something that cannot be done with a service now, in words for the cook."""


def hold(service: Service) -> Service:
    """The service, held until the transaction is over."""
    return Service.objects.select_for_update().select_related("kitchen").get(pk=service.pk)


@transaction.atomic
def create(kitchen: Kitchen, person: Person, found: Mapping[str, Any]) -> Service:
    """A service without dishes yet."""
    return Service.objects.create(kitchen=kitchen, updated_by=person, **found)


@transaction.atomic
def change(service: Service, person: Person, found: Mapping[str, Any]) -> Service:
    """Its name, covers, hands, hours. What was planned is planned anew."""
    held = hold(service)
    for key, value in found.items():
        setattr(held, key, value)
    return _stale(held, person)


def _stale(service: Service, person: Person) -> Service:
    service.updated_by, service.proposal = person, None
    if service.started_at is None:
        service.schedule = service.asked = None
    service.save()
    return service


@transaction.atomic
def put_dish(service: Service, person: Person, found: Mapping[str, Any], dish: Dish | None = None) -> Dish:
    """Add a dish, or change one. Raises ServiceError once the service runs."""
    held = hold(service)
    if held.started_at is not None:
        raise ServiceError("It has begun: dishes stay as they are. Replan, or end it first.")
    if dish is None:
        dish = Dish(service=held)
    for key, value in found.items():
        setattr(dish, key, value)
    dish.save()
    _stale(held, person)
    return dish


@transaction.atomic
def remove_dish(dish: Dish, person: Person) -> None:
    """Take a dish out. Raises ServiceError once the service runs."""
    held = hold(dish.service)
    if held.started_at is not None:
        raise ServiceError("It has begun: dishes stay as they are.")
    dish.delete()
    _stale(held, person)


@transaction.atomic
def work_out(service: Service) -> Service:
    """Plan it: kept with what was asked. Without a plan, with what clashes and what would fit."""
    held = hold(service)
    if not held.dishes.exists():
        raise ServiceError("Add a dish first.")
    now = held.kitchen.now()
    found = asked(held, now, happened(held))
    answer = _answered(held, found, FIRST_S)
    _keep(held, found, answer, now)
    return held


def _answered(service: Service, found: Asked, seconds: float) -> ServiceAnswer:
    answer = plan_service(parse_service({**found.request, "seconds": seconds, "explain": False}))
    if answer.status != "infeasible":
        return answer
    found.request = with_other_settings(service, found.request)
    return plan_service(parse_service({**found.request, "seconds": seconds}))


def _keep(service: Service, found: Asked, answer: ServiceAnswer, now: dt.datetime) -> None:
    service.asked, service.schedule = found.request, answer.model_dump(mode="json")
    service.planned_at, service.proposal = now, None
    service.save(update_fields=["asked", "schedule", "planned_at", "proposal"])


@transaction.atomic
def choose(service: Service, person: Person, dish: Dish, task: str, choice: Mapping[str, Any]) -> Service:
    """A hand chose something for a task: a time, a setting, an oven. What is None is chosen no more.

    Raises ServiceError with the reason where a time cannot be; then all stays as it was.
    """
    held = hold(service)
    dish = Dish.objects.select_for_update().get(pk=dish.pk, service=held)
    had_a_plan = held.fits
    if choice.get("setting_c") is not None:
        minutes = minutes_at(dish, task, choice["setting_c"], held.kitchen.standard)
        if minutes is None:
            raise ServiceError(f"At {choice['setting_c']:.1f} °C it would be something else: change its plan.")
        choice = {**choice, "minutes": minutes}
    own = {**dish.choice(task), **choice}
    kept = {key: value for key, value in own.items() if value not in (None, "", {})}
    dish.choices = {**dish.choices, task: kept} if kept else {k: v for k, v in dish.choices.items() if k != task}
    dish.save(update_fields=["choices"])
    now = held.kitchen.now()
    found = asked(held, now, happened(held))
    if held.schedule:
        found.request = as_it_was(found.request, held.schedule, str(dish.pk), task)
    answer = plan_service(parse_service({**found.request, "seconds": AGAIN_S, "explain": False}))
    if answer.status == "infeasible" and had_a_plan:
        raise ServiceError(_why_not(held, found.request, str(dish.pk), task, choice))
    if answer.status == "infeasible":
        answer = _answered(held, found, FIRST_S)
    held.updated_by = person
    held.save(update_fields=["updated_by"])
    _keep(held, found, answer, now)
    return held


def _why_not(service: Service, request: Mapping[str, Any], dish: str, task: str, choice: Mapping[str, Any]) -> str:
    """Why a task cannot be where a hand put it: from when to when it could be, with all else moving as it has to."""
    if not choice.get("at"):
        return "That does not fit with the rest."
    rows = [
        {**row, "tasks": [{k: v for k, v in each.items() if (row["id"], each["id"], k) != (dish, task, "at")}
                          for each in row["tasks"]]}
        for row in request["dishes"]
    ]  # fmt: skip
    found = may_begin(parse_service({**request, "dishes": rows}), dish, task)
    if found is None:
        return "There is no plan with it there."
    name = next(each["name"] for row in rows for each in row["tasks"] if (row["id"], each["id"]) == (dish, task))
    first, last = (moment.astimezone(service.kitchen.zone) for moment in found)
    when = dt.datetime.fromisoformat(choice["at"])
    if first <= when <= last:
        return f"{name}: something else stands there then. It can begin from {first:%H:%M} to {last:%H:%M}."
    if first == last:
        return f"{name} can begin at {first:%H:%M} and at no other time."
    return f"{name} can begin from {first:%a %H:%M} to {last:%a %H:%M}."


@transaction.atomic
def share(service: Service, person: Person, key: str, taken: Share) -> Service:
    """Two tasks at one setting in the one's bath or oven. Raises ServiceError where it then does not fit."""
    held = hold(service)
    task = next(row for row in tasks_of(held.schedule) if row.key == key)
    use = next(use for use in taken.other.uses if use.get("setting_c") is not None)
    kind = next(row["kind"] for row in (held.asked or {})["equipment"] if row["id"] == use["equipment"])
    for row, at in ((task, taken.mine), (taken.other, taken.theirs)):
        dish = held.dishes.select_for_update().get(pk=row.dish)
        own = dict(dish.choice(row.id))
        own |= {"setting_c": taken.setting_c, "minutes": at.minutes}
        own["equipment"] = {**own.get("equipment", {}), kind: use["equipment"]}
        dish.choices = {**dish.choices, row.id: own}
        dish.save(update_fields=["choices"])
    had_a_plan = held.fits
    held = work_out(held)
    if had_a_plan and not held.fits:
        raise ServiceError("Together they do not fit in that time: there is too little room.")
    held.updated_by = person
    held.save(update_fields=["updated_by"])
    return held


@transaction.atomic
def take_way_out(service: Service, person: Person, number: int) -> Service:
    """Take one of the changes that would fit. Raises ServiceError where there is no such one."""
    held = hold(service)
    ways = ((held.schedule or {}).get("conflict") or {}).get("would_fit", [])
    if not 0 <= number < len(ways):
        raise ServiceError("That way out is gone: look again.")
    change = ways[number]["change"]
    if "plate_up" in change:
        dish = held.dishes.get(pk=change["dish"])
        dish.plate_up = dt.datetime.fromisoformat(change["plate_up"])
        dish.save(update_fields=["plate_up"])
    elif "task" in change:
        key, _, task = change["task"].partition(":")
        dish = held.dishes.get(pk=key)
        own = dict(dish.choice(task))
        if "setting_c" in change:
            own |= {"setting_c": change["setting_c"], "minutes": change["minutes"]}
        else:
            kind = next(row["kind"] for row in held.asked["equipment"] if row["id"] == change["equipment"])
            own["equipment"] = {**own.get("equipment", {}), kind: change["equipment"]}
        dish.choices = {**dish.choices, task: own}
        dish.save(update_fields=["choices"])
    elif change.get("equipment") == "hands":
        held.hands = change["capacity"]
        held.save(update_fields=["hands"])
    else:
        raise ServiceError("That is added in the kit.")
    held.updated_by = person
    held.save(update_fields=["updated_by"])
    return work_out(held)


@transaction.atomic
def put_away(service: Service) -> None:
    """Into the bin."""
    Service.objects.filter(pk=service.pk).update(deleted_at=timezone.now())


@transaction.atomic
def put_back(service: Service) -> None:
    """Out of the bin again."""
    Service.objects.filter(pk=service.pk).update(deleted_at=None)
