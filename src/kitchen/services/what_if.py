"""What if a task takes longer: how much of the evening moves."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from ember.errors import BadInput
from ember.files.service import parse_service
from ember.service.answer import plan_service

from .models import Service
from .state import scheduled

Starts = dict[tuple[str, str], dt.datetime]  # of tasks, by dish and task
LATE_MIN = (5.0, 10.0, 20.0)
TRY_S = 0.4
LATEST_MIN = 60


@dataclass(frozen=True)
class Late:
    """Lateness in minutes: `moves` tasks move; `plate_min`: how much later its dish is ready, None if nothing fits."""

    minutes: float
    moves: int
    plate_min: float | None


def if_late(service: Service, key: str) -> list[Late]:
    """What follows if a task takes 5, 10 or 20 min longer than planned."""
    if not service.fits or not service.asked:
        return []
    dish, _, rest = key.partition(":")
    task = rest.partition(":")[0]
    was = {(each.dish, each.id): each.start for each in scheduled(service) if not each.n}
    if (dish, task) not in was:
        return []
    return [_late(service, was, dish, task, minutes) for minutes in LATE_MIN]


def _late(service: Service, was: Starts, dish: str, task: str, minutes: float) -> Late:
    for later in (0, 5, 10, 20, 30, LATEST_MIN):
        request = _request(service, was, (dish, task), minutes, later)
        try:
            solution = plan_service(parse_service(request))
        except BadInput:
            return Late(minutes, 0, None)
        if solution.status != "infeasible":
            starts = {(each.dish, each.id): each.start for each in solution.tasks if not each.n}
            moves = sum(abs((starts[key] - at).total_seconds()) > 30 for key, at in was.items() if key in starts)
            return Late(minutes, moves, float(later))
    return Late(minutes, 0, None)


def _request(service: Service, was: Starts, late: tuple[str, str], minutes: float, later: int) -> dict[str, Any]:
    """The request with one task begun as planned and longer, and its dish ready later."""
    dishes, asked = [], service.asked or {}
    for dish in asked["dishes"]:
        tasks = []
        for task in dish["tasks"]:
            key = (dish["id"], task["id"])
            changed = {**task}
            if key == late:
                changed |= {"minutes": task["minutes"] + minutes, "at": was[key].isoformat()}
            elif key in was and "during" not in task:
                changed["was"] = was[key].isoformat()
            tasks.append(changed)
        plate = dish["plate_up"]
        if dish["id"] == late[0] and later:
            plate = (dt.datetime.fromisoformat(plate) + dt.timedelta(minutes=later)).isoformat()
        dishes.append({**dish, "plate_up": plate, "tasks": tasks})
    return {**asked, "dishes": dishes, "explain": False, "seconds": TRY_S}
