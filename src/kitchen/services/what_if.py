"""What if: a task that takes longer, and what of the evening still stands."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from ember.errors import BadInput
from ember.files.service import parse_service
from ember.service.answer import plan_service

from .models import Service

LATE_MIN = (5.0, 10.0, 20.0)
TRY_S = 0.4
LATEST_MIN = 60


@dataclass(frozen=True)
class Late:
    """So many minutes late: `moves` tasks move; `plate_min` how much later its dish is up, None where nothing fits."""

    minutes: float
    moves: int
    plate_min: float | None


def if_late(service: Service, key: str) -> list[Late]:
    """What follows when a task of a service takes 5, 10, 20 min longer than planned."""
    if not service.fits or not service.asked or not service.schedule:
        return []
    dish, _, rest = key.partition(":")
    task = rest.partition(":")[0]
    was = {(r["dish"], r["id"]): r["start"] for r in service.schedule["tasks"] if not r["n"]}
    if (dish, task) not in was:
        return []
    return [_late(service, was, dish, task, minutes) for minutes in LATE_MIN]


def _late(service: Service, was: dict[tuple[str, str], str], dish: str, task: str, minutes: float) -> Late:
    for later in (0, 5, 10, 20, 30, LATEST_MIN):
        request = _request(service, was, (dish, task), minutes, later)
        try:
            solution = plan_service(parse_service(request))
        except BadInput:
            return Late(minutes, 0, None)
        if solution.status != "infeasible":
            starts = {(task_row.dish, task_row.id): task_row.start for task_row in solution.tasks if not task_row.n}
            moves = sum(
                abs((starts[k] - dt.datetime.fromisoformat(v)).total_seconds()) > 30
                for k, v in was.items()
                if k in starts
            )
            return Late(minutes, moves, float(later))
    return Late(minutes, 0, None)


def _request(
    service: Service, was: dict[tuple[str, str], str], late: tuple[str, str], minutes: float, later: int
) -> dict[str, Any]:
    """What was asked, with one task begun where it was planned and longer, and its dish up later."""
    dishes, asked = [], service.asked or {}
    for dish in asked["dishes"]:
        tasks = []
        for task in dish["tasks"]:
            key = (dish["id"], task["id"])
            task_row = {**task}
            if key == late:
                task_row |= {"minutes": task["minutes"] + minutes, "at": was[key]}
            elif key in was and "during" not in task:
                task_row["was"] = was[key]
            tasks.append(task_row)
        plate = dish["plate_up"]
        if dish["id"] == late[0] and later:
            plate = (dt.datetime.fromisoformat(plate) + dt.timedelta(minutes=later)).isoformat()
        dishes.append({**dish, "plate_up": plate, "tasks": tasks})
    return {**asked, "dishes": dishes, "explain": False, "seconds": TRY_S}
