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
    was = {(row["dish"], row["id"], row["n"]): row for row in before["tasks"]}
    moved = []
    for row in after["tasks"]:
        old = was.get((row["dish"], row["id"], row["n"]))
        if old is None:
            continue
        times = [dt.datetime.fromisoformat(each["start"]) for each in (old, row)]
        by = (times[1] - times[0]).total_seconds() / 60.0
        if abs(by) >= MOVED_MIN:
            moved.append({"name": row["name"], "n": row["n"], "was": old["start"], "start": row["start"], "by_min": by})
    return moved


def late_signature(service: Service) -> list[list[Any]]:
    """What is late, and by how much: to five minutes, so that a proposal stands for a while."""
    return [[*row.key, row.minutes // 5] for row in off_time(service, service.kitchen.now())]
