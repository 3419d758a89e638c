"""A service on paper and in a calendar: preparation by day, and a list for each station."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any

from django.http import HttpResponse
from django.shortcuts import redirect, render
from icalendar import Calendar, Event

from kitchen.web import KitchenRequest, attachment

from .models import Service
from .presenters import HANDS, Task, side_dishes_of, tasks_of
from .scale import brines_of, for_portions
from .state import task_actuals
from .views import plates_of, service_of


def by_day(service: Service, tasks: list[Task]) -> list[dict[str, Any]]:
    """Tasks that need a cook, by day and time."""
    zone = service.kitchen.zone
    days: dict[dt.date, list[Task]] = {}
    for task in tasks:
        if task.by_hands() is not None:
            days.setdefault(task.start.astimezone(zone).date(), []).append(task)
    return [{"day": day, "tasks": rows} for day, rows in sorted(days.items())]


def by_station(service: Service, tasks: list[Task]) -> list[dict[str, Any]]:
    """The tasks of each piece of equipment, in order of time."""
    names = {machine.id: machine.name for machine in service.machines.values()}
    rows: dict[str, list[Task]] = {}
    for task in tasks:
        for use in task.uses:
            if use.equipment != HANDS:
                rows.setdefault(use.equipment, []).append(task)
    answer = service.answer
    settings = answer.settings if answer else []
    stations = [
        {"name": names.get(key, key), "tasks": mine, "settings": [each for each in settings if each.equipment == key]}
        for key, mine in rows.items()
    ]
    return sorted(stations, key=lambda station: str(station["name"]))


def lists(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Mise-en-place by day, what to weigh, and the list of each station, for print."""
    service = service_of(request, pk)
    tasks = tasks_of(service.answer)
    if not tasks:
        return redirect("services:service", pk=pk)
    done = task_actuals(service)
    ticked = {task.key for task in tasks if (task.dish, task.id, task.n) in done}
    context = {
        "service": service,
        "ticked": ticked,
        "token": uuid.uuid4(),
        "days": by_day(service, tasks),
        "stations": by_station(service, tasks),
        "menu": plates_of(service),
        "brines": [
            (dish, line)
            for dish in service.dishes.select_related("plan")
            if dish.plan is not None
            for line in brines_of(for_portions(dish.plan.document, dish.portions))
        ],
        "weighed": [(dish, side_dishes_of(dish)) for dish in service.dishes.select_related("plan") if dish.companions],
    }
    return render(request, "services/lists.html", context)


def calendar(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """All tasks that need a cook and every plate-up, as iCalendar."""
    service = service_of(request, pk)
    calendar_file = Calendar()
    calendar_file.add("prodid", "-//Open Ember//service//EN")
    calendar_file.add("version", "2.0")
    stamp = service.planned_at or service.kitchen.now()
    for task in tasks_of(service.answer):
        span = task.by_hands()
        if span is not None:
            calendar_file.add_component(_event(task.key, stamp, task.name, span[0], span[1]))
    for plate in plates_of(service):
        names = ", ".join(f"{dish.name} {dish.portions}" for dish in plate["dishes"])
        key = f"plate:{service.pk}:{plate['at'].isoformat()}"
        calendar_file.add_component(_event(key, stamp, f"Plate-up: {names}", plate["at"], plate["at"]))
    response = HttpResponse(calendar_file.to_ical(), content_type="text/calendar; charset=utf-8")
    response.headers["Content-Disposition"] = attachment(service.name, ".ics")
    return response


def _event(key: str, stamp: dt.datetime, name: str, begin: dt.datetime, end: dt.datetime) -> Event:
    event = Event()
    event.add("uid", f"{uuid.uuid5(uuid.NAMESPACE_URL, key)}@open-ember")
    event.add("dtstamp", stamp.astimezone(dt.UTC))
    event.add("dtstart", begin.astimezone(dt.UTC))
    event.add("dtend", end.astimezone(dt.UTC))
    event.add("summary", name)
    return event
