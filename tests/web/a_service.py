"""A service put together for tests."""

from __future__ import annotations

from kitchen.services import actions
from kitchen.services.presenters import tasks_of

ROAST = [{"kind": "oven", "air_c": 180, "minutes": 60}, {"kind": "rest", "minutes": 12}]


def add(service, person, name, plan, plate_up, portions=6, **more):
    found = {"name": name, "plan": plan, "eggs": None, "plate_up": plate_up, "portions": portions, **more}
    return actions.put_dish(service, person, found)


def task(service, name):
    return next(row for row in tasks_of(service.answer) if row.name == name)
