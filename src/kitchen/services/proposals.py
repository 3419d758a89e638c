"""What a plan made anew changes, and for what lateness it was made."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from .models import Service
from .state import off_time

MOVED_MIN = 0.5  # a task that moves by less has not moved


def moves(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[dict[str, Any]]:
    """What changes for whom, by the clock."""
    was = {(task_row["dish"], task_row["id"], task_row["n"]): task_row for task_row in before["tasks"]}
    moved = []
    for task_row in after["tasks"]:
        old = was.get((task_row["dish"], task_row["id"], task_row["n"]))
        if old is None:
            continue
        times = [dt.datetime.fromisoformat(each["start"]) for each in (old, task_row)]
        by = (times[1] - times[0]).total_seconds() / 60.0
        if abs(by) >= MOVED_MIN:
            moved.append(
                {
                    "name": task_row["name"],
                    "n": task_row["n"],
                    "was": old["start"],
                    "start": task_row["start"],
                    "by_min": by,
                }
            )
    return moved


def late_signature(service: Service) -> list[list[Any]]:
    """What is late, and by how much: to five minutes, so that a proposal stands for a while."""
    return [[*late_task.key, late_task.minutes // 5] for late_task in off_time(service, service.kitchen.now())]
